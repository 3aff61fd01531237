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
  // The same for many points, in the order of a Z-curve, so that neighbours find the areas that
  // they need in the cache. Points that are no numbers are in none.
  void find_all(const double* x, const double* y, size_t n, int* feature) const;
  // The feature whose border is nearest to a point in none, and how far that is; -1 without areas.
  struct Nearest { int feature; double metres; };
  Nearest nearest(double x, double y) const;

 private:
  const FlatLayer& layer_;
  std::vector<uint32_t> feature_;
  Box all_;
  BoxTree tree_;
};

}  // namespace ochre
