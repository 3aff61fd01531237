// Directed borders with the area on their left, put together to rings. Where several go on from a
// vertex, the first clockwise from the way back bounds the same piece of land; a ring that comes
// through a vertex twice is taken apart there, so that rings only touch themselves nowhere.
#pragma once
#include <cstdint>
#include <vector>

#include "flat.hpp"
#include "rings.hpp"

namespace ochre {

struct DirectedEdge {
  uint32_t from, to;
  Point ahead, behind;  // the place after `from`, and the one before `to`
};

// Rings as runs of edge numbers. Edges that lead nowhere are left out.
std::vector<std::vector<uint32_t>> link_rings(const std::vector<DirectedEdge>& edges,
                                              const std::vector<Point>& vertex);

// Rings as polygons of one feature: those that run counter-clockwise are shells.
void put_rings(const RingSet& rings, FlatLayer& out);

}  // namespace ochre
