// A map in sections: every area is there once and whole, at each level what can be seen on it, and
// pictures show what lies in the middle of their cells.
#include <doctest/doctest.h>

#include <cmath>
#include <map>
#include <random>
#include <set>

#include "clip.hpp"
#include "packed-numbers.hpp"
#include "section-tree.hpp"
#include "vertex-levels.hpp"

using namespace ochre;

namespace {

using Ring = std::vector<Point>;

void add(FlatLayer& layer, const std::vector<Ring>& rings) {
  for (Ring ring : rings) {
    ring.push_back(ring.front());
    layer.add_ring(ring.data(), ring.size());
  }
  layer.end_part(Shape::polygon);
  layer.end_feature(Shape::polygon);
}

// A grid of wiggly areas, `corners` on each edge; whole numbers, so that nothing is rounded.
FlatLayer country(int side, int corners, uint32_t seed) {
  std::mt19937 chance(seed);
  const int cell = 64;
  std::map<std::tuple<int, int, bool>, Ring> edges;
  auto edge = [&](int i, int j, bool up) -> const Ring& {
    Ring& run = edges[{i, j, up}];
    if (!run.empty()) return run;
    for (int k = 0; k < corners; ++k) {
      const double along = cell * k / corners, off = k ? int(chance() % 13) - 6 : 0;
      run.push_back({i * cell + (up ? off : along), j * cell + (up ? along : off)});
    }
    return run;
  };
  FlatLayer layer;
  for (int j = 0; j < side; ++j)
    for (int i = 0; i < side; ++i) {
      Ring ring = edge(i, j, false);
      auto forth = [&](const Ring& run) {
        ring.insert(ring.end(), run.begin(), run.end());
      };
      auto back = [&](Ring run, Point end) {
        run.push_back(end);
        ring.insert(ring.end(), run.rbegin(), run.rend() - 1);
      };
      forth(edge(i + 1, j, true));
      back(edge(i, j + 1, false), {double((i + 1) * cell), double((j + 1) * cell)});
      back(edge(i, j, true), {double(i * cell), double((j + 1) * cell)});
      add(layer, {ring});
    }
  return layer;
}

Topology on_grid(const FlatLayer& layer, int wide) {
  return build_topology({layer}, {0, 0, double(wide), double(wide)}, wide + 1);
}

double twice_area(const Ring& ring) {
  double sum = 0;
  for (size_t i = 0; i < ring.size(); ++i) {
    const Point a = ring[i], b = ring[(i + 1) % ring.size()];
    sum += a.x * b.y - b.x * a.y;
  }
  return sum;
}

// The rings of a feature in map units, without their last corners.
std::vector<Ring> rings_of(const Topology& t, size_t feature) {
  const TopologyLayer& layer = t.layers[0];
  std::vector<Ring> out;
  for (size_t p = feature ? layer.feature_end[feature - 1] : 0; p < layer.feature_end[feature]; ++p)
    for (size_t r = p ? layer.part_end[p - 1] : 0; r < layer.part_end[p]; ++r) {
      Ring ring;
      for (size_t i = r ? layer.ring_end[r - 1] : 0; i < layer.ring_end[r]; ++i) {
        const int32_t ref = layer.ring_arcs[i];
        const size_t arc = size_t(ref < 0 ? ~ref : ref), from = arc ? t.arc_end[arc - 1] : 0;
        const size_t n = t.arc_end[arc] - from;
        for (size_t k = 0; k + 1 < n; ++k) {
          const GridPoint at = t.points[ref < 0 ? from + n - 1 - k : from + k];
          ring.push_back({t.x0 + t.step * at.x, t.y0 + t.step * at.y});
        }
      }
      out.push_back(ring);
    }
  return out;
}

Box square_of(const SectionTree& tree, const Section& s) {
  const Box whole = tree.whole();
  const double side = std::ldexp(whole.x1 - whole.x0, -s.level);
  const double x = whole.x0 + s.column * side, y = whole.y0 + s.row * side;
  return {x, y, x + side, y + side};
}

double area_in(const Topology& t, size_t feature, const Box& box) {
  double sum = 0;
  bool hole = false;
  for (Ring ring : rings_of(t, feature)) {
    clip_ring(ring, box);
    sum += (hole ? -1 : 1) * std::fabs(twice_area(ring));
    hole = true;
  }
  return sum / 2;
}

// Levels by a second way: the least triangle is looked for among all, each time.
std::vector<int> slow_levels(std::vector<GridPoint> p, double pixel) {
  std::vector<int> out(p.size(), 0);
  std::vector<size_t> left(p.size());
  for (size_t i = 0; i < p.size(); ++i)
    left[i] = i;
  const size_t stay = p.front() == p.back() ? 4 : 2;
  double reached = 0;
  while (left.size() > stay) {
    size_t least = 0;
    double best = 1e300;
    for (size_t k = 1; k + 1 < left.size(); ++k) {
      const GridPoint a = p[left[k - 1]], b = p[left[k]], c = p[left[k + 1]];
      const double area = std::fabs((double(b.x) - a.x) * (double(c.y) - a.y) -
                                    (double(b.y) - a.y) * (double(c.x) - a.x)) /
                          2;
      if (area < best) best = area, least = k;
    }
    reached = std::max(reached, best);
    int level = 0;
    while (pixel * pixel / 2 / std::pow(4, level) > reached && level < 30)
      ++level;
    out[left[least]] = level;
    left.erase(left.begin() + std::ptrdiff_t(least));
  }
  return out;
}

}  // namespace

TEST_CASE("vertices go in the order of a slow search, level by level") {
  std::mt19937 chance(4);
  for (int round = 0; round < 40; ++round) {
    Topology t;
    t.layers.resize(1);
    std::vector<int> want;
    for (int arc = 0; arc < 5; ++arc) {
      std::vector<GridPoint> run;
      const int n = 2 + int(chance() % 40);
      for (int i = 0; i < n; ++i)
        run.push_back({i * 7, int(chance() % 2000)});
      if (arc % 2) run.push_back(run.front());
      t.points.insert(t.points.end(), run.begin(), run.end());
      t.arc_end.push_back(t.points.size());
      for (int level : slow_levels(run, 97))
        want.push_back(level);
    }
    const std::vector<uint8_t> got = vertex_levels(t, 97);
    CHECK(std::vector<int>(got.begin(), got.end()) == want);
  }
}

TEST_CASE("every area is in the last sections once and whole, and its box in all above") {
  FlatLayer layer = country(24, 9, 7);
  // One that lies over many sections, with a hole, and one far smaller than a cell.
  add(layer, {{{1700, 40}, {2000, 40}, {2000, 1500}, {1700, 1500}},
              {{1750, 90}, {1950, 90}, {1950, 1400}, {1750, 1400}}});
  add(layer, {{{1800, 200}, {1803, 200}, {1803, 203}}});
  const Topology topology = on_grid(layer, 2048);
  for (const SectionLimits limits : {SectionLimits{40, 2000}, SectionLimits{9, 1000000},
                                     SectionLimits{600, 500}, SectionLimits{1000, 1000000}}) {
    const SectionTree tree(topology, 0, limits);
    std::map<uint32_t, double> found;
    std::set<std::tuple<int, uint32_t, uint32_t>> known;
    for (const Section& s : tree.sections()) {
      known.insert({s.level, s.column, s.row});
      if (s.level) CHECK(known.count({s.level - 1, s.column / 2, s.row / 2}));
      if (s.kind == SectionKind::picture) continue;
      CHECK((s.features.size() <= limits.areas || s.kind == SectionKind::whole));
      const SectionShapes shapes = tree.shapes(s);
      CHECK(fault_of(shapes.topology).empty());
      CHECK(shapes.features.size() == shapes.topology.layers[0].feature_end.size());
      if (s.kind != SectionKind::whole) continue;
      for (size_t k = 0; k < shapes.features.size(); ++k)
        found[shapes.features[k]] += area_in(shapes.topology, k, square_of(tree, s));
    }
    REQUIRE(found.size() == layer.features());
    for (size_t f = 0; f < layer.features(); ++f) {
      const double want = area_in(topology, f, {-1e9, -1e9, 1e9, 1e9});
      // Cuts lie on whole numbers of the grid.
      CHECK(found[uint32_t(f)] == doctest::Approx(want).epsilon(0.02));
    }
  }
}

TEST_CASE("a picture shows the area that the middle of each cell lies in") {
  const FlatLayer layer = country(20, 1, 3);
  const Topology topology = on_grid(layer, 2048);
  const SectionTree tree(topology, 0, {30, 100000});
  size_t pictures = 0;
  for (const Section& s : tree.sections()) {
    const std::vector<uint32_t> cells = tree.picture(s);
    pictures += s.kind == SectionKind::picture;
    const Box box = square_of(tree, s);
    const double cell = (box.x1 - box.x0) / kSectionPixels;
    std::mt19937 chance(s.column + 7 * s.row);
    for (int k = 0; k < 300; ++k) {
      const int column = int(chance() % kSectionPixels), row = int(chance() % kSectionPixels);
      const double x = box.x0 + (column + 0.5) * cell, y = box.y1 - (row + 0.5) * cell;
      const bool on = x > 0 && y > 0 && x < 20 * 64 && y < 20 * 64;
      const uint32_t want = on ? uint32_t(y / 64) * 20 + uint32_t(x / 64) : SectionTree::kNobody;
      // A middle that lies on a border may go to either side.
      if (std::fmod(x, 64) == 0 || std::fmod(y, 64) == 0) continue;
      CHECK(cells[size_t(row) * kSectionPixels + size_t(column)] == want);
    }
  }
  CHECK(pictures >= 5);
}

TEST_CASE("a packed picture comes back, and a text that is none gives nothing") {
  std::mt19937 chance(9);
  std::vector<uint32_t> cells(size_t{kSectionPixels} * kSectionPixels);
  std::vector<int> feature_class(50);
  for (int& c : feature_class)
    c = int(chance() % 6);
  for (size_t i = 0; i < cells.size(); ++i)
    cells[i] = i && chance() % 3 ? cells[i - 1] : chance() % 51;
  for (uint32_t& c : cells)
    if (c == 50) c = SectionTree::kNobody;
  const std::vector<int> back = unpack_picture(pack_picture(cells, feature_class, 5), 5);
  REQUIRE(back.size() == cells.size());
  for (size_t i = 0; i < cells.size(); ++i)
    CHECK(back[i] == (cells[i] == SectionTree::kNobody ? 0 : 1 + feature_class[cells[i]]));
  for (const char* odd : {"~~~~~~~~~~~~", "", "\x01\xff", "~~~~~~#"})
    CHECK(unpack_picture(odd, 5).size() <= cells.size());
}

TEST_CASE("a layer goes with the arcs that only it has; the others keep their rings") {
  FlatLayer one = country(5, 4, 1), two;
  add(two, {{{0, 0}, {320, 0}, {320, 640}, {0, 640}}});
  const Topology both = build_topology({one, two, one}, {0, 0, 1024, 1024}, 1025);
  const Topology without = without_layer(both, 0);
  CHECK(fault_of(without).empty());
  CHECK(without.layers[0].feature_end.empty());
  CHECK(without.points.size() == both.points.size());
  Topology last{without};
  last.layers = {without.layers[2]};
  Topology whole{both};
  whole.layers = {both.layers[2]};
  for (size_t f = 0; f < one.features(); ++f)
    CHECK(area_in(last, f, {-1e9, -1e9, 1e9, 1e9}) == area_in(whole, f, {-1e9, -1e9, 1e9, 1e9}));
  const Topology outline = without_layer(without_layer(both, 0), 2);
  CHECK(outline.points.size() < both.points.size());
  CHECK(fault_of(outline).empty());
}
