// Closed runs within a box.
#pragma once
#include <utility>
#include <vector>

#include "box-tree.hpp"
#include "point.hpp"

namespace ochre {

// Cut along one side after the other (Sutherland, I.E., Hodgman, G.W. 1974, Reentrant polygon
// clipping, Communications of the ACM 17, 32-42). Neither the run nor the result repeats its first
// point.
inline void clip_ring(std::vector<Point>& ring, const Box& box) {
  std::vector<Point> out;
  auto side = [&](auto inside, auto cross) {
    out.clear();
    for (size_t i = 0; i < ring.size(); ++i) {
      const Point a = ring[i], b = ring[(i + 1) % ring.size()];
      if (inside(a)) out.push_back(a);
      if (inside(a) != inside(b)) out.push_back(cross(a, b));
    }
    ring.swap(out);
  };
  // From the lower end, so that a border is cut in the same place from both sides.
  auto at_x = [](double x) {
    return [x](Point a, Point b) {
      if (b.x < a.x) std::swap(a, b);
      return Point{x, a.y + (b.y - a.y) * ((x - a.x) / (b.x - a.x))};
    };
  };
  auto at_y = [](double y) {
    return [y](Point a, Point b) {
      if (b.y < a.y) std::swap(a, b);
      return Point{a.x + (b.x - a.x) * ((y - a.y) / (b.y - a.y)), y};
    };
  };
  side([&](Point p) { return p.x >= box.x0; }, at_x(box.x0));
  side([&](Point p) { return p.x <= box.x1; }, at_x(box.x1));
  side([&](Point p) { return p.y >= box.y0; }, at_y(box.y0));
  side([&](Point p) { return p.y <= box.y1; }, at_y(box.y1));
}

}  // namespace ochre
