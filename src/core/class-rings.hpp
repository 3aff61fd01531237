// The outlines of classes of areas: borders between two areas of one class are left out, so that
// many areas make a light picture.
#pragma once
#include <vector>

#include "topology.hpp"

namespace ochre {

struct ClassRings {
  std::vector<int> ring_class;
  std::vector<size_t> ring_end;  // into points
  std::vector<GridPoint> points;
};

// `feature_class` is a number from 0 for each feature of the layer. Rings are filled even-odd.
ClassRings class_rings(const Topology& topology, const TopologyLayer& layer,
                       const std::vector<int>& feature_class);

}  // namespace ochre
