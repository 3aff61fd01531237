// Reading boundaries: the core's columns and geometry as R vectors.
#include <chrono>
#include <cmath>

#include "binding-bridge.h"

namespace {

// Holds raw vectors in a list that grows by doubling; R keeps the list, the list the vectors.
class ListSink : public ochre::GeometrySink {
 public:
  explicit ListSink(const Rcpp::Function& tell) : tell_(tell) {}

  // R is told about five times a second.
  void progress(double share) override {
    auto now = std::chrono::steady_clock::now();
    if (now - told_ < std::chrono::milliseconds(200)) return;
    told_ = now;
    tell_(share);
  }
  void geometry(const uint8_t* data, size_t size) override {
    if ((n_ & 1023) == 1023) Rcpp::checkUserInterrupt();
    if (n_ == list_.size()) {
      Rcpp::List bigger(n_ ? 2 * n_ : 1024);
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
  Rcpp::List finish() {
    Rcpp::List out(n_);
    for (R_xlen_t i = 0; i < n_; ++i) out[i] = list_[i];
    return out;
  }

 private:
  Rcpp::Function tell_;
  std::chrono::steady_clock::time_point told_ = std::chrono::steady_clock::now();
  Rcpp::List list_ = Rcpp::List(0);
  R_xlen_t n_ = 0;
};

SEXP as_vector(const ochre::Column& c) {
  R_xlen_t n = c.rows();
  using Kind = ochre::Column::Kind;
  if (c.kind == Kind::text) {
    Rcpp::CharacterVector out(n);
    for (R_xlen_t i = 0; i < n; ++i)
      SET_STRING_ELT(out, i, c.text_size[i] == ochre::Column::kMissing
                                 ? NA_STRING
                                 : Rf_mkCharLenCE(c.pool.data() + c.text_start[i], c.text_size[i], CE_UTF8));
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

}  // namespace

// [[Rcpp::export]]
Rcpp::List read_geojson_core(const std::string& path, const Rcpp::Function& tell) {
  return guarded([&]() {
    ListSink sink(tell);
    ochre::GeoJsonResult r = ochre::read_geojson(path, sink);
    Rcpp::List columns(r.properties.columns.size());
    Rcpp::CharacterVector names(r.properties.columns.size());
    for (R_xlen_t i = 0; i < columns.size(); ++i) {
      ochre::Column& c = r.properties.columns[i];
      columns[i] = as_vector(c);
      names[i] = Rcpp::String(c.name, CE_UTF8);
      c = ochre::Column();
    }
    columns.names() = names;
    using Rcpp::Named;
    return Rcpp::List::create(
        Named("columns") = columns, Named("geometry") = sink.finish(),
        Named("id") = r.id.kind == ochre::Column::Kind::empty ? R_NilValue : as_vector(r.id),
        Named("features") = double(r.features), Named("positions") = double(r.positions),
        Named("beyond_degrees") = double(r.beyond_degrees),
        Named("extent") = Rcpp::NumericVector::create(Named("west") = r.west, Named("south") = r.south,
                                                      Named("east") = r.east, Named("north") = r.north));
  });
}
