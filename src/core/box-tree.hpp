// Boxes that can be searched: which of them touch a given box? Built once in n log n: boxes are
// sorted along a Z-order curve and packed sixteen to a node (Kamel, I., Faloutsos, C. 1993, On
// packing R-trees, CIKM, 490-499), all in flat arrays.
#pragma once
#include <algorithm>
#include <cstddef>
#include <cstdint>
#include <numeric>
#include <vector>

namespace ochre {

struct Box {
  double x0 = 1e300, y0 = 1e300, x1 = -1e300, y1 = -1e300;
  void add(double x, double y) {
    x0 = std::min(x0, x);
    x1 = std::max(x1, x);
    y0 = std::min(y0, y);
    y1 = std::max(y1, y);
  }
  void add(const Box& b) {
    x0 = std::min(x0, b.x0);
    x1 = std::max(x1, b.x1);
    y0 = std::min(y0, b.y0);
    y1 = std::max(y1, b.y1);
  }
  bool empty() const { return x0 > x1; }
  bool touches(const Box& b) const { return x0 <= b.x1 && b.x0 <= x1 && y0 <= b.y1 && b.y0 <= y1; }
};

// Bits of two numbers by turns: a place on a Z-order curve.
inline uint64_t interleaved(uint64_t x, uint64_t y) {
  auto spread = [](uint64_t v) {
    v = (v | v << 16) & 0x0000ffff0000ffffull;
    v = (v | v << 8) & 0x00ff00ff00ff00ffull;
    v = (v | v << 4) & 0x0f0f0f0f0f0f0f0full;
    v = (v | v << 2) & 0x3333333333333333ull;
    return (v | v << 1) & 0x5555555555555555ull;
  };
  return spread(x) | spread(y) << 1;
}

// Where a place stands on a Z-order curve through a box: 40 bits, neighbours mostly near each
// other.
inline uint64_t z_place(double x, double y, const Box& all) {
  auto cell = [](double v, double low, double side) {
    double share = (v - low) / side;
    return static_cast<uint64_t>(share > 0 && share <= 1 ? share * 1048575.0
                                                         : 0);  // also where it is no number
  };
  return interleaved(cell(x, all.x0, all.x1 - all.x0), cell(y, all.y0, all.y1 - all.y0));
}

class BoxTree {
 public:
  explicit BoxTree(const std::vector<Box>& boxes) {
    Box all;
    for (const Box& b : boxes)
      if (!b.empty()) all.add(b);
    std::vector<std::pair<uint64_t, uint32_t>> order;
    order.reserve(boxes.size());
    for (size_t i = 0; i < boxes.size(); ++i)
      if (!boxes[i].empty()) order.push_back({place(boxes[i], all), static_cast<uint32_t>(i)});
    std::sort(order.begin(), order.end());
    items_.reserve(order.size());
    boxes_.reserve(order.size() + order.size() / 8 + 2);
    for (auto& o : order) {
      items_.push_back(o.second);
      boxes_.push_back(boxes[o.second]);
    }
    level_.push_back(0);
    size_t from = 0, to = boxes_.size();
    while (to - from > 1) {
      level_.push_back(to);
      for (size_t i = from; i < to; i += kNode) {
        Box b;
        for (size_t k = i; k < std::min(to, i + kNode); ++k)
          b.add(boxes_[k]);
        boxes_.push_back(b);
      }
      from = to;
      to = boxes_.size();
    }
  }

  // found(item) returns true to go on, false to stop.
  template <class Found>
  void search(const Box& box, Found found) const {
    if (items_.empty()) return;
    struct Entry {
      size_t node;
      size_t level;
    };
    Entry open[kNode * 12];
    size_t n = 0;
    open[n++] = {boxes_.size() - 1, level_.size() - 1};
    while (n) {
      Entry e = open[--n];
      if (!boxes_[e.node].touches(box)) continue;
      if (e.level == 0) {
        if (!found(items_[e.node])) return;
        continue;
      }
      size_t first = level_[e.level - 1] + (e.node - level_[e.level]) * kNode;
      size_t last = std::min(first + kNode, level_[e.level]);
      for (size_t k = first; k < last; ++k)
        open[n++] = {k, e.level - 1};
    }
  }

 private:
  static constexpr size_t kNode = 16;
  static uint64_t place(const Box& b, const Box& all) {
    return z_place((b.x0 + b.x1) / 2, (b.y0 + b.y1) / 2, all);
  }
  std::vector<Box> boxes_;
  std::vector<uint32_t> items_;
  std::vector<size_t> level_;  // where each level's boxes begin
};

}  // namespace ochre
