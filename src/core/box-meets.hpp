// Whether features and a box have a place in common, the edges of both included.
#pragma once
#include <algorithm>
#include <cstddef>

#include "box-tree.hpp"
#include "edge-span.hpp"
#include "flat.hpp"
#include "rings.hpp"

namespace ochre {

inline bool in_box(const Box& b, Point p) {
  return p.x >= b.x0 && p.x <= b.x1 && p.y >= b.y0 && p.y <= b.y1;
}

inline bool edge_meets(const Box& box, Point a, Point b) {
  double from, to;
  return edge_span(box, a, b, from, to);
}

inline bool feature_meets(const FlatLayer& layer, size_t feature, const Box& box) {
  for (size_t p = layer.first_part(feature); p < layer.feature_end[feature]; ++p) {
    bool inside = false;
    for (size_t r = layer.first_ring(p); r < layer.part_end[p]; ++r) {
      const Point* at = layer.ring(r);
      const size_t n = layer.ring_size(r);
      if (layer.part_shape[p] == Shape::point) {
        if (std::any_of(at, at + n, [&](Point q) { return in_box(box, q); })) return true;
        continue;
      }
      for (size_t i = 0; i + 1 < n; ++i)
        if (edge_meets(box, at[i], at[i + 1])) return true;
      if (layer.part_shape[p] == Shape::polygon) inside ^= in_ring(at, n, box.x0, box.y0);
    }
    // No edge crosses the box: all of it lies on one side.
    if (inside) return true;
  }
  return false;
}

}  // namespace ochre
