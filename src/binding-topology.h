// A topology between the core and R, where it is a list of flat integer vectors with names.
#pragma once
#include <limits>

#include "binding-bridge.h"
#include "core/topology.hpp"

template <class V>
Rcpp::IntegerVector ints(const V& v) {
  Rcpp::IntegerVector out(v.size());
  for (size_t i = 0; i < v.size(); ++i)
    out[i] = static_cast<int>(v[i]);
  return out;
}
// Ends that fall or lie below zero become one that fault_of() finds.
inline std::vector<size_t> sizes(const Rcpp::IntegerVector& v) {
  std::vector<size_t> out;
  out.reserve(static_cast<size_t>(v.size()));
  for (int i : v)
    out.push_back(i < 0 ? std::numeric_limits<size_t>::max() : static_cast<size_t>(i));
  return out;
}

inline ochre::Topology topology_from(const Rcpp::List& in) {
  ochre::Topology t;
  t.x0 = in["x0"];
  t.y0 = in["y0"];
  t.step = in["step"];
  Rcpp::IntegerVector x = in["x"], y = in["y"];
  if (x.size() != y.size()) throw PlanFault("it has more columns than rows of points");
  t.points.reserve(x.size());
  for (R_xlen_t i = 0; i < x.size(); ++i)
    t.points.push_back({x[i], y[i]});
  t.arc_end = sizes(in["arc_end"]);
  Rcpp::List layers = in["layers"];
  for (R_xlen_t l = 0; l < layers.size(); ++l) {
    Rcpp::List one = layers[l];
    ochre::TopologyLayer layer;
    layer.name = Rcpp::as<std::string>(one["name"]);
    Rcpp::IntegerVector arcs = one["ring_arcs"], shape = one["part_shape"];
    layer.ring_arcs.assign(arcs.begin(), arcs.end());
    layer.ring_end = sizes(one["ring_end"]);
    layer.part_end = sizes(one["part_end"]);
    for (int s : shape)
      layer.part_shape.push_back(static_cast<ochre::Shape>(s));
    layer.feature_end = sizes(one["feature_end"]);
    t.layers.push_back(std::move(layer));
  }
  std::string fault = ochre::fault_of(t);
  if (!fault.empty()) throw PlanFault(fault);
  return t;
}

inline Rcpp::List topology_list(const ochre::Topology& t) {
  Rcpp::IntegerVector x(t.points.size()), y(t.points.size());
  for (size_t i = 0; i < t.points.size(); ++i) {
    x[i] = t.points[i].x;
    y[i] = t.points[i].y;
  }
  Rcpp::List out(t.layers.size());
  for (size_t l = 0; l < t.layers.size(); ++l) {
    const ochre::TopologyLayer& layer = t.layers[l];
    out[l] = Rcpp::List::create(Rcpp::Named("name") = layer.name,
                                Rcpp::Named("ring_arcs") = ints(layer.ring_arcs),
                                Rcpp::Named("ring_end") = ints(layer.ring_end),
                                Rcpp::Named("part_end") = ints(layer.part_end),
                                Rcpp::Named("part_shape") = ints(layer.part_shape),
                                Rcpp::Named("feature_end") = ints(layer.feature_end));
  }
  return Rcpp::List::create(
      Rcpp::Named("x0") = t.x0, Rcpp::Named("y0") = t.y0, Rcpp::Named("step") = t.step,
      Rcpp::Named("x") = x, Rcpp::Named("y") = y, Rcpp::Named("arc_end") = ints(t.arc_end),
      Rcpp::Named("layers") = out, Rcpp::Named("dropped_rings") = double(t.dropped_rings));
}
