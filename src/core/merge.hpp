// Merging areas and drawing their borders, from the arcs that they share: exact, because an inner
// border is the same arc on both sides and falls away.
//
// Each use of an arc puts land on one of its sides. For one group of areas the uses in both
// directions cancel; what is left bounds the group, and as many directed arcs leave each vertex as
// come to it, so that every chain closes. Areas that lie over each other use an arc twice in one
// direction; the sum of the areas tells.
#pragma once
#include <cstdint>
#include <vector>

#include "arcs.hpp"

namespace ochre {

struct MergedAreas {
  FlatLayer layer;               // one feature a group
  std::vector<int> not_the_sum;  // groups whose area is not the sum of their parts' areas
};
// group[f] from 0 on for each feature, negative for none.
MergedAreas merge_areas(const FlatLayer& layer, const std::vector<int>& group, int groups);

struct BorderLines {
  FlatLayer lines;               // one feature a pair
  std::vector<int> left, right;  // groups on both sides, left < right; -1 for the outside
};
// Borders between different groups, or those with nobody on the other side; each of the first is
// there, also where areas lie over each other. Seams along 180° and to the poles are no borders.
BorderLines border_lines(const FlatLayer& layer, const std::vector<int>& group, bool outer);

}  // namespace ochre
