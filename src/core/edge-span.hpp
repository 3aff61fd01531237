// The piece of an edge within a box (Liang, Y.-D., Barsky, B.A. 1984, A new concept and method for
// line clipping, ACM Transactions on Graphics 3, 1-22).
#pragma once
#include <algorithm>
#include <utility>

#include "box-tree.hpp"
#include "point.hpp"

namespace ochre {

// By the shares of the edge where the piece begins and ends, the edges of the box included; false
// where there is none.
inline bool edge_span(const Box& box, Point a, Point b, double& from, double& to) {
  from = 0;
  to = 1;
  auto within = [&](double step, double low, double high) {
    if (step == 0) return low <= 0 && high >= 0;
    double enter = low / step, leave = high / step;
    if (enter > leave) std::swap(enter, leave);
    from = std::max(from, enter);
    to = std::min(to, leave);
    return from <= to;
  };
  return within(b.x - a.x, box.x0 - a.x, box.x1 - a.x) &&
         within(b.y - a.y, box.y0 - a.y, box.y1 - a.y);
}

}  // namespace ochre
