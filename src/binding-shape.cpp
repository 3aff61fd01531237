// Working on boundaries: lighter, merged, checked, mended, measured, written.
#include <cmath>
#include <cstdio>
#include <memory>

#include "binding-bridge.h"
#include "core/box-meets.hpp"
#include "core/check.hpp"
#include "core/cover.hpp"
#include "core/geodesy.hpp"
#include "core/geometry-text.hpp"
#include "core/label-point.hpp"
#include "core/locate.hpp"
#include "core/mend.hpp"
#include "core/merge.hpp"
#include "core/position-text.hpp"
#include "core/projection.hpp"
#include "core/simplify.hpp"

using Rcpp::List;
using Rcpp::Named;
using Rcpp::NumericVector;

namespace {

std::vector<std::string> texts(const Rcpp::CharacterVector& v) {
  std::vector<std::string> out;
  for (R_xlen_t i = 0; i < v.size(); ++i)
    out.push_back(CHAR(STRING_ELT(v, i)));
  return out;
}

}  // namespace

namespace {

// Areas whose size differs by more than a tenth from what it was.
int areas_changed(const ochre::FlatLayer& before, const ochre::FlatLayer& after,
                  const ochre::AreaSides& sides) {
  int changed = 0;
  for (size_t f = 0; f < before.features(); ++f) {
    double area = 0;
    for (size_t p = after.first_part(f); p < after.feature_end[f]; ++p)
      if (after.part_shape[p] == ochre::Shape::polygon) area += ochre::part_area_m2(after, p);
    changed += std::fabs(area - sides.size[f]) > 0.1 * sides.size[f];
  }
  return changed;
}

}  // namespace

// Keeps `share` of the vertices, or what counts for at least `area` square metres, or, with a
// positive `budget`, as much as fits: `size(geometry)` tells how large the file would be.
// [[Rcpp::export]]
List simplify_core(const List& wkb, double share, double area, double shape, double drop_below,
                   bool vanish, double budget, const Rcpp::Function& size) {
  return guarded([&]() {
    ochre::FlatLayer layer = flat_layer(wkb);
    ochre::BorderNet borders = ochre::border_net(layer);
    Rcpp::checkUserInterrupt();
    ochre::AreaSides sides = ochre::area_sides(layer, borders.net);
    ochre::Simplifier simplifier(borders.vertex, borders.net, sides, true, shape);
    ochre::DropRule drop{drop_below, vanish};
    ochre::SimplifiedLayer result;
    List geometry;
    double bytes = NA_REAL;
    auto take = [&](size_t steps) {
      result = ochre::rebuild(layer, borders, simplifier.after(steps), drop);
      geometry = wkb_of(result.layer);
      Rcpp::checkUserInterrupt();
    };
    auto fits = [&](size_t steps) {
      take(steps);
      bytes = Rcpp::as<double>(size(geometry));
      return bytes <= budget;
    };
    double whole = static_cast<double>(layer.points.size());
    if (budget > 0 && !fits(0)) {
      // The size falls with each step; halving finds the first that fits, to a thousandth.
      size_t low = 0, high = simplifier.steps();
      while (high - low > std::max<size_t>(1, simplifier.steps() / 1000)) {
        size_t middle = (low + high) / 2;
        (fits(middle) ? high : low) = middle;
      }
      fits(high);
    } else if (budget <= 0) {
      double points = 0;
      for (size_t p = 0; p < layer.part_end.size(); ++p)
        if (layer.part_shape[p] == ochre::Shape::point)
          points += layer.ring_end[layer.part_end[p] - 1] - layer.first_point(layer.first_ring(p));
      take(share >= 0 ? simplifier.steps_for_count(share * whole - points)
                      : simplifier.steps_below(area));
    }
    return List::create(Named("geometry") = geometry, Named("before") = whole,
                        Named("after") = double(result.layer.points.size()),
                        Named("least") = simplifier.least_count(),
                        Named("changed") = areas_changed(layer, result.layer, sides),
                        Named("dropped") = double(result.dropped_parts),
                        Named("vanished") = double(result.vanished), Named("bytes") = bytes);
  });
}

// [[Rcpp::export]]
List merge_core(const List& wkb, const Rcpp::IntegerVector& group, int groups) {
  return guarded([&]() {
    std::vector<int> g;
    for (int v : group)
      g.push_back(v == NA_INTEGER ? -1 : v - 1);
    ochre::MergedAreas merged = ochre::merge_areas(flat_layer(wkb), g, groups);
    Rcpp::IntegerVector wrong(merged.not_the_sum.begin(), merged.not_the_sum.end());
    return List::create(Named("geometry") = wkb_of(merged.layer), Named("wrong") = wrong + 1);
  });
}

// [[Rcpp::export]]
List border_lines_core(const List& wkb, const Rcpp::IntegerVector& group, bool outer) {
  return guarded([&]() {
    std::vector<int> g;
    for (int v : group)
      g.push_back(v == NA_INTEGER ? -1 : v - 1);
    ochre::BorderLines b = ochre::border_lines(flat_layer(wkb), g, outer);
    Rcpp::IntegerVector left(b.left.begin(), b.left.end()), right(b.right.begin(), b.right.end());
    return List::create(Named("geometry") = wkb_of(b.lines), Named("left") = left + 1,
                        Named("right") = right + 1);
  });
}

// [[Rcpp::export]]
List label_points_core(const List& wkb) {
  return guarded([&]() {
    ochre::FlatLayer layer = flat_layer(wkb);
    NumericVector lon(layer.features()), lat(layer.features()), room(layer.features());
    const std::vector<ochre::LabelPoint> points = ochre::label_points(layer);
    for (size_t f = 0; f < layer.features(); ++f) {
      const ochre::LabelPoint& p = points[f];
      lon[f] = std::isnan(p.at.x) ? NA_REAL : p.at.x;
      lat[f] = std::isnan(p.at.y) ? NA_REAL : p.at.y;
      room[f] = std::isnan(p.metres) ? NA_REAL : p.metres;
    }
    return List::create(Named("lon") = lon, Named("lat") = lat, Named("room") = room);
  });
}

// Square metres of the areas and metres of the lines of each feature; missing where it has none.
// [[Rcpp::export]]
List measure_core(const List& wkb) {
  return guarded([&]() {
    ochre::FlatLayer layer = flat_layer(wkb);
    NumericVector area(layer.features(), NA_REAL), length(layer.features(), NA_REAL);
    for (size_t f = 0; f < layer.features(); ++f) {
      if ((f & 255) == 255) Rcpp::checkUserInterrupt();
      for (size_t p = layer.first_part(f); p < layer.feature_end[f]; ++p) {
        if (layer.part_shape[p] == ochre::Shape::point) continue;
        bool polygon = layer.part_shape[p] == ochre::Shape::polygon;
        double& sum = polygon ? area[f] : length[f];
        if (R_IsNA(sum)) sum = 0;
        if (polygon) {
          sum += ochre::part_area_m2(layer, p);
          continue;
        }
        for (size_t r = layer.first_ring(p); r < layer.part_end[p]; ++r)
          sum += ochre::run_length_m(layer.ring(r), layer.ring_size(r));
      }
    }
    return List::create(Named("area") = area, Named("length") = length);
  });
}

// [[Rcpp::export]]
List check_core(const List& wkb, double metres) {
  return guarded([&]() {
    ochre::FlatLayer layer = flat_layer(wkb, false);
    std::vector<bool> height;
    for (SEXP item : wkb)
      height.push_back(TYPEOF(item) == RAWSXP &&
                       ochre::wkb_has_height(RAW(item), Rf_xlength(item)));
    std::vector<ochre::Finding> found = ochre::check_features(layer, height);
    Rcpp::checkUserInterrupt();
    if (metres > 0) {
      std::vector<ochre::Finding> more = ochre::check_borders(flat_layer(wkb), metres);
      found.insert(found.end(), more.begin(), more.end());
    }
    size_t n = found.size();
    Rcpp::IntegerVector kind(n), feature(n), other(n);
    NumericVector lon(n), lat(n), amount(n);
    for (size_t i = 0; i < n; ++i) {
      kind[i] = static_cast<int>(found[i].kind) + 1;
      feature[i] = found[i].feature + 1;
      other[i] = found[i].other < 0 ? NA_INTEGER : found[i].other + 1;
      lon[i] = found[i].at.x;
      lat[i] = found[i].at.y;
      amount[i] = found[i].amount;
    }
    return List::create(Named("kind") = kind, Named("feature") = feature, Named("other") = other,
                        Named("lon") = lon, Named("lat") = lat, Named("amount") = amount);
  });
}

// [[Rcpp::export]]
List mend_core(const List& wkb, double metres) {
  return guarded([&]() {
    ochre::MendResult r = ochre::mend(flat_layer(wkb), metres);
    return List::create(Named("geometry") = wkb_of(r.layer), Named("moved") = double(r.moved),
                        Named("added") = double(r.added));
  });
}

// The row of the area that each point lies in, or missing.
// [[Rcpp::export]]
List locate_core(const List& areas, const NumericVector& lon, const NumericVector& lat) {
  return guarded([&]() {
    ochre::FlatLayer layer = flat_layer(areas);
    ochre::AreaLocator locator(layer);
    Rcpp::IntegerVector out(lon.size());
    // In pieces, so that the user can stop it.
    for (R_xlen_t i = 0, piece = 1 << 20; i < lon.size(); i += piece) {
      Rcpp::checkUserInterrupt();
      locator.find_all(lon.begin() + i, lat.begin() + i, std::min(piece, lon.size() - i),
                       out.begin() + i);
    }
    for (int& f : out)
      f = f < 0 ? NA_INTEGER : f + 1;
    return List::create(Named("row") = out);
  });
}

// A grid over areas for so many points (core/cover.hpp): the box, cells for a degree, sides of the
// levels, and the cells as columns, whose area is the row, 0 for none and -1 for border cells.
// [[Rcpp::export]]
List cover_core(const List& areas, double points) {
  return guarded([&]() {
    const ochre::Cover cover = ochre::cover_areas(flat_layer(areas), points);
    std::vector<int> side, level, cell, area;
    Rcpp::NumericMatrix per(2, static_cast<int>(cover.levels.size()));
    for (size_t k = 0; k < cover.levels.size(); ++k) {
      const ochre::Cover::Level& at = cover.levels[k];
      side.push_back(static_cast<int>(at.side));
      per(0, static_cast<int>(k)) = at.per_x;
      per(1, static_cast<int>(k)) = at.per_y;
      level.insert(level.end(), at.cell.size(), static_cast<int>(k));
      for (int64_t c : at.cell)
        cell.push_back(static_cast<int>(c));
      for (int a : at.area)
        area.push_back(a == ochre::Cover::kBorder ? -1 : a + 1);
    }
    const ochre::Box& b = cover.box;
    return List::create(Named("box") = Rcpp::NumericVector{b.x0, b.y0, b.x1, b.y1},
                        Named("per_degree") = per, Named("side") = side, Named("level") = level,
                        Named("cell") = cell, Named("area") = area);
  });
}

// For points in none of the areas: the row of the nearest one, and the metres to its border.
// [[Rcpp::export]]
List nearest_core(const List& areas, const NumericVector& lon, const NumericVector& lat) {
  return guarded([&]() {
    ochre::FlatLayer layer = flat_layer(areas);
    ochre::AreaLocator locator(layer);
    Rcpp::IntegerVector row(lon.size(), NA_INTEGER);
    NumericVector metres(lon.size(), NA_REAL);
    for (R_xlen_t i = 0; i < lon.size(); ++i) {
      if ((i & 63) == 63) Rcpp::checkUserInterrupt();
      if (!R_finite(lon[i]) || !R_finite(lat[i])) continue;
      ochre::AreaLocator::Nearest n = locator.nearest(lon[i], lat[i]);
      if (n.feature < 0) continue;
      row[i] = n.feature + 1;
      metres[i] = n.metres;
    }
    return List::create(Named("row") = row, Named("metres") = metres);
  });
}

// ---- text -----------------------------------------------------------------------------------

// Writes a FeatureCollection to a file; `properties` are JSON texts, one a feature.
// [[Rcpp::export]]
List write_geojson_core(const std::string& path, const List& wkb,
                        const Rcpp::CharacterVector& properties, int digits) {
  return guarded([&]() {
    std::unique_ptr<std::FILE, int (*)(std::FILE*)> file(std::fopen(path.c_str(), "wb"),
                                                         std::fclose);
    if (!file)
      throw ochre::FileError("the file cannot be written", "check the rights on its folder");
    ochre::DecimalText numbers(digits);
    std::string out = "{\"type\":\"FeatureCollection\",\"features\":[";
    double written = 0;
    auto flush = [&] {
      if (std::fwrite(out.data(), 1, out.size(), file.get()) != out.size())
        throw ochre::FileError("the file cannot be written to its end", "is the disk full?");
      written += out.size();
      out.clear();
    };
    for (R_xlen_t i = 0; i < wkb.size(); ++i) {
      if ((i & 255) == 255) Rcpp::checkUserInterrupt();
      out += i ? ",\n{\"type\":\"Feature\"" : "\n{\"type\":\"Feature\"";
      out += ",\"properties\":";
      out += properties.size() ? CHAR(properties[i]) : "{}";
      out += ",\"geometry\":";
      SEXP item = wkb[i];
      if (TYPEOF(item) == RAWSXP)
        ochre::put_geojson(out, RAW(item), Rf_xlength(item), numbers);
      else
        out += "null";
      out += '}';
      if (out.size() > (1 << 20)) flush();
    }
    out += "\n]}\n";
    flush();
    if (std::fclose(file.release()) != 0)
      throw ochre::FileError("the file cannot be written to its end", "is the disk full?");
    return List::create(Named("bytes") = written);
  });
}

// [[Rcpp::export]]
List topojson_text_core(const List& wkb, const std::string& name,
                        const Rcpp::CharacterVector& properties, int digits) {
  return guarded([&]() {
    return List::create(Named("text") =
                            ochre::topojson_file(flat_layer(wkb), name, texts(properties), digits));
  });
}

// [[Rcpp::export]]
List wkt_core(const List& wkb, int digits) {
  return guarded([&]() {
    ochre::DecimalText numbers(digits);
    Rcpp::CharacterVector out(wkb.size(), NA_STRING);
    std::string text;
    for (R_xlen_t i = 0; i < wkb.size(); ++i) {
      SEXP item = wkb[i];
      if (TYPEOF(item) != RAWSXP) continue;
      text.clear();
      ochre::put_wkt(text, RAW(item), Rf_xlength(item), numbers);
      SET_STRING_ELT(out, i, Rf_mkCharLenCE(text.data(), text.size(), CE_UTF8));
    }
    return List::create(Named("wkt") = out);
  });
}

// The "geometry" of GeoJSON for each feature; "null" without one.
// [[Rcpp::export]]
List geometry_texts_core(const List& wkb, int digits) {
  return guarded([&]() {
    ochre::DecimalText numbers(digits);
    Rcpp::CharacterVector out(wkb.size(), "null");
    std::string text;
    for (R_xlen_t i = 0; i < wkb.size(); ++i) {
      SEXP item = wkb[i];
      if (TYPEOF(item) != RAWSXP) continue;
      text.clear();
      ochre::put_geojson(text, RAW(item), Rf_xlength(item), numbers);
      SET_STRING_ELT(out, i, Rf_mkCharLenCE(text.data(), text.size(), CE_UTF8));
    }
    return List::create(Named("geometry") = out);
  });
}

// Geometry on a web Mercator map, in metres; or with latitude before longitude.
// [[Rcpp::export]]
List geometry_in_core(const List& wkb, const std::string& system) {
  return guarded([&]() {
    const ochre::Projection mercator(ochre::ProjectionKind::web_mercator, 0, 0);
    ochre::FlatLayer layer = flat_layer(wkb);
    for (ochre::Point& p : layer.points)
      p = system == "mercator" ? mercator.forward(p.x, p.y) : ochre::Point{p.y, p.x};
    return List::create(Named("geometry") = wkb_of(layer));
  });
}

// Longitude and latitude of a place on a web Mercator map.
// [[Rcpp::export]]
Rcpp::NumericVector from_mercator_core(double x, double y) {
  const ochre::Point p = ochre::Projection(ochre::ProjectionKind::web_mercator, 0, 0).inverse(x, y);
  return Rcpp::NumericVector::create(p.x, p.y);
}

// Which features have a place in common with a box: west, south, east, north.
// [[Rcpp::export]]
List box_meets_core(const List& wkb, const Rcpp::NumericVector& box) {
  return guarded([&]() {
    const ochre::FlatLayer layer = flat_layer(wkb);
    const ochre::Box wanted{box[0], box[1], box[2], box[3]};
    Rcpp::LogicalVector meets(wkb.size());
    for (R_xlen_t f = 0; f < wkb.size(); ++f)
      meets[f] = ochre::feature_meets(layer, static_cast<size_t>(f), wanted);
    return List::create(Named("meets") = meets);
  });
}

// Texts of positions as KML writes them, as one run each; `bad` is the first that is none.
// [[Rcpp::export]]
List position_runs_core(const Rcpp::CharacterVector& text) {
  std::vector<ochre::Point> points;
  Rcpp::IntegerVector end(text.size());
  for (R_xlen_t i = 0; i < text.size(); ++i) {
    SEXP one = STRING_ELT(text, i);
    if (one != NA_STRING && !ochre::read_positions(CHAR(one), Rf_xlength(one), points))
      return List::create(Named("bad") = double(i + 1));
    end[i] = static_cast<int>(points.size());
  }
  NumericVector lon(points.size()), lat(points.size());
  for (size_t i = 0; i < points.size(); ++i) {
    lon[i] = points[i].x;
    lat[i] = points[i].y;
  }
  return List::create(Named("lon") = lon, Named("lat") = lat, Named("end") = end);
}

// Features put together from runs: `kind` of each part (1 point, 2 line, 3 ring of a new polygon,
// 4 ring of the same polygon), and the feature it belongs to, in order.
// [[Rcpp::export]]
List features_core(const NumericVector& lon, const NumericVector& lat,
                   const Rcpp::IntegerVector& end, const Rcpp::IntegerVector& kind,
                   const Rcpp::IntegerVector& feature, int features) {
  return guarded([&]() {
    ochre::FlatLayer layer;
    R_xlen_t k = 0;
    for (int f = 1; f <= features; ++f) {
      size_t before = layer.part_end.size();
      bool open = false;
      for (; k < kind.size() && feature[k] == f; ++k) {
        if (open && kind[k] != 4) {
          layer.end_part(ochre::Shape::polygon);
          open = false;
        }
        std::vector<ochre::Point> run;
        for (int i = k ? end[k - 1] : 0; i < end[k]; ++i)
          run.push_back({lon[i], lat[i]});
        if (run.empty()) continue;
        if (kind[k] >= 3 && run.front() != run.back()) run.push_back(run.front());
        layer.add_ring(run.data(), run.size());
        if (kind[k] >= 3)
          open = true;
        else
          layer.end_part(kind[k] == 1 ? ochre::Shape::point : ochre::Shape::line);
      }
      if (open) layer.end_part(ochre::Shape::polygon);
      layer.end_feature(layer.part_end.size() == before ? ochre::Shape(0)
                                                        : layer.part_shape[before]);
    }
    return List::create(Named("geometry") = wkb_of(layer));
  });
}
