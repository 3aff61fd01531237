// Vertices of one area that lie on or near a border of another without being part of it: what
// makes slivers and overlaps, and what mending moves.
#pragma once
#include <cmath>

#include "flat.hpp"
#include "segment-grid.hpp"

namespace ochre {

// All edges of all areas, with their feature and ring, in a grid.
struct EdgeIndex {
  struct Edge {
    Point a, b;
    uint32_t feature, ring;
    size_t at;
  };  // `at`: where a stands in layer.points
  std::vector<Edge> edges;
  SegmentGrid grid;
  explicit EdgeIndex(const FlatLayer& layer);
};

// Degrees to metres around a latitude, good for short ways.
struct LocalScale {
  double x, y = 110946.3;
  explicit LocalScale(double lat)
      : x(111319.5 * std::fmax(0.001, std::cos(lat * 3.14159265358979323846 / 180))) {}
  double distance(Point a, Point b) const { return std::hypot((a.x - b.x) * x, (a.y - b.y) * y); }
  // The place on an edge nearest to a point, as a share of the edge from 0 to 1.
  double nearest(Point a, Point b, Point p) const {
    double dx = (b.x - a.x) * x, dy = (b.y - a.y) * y, square = dx * dx + dy * dy;
    return square > 0
               ? std::fmin(1, std::fmax(0, ((p.x - a.x) * x * dx + (p.y - a.y) * y * dy) / square))
               : 0;
  }
};

}  // namespace ochre
