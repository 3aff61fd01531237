// How large proportional symbols may grow. Circles have an area proportional to the value;
// the largest radius is the greatest at which they can still be told apart: the summed area
// of all pairwise overlaps stays under a share of the summed area of the circles.
#pragma once
#include <cstddef>
#include <vector>

namespace ochre {

// Area common to two circles whose centres lie `distance` apart.
double lens_area(double distance, double r1, double r2);

// Overlap of all pairs over the area of all circles; stops early once it is above `enough`.
double overlap_share(const std::vector<double>& x, const std::vector<double>& y,
                     const std::vector<double>& radius, double enough);

// `relative` radii are between 0 and 1. The result is within [least, most].
double largest_radius(const std::vector<double>& x, const std::vector<double>& y,
                      const std::vector<double>& relative, double least, double most, double share);

}  // namespace ochre
