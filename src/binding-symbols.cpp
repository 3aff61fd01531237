#include <Rcpp.h>

#include "core/density.hpp"
#include "core/displace.hpp"
#include "core/labels.hpp"
#include "core/symbols.hpp"

// [[Rcpp::export]]
double largest_radius_core(const std::vector<double>& x, const std::vector<double>& y,
                           const std::vector<double>& relative, double least, double most,
                           double share) {
  return ochre::largest_radius(x, y, relative, least, most, share);
}

// [[Rcpp::export]]
Rcpp::List displace_core(const std::vector<double>& x, const std::vector<double>& y,
                         const std::vector<double>& radius, double gap, double most) {
  ochre::Places at = ochre::displace(x, y, radius, gap, most);
  return Rcpp::List::create(Rcpp::Named("x") = at.x, Rcpp::Named("y") = at.y,
                            Rcpp::Named("all") = at.all);
}

// [[Rcpp::export]]
Rcpp::NumericVector density_core(const std::vector<double>& x, const std::vector<double>& y,
                                 const std::vector<double>& weight, double x0, double y0,
                                 double cell, int columns, int rows, double kernel) {
  ochre::Grid grid;
  grid.x0 = x0;
  grid.y0 = y0;
  grid.cell = cell;
  grid.columns = columns;
  grid.rows = rows;
  return Rcpp::wrap(ochre::density_surface(x, y, weight, grid, kernel));
}

// Labels in order of importance, symbols as circles; all in one unit with y upward from the lower
// left corner.
// [[Rcpp::export]]
Rcpp::List place_labels_core(const std::vector<double>& x, const std::vector<double>& y,
                             const std::vector<double>& width, const std::vector<double>& height,
                             const std::vector<double>& gap, const std::vector<double>& disc_x,
                             const std::vector<double>& disc_y, const std::vector<double>& disc_r,
                             double page_width, double page_height) {
  std::vector<ochre::LabelWish> labels;
  for (size_t i = 0; i < x.size(); ++i)
    labels.push_back({x[i], y[i], width[i], height[i], gap[i]});
  std::vector<ochre::Disc> discs;
  for (size_t i = 0; i < disc_x.size(); ++i)
    discs.push_back({disc_x[i], disc_y[i], disc_r[i]});
  std::vector<ochre::LabelPlace> places =
      ochre::place_labels(labels, discs, page_width, page_height);
  Rcpp::LogicalVector placed(places.size());
  Rcpp::NumericVector px(places.size()), py(places.size());
  for (size_t i = 0; i < places.size(); ++i) {
    placed[i] = places[i].placed;
    px[i] = places[i].x;
    py[i] = places[i].y;
  }
  return Rcpp::List::create(Rcpp::Named("placed") = placed, Rcpp::Named("x") = px,
                            Rcpp::Named("y") = py);
}
