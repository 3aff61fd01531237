// The one bridge from C++ failures to R. A binding runs its work in guarded(); what the core
// throws comes back as a list with an `error` element, which call_core() in R/conditions.R
// raises as a classed condition in the name of the function that the user called.
#pragma once
#include <Rcpp.h>

#include "core/file-error.hpp"
#include "core/flat.hpp"
#include "core/projection.hpp"
#include "core/share-out.hpp"
#include "core/wkb.hpp"

// A plan that was changed by other means than Ochre's.
struct PlanFault : std::runtime_error {
  using std::runtime_error::runtime_error;
};

// How many cores work is a word of the session: options(ochre.cores = ), or OCHRE_CORES.
inline void heed_cores() {
  const SEXP said = Rf_GetOption1(Rf_install("ochre.cores"));
  const char* set = std::getenv("OCHRE_CORES");
  const int cores = said != R_NilValue ? Rf_asInteger(said) : set ? std::atoi(set) : 2;
  ochre::cores_allowed = cores == NA_INTEGER ? 2 : cores;
}

template <class Work>
Rcpp::List guarded(Work work) {
  using Rcpp::Named;
  try {
    heed_cores();
    return work();
  } catch (const ochre::FileError& e) {
    return Rcpp::List::create(
        Named("error") = Rcpp::List::create(
            Named("kind") = e.layers.empty() ? "file" : "layer", Named("what") = e.what(),
            Named("mend") = e.mend, Named("layers") = e.layers,
            Named("feature") = double(e.feature), Named("line") = double(e.line),
            Named("column") = double(e.column), Named("byte") = double(e.byte)));
  } catch (const ochre::WkbError& e) {
    return Rcpp::List::create(
        Named("error") = Rcpp::List::create(Named("kind") = "geometry", Named("what") = e.what()));
  } catch (const PlanFault& e) {
    return Rcpp::List::create(Named("error") = Rcpp::List::create(
                                  Named("kind") = "plan",
                                  Named("what") = std::string("the plan was changed: ") + e.what(),
                                  Named("mend") = "make it anew with resolve_sheet()"));
  } catch (const std::bad_alloc&) {
    return Rcpp::List::create(Named("error") =
                                  Rcpp::List::create(Named("kind") = "memory",
                                                     Named("what") = "there is not enough memory"));
  } catch (const std::length_error&) {
    return Rcpp::List::create(Named("error") =
                                  Rcpp::List::create(Named("kind") = "memory",
                                                     Named("what") = "there is not enough memory"));
  }
}

// Walks every geometry of a list of raw vectors; NULL elements are features without geometry.
// A fault names the row.
template <class Handler, class EndFeature>
void walk_features(const Rcpp::List& wkb, Handler& handler, EndFeature end_feature) {
  R_xlen_t n = wkb.size();
  for (R_xlen_t i = 0; i < n; ++i) {
    if ((i & 1023) == 1023) Rcpp::checkUserInterrupt();
    SEXP item = wkb[i];
    if (TYPEOF(item) == RAWSXP) {
      try {
        ochre::walk_wkb(RAW(item), Rf_xlength(item), handler);
      } catch (const ochre::WkbError& e) {
        throw ochre::WkbError("row " + std::to_string(i + 1) + ": " + e.what());
      }
    }
    end_feature();
  }
}

// A list of raw vectors as flat arrays; `close` closes open rings.
inline ochre::FlatLayer flat_layer(const Rcpp::List& wkb, bool close = true) {
  ochre::FlatLayer layer;
  // Room for all at once, a little more than is needed: a vertex takes sixteen bytes there, too.
  size_t bytes = 0;
  for (R_xlen_t k = 0; k < wkb.size(); ++k)
    if (TYPEOF(wkb[k]) == RAWSXP) bytes += static_cast<size_t>(Rf_xlength(wkb[k]));
  layer.points.reserve(bytes / sizeof(ochre::Point));
  ochre::FlatGatherer gather(layer, close);
  R_xlen_t i = 0;
  walk_features(wkb, gather, [&] {
    SEXP item = wkb[i++];
    gather.end_feature(TYPEOF(item) == RAWSXP ? ochre::wkb_shape(RAW(item), Rf_xlength(item))
                                              : ochre::Shape(0));
  });
  return layer;
}

inline SEXP raw_of(const ochre::WkbWriter& bytes) {
  if (!bytes.size()) return R_NilValue;
  Rcpp::RawVector out(Rcpp::no_init(bytes.size()));
  std::memcpy(RAW(out), bytes.data(), bytes.size());
  return out;
}

inline Rcpp::List wkb_of(const ochre::FlatLayer& layer) {
  Rcpp::List out(layer.features());
  ochre::WkbWriter bytes;
  for (size_t f = 0; f < layer.features(); ++f) {
    if ((f & 1023) == 1023) Rcpp::checkUserInterrupt();
    ochre::write_feature(layer, f, bytes);
    out[f] = raw_of(bytes);
  }
  return out;
}

inline ochre::Projection projection_from(const Rcpp::List& p) {
  ochre::ProjectionKind kind = ochre::ProjectionKind::azimuthal;
  if (!ochre::projection_kind(Rcpp::as<std::string>(p["name"]), kind))
    throw PlanFault("its projection has no known name");
  for (const char* number : {"lon0", "lat0", "lat1", "lat2"})
    if (!R_finite(Rcpp::as<double>(p[number]))) throw PlanFault("its projection lacks a number");
  return ochre::Projection(kind, p["lon0"], p["lat0"], p["lat1"], p["lat2"]);
}
inline Rcpp::List projection_list(const ochre::Projection& p) {
  using Rcpp::Named;
  return Rcpp::List::create(Named("name") = ochre::projection_name(p.kind()),
                            Named("lon0") = p.lon0(), Named("lat0") = p.lat0(),
                            Named("lat1") = p.lat1(), Named("lat2") = p.lat2());
}
