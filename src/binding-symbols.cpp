#include <Rcpp.h>

#include "core/symbols.hpp"

// [[Rcpp::export]]
double largest_radius_core(const std::vector<double>& x, const std::vector<double>& y, const std::vector<double>& relative,
                           double least, double most, double share) {
  return ochre::largest_radius(x, y, relative, least, most, share);
}

// [[Rcpp::export]]
double overlap_share_core(const std::vector<double>& x, const std::vector<double>& y, const std::vector<double>& radius) {
  return ochre::overlap_share(x, y, radius, 1e300);
}
