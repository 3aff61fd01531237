#include "section-tree.hpp"

#include <algorithm>
#include <cmath>
#include <utility>

#include "clip.hpp"
#include "packed-numbers.hpp"
#include "pulse.hpp"
#include "vertex-levels.hpp"

namespace ochre {

namespace {

constexpr int kEveryVertex = 255;
// Sections are no narrower than this many units of the grid.
constexpr double kNarrowest = 256;
// Shapes that are not whole are told apart to this share of a section.
constexpr double kSteps = 4096;

std::vector<Box> boxes_of_arcs(const Topology& t) {
  std::vector<Box> out(t.arc_end.size());
  for (size_t a = 0; a < out.size(); ++a)
    for (size_t i = arc_start(t, a); i < t.arc_end[a]; ++i)
      out[a].add(t.points[i].x, t.points[i].y);
  return out;
}

// Of each feature.
std::vector<Box> boxes_of_features(const TopologyLayer& layer, const std::vector<Box>& arcs) {
  std::vector<Box> out(layer.feature_end.size());
  for (size_t f = 0, part = 0, ring = 0, i = 0; f < out.size(); ++f)
    for (; part < layer.feature_end[f]; ++part)
      for (; ring < layer.part_end[part]; ++ring)
        for (; i < layer.ring_end[ring]; ++i)
          out[f].add(arcs[arc_number(layer.ring_arcs[i])]);
  return out;
}

// The shapes of a feature in a box, moved and counted in other units, at the end of a layer.
struct Placing {
  Box box;
  double x0, y0, unit;

  bool add_ring(std::vector<Point> ring, FlatLayer& out) const {
    clip_ring(ring, box);
    if (ring.size() < 3) return false;
    for (Point& p : ring)
      p = {std::round((p.x - x0) / unit), std::round((p.y - y0) / unit)};
    ring.push_back(ring.front());
    out.add_ring(ring.data(), ring.size());
    return true;
  }
};

// Even-odd over the rings of one feature: where rows of cells are crossed.
class CellFiller {
 public:
  CellFiller(const Box& box, int cells)
      : box_(box), cells_(cells), cell_((box.x1 - box.x0) / cells) {}

  void edge(Point a, Point b) {
    if (a.y > b.y) std::swap(a, b);
    // Rows by their middles, from the south.
    const int first = std::max(0, row_from(a.y)), last = std::min(cells_, row_from(b.y));
    for (int row = first; row < last; ++row) {
      const double y = box_.y0 + (row + 0.5) * cell_;
      crossings_.emplace_back(row, a.x + (b.x - a.x) * ((y - a.y) / (b.y - a.y)));
    }
  }
  void fill(uint32_t feature, std::vector<uint32_t>& out) {
    std::sort(crossings_.begin(), crossings_.end());
    for (size_t i = 0; i + 1 < crossings_.size(); i += 2) {
      const auto [row, from] = crossings_[i];
      const int first = std::max(0, column_from(from));
      const int last = std::min(cells_, column_from(crossings_[i + 1].second));
      const auto start = out.begin() + std::ptrdiff_t(cells_ - 1 - row) * cells_;
      if (first < last) std::fill(start + first, start + last, feature);
    }
    crossings_.clear();
  }

 private:
  // The first whose middle is not before a place.
  int first_from(double place) const {
    return static_cast<int>(std::ceil(std::clamp(place / cell_ - 0.5, -1.0, cells_ + 1.0)));
  }
  int row_from(double y) const { return first_from(y - box_.y0); }
  int column_from(double x) const { return first_from(x - box_.x0); }

  Box box_;
  int cells_;
  double cell_;
  std::vector<std::pair<int, double>> crossings_;
};

}  // namespace

SectionTree::SectionTree(Topology topology, size_t layer, const SectionLimits& limits)
    : topology_(std::move(topology)), layer_(layer), limits_(limits) {
  arc_boxes_ = boxes_of_arcs(topology_);
  boxes_ = boxes_of_features(topology_.layers.at(layer_), arc_boxes_);
  Box all;
  for (const Box& b : boxes_)
    if (!b.empty()) all.add(b);
  if (all.empty()) return;
  while (side_ < std::max(all.x1 - all.x0, all.y1 - all.y0))
    side_ *= 2;
  x0_ = std::floor((all.x0 + all.x1 - side_) / 2);
  y0_ = std::floor((all.y0 + all.y1 - side_) / 2);
  levels_ = vertex_levels(topology_, side_ / kSectionPixels);
  Section top{0, 0, 0, SectionKind::picture, 0, {}};
  for (size_t f = 0; f < boxes_.size(); ++f)
    if (!boxes_[f].empty()) top.features.push_back(static_cast<uint32_t>(f));
  divide(std::move(top));
}

Box SectionTree::in_map(const Box& b) const {
  const Topology& t = topology_;
  return {t.x0 + t.step * b.x0, t.y0 + t.step * b.y0, t.x0 + t.step * b.x1, t.y0 + t.step * b.y1};
}

Box SectionTree::whole() const {
  return in_map({x0_, y0_, x0_ + side_, y0_ + side_});
}

Box SectionTree::box(size_t feature) const {
  return boxes_[feature].empty() ? Box{} : in_map(boxes_[feature]);
}

Box SectionTree::square(const Section& section, double room) const {
  const double side = std::ldexp(side_, -section.level);
  const double x = x0_ + section.column * side, y = y0_ + section.row * side;
  const double more = room * side / kSectionPixels;
  return {x - more, y - more, x + side + more, y + side + more};
}

// Says what a section is, and makes those that it falls into.
void SectionTree::divide(Section section) {
  const size_t every = count_vertices(section, kEveryVertex);
  const bool few = section.features.size() <= limits_.areas;
  const bool narrow = std::ldexp(side_, -section.level) <= kNarrowest;
  if ((few && every <= limits_.vertices) || narrow) {
    section.kind = SectionKind::whole;
    section.vertices = every;
  } else if (few) {
    section.vertices = count_vertices(section, section.level);
    if (section.vertices <= limits_.vertices) section.kind = SectionKind::shapes;
  }
  if (section.kind == SectionKind::picture) section.vertices = 0;
  const size_t at = sections_.size();
  sections_.push_back(std::move(section));
  if (sections_[at].kind == SectionKind::whole) return;
  for (uint32_t k = 0; k < 4; ++k) {
    const Section& above = sections_[at];
    Section part{above.level + 1,
                 2 * above.column + k % 2,
                 2 * above.row + k / 2,
                 SectionKind::picture,
                 0,
                 {}};
    const Box box = square(part, kSectionRoom);
    for (uint32_t f : above.features)
      if (boxes_[f].touches(box)) part.features.push_back(f);
    if (!part.features.empty()) divide(std::move(part));
  }
}

// Of rings in a section, as far as they lie in it; a border between two areas counts twice.
size_t SectionTree::count_vertices(const Section& section, int level) const {
  const Box box = square(section, kSectionRoom);
  size_t count = 0;
  for (uint32_t f : section.features) {
    const size_t part = f ? layer().feature_end[f - 1] : 0, end = layer().feature_end[f];
    const size_t first = part ? layer().part_end[part - 1] : 0;
    const size_t last = end ? layer().part_end[end - 1] : 0;
    for (size_t i = first ? layer().ring_end[first - 1] : 0; i < layer().ring_end[last - 1]; ++i) {
      const size_t arc = arc_number(layer().ring_arcs[i]);
      if (!arc_boxes_[arc].touches(box)) continue;
      pulse();
      for (size_t k = arc_start(topology_, arc); k < topology_.arc_end[arc]; ++k) {
        const GridPoint p = topology_.points[k];
        count +=
            levels_[k] <= level && p.x >= box.x0 && p.x <= box.x1 && p.y >= box.y0 && p.y <= box.y1;
      }
    }
  }
  return count;
}

// Without its first point at its end.
std::vector<Point> SectionTree::ring(size_t number, int level) const {
  std::vector<Point> out;
  for (size_t i = number ? layer().ring_end[number - 1] : 0; i < layer().ring_end[number]; ++i) {
    const int32_t ref = layer().ring_arcs[i];
    const size_t arc = arc_number(ref), from = arc_start(topology_, arc),
                 end = topology_.arc_end[arc];
    if (!out.empty()) out.pop_back();
    for (size_t n = 0; n < end - from; ++n) {
      const size_t k = ref < 0 ? end - 1 - n : from + n;
      if (levels_[k] <= level)
        out.push_back({double(topology_.points[k].x), double(topology_.points[k].y)});
    }
  }
  if (out.size() > 1) out.pop_back();
  return out;
}

SectionShapes SectionTree::shapes(const Section& section) const {
  const Box box = square(section, kSectionRoom);
  const double side = std::ldexp(side_, -section.level);
  const bool whole = section.kind == SectionKind::whole;
  const Placing place{box, std::floor(box.x0), std::floor(box.y0),
                      whole ? 1 : std::max(1.0, side / kSteps)};
  FlatLayer flat;
  SectionShapes out;
  for (uint32_t f : section.features) {
    pulse();
    const size_t parts_before = flat.part_end.size();
    for (size_t p = f ? layer().feature_end[f - 1] : 0; p < layer().feature_end[f]; ++p) {
      if (layer().part_shape[p] != Shape::polygon) continue;
      const size_t first = p ? layer().part_end[p - 1] : 0;
      const size_t rings_before = flat.ring_end.size();
      for (size_t r = first; r < layer().part_end[p]; ++r)
        if (!place.add_ring(ring(r, whole ? kEveryVertex : section.level), flat) && r == first)
          break;
      if (flat.ring_end.size() > rings_before) flat.end_part(Shape::polygon);
    }
    if (flat.part_end.size() == parts_before) continue;
    flat.end_feature(Shape::polygon);
    out.features.push_back(f);
  }
  flat.name = layer().name;
  // Whole numbers stay what they are.
  const double wide = std::ceil((box.x1 - box.x0) / place.unit) + 1;
  out.topology = build_topology({flat}, {0, 0, wide, wide}, static_cast<int>(wide) + 1);
  out.topology.x0 = topology_.x0 + topology_.step * place.x0;
  out.topology.y0 = topology_.y0 + topology_.step * place.y0;
  out.topology.step = topology_.step * place.unit;
  return out;
}

Topology SectionTree::light(int level) const {
  return with_points(topology_, [&](size_t i) { return levels_[i] <= level; });
}

std::vector<uint32_t> SectionTree::picture(const Section& section) const {
  std::vector<uint32_t> out(size_t{kSectionPixels} * kSectionPixels, kNobody);
  CellFiller cells(square(section, 0), kSectionPixels);
  for (uint32_t f : section.features) {
    pulse();
    const size_t part = f ? layer().feature_end[f - 1] : 0, end = layer().feature_end[f];
    for (size_t p = part; p < end; ++p) {
      if (layer().part_shape[p] != Shape::polygon) continue;
      for (size_t r = p ? layer().part_end[p - 1] : 0; r < layer().part_end[p]; ++r) {
        const std::vector<Point> points = ring(r, section.level);
        for (size_t i = 0; i < points.size(); ++i)
          cells.edge(points[i], points[(i + 1) % points.size()]);
      }
    }
    cells.fill(f, out);
  }
  return out;
}

std::string pack_picture(const std::vector<uint32_t>& cells, const std::vector<int>& feature_class,
                         int classes) {
  PackedNumbers out;
  auto seen = [&](size_t i) {
    return cells[i] == SectionTree::kNobody ? 0 : 1 + feature_class.at(cells[i]);
  };
  for (size_t i = 0; i < cells.size();) {
    const int now = seen(i);
    size_t end = i + 1;
    while (end < cells.size() && seen(end) == now)
      ++end;
    out.add((end - i - 1) * static_cast<size_t>(classes + 2) + static_cast<size_t>(now));
    i = end;
  }
  return out.text();
}

std::vector<int> unpack_picture(const std::string& text, int classes) {
  std::vector<int> out;
  const auto kinds = static_cast<uint64_t>(classes) + 2;
  for (size_t at = 0; at < text.size();) {
    const uint64_t number = next_packed(text, at);
    const uint64_t run = 1 + number / kinds;
    if (run > size_t{kSectionPixels} * kSectionPixels - out.size()) return {};
    out.insert(out.end(), run, static_cast<int>(number % kinds));
  }
  return out;
}

}  // namespace ochre
