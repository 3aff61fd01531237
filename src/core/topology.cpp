#include "topology.hpp"

#include <algorithm>
#include <charconv>
#include <cmath>

#include "arcs.hpp"
#include "simplify.hpp"

namespace ochre {

inline uint64_t hash_point(const GridPoint& p) {
  return mix(static_cast<uint64_t>(static_cast<uint32_t>(p.x)) << 32 | static_cast<uint32_t>(p.y));
}

namespace {

// The layer on the grid: repeated points dropped, polygon rings closed, rings that shrank to
// nothing dropped unless they are all that their feature has.
struct GridLayer {
  std::vector<GridPoint> points;
  std::vector<size_t> ring_end;
  std::vector<bool> closed;
};

GridPoint snap(Point p, const Topology& t) {
  return {static_cast<int32_t>(std::lround((p.x - t.x0) / t.step)),
          static_cast<int32_t>(std::lround((p.y - t.y0) / t.step))};
}

void snap_run(const std::vector<Point>& from, size_t begin, size_t end, bool ring,
              const Topology& t, std::vector<GridPoint>& out) {
  out.clear();
  for (size_t i = begin; i < end; ++i) {
    GridPoint p = snap(from[i], t);
    if (out.empty() || out.back() != p) out.push_back(p);
  }
  if (ring && !out.empty()) {
    while (out.size() > 1 && out.back() == out.front())
      out.pop_back();
    out.push_back(out.front());
  }
}

void keep_run(GridLayer& grid, const std::vector<GridPoint>& run, bool closed) {
  grid.points.insert(grid.points.end(), run.begin(), run.end());
  grid.ring_end.push_back(grid.points.size());
  grid.closed.push_back(closed);
}

// Rings too small for the grid are dropped (a hole with its shell); false when none is left.
bool place_feature(const FlatLayer& in, size_t part, size_t part_end, Topology& topology,
                   GridLayer& grid, TopologyLayer& out) {
  std::vector<GridPoint> run;
  bool any = part == part_end;
  for (; part < part_end; ++part) {
    bool polygon = in.part_shape[part] == Shape::polygon;
    size_t before = grid.ring_end.size(), first = part ? in.part_end[part - 1] : 0;
    for (size_t r = first; r < in.part_end[part]; ++r) {
      snap_run(in.points, r ? in.ring_end[r - 1] : 0, in.ring_end[r], polygon, topology, run);
      bool shown = polygon ? run.size() >= 4 : !run.empty();
      if (shown)
        keep_run(grid, run, polygon);
      else
        topology.dropped_rings += 1;
      if (!shown && r == first) break;
    }
    if (grid.ring_end.size() == before) continue;
    any = true;
    out.part_end.push_back(grid.ring_end.size());
    out.part_shape.push_back(in.part_shape[part]);
  }
  return any;
}

GridLayer place_on_grid(const FlatLayer& in, Topology& topology, TopologyLayer& out) {
  GridLayer grid;
  grid.points.reserve(in.points.size());
  size_t part = 0;
  for (size_t feature_end : in.feature_end) {
    size_t ring = part ? in.part_end[part - 1] : 0, at = ring ? in.ring_end[ring - 1] : 0;
    if (!place_feature(in, part, feature_end, topology, grid, out) && at < in.points.size()) {
      // An area never vanishes: below the grid it stands as one triangle of one cell.
      GridPoint p = snap(in.points[at], topology);
      keep_run(grid, {p, {p.x + 1, p.y}, {p.x + 1, p.y + 1}, p}, true);
      out.part_end.push_back(grid.ring_end.size());
      out.part_shape.push_back(Shape::polygon);
    }
    part = feature_end;
    out.feature_end.push_back(out.part_end.size());
  }
  return grid;
}

}  // namespace

namespace {
bool rises_to(const std::vector<size_t>& end, size_t whole) {
  for (size_t i = 1; i < end.size(); ++i)
    if (end[i] < end[i - 1]) return false;
  return (end.empty() ? 0 : end.back()) == whole;
}
}  // namespace

std::string fault_of(const Topology& t) {
  if (!std::isfinite(t.x0) || !std::isfinite(t.y0) || !(t.step > 0)) return "its grid is none";
  const int32_t far = 1 << 30;
  for (const GridPoint& p : t.points)
    if (p.x < -far || p.x > far || p.y < -far || p.y > far) return "a point lies off its grid";
  if (!rises_to(t.arc_end, t.points.size())) return "its arcs do not end where its points do";
  for (size_t a = 0; a < t.arc_end.size(); ++a)
    if (t.arc_end[a] == (a ? t.arc_end[a - 1] : 0)) return "an arc has no points";
  for (const TopologyLayer& layer : t.layers) {
    for (int32_t arc : layer.ring_arcs)
      if (static_cast<size_t>(arc < 0 ? ~arc : arc) >= t.arc_end.size())
        return "a ring runs along an arc that does not exist";
    if (!rises_to(layer.ring_end, layer.ring_arcs.size()))
      return "its rings do not end where their arcs do";
    if (!rises_to(layer.part_end, layer.ring_end.size()))
      return "its parts do not end where their rings do";
    if (!rises_to(layer.feature_end, layer.part_end.size()))
      return "its features do not end where their parts do";
    if (layer.part_shape.size() != layer.part_end.size()) return "a part is of no shape";
    for (Shape s : layer.part_shape)
      if (s < Shape::point || s > Shape::polygon) return "a part is of no shape";
  }
  return "";
}

GridFrame frame_of(const std::vector<FlatLayer>& layers) {
  GridFrame f{1e300, 1e300, -1e300, -1e300};
  for (const FlatLayer& layer : layers)
    for (const Point& p : layer.points) {
      f.x0 = std::min(f.x0, p.x);
      f.x1 = std::max(f.x1, p.x);
      f.y0 = std::min(f.y0, p.y);
      f.y1 = std::max(f.y1, p.y);
    }
  if (f.x0 > f.x1) f = GridFrame{};
  return f;
}

namespace {

// Equal points of all grids have one number; the grids lose theirs.
std::vector<GridPoint> number_vertices(std::vector<GridLayer>& grids, size_t total, Runs& runs) {
  VertexIndex<GridPoint> index(total / 2);
  runs.vertex.reserve(total);
  for (GridLayer& g : grids) {
    const size_t before = runs.vertex.size();
    for (const GridPoint& p : g.points)
      runs.vertex.push_back(index.number(p));
    g.points = {};
    for (size_t end : g.ring_end)
      runs.end.push_back(before + end);
    runs.closed.insert(runs.closed.end(), g.closed.begin(), g.closed.end());
  }
  return std::move(index.points);
}

}  // namespace

Topology build_topology(std::vector<FlatLayer> layers, const GridFrame& frame, int levels) {
  Topology t;
  t.x0 = frame.x0;
  t.y0 = frame.y0;
  double side = std::max(frame.x1 - frame.x0, frame.y1 - frame.y0);
  t.step = side > 0 ? side / (levels - 1) : 1;

  std::vector<GridLayer> grids;
  size_t total = 0;
  // What is not needed any more is let go at once: there may be fifty million vertices.
  for (FlatLayer& in : layers) {
    t.layers.emplace_back();
    t.layers.back().name = in.name;
    grids.push_back(place_on_grid(in, t, t.layers.back()));
    total += grids.back().points.size();
    in.points = {};
  }
  Runs runs;
  const std::vector<GridPoint> vertices = number_vertices(grids, total, runs);
  ArcNet net = find_arcs(runs, vertices.size());
  t.points.reserve(net.vertex.size());
  for (uint32_t v : net.vertex)
    t.points.push_back(vertices[v]);
  t.arc_end = net.arc_end;
  size_t run = 0;
  for (size_t l = 0; l < grids.size(); ++l) {
    size_t start = net.run_from(run);
    for (size_t r = 0; r < grids[l].ring_end.size(); ++r)
      t.layers[l].ring_end.push_back(net.run_end[run++] - start);
    if (run)
      t.layers[l].ring_arcs.assign(net.run_arc.begin() + start,
                                   net.run_arc.begin() + net.run_from(run));
  }
  return t;
}

namespace {

// Twice the signed area of a ring on the grid, from its arcs.
double ring_sum(const Topology& t, const TopologyLayer& layer, size_t ring) {
  double sum = 0;
  for (size_t i = ring ? layer.ring_end[ring - 1] : 0; i < layer.ring_end[ring]; ++i) {
    int32_t ref = layer.ring_arcs[i];
    size_t arc = ref < 0 ? ~ref : ref, from = arc ? t.arc_end[arc - 1] : 0;
    double part = 0;
    for (size_t k = from + 1; k < t.arc_end[arc]; ++k) {
      const GridPoint &p = t.points[k - 1], &q = t.points[k];
      part += double(p.x) * q.y - double(q.x) * p.y;
    }
    sum += ref < 0 ? -part : part;
  }
  return sum;
}

// Which features lie beside each arc, over all layers, as core/simplify.hpp wants to know it.
AreaSides sides_of(const Topology& t) {
  AreaSides out;
  std::vector<ArcUse> uses;
  out.uses.assign(t.arc_end.size(), 0);
  for (const TopologyLayer& layer : t.layers) {
    size_t part = 0, ring = 0;
    for (size_t feature_end : layer.feature_end) {
      uint32_t number = static_cast<uint32_t>(out.size.size());
      out.size.push_back(0);
      for (; part < feature_end; ++part) {
        bool polygon = layer.part_shape[part] == Shape::polygon;
        for (size_t first = ring; ring < layer.part_end[part]; ++ring) {
          double sum = ring_sum(t, layer, ring);
          bool left = (sum > 0) == (ring == first);
          if (polygon) out.size.back() += (ring == first ? 1 : -1) * std::fabs(sum) / 2;
          for (size_t i = ring ? layer.ring_end[ring - 1] : 0; i < layer.ring_end[ring]; ++i) {
            int32_t ref = layer.ring_arcs[i];
            uint32_t arc = static_cast<uint32_t>(ref < 0 ? ~ref : ref);
            ++out.uses[arc];
            if (polygon)
              uses.push_back({arc, {number, static_cast<int8_t>(left == (ref >= 0) ? 1 : -1)}});
          }
        }
      }
    }
  }
  put_sides(uses, out);
  return out;
}

}  // namespace

Thinning thinning(const Topology& t, const std::vector<double>& areas) {
  // The arcs are there already; only their vertices get numbers again.
  VertexIndex<GridPoint> index(t.points.size());
  ArcNet net;
  for (const GridPoint& p : t.points)
    net.vertex.push_back(index.number(p));
  net.arc_end = t.arc_end;
  std::vector<Point> vertex;
  for (const GridPoint& p : index.points)
    vertex.push_back({double(p.x), double(p.y)});
  AreaSides sides = sides_of(t);
  Simplifier simplifier(vertex, net, sides, false, kShapeWeight);
  Thinning out{simplifier.order(), {}};
  for (double area : areas)
    out.steps.push_back(simplifier.steps_below(area));
  return out;
}

std::vector<uint32_t> thinning_order(const Topology& t) {
  return thinning(t, {}).order;
}

Topology lighter_topology(const Topology& t, double share, const std::vector<uint32_t>& order) {
  const double n = static_cast<double>(t.points.size());
  const double go = std::clamp(std::round(n - share * n), 0.0, static_cast<double>(order.size()));
  return without_first(t, static_cast<size_t>(go), order);
}

Topology without_first(const Topology& t, size_t steps, const std::vector<uint32_t>& order) {
  std::vector<bool> gone(t.points.size(), false);
  for (size_t k = 0; k < steps; ++k)
    gone.at(order[k]) = true;
  return with_points(t, [&](size_t i) { return !gone[i]; });
}

Topology without_layer(const Topology& t, size_t layer) {
  std::vector<int32_t> number(t.arc_end.size(), -1);
  for (size_t l = 0; l < t.layers.size(); ++l)
    for (const int32_t ref : t.layers[l].ring_arcs)
      if (l != layer) number[arc_number(ref)] = 0;
  Topology out;
  out.x0 = t.x0;
  out.y0 = t.y0;
  out.step = t.step;
  for (size_t a = 0; a < number.size(); ++a) {
    if (number[a] < 0) continue;
    number[a] = static_cast<int32_t>(out.arc_end.size());
    const auto from = static_cast<std::ptrdiff_t>(a ? t.arc_end[a - 1] : 0);
    out.points.insert(out.points.end(), t.points.begin() + from,
                      t.points.begin() + static_cast<std::ptrdiff_t>(t.arc_end[a]));
    out.arc_end.push_back(out.points.size());
  }
  for (size_t l = 0; l < t.layers.size(); ++l) {
    out.layers.push_back(l == layer ? TopologyLayer{} : t.layers[l]);
    out.layers[l].name = t.layers[l].name;
    for (int32_t& ref : out.layers[l].ring_arcs)
      ref = ref < 0 ? ~number[arc_number(ref)] : number[arc_number(ref)];
  }
  return out;
}

}  // namespace ochre
