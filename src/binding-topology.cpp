// Projection and topology for the plan. A topology crosses to R as a list of flat integer
// vectors with names, and back for writing it as text or as drawable paths.
#include "binding-topology.h"
#include "core/border-spacing.hpp"
#include "core/class-rings.hpp"
#include "core/cut.hpp"
#include "core/far-parts.hpp"
#include "core/packed-numbers.hpp"
#include "core/path-text.hpp"
#include "core/prepare-layer.hpp"
#include "core/pulse.hpp"
#include "core/simplify.hpp"
#include "core/topology.hpp"

using Rcpp::IntegerVector;
using Rcpp::List;
using Rcpp::Named;
using Rcpp::NumericVector;

namespace {

// Positions of points, one row for each, with the feature they belong to.
struct PointGatherer {
  std::vector<double> lon, lat;
  std::vector<int> feature;
  int now = 1;
  void part(ochre::Shape) {}
  void ring(size_t) {}
  void coordinate(double x, double y) {
    lon.push_back(x);
    lat.push_back(y);
    feature.push_back(now);
  }
};

std::vector<ochre::Box> boxes_from(const List& boxes) {
  std::vector<ochre::Box> out;
  for (R_xlen_t i = 0; i < boxes.size(); ++i) {
    NumericVector b = boxes[i];
    out.push_back({b[0], b[1], b[2] < b[0] ? b[2] + 360 : b[2], b[3]});
  }
  return out;
}

}  // namespace

// Long work listens to the user's wish to end it.
// [[Rcpp::init]]
void listen_for_interrupts(DllInfo* dll) {
  (void)dll;
  ochre::pulse_listener = [] {
    Rcpp::checkUserInterrupt();
  };
}

// [[Rcpp::export]]
List extent_core(const List& layers, const List& boxes, const std::string& wanted,
                 double centre = NA_REAL) {
  return guarded([&]() {
    std::vector<ochre::Box> inset_boxes = boxes_from(boxes);
    // The map itself and each inset, with their own extents.
    std::vector<ochre::ExtentFinder> finders(1 + inset_boxes.size());
    Rcpp::CharacterVector shapes(layers.size());
    for (R_xlen_t l = 0; l < layers.size(); ++l) {
      ochre::FlatLayer layer = flat_layer(layers[l]);
      bool has[4] = {false, false, false, false};
      for (size_t p = 0; p < layer.part_end.size(); ++p) {
        has[static_cast<int>(layer.part_shape[p])] = true;
        for (size_t r = layer.first_ring(p); r < layer.part_end[p]; ++r) {
          ochre::ExtentFinder& f =
              finders[1 + (inset_boxes.empty()
                               ? -1
                               : ochre::inset_of(inset_boxes, layer.ring(layer.first_ring(p)),
                                                 layer.ring_size(layer.first_ring(p))))];
          f.add_run(layer.ring(r), layer.ring_size(r));
        }
      }
      shapes[l] = has[3] ? "areas" : has[2] ? "lines" : has[1] ? "points" : "none";
    }
    List places(finders.size());
    ochre::ProjectionKind kind;
    bool chosen = ochre::projection_kind(wanted, kind);
    for (size_t k = 0; k < finders.size(); ++k) {
      const ochre::ExtentFinder& f = finders[k];
      if (f.empty()) continue;
      ochre::Projection fitted = chosen && k == 0 ? f.fit(kind) : f.fit();
      if (k == 0 && std::isfinite(centre)) fitted = fitted.around(centre);
      places[k] = List::create(Named("extent") = NumericVector::create(
                                   Named("west") = f.west(), Named("south") = f.south(),
                                   Named("east") = f.east(), Named("north") = f.north()),
                               Named("projection") = projection_list(fitted));
    }
    return List::create(Named("empty") = finders[0].empty(), Named("shapes") = shapes,
                        Named("places") = places);
  });
}

// Groups of parts that lie far off: of each a box, the number of parts and the share of all land;
// and the share of land in the box around everything and in that around the rest.
// [[Rcpp::export]]
List far_parts_core(const List& layers) {
  return guarded([&]() {
    std::vector<ochre::FlatLayer> flat;
    flat.reserve(layers.size());
    for (R_xlen_t l = 0; l < layers.size(); ++l)
      flat.push_back(flat_layer(layers[l]));
    ochre::FarParts found = ochre::find_far_parts(flat);
    List far(found.far.size());
    for (size_t k = 0; k < found.far.size(); ++k) {
      const ochre::Box& b = found.far[k].box;
      far[k] = List::create(Named("box") = NumericVector::create(b.x0, b.y0, b.x1, b.y1),
                            Named("parts") = static_cast<double>(found.far[k].parts),
                            Named("land") = found.far[k].land);
    }
    return List::create(Named("far") = far, Named("share_all") = found.share_all,
                        Named("share_main") = found.share_main);
  });
}

// The frame of each place (the map, then its insets) in its own projection, and for the map a
// grid of 48 by 48 cells that says where something is drawn.
// [[Rcpp::export]]
List frames_core(const List& layers, const List& boxes, const List& projections) {
  return guarded([&]() {
    std::vector<ochre::Box> inset_boxes = boxes_from(boxes), frames(1 + inset_boxes.size());
    std::vector<ochre::Inset> places;
    for (size_t k = 0; k < inset_boxes.size(); ++k)
      places.push_back({inset_boxes[k], projection_from(projections[k + 1])});
    ochre::Projection main = projection_from(projections[0]);
    std::vector<ochre::Point> drawn;
    for (R_xlen_t l = 0; l < layers.size(); ++l) {
      ochre::PreparedLayer flat = ochre::prepare_layer(flat_layer(layers[l]), main, places);
      const ochre::FlatLayer& layer = flat.layer;
      for (size_t p = 0; p < layer.part_end.size(); ++p) {
        size_t first = layer.first_ring(p);
        if (first == layer.part_end[p]) continue;
        for (size_t i = layer.first_point(first); i < layer.ring_end[layer.part_end[p] - 1]; ++i) {
          frames[1 + flat.inset[p]].add(layer.points[i].x, layer.points[i].y);
          if (flat.inset[p] < 0) drawn.push_back(layer.points[i]);
        }
      }
    }
    const int side = 48;
    Rcpp::LogicalMatrix taken(side, side);
    auto cell = [&](double v, double a, double b) {
      return std::max(0,
                      std::min(side - 1, b > a ? static_cast<int>((v - a) / (b - a) * side) : 0));
    };
    for (const ochre::Point& p : drawn)
      taken(cell(p.x, frames[0].x0, frames[0].x1), cell(p.y, frames[0].y0, frames[0].y1)) = true;
    List out(frames.size());
    for (size_t k = 0; k < frames.size(); ++k)
      out[k] = NumericVector::create(Named("x0") = frames[k].x0, Named("y0") = frames[k].y0,
                                     Named("x1") = frames[k].x1, Named("y1") = frames[k].y1);
    return List::create(Named("frames") = out, Named("taken") = taken);
  });
}

// Which inset each position lies in, from 1; 0 for the map itself.
// [[Rcpp::export]]
Rcpp::IntegerVector inset_of_core(const NumericVector& lon, const NumericVector& lat,
                                  const List& boxes) {
  std::vector<ochre::Box> b = boxes_from(boxes);
  Rcpp::IntegerVector out(lon.size());
  for (R_xlen_t i = 0; i < out.size(); ++i) {
    ochre::Point p{lon[i], lat[i]};
    out[i] = 1 + ochre::inset_of(b, &p, 1);
  }
  return out;
}

// [[Rcpp::export]]
List project_core(const NumericVector& lon, const NumericVector& lat, const List& projection) {
  ochre::Projection p = projection_from(projection);
  NumericVector x(lon.size()), y(lon.size());
  for (R_xlen_t i = 0; i < lon.size(); ++i) {
    if (!R_finite(lon[i]) || !R_finite(lat[i])) {
      x[i] = y[i] = NA_REAL;
      continue;
    }
    ochre::Point q = p.forward(lon[i], lat[i]);
    x[i] = q.x;
    y[i] = q.y;
  }
  return List::create(Named("x") = x, Named("y") = y);
}

// [[Rcpp::export]]
List inverse_core(double x, double y, const List& projection) {
  ochre::Point p = projection_from(projection).inverse(x, y);
  return List::create(Named("lon") = p.x, Named("lat") = p.y);
}

// [[Rcpp::export]]
List points_core(const List& wkb) {
  return guarded([&]() {
    PointGatherer g;
    walk_features(wkb, g, [&] { ++g.now; });
    return List::create(Named("lon") = g.lon, Named("lat") = g.lat, Named("feature") = g.feature);
  });
}

// `insets`: each a list of box, projection, scale, dx, dy.
// [[Rcpp::export]]
List topology_core(const List& layers, const List& projection, int levels, const List& insets) {
  return guarded([&]() {
    ochre::Projection p = projection_from(projection);
    std::vector<ochre::Inset> set;
    for (R_xlen_t k = 0; k < insets.size(); ++k) {
      List one = insets[k];
      set.push_back({boxes_from(List::create(one["box"]))[0], projection_from(one["projection"]),
                     one["scale"], one["dx"], one["dy"]});
    }
    std::vector<ochre::FlatLayer> flat(layers.size());
    Rcpp::CharacterVector names = layers.names();
    for (R_xlen_t l = 0; l < layers.size(); ++l) {
      flat[l] = ochre::prepare_layer(flat_layer(layers[l]), p, set).layer;
      flat[l].name = Rcpp::as<std::string>(names[l]);
      Rcpp::checkUserInterrupt();
    }
    const ochre::GridFrame frame = ochre::frame_of(flat);
    return topology_list(ochre::build_topology(std::move(flat), frame, levels));
  });
}

// Positions of vertices in the order in which they can go, from 1.
// [[Rcpp::export]]
List thinning_order_core(const List& topology) {
  return guarded([&]() {
    const std::vector<uint32_t> order = ochre::thinning_order(topology_from(topology));
    IntegerVector out(order.size());
    for (size_t k = 0; k < order.size(); ++k)
      out[k] = static_cast<int>(order[k]) + 1;
    return List::create(Named("order") = out);
  });
}

// The topology with a share of its vertices; those that go first in `order`, or by an order that is
// found now where that is empty.
// [[Rcpp::export]]
List lighter_topology_core(const List& topology, double share,
                           const IntegerVector& order = IntegerVector::create()) {
  return guarded([&]() {
    const ochre::Topology t = topology_from(topology);
    std::vector<uint32_t> positions;
    for (int i : order)
      positions.push_back(static_cast<uint32_t>(i - 1));
    if (positions.empty()) positions = ochre::thinning_order(t);
    return topology_list(ochre::lighter_topology(t, share, positions));
  });
}

// [[Rcpp::export]]
List packed_topology_core(const List& topology) {
  return guarded([&]() {
    ochre::Topology t = topology_from(topology);
    List layers(t.layers.size());
    Rcpp::CharacterVector names(t.layers.size());
    for (size_t l = 0; l < t.layers.size(); ++l) {
      names[l] = t.layers[l].name;
      layers[l] = ochre::pack_layer(t.layers[l]);
    }
    layers.names() = names;
    return List::create(Named("x0") = t.x0, Named("y0") = t.y0, Named("step") = t.step,
                        Named("arcs") = ochre::pack_arcs(t), Named("layers") = layers);
  });
}

// Of a topology that has just been made: the numbers of its arcs lead to what is there.
// [[Rcpp::export]]
List border_spacing_core(const List& topology, int layer) {
  return guarded([&]() {
    IntegerVector x = topology["x"], y = topology["y"], arc_end = topology["arc_end"];
    const List layers = topology["layers"];
    const List one = layers[layer - 1];
    IntegerVector ring_arcs = one["ring_arcs"], ring_end = one["ring_end"];
    IntegerVector part_end = one["part_end"];
    const double spacing = ochre::border_spacing(
        {x.begin(), y.begin(), arc_end.begin(), size_t(arc_end.size()), ring_arcs.begin(),
         ring_end.begin(), part_end.begin(), size_t(part_end.size())});
    return List::create(Named("spacing") = spacing);
  });
}

// The outlines of the classes of a layer's areas as coordinates in map units.
// [[Rcpp::export]]
List class_paths_core(const List& topology, int layer, const IntegerVector& feature_class) {
  return guarded([&]() {
    ochre::Topology t = topology_from(topology);
    const ochre::TopologyLayer& in = t.layers.at(layer - 1);
    if (static_cast<size_t>(feature_class.size()) != in.feature_end.size())
      throw PlanFault("it has more or fewer classes than areas");
    std::vector<int> groups(feature_class.begin(), feature_class.end());
    ochre::ClassRings rings = ochre::class_rings(t, in, groups);
    NumericVector x(rings.points.size()), y(rings.points.size());
    IntegerVector ring(rings.points.size());
    for (size_t r = 0, i = 0; r < rings.ring_end.size(); ++r)
      for (; i < rings.ring_end[r]; ++i) {
        x[i] = t.x0 + t.step * rings.points[i].x;
        y[i] = t.y0 + t.step * rings.points[i].y;
        ring[i] = static_cast<int>(r) + 1;
      }
    return List::create(Named("x") = x, Named("y") = y, Named("ring") = ring,
                        Named("ring_class") = ints(rings.ring_class));
  });
}

// Runs of points in whole units as the `d` of paths, one for each group (from 1) that a run is of.
// [[Rcpp::export]]
List path_texts_core(const IntegerVector& x, const IntegerVector& y, const IntegerVector& run,
                     const IntegerVector& group, int groups, bool closed) {
  return guarded([&]() {
    std::vector<ochre::PathText> texts(groups, ochre::PathText(closed));
    const size_t n = x.size();
    R_xlen_t number = 0;
    for (size_t i = 0; i < n; ++number) {
      size_t end = i + 1;
      while (end < n && run[end] == run[i])
        ++end;
      texts.at(group.at(number) - 1).add(x.begin() + i, y.begin() + i, end - i);
      i = end;
    }
    Rcpp::CharacterVector out(groups);
    for (int g = 0; g < groups; ++g)
      out[g] = texts[g].text();
    return List::create(Named("paths") = out);
  });
}

// Whole numbers, NA among them, as text: 0 for NA, others one more.
// [[Rcpp::export]]
std::string packed_numbers_core(const NumericVector& value) {
  ochre::PackedNumbers out;
  for (double v : value) {
    if (std::isfinite(v))
      out.add_more(static_cast<int64_t>(v));
    else
      out.add(0);
  }
  return out.text();
}

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
  return List::create(Named("x") = x, Named("y") = y, Named("feature") = feature,
                      Named("part") = part, Named("ring") = ring);
}
