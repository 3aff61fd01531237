#include "topology.hpp"

#include <algorithm>
#include <charconv>
#include <cmath>

namespace ochre {

namespace {

uint64_t mix(uint64_t h) {  // the finaliser of SplitMix64
  h ^= h >> 30; h *= 0xbf58476d1ce4e5b9ull;
  h ^= h >> 27; h *= 0x94d049bb133111ebull;
  return h ^ (h >> 31);
}
uint64_t key_of(GridPoint p) {
  return (static_cast<uint64_t>(static_cast<uint32_t>(p.x)) << 32) | static_cast<uint32_t>(p.y);
}
constexpr uint64_t kNobody = ~0ull;  // the neighbour beyond the end of a line

// Maps a grid point to what is known of its surroundings.
class PointTable {
 public:
  explicit PointTable(size_t expected) {
    size_t size = 16;
    while (size < 2 * expected + 2) size *= 2;
    slots_.resize(size);
  }
  void visit(GridPoint p, uint64_t before, uint64_t after) {
    if (before > after) std::swap(before, after);
    Slot& slot = find(p);
    if (!slot.used) {
      slot = {key_of(p), before, after, true, before == kNobody || after == kNobody};
    } else if (slot.before != before || slot.after != after) {
      slot.junction = true;
    }
  }
  bool junction(GridPoint p) { return find(p).junction; }

 private:
  struct Slot { uint64_t key = 0, before = 0, after = 0; bool used = false, junction = false; };
  Slot& find(GridPoint p) {
    uint64_t key = key_of(p);
    size_t mask = slots_.size() - 1, at = mix(key) & mask;
    while (slots_[at].used && slots_[at].key != key) at = (at + 1) & mask;
    return slots_[at];
  }
  std::vector<Slot> slots_;
};

// The arcs found so far; asks for a run of points and answers with its number.
class ArcTable {
 public:
  explicit ArcTable(Topology& out) : out_(out), slots_(64, -1) {}

  // A run is stored in the direction in which it is met first.
  int32_t add(const std::vector<GridPoint>& run) {
    bool forward = canonical(run);
    uint64_t hash = 1469598103934665603ull;
    for (size_t i = 0; i < run.size(); ++i) hash = mix(hash ^ key_of(forward ? run[i] : run[run.size() - 1 - i]));
    if (2 * (count_ + 1) > slots_.size()) grow();
    size_t mask = slots_.size() - 1, at = hash & mask;
    for (; slots_[at] >= 0; at = (at + 1) & mask) {
      int32_t arc = slots_[at];
      if (hashes_[arc] != hash) continue;
      if (same(arc, run, false)) return arc;
      if (same(arc, run, true)) return ~arc;
    }
    int32_t arc = static_cast<int32_t>(count_++);
    slots_[at] = arc;
    hashes_.push_back(hash);
    out_.points.insert(out_.points.end(), run.begin(), run.end());
    out_.arc_end.push_back(out_.points.size());
    return arc;
  }

 private:
  static bool less(GridPoint a, GridPoint b) { return a.x < b.x || (a.x == b.x && a.y < b.y); }
  static bool canonical(const std::vector<GridPoint>& run) {
    for (size_t i = 0, j = run.size() - 1; i < j; ++i, --j)
      if (run[i] != run[j]) return less(run[i], run[j]);
    return true;
  }
  bool same(int32_t arc, const std::vector<GridPoint>& run, bool backwards) const {
    size_t from = arc ? out_.arc_end[arc - 1] : 0, n = out_.arc_end[arc] - from;
    if (n != run.size()) return false;
    for (size_t i = 0; i < n; ++i)
      if (out_.points[from + i] != run[backwards ? n - 1 - i : i]) return false;
    return true;
  }
  void grow() {
    std::vector<int32_t> old(slots_.size() * 4, -1);
    old.swap(slots_);
    size_t mask = slots_.size() - 1;
    for (int32_t arc : old) {
      if (arc < 0) continue;
      size_t at = hashes_[arc] & mask;
      while (slots_[at] >= 0) at = (at + 1) & mask;
      slots_[at] = arc;
    }
  }
  Topology& out_;
  std::vector<int32_t> slots_;
  std::vector<uint64_t> hashes_;
  size_t count_ = 0;
};

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

void snap_run(const std::vector<Point>& from, size_t begin, size_t end, bool ring, const Topology& t,
              std::vector<GridPoint>& out) {
  out.clear();
  for (size_t i = begin; i < end; ++i) {
    GridPoint p = snap(from[i], t);
    if (out.empty() || out.back() != p) out.push_back(p);
  }
  if (ring && !out.empty()) {
    while (out.size() > 1 && out.back() == out.front()) out.pop_back();
    out.push_back(out.front());
  }
}

void keep_run(GridLayer& grid, const std::vector<GridPoint>& run, bool closed) {
  grid.points.insert(grid.points.end(), run.begin(), run.end());
  grid.ring_end.push_back(grid.points.size());
  grid.closed.push_back(closed);
}

// Rings too small for the grid are dropped (a hole with its shell); false when none is left.
bool place_feature(const FlatLayer& in, size_t part, size_t part_end, Topology& topology, GridLayer& grid,
                   TopologyLayer& out) {
  std::vector<GridPoint> run;
  bool any = part == part_end;
  for (; part < part_end; ++part) {
    bool polygon = in.part_shape[part] == Shape::polygon;
    size_t before = grid.ring_end.size(), first = part ? in.part_end[part - 1] : 0;
    for (size_t r = first; r < in.part_end[part]; ++r) {
      snap_run(in.points, r ? in.ring_end[r - 1] : 0, in.ring_end[r], polygon, topology, run);
      bool shown = polygon ? run.size() >= 4 : !run.empty();
      if (shown) keep_run(grid, run, polygon);
      else topology.dropped_rings += 1;
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

// Neighbours along a run; a closed ring's first point is met once, with its true neighbours.
void note_neighbours(const GridPoint* p, size_t n, bool closed, PointTable& table) {
  if (n == 1) { table.visit(p[0], kNobody, kNobody); return; }
  size_t distinct = closed ? n - 1 : n;
  for (size_t i = 0; i < distinct; ++i) {
    uint64_t before = i > 0 ? key_of(p[i - 1]) : closed ? key_of(p[n - 2]) : kNobody;
    uint64_t after = i + 1 < n ? key_of(p[i + 1]) : kNobody;
    table.visit(p[i], before, after);
  }
}

// A ring is cut from junction to junction. One without a junction starts at its least point,
// so that the same ring met again (an enclave and the hole it fills) gives the same arc.
void cut_run(const GridPoint* p, size_t n, bool closed, PointTable& table, ArcTable& arcs,
             std::vector<int32_t>& out) {
  std::vector<GridPoint> turned, run;
  if (closed && n > 1) {
    size_t start = n;
    for (size_t i = 0; i + 1 < n && start == n; ++i)
      if (table.junction(p[i])) start = i;
    if (start == n) {
      start = 0;
      for (size_t i = 1; i + 1 < n; ++i)
        if (p[i].x < p[start].x || (p[i].x == p[start].x && p[i].y < p[start].y)) start = i;
    }
    turned.reserve(n);
    for (size_t i = 0; i < n; ++i) turned.push_back(p[(start + i) % (n - 1)]);
    p = turned.data();
  }
  run.push_back(p[0]);
  for (size_t i = 1; i < n; ++i) {
    run.push_back(p[i]);
    if (i + 1 == n || table.junction(p[i])) {
      out.push_back(arcs.add(run));
      run.assign(1, p[i]);
    }
  }
  if (n == 1) out.push_back(arcs.add(run));
}

void put(std::string& out, int64_t v) {
  char buffer[24];
  auto end = std::to_chars(buffer, buffer + sizeof buffer, v).ptr;
  out.append(buffer, end);
}
void put(std::string& out, double v) {
  char buffer[40];
  auto end = std::to_chars(buffer, buffer + sizeof buffer, v).ptr;
  out.append(buffer, end);
}

void put_ring(std::string& out, const TopologyLayer& layer, size_t ring) {
  out += '[';
  for (size_t i = ring ? layer.ring_end[ring - 1] : 0; i < layer.ring_end[ring]; ++i) {
    if (out.back() != '[') out += ',';
    put(out, static_cast<int64_t>(layer.ring_arcs[i]));
  }
  out += ']';
}

// One feature: polygons become a MultiPolygon, lines a MultiLineString.
void put_feature(std::string& out, const TopologyLayer& layer, size_t part, size_t part_end) {
  if (part == part_end) { out += "{\"type\":null}"; return; }
  bool polygon = layer.part_shape[part] == Shape::polygon;
  out += polygon ? "{\"type\":\"MultiPolygon\",\"arcs\":[" : "{\"type\":\"MultiLineString\",\"arcs\":[";
  for (bool first = true; part < part_end; ++part) {
    if (polygon != (layer.part_shape[part] == Shape::polygon)) continue;
    size_t ring = part ? layer.part_end[part - 1] : 0;
    if (!first) out += ',';
    first = false;
    if (polygon) out += '[';
    for (size_t r = ring; r < layer.part_end[part]; ++r) {
      if (r > ring) out += ',';
      put_ring(out, layer, r);
    }
    if (polygon) out += ']';
  }
  out += "]}";
}

}  // namespace

GridFrame frame_of(const std::vector<FlatLayer>& layers) {
  GridFrame f{1e300, 1e300, -1e300, -1e300};
  for (const FlatLayer& layer : layers)
    for (const Point& p : layer.points) {
      f.x0 = std::min(f.x0, p.x); f.x1 = std::max(f.x1, p.x);
      f.y0 = std::min(f.y0, p.y); f.y1 = std::max(f.y1, p.y);
    }
  if (f.x0 > f.x1) f = GridFrame{};
  return f;
}

Topology build_topology(const std::vector<FlatLayer>& layers, const GridFrame& frame, int levels) {
  Topology t;
  t.x0 = frame.x0;
  t.y0 = frame.y0;
  double side = std::max(frame.x1 - frame.x0, frame.y1 - frame.y0);
  t.step = side > 0 ? side / (levels - 1) : 1;

  std::vector<GridLayer> grids;
  size_t total = 0;
  for (const FlatLayer& in : layers) {
    t.layers.emplace_back();
    t.layers.back().name = in.name;
    grids.push_back(place_on_grid(in, t, t.layers.back()));
    total += grids.back().points.size();
  }
  PointTable table(total);
  for (const GridLayer& g : grids)
    for (size_t r = 0, from = 0; r < g.ring_end.size(); from = g.ring_end[r++])
      note_neighbours(g.points.data() + from, g.ring_end[r] - from, g.closed[r], table);
  ArcTable arcs(t);
  for (size_t l = 0; l < grids.size(); ++l) {
    const GridLayer& g = grids[l];
    for (size_t r = 0, from = 0; r < g.ring_end.size(); from = g.ring_end[r++]) {
      cut_run(g.points.data() + from, g.ring_end[r] - from, g.closed[r], table, arcs, t.layers[l].ring_arcs);
      t.layers[l].ring_end.push_back(t.layers[l].ring_arcs.size());
    }
  }
  return t;
}

std::string write_topojson(const Topology& t) {
  std::string out = "{\"type\":\"Topology\",\"transform\":{\"scale\":[";
  put(out, t.step); out += ','; put(out, t.step);
  out += "],\"translate\":["; put(out, t.x0); out += ','; put(out, t.y0);
  out += "]},\"arcs\":[";
  for (size_t a = 0, i = 0; a < t.arc_end.size(); ++a) {
    out += a ? ",[" : "[";
    GridPoint last{0, 0};
    for (bool first = true; i < t.arc_end[a]; ++i, first = false) {
      out += first ? "[" : ",[";
      put(out, static_cast<int64_t>(t.points[i].x) - last.x); out += ',';
      put(out, static_cast<int64_t>(t.points[i].y) - last.y); out += ']';
      last = t.points[i];
    }
    out += ']';
  }
  out += "],\"objects\":{";
  for (size_t l = 0; l < t.layers.size(); ++l) {
    const TopologyLayer& layer = t.layers[l];
    if (l) out += ',';
    out += '"' + layer.name + "\":{\"type\":\"GeometryCollection\",\"geometries\":[";
    for (size_t f = 0; f < layer.feature_end.size(); ++f) {
      if (f) out += ',';
      put_feature(out, layer, f ? layer.feature_end[f - 1] : 0, layer.feature_end[f]);
    }
    out += "]}";
  }
  return out + "}}";
}

}  // namespace ochre
