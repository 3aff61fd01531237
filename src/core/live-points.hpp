// Points that are taken out one by one, and asked which are left in a box. Sorted along a Z-order
// curve and packed sixteen to a node as in core/box-tree.hpp; each node counts what is left in it,
// so that a search passes by what has gone.
#pragma once
#include <algorithm>
#include <cstdint>
#include <vector>

#include "box-tree.hpp"
#include "point.hpp"

namespace ochre {

class LivePoints {
 public:
  explicit LivePoints(const std::vector<Point>& points) : points_(points), place_(points.size()) {
    Box all;
    for (const Point& p : points)
      all.add(p.x, p.y);
    std::vector<std::pair<uint64_t, uint32_t>> order;
    order.reserve(points.size());
    for (uint32_t i = 0; i < points.size(); ++i)
      order.push_back({z_place(points[i].x, points[i].y, all), i});
    std::sort(order.begin(), order.end());
    item_.reserve(order.size());
    for (const auto& o : order) {
      place_[o.second] = static_cast<uint32_t>(item_.size());
      item_.push_back(o.second);
    }
    live_.assign(item_.size(), 1);
    for (size_t n = item_.size(); n > 1;) {
      n = (n + kNode - 1) / kNode;
      levels_.push_back({std::vector<Box>(n), std::vector<uint32_t>(n, 0)});
    }
    for (uint32_t i = 0; i < item_.size(); ++i) {
      size_t node = i;
      for (Level& level : levels_) {
        node /= kNode;
        level.box[node].add(points[item_[i]].x, points[item_[i]].y);
        ++level.left[node];
      }
    }
  }

  void remove(uint32_t item) {
    size_t node = place_[item];
    if (!live_[node]) return;
    live_[node] = 0;
    for (Level& level : levels_)
      --level.left[node /= kNode];
  }

  // found(item) for each that is left in the box; true goes on, false stops.
  template <class Found>
  void search(const Box& box, Found found) const {
    if (item_.empty()) return;
    struct Entry {
      size_t node, level;
    };
    Entry open[kNode * 12];
    size_t n = 0;
    open[n++] = {0, levels_.size()};
    while (n) {
      Entry e = open[--n];
      if (e.level == 0) {
        const Point& p = points_[item_[e.node]];
        bool in = live_[e.node] && p.x >= box.x0 && p.x <= box.x1 && p.y >= box.y0 && p.y <= box.y1;
        if (in && !found(item_[e.node])) return;
        continue;
      }
      const Level& level = levels_[e.level - 1];
      if (!level.left[e.node] || !level.box[e.node].touches(box)) continue;
      size_t below = e.level == 1 ? item_.size() : levels_[e.level - 2].box.size();
      size_t first = e.node * kNode, last = std::min(first + kNode, below);
      for (size_t k = first; k < last; ++k)
        open[n++] = {k, e.level - 1};
    }
  }

 private:
  static constexpr size_t kNode = 16;
  struct Level {
    std::vector<Box> box;
    std::vector<uint32_t> left;
  };
  const std::vector<Point>& points_;
  std::vector<uint32_t> place_, item_;
  std::vector<uint8_t> live_;
  std::vector<Level> levels_;  // from the nodes over the points upwards
};

}  // namespace ochre
