// Points that are taken out one by one, and asked which are left in a box. They lie in cells along
// a Z-order curve, so that a larger cell, too, is one run of them; what has gone is passed over by
// links to the next that is left. A box is looked for in the at most four cells of its own size.
#pragma once
#include <algorithm>
#include <cmath>
#include <cstdint>
#include <vector>

#include "box-tree.hpp"
#include "point.hpp"

namespace ochre {

class LivePoints {
 public:
  explicit LivePoints(const std::vector<Point>& points) : place_(points.size()) {
    for (const Point& p : points)
      all_.add(p.x, p.y);
    while (bits_ < kMostBits && (size_t(1) << 2 * bits_) < 2 * points.size())
      ++bits_;
    cells_ = static_cast<double>(size_t(1) << bits_);
    begin_.assign((size_t(1) << 2 * bits_) + 1, 0);
    for (const Point& p : points)
      ++begin_[code(p) + 1];
    for (size_t c = 1; c < begin_.size(); ++c)
      begin_[c] += begin_[c - 1];
    std::vector<uint32_t> at(begin_.begin(), begin_.end() - 1);
    sorted_.resize(points.size());
    for (uint32_t i = 0; i < points.size(); ++i) {
      place_[i] = at[code(points[i])]++;
      sorted_[place_[i]] = {points[i], i};
    }
    next_.resize(points.size() + 1);
    for (uint32_t i = 0; i < next_.size(); ++i)
      next_[i] = i;
  }

  void remove(uint32_t item) { next_[place_[item]] = place_[item] + 1; }

  // found(item) for each that is left in the box; true goes on, false stops.
  template <class Found>
  void search(const Box& box, Found found) {
    if (!box.touches(all_)) return;
    uint32_t x0 = column(box.x0), x1 = column(box.x1), y0 = row(box.y0), y1 = row(box.y1);
    uint32_t up = 0;
    while ((x1 >> up) - (x0 >> up) > 1 || (y1 >> up) - (y0 >> up) > 1)
      ++up;
    for (uint32_t y = y0 >> up; y <= y1 >> up; ++y)
      for (uint32_t x = x0 >> up; x <= x1 >> up; ++x) {
        const size_t cell = interleaved(x, y);
        const uint32_t end = begin_[(cell + 1) << 2 * up];
        for (uint32_t i = left(begin_[cell << 2 * up]); i < end; i = left(i + 1)) {
          const Placed& p = sorted_[i];
          bool in = p.at.x >= box.x0 && p.at.x <= box.x1 && p.at.y >= box.y0 && p.at.y <= box.y1;
          if (in && !found(p.item)) return;
        }
      }
  }

 private:
  static constexpr uint32_t kMostBits = 12;  // 16 million cells
  struct Placed {
    Point at;
    uint32_t item;
  };

  uint32_t cell_of(double v, double from, double to) const {
    double cell = to > from ? (v - from) / (to - from) * cells_ : 0;
    return static_cast<uint32_t>(cell > 0 ? std::min(cell, cells_ - 1) : 0);  // 0 for no number
  }
  uint32_t column(double x) const { return cell_of(x, all_.x0, all_.x1); }
  uint32_t row(double y) const { return cell_of(y, all_.y0, all_.y1); }
  size_t code(const Point& p) const { return interleaved(column(p.x), row(p.y)); }

  // The next that is left, from here on; ways to it are made shorter as they are gone.
  uint32_t left(uint32_t i) {
    while (next_[i] != i)
      i = next_[i] = next_[next_[i]];
    return i;
  }

  Box all_;
  uint32_t bits_ = 0;
  double cells_ = 1;
  std::vector<uint32_t> begin_;  // of each of the smallest cells, among the sorted points
  std::vector<Placed> sorted_;
  std::vector<uint32_t> place_, next_;
};

}  // namespace ochre
