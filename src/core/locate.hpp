// Which area is a point in? A box tree over the parts, then the rings themselves. Borders belong
// to one side only (rings.hpp), so a point on a shared border is in exactly one area.
#pragma once
#include "box-tree.hpp"
#include "flat.hpp"

namespace ochre {

class AreaLocator {
 public:
  explicit AreaLocator(const FlatLayer& layer);
  // The number of the feature, or -1.
  int find(double x, double y) const;
  // The feature whose border is nearest to a point in none, and how far that is; -1 without areas.
  struct Nearest { int feature; double metres; };
  Nearest nearest(double x, double y) const;

 private:
  const FlatLayer& layer_;
  std::vector<uint32_t> feature_;
  BoxTree tree_;
};

}  // namespace ochre
