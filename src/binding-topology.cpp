// Projection and topology for the plan. A topology crosses to R as a list of flat integer
// vectors with names, and back for writing it as text or as drawable paths.
#include "binding-bridge.h"

using Rcpp::IntegerVector;
using Rcpp::List;
using Rcpp::Named;
using Rcpp::NumericVector;

namespace {

ochre::Projection projection_from(const List& p) {
  std::string name = Rcpp::as<std::string>(p["name"]);
  auto kind = name == "Equal Earth" ? ochre::ProjectionKind::equal_earth : ochre::ProjectionKind::azimuthal;
  return ochre::Projection(kind, p["lon0"], p["lat0"]);
}

template <class V>
IntegerVector ints(const V& v) {
  IntegerVector out(v.size());
  for (size_t i = 0; i < v.size(); ++i) out[i] = static_cast<int>(v[i]);
  return out;
}
std::vector<size_t> sizes(const IntegerVector& v) { return std::vector<size_t>(v.begin(), v.end()); }

struct ExtentGatherer {
  ochre::ExtentFinder& finder;
  bool polygons = false, lines = false, points = false;
  void part(ochre::Shape s) {
    polygons |= s == ochre::Shape::polygon;
    lines |= s == ochre::Shape::line;
    points |= s == ochre::Shape::point;
  }
  void ring(size_t) {}
  void coordinate(double x, double y) { finder.add(x, y); }
};

// Positions of points, one row for each, with the feature they belong to.
struct PointGatherer {
  std::vector<double> lon, lat;
  std::vector<int> feature;
  int now = 1;
  void part(ochre::Shape) {}
  void ring(size_t) {}
  void coordinate(double x, double y) { lon.push_back(x); lat.push_back(y); feature.push_back(now); }
};

ochre::Topology topology_from(const List& in) {
  ochre::Topology t;
  t.x0 = in["x0"];
  t.y0 = in["y0"];
  t.step = in["step"];
  IntegerVector x = in["x"], y = in["y"];
  for (R_xlen_t i = 0; i < x.size(); ++i) t.points.push_back({x[i], y[i]});
  t.arc_end = sizes(in["arc_end"]);
  List layers = in["layers"];
  for (R_xlen_t l = 0; l < layers.size(); ++l) {
    List one = layers[l];
    ochre::TopologyLayer layer;
    layer.name = Rcpp::as<std::string>(one["name"]);
    IntegerVector arcs = one["ring_arcs"], shape = one["part_shape"];
    layer.ring_arcs.assign(arcs.begin(), arcs.end());
    layer.ring_end = sizes(one["ring_end"]);
    layer.part_end = sizes(one["part_end"]);
    for (int s : shape) layer.part_shape.push_back(static_cast<ochre::Shape>(s));
    layer.feature_end = sizes(one["feature_end"]);
    t.layers.push_back(layer);
  }
  return t;
}

}  // namespace

// [[Rcpp::export]]
List extent_core(const List& layers) {
  return guarded([&]() {
    ochre::ExtentFinder finder;
    Rcpp::CharacterVector shapes(layers.size());
    for (R_xlen_t l = 0; l < layers.size(); ++l) {
      ExtentGatherer g{finder};
      walk_features(layers[l], g, [] {});
      shapes[l] = g.polygons ? "areas" : g.lines ? "lines" : g.points ? "points" : "none";
    }
    if (finder.empty()) return List::create(Named("empty") = true, Named("shapes") = shapes);
    ochre::Projection p = finder.fit();
    return List::create(Named("empty") = false, Named("shapes") = shapes,
                        Named("extent") = NumericVector::create(Named("west") = finder.west(), Named("south") = finder.south(),
                                                                Named("east") = finder.east(), Named("north") = finder.north()),
                        Named("projection") = List::create(Named("name") = p.name(), Named("lon0") = p.lon0(), Named("lat0") = p.lat0()));
  });
}

// [[Rcpp::export]]
List project_core(const NumericVector& lon, const NumericVector& lat, const List& projection) {
  ochre::Projection p = projection_from(projection);
  NumericVector x(lon.size()), y(lon.size());
  for (R_xlen_t i = 0; i < lon.size(); ++i) {
    if (!R_finite(lon[i]) || !R_finite(lat[i])) { x[i] = y[i] = NA_REAL; continue; }
    ochre::Point q = p.forward(lon[i], lat[i]);
    x[i] = q.x;
    y[i] = q.y;
  }
  return List::create(Named("x") = x, Named("y") = y);
}

// [[Rcpp::export]]
List points_core(const List& wkb) {
  return guarded([&]() {
    PointGatherer g;
    walk_features(wkb, g, [&] { ++g.now; });
    return List::create(Named("lon") = g.lon, Named("lat") = g.lat, Named("feature") = g.feature);
  });
}

// [[Rcpp::export]]
List topology_core(const List& layers, const List& projection, int levels) {
  return guarded([&]() {
    ochre::Projection p = projection_from(projection);
    std::vector<ochre::FlatLayer> flat(layers.size());
    Rcpp::CharacterVector names = layers.names();
    for (R_xlen_t l = 0; l < layers.size(); ++l) {
      flat[l].name = Rcpp::as<std::string>(names[l]);
      ochre::LayerGatherer g(flat[l], p);
      walk_features(layers[l], g, [&] { g.end_feature(); });
    }
    ochre::GridFrame f = ochre::frame_of(flat);
    ochre::Topology t = ochre::build_topology(flat, f, levels);
    IntegerVector x(t.points.size()), y(t.points.size());
    for (size_t i = 0; i < t.points.size(); ++i) { x[i] = t.points[i].x; y[i] = t.points[i].y; }
    List out(t.layers.size());
    for (size_t l = 0; l < t.layers.size(); ++l) {
      const ochre::TopologyLayer& layer = t.layers[l];
      out[l] = List::create(Named("name") = layer.name, Named("ring_arcs") = ints(layer.ring_arcs),
                            Named("ring_end") = ints(layer.ring_end), Named("part_end") = ints(layer.part_end),
                            Named("part_shape") = ints(layer.part_shape), Named("feature_end") = ints(layer.feature_end));
    }
    return List::create(Named("x0") = t.x0, Named("y0") = t.y0, Named("step") = t.step, Named("x") = x, Named("y") = y,
                        Named("arc_end") = ints(t.arc_end), Named("layers") = out,
                        Named("dropped_rings") = double(t.dropped_rings));
  });
}

// [[Rcpp::export]]
std::string topojson_core(const List& topology) { return ochre::write_topojson(topology_from(topology)); }

// The rings of one layer as coordinates in map units, ready for a drawing device.
// [[Rcpp::export]]
List paths_core(const List& topology, int layer) {
  ochre::Topology t = topology_from(topology);
  const ochre::TopologyLayer& in = t.layers.at(layer - 1);
  std::vector<double> x, y;
  std::vector<int> feature, part, ring;
  size_t p = 0, r = 0, a = 0;
  for (size_t f = 0; f < in.feature_end.size(); ++f)
    for (; p < in.feature_end[f]; ++p)
      for (; r < in.part_end[p]; ++r) {
        bool first = true;
        for (; a < in.ring_end[r]; ++a) {
          int arc = in.ring_arcs[a];
          bool back = arc < 0;
          if (back) arc = ~arc;
          size_t from = arc ? t.arc_end[arc - 1] : 0, n = t.arc_end[arc] - from;
          for (size_t i = first ? 0 : 1; i < n; ++i) {
            const ochre::GridPoint& g = t.points[from + (back ? n - 1 - i : i)];
            x.push_back(t.x0 + t.step * g.x);
            y.push_back(t.y0 + t.step * g.y);
            feature.push_back(static_cast<int>(f) + 1);
            part.push_back(static_cast<int>(p) + 1);
            ring.push_back(static_cast<int>(r) + 1);
          }
          first = false;
        }
      }
  return List::create(Named("x") = x, Named("y") = y, Named("feature") = feature, Named("part") = part, Named("ring") = ring);
}
