// Which parts of the land lie so far off that a map of all would be mostly empty? Parts are joined
// while the gap between them is small beside the largest group's extent; groups with little land
// that make the map much larger are far-off.
#pragma once
#include <vector>

#include "box-tree.hpp"
#include "flat.hpp"

namespace ochre {

struct FarGroup {
  Box box;  // degrees; x1 may be past 180
  size_t parts = 0;
  double land = 0;  // its share of all land
};

struct FarParts {
  std::vector<FarGroup> far;
  double share_all = 1;   // of the box around everything that is land
  double share_main = 1;  // the same without the groups that are far off
};

FarParts find_far_parts(const std::vector<FlatLayer>& layers);

}  // namespace ochre
