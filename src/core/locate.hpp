// Which area is a point in? A box tree over the parts, then the rings themselves. Borders belong
// to one side only (rings.hpp), so a point on a shared border is in exactly one area; one on a
// border with nobody beyond it is in the area that it bounds, the first of them. Areas are cut at
// 180° first (core/cut.hpp).
#pragma once
#include "box-tree.hpp"
#include "flat.hpp"

namespace ochre {

class AreaLocator {
 public:
  explicit AreaLocator(const FlatLayer& layer);
  // The number of the feature, or -1. Longitudes may be past 180°.
  int find(double x, double y) const;
  // The same for many points, in the order of a Z-curve, so that neighbours find the areas that
  // they need in the cache. Points that are no numbers are in none.
  void find_all(const double* x, const double* y, size_t n, int* feature) const;
  // The feature whose border is nearest to a point in none, and how far that is; -1 without areas.
  struct Nearest {
    int feature;
    double metres;
  };
  Nearest nearest(double x, double y) const;

 private:
  bool on_border(uint32_t part, Point p) const;
  FlatLayer layer_;
  std::vector<uint32_t> feature_;
  Box all_;
  BoxTree tree_;
};

}  // namespace ochre
