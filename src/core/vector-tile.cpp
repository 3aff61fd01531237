#include "vector-tile.hpp"

#include <algorithm>
#include <cmath>
#include <cstring>

#include "clip.hpp"
#include "edge-span.hpp"

namespace ochre {

namespace {

// ---- the encoding: messages of numbered fields
// ---------------------------------------------------

void put_varint(std::string& out, uint64_t v) {
  for (; v >= 128; v >>= 7)
    out += static_cast<char>(v | 128);
  out += static_cast<char>(v);
}
void put_number(std::string& out, uint32_t field, uint64_t v) {
  put_varint(out, field << 3);
  put_varint(out, v);
}
void put_bytes(std::string& out, uint32_t field, const std::string& bytes) {
  put_varint(out, field << 3 | 2);
  put_varint(out, bytes.size());
  out += bytes;
}
void put_packed(std::string& out, uint32_t field, const std::vector<uint32_t>& numbers) {
  std::string bytes;
  for (uint32_t n : numbers)
    put_varint(bytes, n);
  put_bytes(out, field, bytes);
}
uint64_t zigzag(int64_t v) {
  return static_cast<uint64_t>(v << 1) ^ static_cast<uint64_t>(v >> 63);
}

enum FeatureKind : uint32_t { kPoint = 1, kLine = 2, kPolygon = 3 };

// The drawing commands of one feature: where to move, where to draw lines to.
class Commands {
 public:
  void points(const std::vector<GridPoint>& at) {
    if (at.empty()) return;
    command(1, at.size());
    for (GridPoint p : at)
      step(p);
  }
  // `closed` runs do not repeat their first point.
  void run(const std::vector<GridPoint>& at, bool closed) {
    command(1, 1);
    step(at[0]);
    command(2, at.size() - 1);
    for (size_t i = 1; i < at.size(); ++i)
      step(at[i]);
    if (closed) command(7, 1);
  }
  const std::vector<uint32_t>& all() const { return all_; }

 private:
  void command(uint32_t id, size_t count) {
    all_.push_back(id | static_cast<uint32_t>(count) << 3);
  }
  void step(GridPoint p) {
    all_.push_back(static_cast<uint32_t>(zigzag(int64_t{p.x} - at_.x)));
    all_.push_back(static_cast<uint32_t>(zigzag(int64_t{p.y} - at_.y)));
    at_ = p;
  }
  std::vector<uint32_t> all_;
  GridPoint at_{0, 0};
};

// The message of a layer while it is written.
class LayerMessage {
 public:
  explicit LayerMessage(const TileWords& words) : words_(words), key_(words.keys.size(), -1) {}

  void add(size_t feature, FeatureKind kind, const Commands& commands) {
    if (commands.all().empty()) return;
    std::vector<uint32_t> tags;
    for (const auto& [key, value] : words_.values[feature]) {
      tags.push_back(key_number(key));
      tags.push_back(value_number(value));
    }
    std::string out;
    put_number(out, 1, feature + 1);
    put_packed(out, 2, tags);
    put_number(out, 3, kind);
    put_packed(out, 4, commands.all());
    put_bytes(features_, 2, out);
  }
  std::string tile(const std::string& name) const {
    if (features_.empty()) return "";
    std::string layer, out;
    put_bytes(layer, 1, name);
    layer += features_;
    for (uint32_t k : keys_)
      put_bytes(layer, 3, words_.keys[k]);
    for (const std::string* v : values_)
      put_bytes(layer, 4, *v);
    put_number(layer, 5, kTileUnits);
    put_number(layer, 15, 2);
    put_bytes(out, 3, layer);
    return out;
  }

 private:
  uint32_t key_number(uint32_t key) {
    if (key_[key] < 0) {
      key_[key] = static_cast<int>(keys_.size());
      keys_.push_back(key);
    }
    return static_cast<uint32_t>(key_[key]);
  }
  uint32_t value_number(const std::string& value) {
    auto [at, is_new] = value_.emplace(value, static_cast<uint32_t>(values_.size()));
    if (is_new) values_.push_back(&at->first);
    return at->second;
  }

  const TileWords& words_;
  std::vector<int> key_;
  std::vector<uint32_t> keys_;
  std::unordered_map<std::string, uint32_t> value_;
  std::vector<const std::string*> values_;
  std::string features_;
};

// ---- clipping
// ------------------------------------------------------------------------------------

// The pieces of a line within a box.
std::vector<std::vector<Point>> clip_line(const std::vector<Point>& line, const Box& box) {
  std::vector<std::vector<Point>> out;
  bool open = false;
  for (size_t i = 0; i + 1 < line.size(); ++i) {
    const Point a = line[i], b = line[i + 1];
    double from, to;
    if (!edge_span(box, a, b, from, to) || from == to) {
      open = false;
      continue;
    }
    auto at = [&](double t) {
      return Point{a.x + t * (b.x - a.x), a.y + t * (b.y - a.y)};
    };
    if (!open || from > 0) out.push_back({from > 0 ? at(from) : a});
    out.back().push_back(to < 1 ? at(to) : b);
    open = to >= 1;
  }
  return out;
}

double twice_area(const std::vector<GridPoint>& ring) {
  double sum = 0;
  for (size_t i = 0; i < ring.size(); ++i) {
    const GridPoint a = ring[i], b = ring[(i + 1) % ring.size()];
    sum += double(a.x) * b.y - double(b.x) * a.y;
  }
  return sum;
}

// Metres to units of a tile, which count from its upper left corner.
struct TileFrame {
  double x0, y1, unit;
  Box room;

  explicit TileFrame(const TileAddress& at) {
    const double side = 2 * kMercatorEdge / std::ldexp(1.0, at.level);
    x0 = -kMercatorEdge + at.column * side;
    y1 = kMercatorEdge - at.row * side;
    unit = side / kTileUnits;
    room = {x0 - kTileRoom * unit, y1 - side - kTileRoom * unit, x0 + side + kTileRoom * unit,
            y1 + kTileRoom * unit};
  }
  GridPoint units(Point p) const {
    return {static_cast<int32_t>(std::lround((p.x - x0) / unit)),
            static_cast<int32_t>(std::lround((y1 - p.y) / unit))};
  }
  std::vector<GridPoint> units(const std::vector<Point>& run) const {
    std::vector<GridPoint> out;
    for (Point p : run) {
      const GridPoint q = units(p);
      if (out.empty() || out.back() != q) out.push_back(q);
    }
    return out;
  }
};

// The points of a ring or a line, in metres.
std::vector<Point> run_points(const Topology& t, const TopologyLayer& layer, size_t ring) {
  std::vector<Point> out;
  auto put = [&](size_t k) {
    out.push_back({t.x0 + t.step * t.points[k].x, t.y0 + t.step * t.points[k].y});
  };
  for (size_t i = ring ? layer.ring_end[ring - 1] : 0; i < layer.ring_end[ring]; ++i) {
    const int32_t ref = layer.ring_arcs[i];
    const size_t arc = ref < 0 ? ~ref : ref;
    const size_t from = arc ? t.arc_end[arc - 1] : 0, end = t.arc_end[arc];
    if (!out.empty()) out.pop_back();
    for (size_t k = from; k < end; ++k)
      put(ref < 0 ? from + end - 1 - k : k);
  }
  return out;
}

// The rings of a part: shells run clockwise on the screen, holes the other way. A part whose shell
// is too small to be seen is left out with its holes.
void add_area(const Topology& t, const TopologyLayer& layer, size_t part, const TileFrame& frame,
              Commands& commands) {
  const size_t first = part ? layer.part_end[part - 1] : 0;
  for (size_t r = first; r < layer.part_end[part]; ++r) {
    std::vector<Point> ring = run_points(t, layer, r);
    if (ring.size() > 1) ring.pop_back();
    clip_ring(ring, frame.room);
    std::vector<GridPoint> at = frame.units(ring);
    if (at.size() > 1 && at.front() == at.back()) at.pop_back();
    const double area = at.size() < 3 ? 0 : twice_area(at);
    if (area == 0) {
      if (r == first) return;
      continue;
    }
    if ((area > 0) != (r == first)) std::reverse(at.begin(), at.end());
    commands.run(at, true);
  }
}

void add_lines(const Topology& t, const TopologyLayer& layer, size_t part, const TileFrame& frame,
               Commands& commands) {
  for (size_t r = part ? layer.part_end[part - 1] : 0; r < layer.part_end[part]; ++r) {
    for (const std::vector<Point>& piece : clip_line(run_points(t, layer, r), frame.room)) {
      const std::vector<GridPoint> at = frame.units(piece);
      if (at.size() > 1) commands.run(at, false);
    }
  }
}

// Areas and lines alone; points have no borders to share.
FlatLayer without_points(const FlatLayer& in) {
  FlatLayer out;
  for (size_t f = 0; f < in.features(); ++f) {
    for (size_t p = in.first_part(f); p < in.feature_end[f]; ++p)
      if (in.part_shape[p] != Shape::point) out.copy_part(in, p);
    out.end_feature(in.feature_shape[f]);
  }
  return out;
}

std::string fixed64(uint32_t field, double v) {
  std::string out;
  put_varint(out, field << 3 | 1);
  uint64_t bits;
  std::memcpy(&bits, &v, 8);
  for (int i = 0; i < 8; ++i)
    out += static_cast<char>(bits >> (8 * i));
  return out;
}

}  // namespace

std::string tile_value(const std::string& text) {
  std::string out;
  put_bytes(out, 1, text);
  return out;
}
std::string tile_value(double number) {
  return fixed64(3, number);
}
std::string tile_value(int64_t whole) {
  std::string out;
  put_number(out, 6, zigzag(whole));
  return out;
}
std::string tile_value(bool flag) {
  std::string out;
  put_number(out, 7, flag ? 1 : 0);
  return out;
}

// ---- the pyramid
// ---------------------------------------------------------------------------------

TilePyramid::TilePyramid(const FlatLayer& all, int levels) {
  add_points(all);
  const FlatLayer layer = without_points(all);
  GridFrame frame = frame_of({layer});
  // As fine as the units of the last level, or as a grid can be.
  const double wide = std::max({frame.x1 - frame.x0, frame.y1 - frame.y0, 1.0});
  const double finest = 2 * kMercatorEdge / std::ldexp(1.0, levels - 1) / kTileUnits;
  whole_ = build_topology({layer}, frame, static_cast<int>(std::min(wide / finest, 1e9)));
  std::vector<double> areas;
  for (int z = 0; z < levels; ++z) {
    // Half a pixel of a tile that is shown 512 pixels wide.
    const double pixel = 2 * kMercatorEdge / std::ldexp(1.0, z) / 512 / whole_.step;
    areas.push_back(z + 1 == levels ? 0 : pixel * pixel / 2);
  }
  Thinning found = thinning(whole_, areas);
  order_ = std::move(found.order);
  steps_ = std::move(found.steps);
}

void TilePyramid::add_points(const FlatLayer& layer) {
  for (size_t f = 0; f < layer.features(); ++f)
    for (size_t p = layer.first_part(f); p < layer.feature_end[f]; ++p)
      if (layer.part_shape[p] == Shape::point)
        for (size_t r = layer.first_ring(p); r < layer.part_end[p]; ++r)
          for (size_t i = 0; i < layer.ring_size(r); ++i)
            places_.emplace_back(f, layer.ring(r)[i]);
}

TilePyramid::Level& TilePyramid::level(int number) {
  const size_t steps = steps_[static_cast<size_t>(number)];
  std::unique_ptr<Level>& made = made_[steps];
  if (made) return *made;
  made = std::make_unique<Level>();
  made->topology = without_first(whole_, steps, order_);
  const TopologyLayer& layer = made->topology.layers[0];
  for (size_t f = 0, part = 0, ring = 0; f < layer.feature_end.size(); ++f) {
    Box box;
    for (; part < layer.feature_end[f]; ++part)
      for (; ring < layer.part_end[part]; ++ring)
        for (Point p : run_points(made->topology, layer, ring))
          box.add(p.x, p.y);
    made->boxes.push_back(box);
  }
  made->tree = std::make_unique<BoxTree>(made->boxes);
  return *made;
}

std::string TilePyramid::cut(const TileAddress& at, const std::string& name,
                             const TileWords& words) {
  Level& now = level(std::clamp(at.level, 0, static_cast<int>(steps_.size()) - 1));
  const TopologyLayer& layer = now.topology.layers[0];
  const TileFrame frame(at);
  std::vector<size_t> features;
  now.tree->search(frame.room, [&](size_t f) {
    features.push_back(f);
    return true;
  });
  std::sort(features.begin(), features.end());
  LayerMessage out(words);
  for (size_t f : features) {
    Commands areas, lines;
    for (size_t p = f ? layer.feature_end[f - 1] : 0; p < layer.feature_end[f]; ++p) {
      if (layer.part_shape[p] == Shape::polygon) add_area(now.topology, layer, p, frame, areas);
      if (layer.part_shape[p] == Shape::line) add_lines(now.topology, layer, p, frame, lines);
    }
    out.add(f, kPolygon, areas);
    out.add(f, kLine, lines);
  }
  for (size_t i = 0; i < places_.size();) {
    const size_t f = places_[i].first;
    std::vector<GridPoint> seen;
    for (; i < places_.size() && places_[i].first == f; ++i) {
      const Point p = places_[i].second;
      const Box& b = frame.room;
      if (p.x >= b.x0 && p.x <= b.x1 && p.y >= b.y0 && p.y <= b.y1) seen.push_back(frame.units(p));
    }
    Commands commands;
    commands.points(seen);
    out.add(f, kPoint, commands);
  }
  return out.tile(name);
}

}  // namespace ochre
