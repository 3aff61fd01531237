// Reading boundaries: the core's columns and geometry as R vectors.
#include <chrono>
#include <algorithm>
#include <cmath>
#include <memory>

#include "binding-bridge.h"
#include "core/geojson.hpp"
#include "core/shapefile.hpp"

using Rcpp::List;
using Rcpp::Named;

namespace {

// Tells R about five times a second how far the work is.
class Teller {
 public:
  explicit Teller(const Rcpp::Function& tell) : tell_(tell) {}
  void operator()(double share) {
    auto now = std::chrono::steady_clock::now();
    if (now - told_ < std::chrono::milliseconds(200)) return;
    told_ = now;
    tell_(share);
  }

 private:
  Rcpp::Function tell_;
  std::chrono::steady_clock::time_point told_ = std::chrono::steady_clock::now();
};

// Holds raw vectors in a list that grows by doubling; R keeps the list, the list the vectors.
class ListSink : public ochre::GeometrySink {
 public:
  explicit ListSink(const Rcpp::Function& tell) : tell_(tell) {}

  void progress(double share) override { tell_(share); }
  void geometry(const uint8_t* data, size_t size) override {
    if ((n_ & 1023) == 1023) Rcpp::checkUserInterrupt();
    if (n_ == list_.size()) {
      List bigger(n_ ? 2 * n_ : 1024);
      for (R_xlen_t i = 0; i < n_; ++i) bigger[i] = list_[i];
      list_ = bigger;
    }
    if (size) {
      Rcpp::RawVector bytes(Rcpp::no_init(size));
      std::memcpy(RAW(bytes), data, size);
      list_[n_] = bytes;
    }
    ++n_;
  }
  List finish() {
    List out(n_);
    for (R_xlen_t i = 0; i < n_; ++i) out[i] = list_[i];
    return out;
  }

 private:
  Teller tell_;
  List list_ = List(0);
  R_xlen_t n_ = 0;
};

// `encoding`: CE_UTF8, or CE_NATIVE for bytes whose encoding R finds out.
SEXP as_vector(const ochre::Column& c, cetype_t encoding) {
  R_xlen_t n = c.rows();
  using Kind = ochre::Column::Kind;
  if (c.kind == Kind::text) {
    Rcpp::CharacterVector out(n);
    for (R_xlen_t i = 0; i < n; ++i)
      SET_STRING_ELT(out, i, c.text_size[i] == ochre::Column::kMissing
                                 ? NA_STRING
                                 : Rf_mkCharLenCE(c.pool.data() + c.text_start[i], c.text_size[i], encoding));
    return out;
  }
  if (c.kind == Kind::number) {
    Rcpp::NumericVector out(n);
    for (R_xlen_t i = 0; i < n; ++i) out[i] = std::isnan(c.numbers[i]) ? NA_REAL : c.numbers[i];
    return out;
  }
  bool integer = c.kind == Kind::integer;
  Rcpp::Shield<SEXP> out(Rf_allocVector(integer ? INTSXP : LGLSXP, n));
  int* p = integer ? INTEGER(out) : LOGICAL(out);
  for (R_xlen_t i = 0; i < n; ++i) p[i] = std::isnan(c.numbers[i]) ? NA_INTEGER : static_cast<int>(c.numbers[i]);
  return out;
}

List as_list(ochre::Boundaries& r, ListSink& sink, cetype_t encoding) {
  List columns(r.properties.columns.size());
  Rcpp::CharacterVector names(r.properties.columns.size());
  for (R_xlen_t i = 0; i < columns.size(); ++i) {
    ochre::Column& c = r.properties.columns[i];
    columns[i] = as_vector(c, encoding);
    names[i] = Rf_mkCharLenCE(c.name.data(), c.name.size(), encoding);
    c = ochre::Column();
  }
  columns.names() = names;
  return List::create(
      Named("columns") = columns, Named("geometry") = sink.finish(),
      Named("id") = r.id.kind == ochre::Column::Kind::empty ? R_NilValue : as_vector(r.id, encoding),
      Named("features") = double(r.features), Named("positions") = double(r.positions),
      Named("beyond_degrees") = double(r.beyond_degrees), Named("system") = r.system, Named("topology") = r.topology,
      Named("extent") = Rcpp::NumericVector::create(Named("west") = r.west, Named("south") = r.south,
                                                    Named("east") = r.east, Named("north") = r.north));
}

}  // namespace

// [[Rcpp::export]]
List read_json_core(const std::string& path, const std::string& layer, const Rcpp::Function& tell) {
  return guarded([&]() {
    ListSink sink(tell);
    ochre::Boundaries r = ochre::read_json(ochre::FileText(path), layer, sink);
    return as_list(r, sink, CE_UTF8);
  });
}

// Texts come in the encoding of the table, which R/read-shapefile.R turns into UTF-8.
// [[Rcpp::export]]
List read_shapefile_core(const std::string& shp, const std::string& dbf, const Rcpp::Function& tell) {
  return guarded([&]() {
    ListSink sink(tell);
    ochre::FileText geometry(shp);
    std::unique_ptr<ochre::FileText> table;
    if (!dbf.empty()) table.reset(new ochre::FileText(dbf));
    ochre::ShapefileResult r = ochre::read_shapefile(geometry, table.get(), sink);
    List out = as_list(r, sink, CE_NATIVE);
    out["encoding"] = r.table.encoding;
    out["date"] = r.table.date;
    out["deleted"] = double(std::count(r.table.deleted.begin(), r.table.deleted.end(), true));
    return out;
  });
}

// Any dialect of well-known binary as the plain one; `system` is the first system number found.
// [[Rcpp::export]]
List plain_wkb_core(const List& wkb) {
  return guarded([&]() {
    R_xlen_t n = wkb.size();
    List out(n);
    double system = 0;
    ochre::WkbWriter bytes;
    for (R_xlen_t i = 0; i < n; ++i) {
      if ((i & 1023) == 1023) Rcpp::checkUserInterrupt();
      SEXP item = wkb[i];
      if (TYPEOF(item) != RAWSXP || Rf_xlength(item) == 0) continue;
      try {
        ochre::plain_wkb(RAW(item), Rf_xlength(item), bytes);
        if (!system && RAW(item)[0] != 'G') system = ochre::wkb_system(RAW(item), Rf_xlength(item));
      } catch (const ochre::WkbError& e) {
        throw ochre::WkbError("row " + std::to_string(i + 1) + ": " + e.what());
      }
      out[i] = raw_of(bytes);
    }
    return List::create(Named("geometry") = out, Named("system") = system);
  });
}

namespace {
// Positions of plain well-known binary, in order, read or put in place.
template <class Each>
void each_position(uint8_t*& at, Each each) {
  uint32_t code, n = 1;
  std::memcpy(&code, at + 1, 4);
  at += 5;
  size_t dims = code >= 1000 ? 3 : 2;
  auto run = [&](uint32_t m) {
    for (uint32_t i = 0; i < m; ++i, at += 8 * dims) each(at);
  };
  auto count = [&] { std::memcpy(&n, at, 4); at += 4; return n; };
  switch (code % 1000) {
    case 1: run(1); break;
    case 2: run(count()); break;
    case 3: for (uint32_t rings = count(), r = 0; r < rings; ++r) run(count()); break;
    default: for (uint32_t parts = count(), p = 0; p < parts; ++p) each_position(at, each);
  }
}
}  // namespace

// All positions of plain well-known binary, as two columns.
// [[Rcpp::export]]
Rcpp::NumericMatrix positions_core(const List& wkb) {
  size_t n = 0;
  for (SEXP item : wkb) if (TYPEOF(item) == RAWSXP) { uint8_t* at = RAW(item); each_position(at, [&](uint8_t*) { ++n; }); }
  Rcpp::NumericMatrix out(n, 2);
  size_t i = 0;
  for (SEXP item : wkb) {
    if (TYPEOF(item) != RAWSXP) continue;
    uint8_t* at = RAW(item);
    each_position(at, [&](uint8_t* p) {
      std::memcpy(&out[i], p, 8);
      std::memcpy(&out[n + i], p + 8, 8);
      ++i;
    });
  }
  return out;
}

// The same geometry with other positions; heights stay.
// [[Rcpp::export]]
List with_positions_core(const List& wkb, const Rcpp::NumericVector& x, const Rcpp::NumericVector& y) {
  List out(wkb.size());
  size_t i = 0;
  for (R_xlen_t k = 0; k < wkb.size(); ++k) {
    SEXP item = wkb[k];
    if (TYPEOF(item) != RAWSXP) continue;
    Rcpp::RawVector bytes = Rcpp::clone(Rcpp::RawVector(item));
    uint8_t* at = RAW(bytes);
    each_position(at, [&](uint8_t* p) {
      std::memcpy(p, &x[i], 8);
      std::memcpy(p + 8, &y[i], 8);
      ++i;
    });
    out[k] = bytes;
  }
  return out;
}
