// What is wrong with boundaries, feature by feature and along the borders between them.
#pragma once
#include <string>
#include <vector>

#include "flat.hpp"

namespace ochre {

// The kinds are named in R/shape-check.R, in this order.
enum class Kind {
  no_geometry,
  empty_geometry,
  height,
  not_a_number,
  beyond_degrees,
  open_ring,
  flat_ring,
  repeated_point,
  bow_tie,
  backward_ring,
  hole_outside,
  antimeridian,
  overlap,
  sliver
};

struct Finding {
  Kind kind;
  int feature;        // from 0
  int other = -1;     // the neighbour, for borders
  Point at{0, 0};     // the first place
  double amount = 1;  // how often, or how far in metres (sliver)
};

// Rings as they came (not closed), with what the well-known binary said of heights.
std::vector<Finding> check_features(const FlatLayer& layer, const std::vector<bool>& height);

// Borders of different areas that cross, or that run side by side closer than `metres`.
std::vector<Finding> check_borders(const FlatLayer& layer, double metres);

}  // namespace ochre
