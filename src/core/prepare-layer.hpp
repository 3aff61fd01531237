// What a layer goes through between degrees and the plan's grid: seams sewn, cut where the map is
// torn, long edges bent as the projection bends them, projected, far-off parts into their insets.
#pragma once
#include "box-tree.hpp"
#include "flat.hpp"
#include "projection.hpp"

namespace ochre {

// A part of the world that is drawn elsewhere: what lies whole in the box, in a projection of its
// own, moved and scaled to its place on the map.
struct Inset {
  Box box;  // degrees; x1 may be past 180
  Projection projection;
  double scale = 1, dx = 0, dy = 0;
};

// Which inset a run of positions lies in whole; -1 for the map itself.
int inset_of(const std::vector<Box>& boxes, const Point* p, size_t n);

// A straight edge in degrees is seldom straight on the map; those longer than two degrees get
// points in between, the same ones from either side.
FlatLayer bend_edges(FlatLayer layer);

struct PreparedLayer {
  FlatLayer layer;         // map units
  std::vector<int> inset;  // of each part; -1 for the map itself
};

// An area with the place in it that is opposite of the centre of an azimuthal map is drawn up to
// the map's rim.
PreparedLayer prepare_layer(FlatLayer in, const Projection& map, const std::vector<Inset>& insets);

}  // namespace ochre
