// The plan's geometry: layers of projected features on an integer grid, with the borders that they
// share as arcs (core/arcs.hpp). Everything is flat: arcs are runs in one coordinate array, and
// each level of a geometry (feature, part, ring) is an array of end positions.
#pragma once
#include <cstdint>
#include <string>
#include <vector>

#include "flat.hpp"
#include "projection.hpp"

namespace ochre {

struct GridPoint {
  int32_t x, y;
  bool operator==(const GridPoint& o) const { return x == o.x && y == o.y; }
  bool operator!=(const GridPoint& o) const { return !(*this == o); }
};

struct TopologyLayer {
  std::string name;
  std::vector<int32_t> ring_arcs;  // arc number, or ~number when run backwards
  std::vector<size_t> ring_end;    // into ring_arcs
  std::vector<size_t> part_end;    // into ring_end
  std::vector<Shape> part_shape;
  std::vector<size_t> feature_end;  // into part_end
};

struct Topology {
  double x0 = 0, y0 = 0, step = 1;  // grid to map units: x0 + step * column
  std::vector<GridPoint> points;
  std::vector<size_t> arc_end;  // into points
  std::vector<TopologyLayer> layers;
  size_t dropped_rings = 0;  // smaller than the grid can show, in areas with other rings
};

// The arc that a ring refers to, and where it begins among the points.
inline size_t arc_number(int32_t ref) {
  return static_cast<size_t>(ref < 0 ? ~ref : ref);
}
inline size_t arc_start(const Topology& t, size_t arc) {
  return arc ? t.arc_end[arc - 1] : 0;
}

struct GridFrame {
  double x0 = 0, y0 = 0, x1 = 1, y1 = 1;
};

// What is wrong with a topology that came from outside, or nothing: numbers of arcs, rings, parts
// and features must lead to what is there.
std::string fault_of(const Topology& topology);

GridFrame frame_of(const std::vector<FlatLayer>& layers);
Topology build_topology(std::vector<FlatLayer> layers, const GridFrame& frame, int levels);

// In which order vertices go that can go, simplified as boundaries are (core/simplify.hpp), and how
// many of them count for less than each area in grid units; and the topology with a share of its
// vertices, or without the first so many.
struct Thinning {
  std::vector<uint32_t> order;
  std::vector<size_t> steps;
};
Thinning thinning(const Topology& topology, const std::vector<double>& areas);
std::vector<uint32_t> thinning_order(const Topology& topology);
Topology lighter_topology(const Topology& topology, double share,
                          const std::vector<uint32_t>& order);
// With the points that are to be kept, by their numbers; arcs keep theirs.
template <class Keep>
Topology with_points(const Topology& t, Keep keep) {
  Topology out;
  out.x0 = t.x0;
  out.y0 = t.y0;
  out.step = t.step;
  out.layers = t.layers;
  out.dropped_rings = t.dropped_rings;
  out.arc_end.reserve(t.arc_end.size());
  for (size_t a = 0, i = 0; a < t.arc_end.size(); ++a) {
    for (; i < t.arc_end[a]; ++i)
      if (keep(i)) out.points.push_back(t.points[i]);
    out.arc_end.push_back(out.points.size());
  }
  return out;
}
// Without the features of a layer, and without the arcs that no other one has.
Topology without_layer(const Topology& topology, size_t layer);
Topology without_first(const Topology& topology, size_t steps, const std::vector<uint32_t>& order);

}  // namespace ochre
