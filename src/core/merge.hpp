// Merging areas and drawing their borders, from the arcs that they share: exact, because an inner
// border is the same arc on both sides and simply falls away.
#pragma once
#include <cstdint>
#include <vector>

#include "arcs.hpp"

namespace ochre {

// group[f] from 0 on for each feature, negative for none; one feature a group.
FlatLayer merge_areas(const FlatLayer& layer, const std::vector<int>& group, int groups);

struct BorderLines {
  FlatLayer lines;                 // one feature a pair
  std::vector<int> left, right;    // groups on both sides, left < right; -1 for the outside
};
// Borders between different groups, or those with nobody on the other side.
BorderLines border_lines(const FlatLayer& layer, const std::vector<int>& group, bool outer);

}  // namespace ochre
