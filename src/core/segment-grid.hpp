// Segments in the cells of a grid, so that those near a segment or a point are found without
// comparing all. A segment is entered in the cells that it runs through, row by row.
#pragma once
#include <algorithm>
#include <cmath>
#include <cstdint>
#include <vector>

#include "box-tree.hpp"
#include "point.hpp"
#include "pulse.hpp"

namespace ochre {

class SegmentGrid {
 public:
  SegmentGrid(const Box& frame, size_t expected) : frame_(frame) {
    double w = std::max(frame.x1 - frame.x0, 1e-300), h = std::max(frame.y1 - frame.y0, 1e-300);
    double cells = std::min<double>(std::max<size_t>(expected, 1), 4e6);
    columns_ = std::max<int>(1, static_cast<int>(std::min(4096.0, std::sqrt(cells * w / h))));
    rows_ = std::max<int>(1, static_cast<int>(std::min(4096.0, cells / columns_)));
    across_ = columns_ / w;
    up_ = rows_ / h;
    head_.assign(static_cast<size_t>(columns_) * rows_, kNone);
  }

  void add(uint32_t item, Point a, Point b) {
    pulse();
    cells(a, b, 0, [&](size_t cell) {
      next_.push_back(head_[cell]);
      item_.push_back(item);
      head_[cell] = static_cast<uint32_t>(item_.size() - 1);
    });
  }

  // near(item) for each segment in the cells of this one, widened by `room`; some come twice.
  template <class Near>
  void search(Point a, Point b, double room, Near near) const {
    pulse();
    cells(a, b, room, [&](size_t cell) {
      for (uint32_t e = head_[cell]; e != kNone; e = next_[e])
        near(item_[e]);
    });
  }

 private:
  static constexpr uint32_t kNone = 0xffffffffu;
  int column(double x) const {
    return static_cast<int>(std::clamp((x - frame_.x0) * across_, 0.0, columns_ - 1.0));
  }
  int row(double y) const {
    return static_cast<int>(std::clamp((y - frame_.y0) * up_, 0.0, rows_ - 1.0));
  }

  template <class Visit>
  void cells(Point a, Point b, double room, Visit visit) const {
    if (a.y > b.y) std::swap(a, b);
    int r0 = row(a.y - room), r1 = row(b.y + room);
    double slope = b.y > a.y ? (b.x - a.x) / (b.y - a.y) : 0;
    for (int r = r0; r <= r1; ++r) {
      double x0 = a.x, x1 = b.x;
      if (r1 > r0 && b.y > a.y) {
        double low = std::clamp(frame_.y0 + r / up_ - room, a.y, b.y),
               high = std::clamp(frame_.y0 + (r + 1) / up_ + room, a.y, b.y);
        x0 = a.x + slope * (low - a.y);
        x1 = a.x + slope * (high - a.y);
      }
      if (x0 > x1) std::swap(x0, x1);
      double slack = room + 1e-9 / across_;  // rounding must not lose a cell
      int c1 = column(x1 + slack);
      for (int c = column(x0 - slack); c <= c1; ++c)
        visit(static_cast<size_t>(r) * columns_ + c);
    }
  }

  Box frame_;
  int columns_, rows_;
  double across_, up_;
  std::vector<uint32_t> head_, next_, item_;
};

}  // namespace ochre
