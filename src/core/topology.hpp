// Shared borders, found once. Rings and lines on an integer grid are cut where borders meet
// into arcs; a border between two areas becomes one arc that both refer to (one of them
// backwards). Everything is flat: arcs are runs in one coordinate array, and each level of a
// geometry (feature, part, ring) is an array of end positions.
//
// A grid point is a junction when the two neighbours seen along one ring differ from those
// seen along another, or when a line ends there. Points are looked up in one open-addressing
// hash table, arcs in another, so the cost is linear in the number of points.
#pragma once
#include <cstdint>
#include <string>
#include <vector>

#include "projection.hpp"
#include "wkb.hpp"

namespace ochre {

struct GridPoint {
  int32_t x, y;
  bool operator==(const GridPoint& o) const { return x == o.x && y == o.y; }
  bool operator!=(const GridPoint& o) const { return !(*this == o); }
};

// Features of one layer as projected coordinates, then on the grid. Rings of polygons are
// closed (first point repeated); a ring's shape is that of its part.
struct FlatLayer {
  std::string name;
  std::vector<Point> points;
  std::vector<size_t> ring_end;     // into points
  std::vector<size_t> part_end;     // into ring_end
  std::vector<Shape> part_shape;    // point, line or polygon
  std::vector<size_t> feature_end;  // into part_end
};

struct TopologyLayer {
  std::string name;
  std::vector<int32_t> ring_arcs;   // arc number, or ~number when run backwards
  std::vector<size_t> ring_end;     // into ring_arcs
  std::vector<size_t> part_end;     // into ring_end
  std::vector<Shape> part_shape;
  std::vector<size_t> feature_end;  // into part_end
};

struct Topology {
  double x0 = 0, y0 = 0, step = 1;  // grid to map units: x0 + step * column
  std::vector<GridPoint> points;
  std::vector<size_t> arc_end;      // into points
  std::vector<TopologyLayer> layers;
  size_t dropped_rings = 0;         // smaller than the grid can show, in areas with other rings
};

struct GridFrame {
  double x0 = 0, y0 = 0, x1 = 1, y1 = 1;
};

GridFrame frame_of(const std::vector<FlatLayer>& layers);
Topology build_topology(const std::vector<FlatLayer>& layers, const GridFrame& frame, int levels);

// The topology as TopoJSON text (arcs delta-encoded, `transform` given).
std::string write_topojson(const Topology& topology);

// Gathers a layer from well-known binary while projecting it.
class LayerGatherer {
 public:
  LayerGatherer(FlatLayer& layer, const Projection& projection) : layer_(layer), projection_(projection) {}
  void part(Shape shape) {
    close_part();
    open_ = true;
    layer_.part_shape.push_back(shape);
  }
  void ring(size_t) {
    close_ring();
    in_ring_ = true;
  }
  void coordinate(double x, double y) { layer_.points.push_back(projection_.forward(x, y)); }
  void end_feature() {
    close_part();
    layer_.feature_end.push_back(layer_.part_shape.size());
  }

 private:
  void close_ring() {
    if (in_ring_) layer_.ring_end.push_back(layer_.points.size());
    in_ring_ = false;
  }
  void close_part() {
    close_ring();
    if (open_) layer_.part_end.push_back(layer_.ring_end.size());
    open_ = false;
  }
  FlatLayer& layer_;
  const Projection& projection_;
  bool open_ = false, in_ring_ = false;
};

}  // namespace ochre
