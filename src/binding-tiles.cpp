// Vector tiles: a pyramid is made once and cut on demand, for R/serve-cut.R.
#include "binding-bridge.h"
#include "core/prepare-layer.hpp"
#include "core/vector-tile.hpp"

using Rcpp::List;
using Rcpp::Named;

namespace {

// Values of a column as messages of a tile; "" for missing ones.
std::vector<std::string> column_values(SEXP column) {
  const R_xlen_t n = Rf_xlength(column);
  std::vector<std::string> out(static_cast<size_t>(n));
  for (R_xlen_t i = 0; i < n; ++i) {
    std::string& to = out[static_cast<size_t>(i)];
    switch (TYPEOF(column)) {
      case LGLSXP:
        if (LOGICAL(column)[i] != NA_LOGICAL) to = ochre::tile_value(LOGICAL(column)[i] != 0);
        break;
      case INTSXP:
        if (INTEGER(column)[i] != NA_INTEGER)
          to = ochre::tile_value(static_cast<int64_t>(INTEGER(column)[i]));
        break;
      case REALSXP:
        if (std::isfinite(REAL(column)[i])) to = ochre::tile_value(REAL(column)[i]);
        break;
      case STRSXP:
        if (STRING_ELT(column, i) != NA_STRING)
          to = ochre::tile_value(std::string(CHAR(STRING_ELT(column, i))));
        break;
      default:
        Rcpp::stop("a plain column is wanted");
    }
  }
  return out;
}

struct ServedTiles {
  ochre::TilePyramid pyramid;
  ochre::TileWords words;
};

}  // namespace

// Geometry in degrees, and columns of plain values with UTF-8 texts.
// [[Rcpp::export]]
List tile_pyramid_core(const List& wkb, const List& columns, int levels) {
  return guarded([&]() {
    const ochre::Projection mercator(ochre::ProjectionKind::web_mercator, 0, 0);
    ochre::TileWords words;
    words.values.resize(static_cast<size_t>(wkb.size()));
    Rcpp::CharacterVector names = columns.names();
    for (R_xlen_t k = 0; k < columns.size(); ++k) {
      words.keys.push_back(Rcpp::as<std::string>(names[k]));
      const std::vector<std::string> values = column_values(columns[k]);
      for (size_t f = 0; f < values.size(); ++f)
        if (!values[f].empty())
          words.values.at(f).emplace_back(static_cast<uint32_t>(k), values[f]);
    }
    auto made = std::make_unique<ServedTiles>(ServedTiles{
        ochre::TilePyramid(ochre::prepare_layer(flat_layer(wkb), mercator, {}).layer, levels),
        std::move(words)});
    return List::create(Named("tiles") = Rcpp::XPtr<ServedTiles>(made.release(), true));
  });
}

// [[Rcpp::export]]
List cut_tile_core(SEXP tiles, int level, double column, double row, const std::string& name) {
  return guarded([&]() {
    Rcpp::XPtr<ServedTiles> from(tiles);
    const std::string tile = from->pyramid.cut(
        {level, static_cast<uint32_t>(column), static_cast<uint32_t>(row)}, name, from->words);
    Rcpp::RawVector out(tile.begin(), tile.end());
    return List::create(Named("tile") = out);
  });
}
