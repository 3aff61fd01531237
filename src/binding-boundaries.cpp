// Reading boundaries: the core's columns and geometry as R vectors.
#include <algorithm>
#include <chrono>
#include <cmath>
#include <memory>

#include "binding-bridge.h"
#include "core/dbf.hpp"
#include "core/geojson.hpp"
#include "core/json-text.hpp"
#include "core/json-account.hpp"
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
      for (R_xlen_t i = 0; i < n_; ++i)
        bigger[i] = list_[i];
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
    for (R_xlen_t i = 0; i < n_; ++i)
      out[i] = list_[i];
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
      SET_STRING_ELT(
          out, i,
          c.text_size[i] == ochre::Column::kMissing
              ? NA_STRING
              : Rf_mkCharLenCE(c.pool.data() + c.text_start[i], c.text_size[i], encoding));
    return out;
  }
  if (c.kind == Kind::number) {
    Rcpp::NumericVector out(n);
    for (R_xlen_t i = 0; i < n; ++i)
      out[i] = std::isnan(c.numbers[i]) ? NA_REAL : c.numbers[i];
    return out;
  }
  bool integer = c.kind == Kind::integer;
  Rcpp::Shield<SEXP> out(Rf_allocVector(integer ? INTSXP : LGLSXP, n));
  int* p = integer ? INTEGER(out) : LOGICAL(out);
  for (R_xlen_t i = 0; i < n; ++i)
    p[i] = std::isnan(c.numbers[i]) ? NA_INTEGER : static_cast<int>(c.numbers[i]);
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
      Named("id") =
          r.id.kind == ochre::Column::Kind::empty ? R_NilValue : as_vector(r.id, encoding),
      Named("features") = double(r.features), Named("positions") = double(r.positions),
      Named("beyond_degrees") = double(r.beyond_degrees),
      Named("collections") = double(r.collections),
      Named("texts_with_nul") = double(r.texts_with_nul), Named("system") = r.system,
      Named("topology") = r.topology,
      Named("extent") =
          Rcpp::NumericVector::create(Named("west") = r.west, Named("south") = r.south,
                                      Named("east") = r.east, Named("north") = r.north));
}

}  // namespace

// Members of the object that a file of JSON is, as they are written: those of some names; none
// where the file is no object.
// [[Rcpp::export]]
List json_members_core(const std::string& path, const std::vector<std::string>& names) {
  return guarded([&]() {
    ochre::FileText file(path);
    ochre::JsonText text(file.data(), file.size());
    std::vector<std::string> found, values;
    if (text.peek() == '{')
      text.object([&](std::string_view name) {
        const std::string key(name);
        const std::string_view value = text.raw_value();
        if (std::find(names.begin(), names.end(), key) == names.end()) return;
        found.push_back(key);
        values.emplace_back(value);
      });
    Rcpp::CharacterVector out(values.begin(), values.end());
    out.names() = Rcpp::CharacterVector(found.begin(), found.end());
    return List::create(Named("members") = out);
  });
}

// [[Rcpp::export]]
List read_json_core(const std::string& path, const std::string& layer, double most_columns,
                    const Rcpp::Function& tell) {
  return guarded([&]() {
    ListSink sink(tell);
    ochre::Boundaries r =
        ochre::read_json(ochre::FileText(path), layer, sink, static_cast<size_t>(most_columns));
    return as_list(r, sink, CE_UTF8);
  });
}

// A table without a shapefile around it; texts as in read_shapefile_core().
// [[Rcpp::export]]
List read_dbf_core(const std::string& path) {
  return guarded([&]() {
    ochre::Boundaries r;
    ochre::Table table = ochre::read_dbf(ochre::FileText(path), r.properties);
    const size_t deleted = std::count(table.deleted.begin(), table.deleted.end(), true);
    r.features = table.rows - deleted;
    r.finish();
    ListSink none{Rcpp::Function("identity")};
    List out = as_list(r, none, CE_NATIVE);
    out["encoding"] = table.encoding;
    out["date"] = table.date;
    out["deleted"] = double(deleted);
    return out;
  });
}

// Texts come in the encoding of the table, which R/read-shapefile.R turns into UTF-8.
// [[Rcpp::export]]
List read_shapefile_core(const std::string& shp, const std::string& dbf,
                         const Rcpp::Function& tell) {
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
// What is plain already stays as it is.
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
      if (TYPEOF(item) == NILSXP) continue;
      const std::string row = "row " + std::to_string(i + 1) + ": ";
      if (TYPEOF(item) != RAWSXP) throw ochre::WkbError(row + "the geometry is not made of bytes");
      if (Rf_xlength(item) == 0) continue;
      try {
        if (ochre::is_plain_wkb(RAW(item), Rf_xlength(item))) {
          out[i] = item;
          continue;
        }
        ochre::plain_wkb(RAW(item), Rf_xlength(item), bytes);
        if (!system && RAW(item)[0] != 'G') system = ochre::wkb_system(RAW(item), Rf_xlength(item));
      } catch (const ochre::WkbError& e) {
        throw ochre::WkbError(row + e.what());
      }
      out[i] = raw_of(bytes);
    }
    return List::create(Named("geometry") = out, Named("system") = system);
  });
}

// All positions of plain well-known binary, as two columns.
// [[Rcpp::export]]
Rcpp::NumericMatrix positions_core(const List& wkb) {
  std::vector<double> x, y;
  auto take = [](std::vector<double>& into, const uint8_t* from) {
    double v;
    std::memcpy(&v, from, 8);
    into.push_back(v);
  };
  for (SEXP item : wkb) {
    if (TYPEOF(item) != RAWSXP) continue;
    ochre::each_position(RAW(item), Rf_xlength(item), [&](uint8_t* px, uint8_t* py) {
      take(x, px);
      take(y, py);
    });
  }
  Rcpp::NumericMatrix out(x.size(), 2);
  std::copy(x.begin(), x.end(), out.begin());
  std::copy(y.begin(), y.end(), out.begin() + x.size());
  return out;
}

// The same geometry with other positions; heights stay.
// [[Rcpp::export]]
List with_positions_core(const List& wkb, const Rcpp::NumericVector& x,
                         const Rcpp::NumericVector& y) {
  List out(wkb.size());
  R_xlen_t i = 0;
  for (R_xlen_t k = 0; k < wkb.size(); ++k) {
    SEXP item = wkb[k];
    if (TYPEOF(item) != RAWSXP) continue;
    Rcpp::RawVector bytes = Rcpp::clone(Rcpp::RawVector(item));
    ochre::each_position(RAW(bytes), bytes.size(), [&](uint8_t* px, uint8_t* py) {
      if (i >= x.size() || i >= y.size())
        throw ochre::WkbError("there are fewer new positions than old ones");
      std::memcpy(px, &x[i], 8);
      std::memcpy(py, &y[i], 8);
      ++i;
    });
    out[k] = bytes;
  }
  return out;
}

// `joined`: several documents as one list, else NULL; `rest`: what follows the last one.
// [[Rcpp::export]]
List json_account_core(const std::string& path) {
  return guarded([&]() {
    ochre::FileText text(path);
    const ochre::JsonAccount account = ochre::account_of_json(text.data(), text.size());
    SEXP joined = R_NilValue;
    if (account.ends.size() > 1) {
      const std::string list = ochre::joined_documents(text.data(), account);
      joined = Rf_ScalarString(Rf_mkCharLenCE(list.data(), list.size(), CE_UTF8));
    }
    Rcpp::Shield<SEXP> kept(joined);
    const std::string rest(text.data() + account.end,
                           std::min<size_t>(text.size() - account.end, 80));
    return List::create(Named("depth") = double(account.depth),
                        Named("documents") = double(account.ends.size()), Named("joined") = kept,
                        Named("rest") = rest);
  });
}
