// The one bridge from C++ failures to R. A binding runs its work in guarded(); what the core
// throws comes back as a list with an `error` element, which call_core() in R/conditions.R
// raises as a classed condition in the name of the function that the user called.
#pragma once
#include <Rcpp.h>

#include "core/geojson.hpp"
#include "core/topology.hpp"

template <class Work>
Rcpp::List guarded(Work work) {
  using Rcpp::Named;
  try {
    return work();
  } catch (const ochre::GeoJsonError& e) {
    return Rcpp::List::create(Named("error") = Rcpp::List::create(
        Named("kind") = "file", Named("what") = e.what(), Named("mend") = e.mend,
        Named("feature") = double(e.feature), Named("line") = double(e.line), Named("column") = double(e.column)));
  } catch (const ochre::WkbError& e) {
    return Rcpp::List::create(Named("error") = Rcpp::List::create(Named("kind") = "geometry", Named("what") = e.what()));
  } catch (const std::bad_alloc&) {
    return Rcpp::List::create(Named("error") = Rcpp::List::create(Named("kind") = "memory", Named("what") = "there is not enough memory"));
  }
}

// Walks every geometry of a list of raw vectors; NULL elements are features without geometry.
template <class Handler, class EndFeature>
void walk_features(const Rcpp::List& wkb, Handler& handler, EndFeature end_feature) {
  R_xlen_t n = wkb.size();
  for (R_xlen_t i = 0; i < n; ++i) {
    if ((i & 1023) == 1023) Rcpp::checkUserInterrupt();
    SEXP item = wkb[i];
    if (TYPEOF(item) == RAWSXP) ochre::walk_wkb(RAW(item), Rf_xlength(item), handler);
    end_feature();
  }
}
