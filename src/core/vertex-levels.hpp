// From which level of a map on each vertex of a topology is drawn. Levels are twice as near each
// time; a vertex counts for as much as the triangle that it makes with its neighbours, the least
// goes first (Visvalingam, M., Whyatt, J.D. 1993, Line generalisation by repeated elimination of
// points, The Cartographic Journal 30(1), 46-51).
//
// Each arc is looked at once and for itself, so that fifty million vertices need little more memory
// than themselves. Borders that come to cross do so by less than half a pixel of the level.
#pragma once
#include <cstdint>
#include <vector>

#include "topology.hpp"

namespace ochre {

// A level for each point; 0 for the ends of arcs. `pixel` is one of level 0, in units of the grid.
std::vector<uint8_t> vertex_levels(const Topology& topology, double pixel);

}  // namespace ochre
