// Topology: shared borders are one arc, and putting arcs together gives the rings again.
#include <doctest/doctest.h>

#include <algorithm>
#include <cmath>
#include <map>
#include <random>

#include "class-rings.hpp"
#include "packed-numbers.hpp"
#include "topology.hpp"

using namespace ochre;

namespace {

using Ring = std::vector<Point>;

FlatLayer areas(const std::vector<std::vector<Ring>>& features) {
  FlatLayer layer;
  layer.name = "areas";
  for (const auto& rings : features) {
    layer.part_shape.push_back(Shape::polygon);
    for (const auto& r : rings) {
      layer.points.insert(layer.points.end(), r.begin(), r.end());
      layer.ring_end.push_back(layer.points.size());
    }
    layer.part_end.push_back(layer.ring_end.size());
    layer.feature_end.push_back(layer.part_end.size());
  }
  return layer;
}

std::vector<GridPoint> assemble(const Topology& t, const TopologyLayer& layer, size_t ring) {
  std::vector<GridPoint> out;
  for (size_t i = ring ? layer.ring_end[ring - 1] : 0; i < layer.ring_end[ring]; ++i) {
    int32_t ref = layer.ring_arcs[i], arc = ref < 0 ? ~ref : ref;
    std::vector<GridPoint> run(t.points.begin() + (arc ? t.arc_end[arc - 1] : 0),
                               t.points.begin() + t.arc_end[arc]);
    if (ref < 0) std::reverse(run.begin(), run.end());
    if (!out.empty()) REQUIRE(out.back() == run.front());
    out.insert(out.end(), run.begin() + (out.empty() ? 0 : 1), run.end());
  }
  return out;
}

// A ring as a cycle that does not depend on where it starts.
std::vector<std::pair<int, int>> cycle(std::vector<GridPoint> ring) {
  ring.pop_back();
  std::vector<std::pair<int, int>> out;
  for (auto& p : ring)
    out.push_back({p.x, p.y});
  std::rotate(out.begin(), std::min_element(out.begin(), out.end()), out.end());
  return out;
}

std::map<int32_t, std::vector<bool>> uses(const TopologyLayer& layer) {
  std::map<int32_t, std::vector<bool>> out;
  for (int32_t ref : layer.ring_arcs)
    out[ref < 0 ? ~ref : ref].push_back(ref < 0);
  return out;
}

Topology build(const FlatLayer& layer, double side) {
  return build_topology({layer}, {0, 0, side, side}, int(side) + 1);
}

}  // namespace

TEST_CASE("two squares share one arc, used once forwards and once backwards") {
  Topology t = build(areas({{{{0, 0}, {4, 0}, {4, 4}, {0, 4}, {0, 0}}},
                            {{{4, 0}, {8, 0}, {8, 4}, {4, 4}, {4, 0}}}}),
                     8);
  CHECK(t.arc_end.size() == 3);
  int shared = 0;
  for (auto& [arc, ways] : uses(t.layers[0])) {
    if (ways.size() < 2) continue;
    ++shared;
    CHECK(ways[0] != ways[1]);
  }
  CHECK(shared == 1);
}

TEST_CASE("an enclave and the hole that it fills are one arc") {
  Ring hole = {{3, 3}, {3, 5}, {5, 5}, {5, 3}, {3, 3}},
       enclave = {{5, 5}, {3, 5}, {3, 3}, {5, 3}, {5, 5}};
  Topology t = build(areas({{{{0, 0}, {8, 0}, {8, 8}, {0, 8}, {0, 0}}, hole}, {enclave}}), 8);
  CHECK(t.arc_end.size() == 2);
}

TEST_CASE("a tiling of random cells comes back ring by ring, and every inner border is shared") {
  for (unsigned seed = 1; seed <= 20; ++seed) {
    // Corners of a square grid are shifted; edges get points of their own.
    std::mt19937 random(seed);
    const int n = 6, cell = 40;
    std::map<std::pair<int, int>, Point> corner;
    for (int i = 0; i <= n; ++i)
      for (int j = 0; j <= n; ++j)
        corner[{i, j}] = {double(i * cell + int(random() % 21)),
                          double(j * cell + int(random() % 21))};
    std::map<std::pair<std::pair<int, int>, std::pair<int, int>>, Ring> edges;
    auto edge = [&](std::pair<int, int> a, std::pair<int, int> b) {
      bool turned = b < a;
      if (turned) std::swap(a, b);
      Ring& e = edges[{a, b}];
      if (e.empty()) {
        Point p = corner[a], q = corner[b];
        for (int k = 0; k < 4; ++k)
          e.push_back({std::round(p.x + (q.x - p.x) * k / 4),
                       std::round(p.y + (q.y - p.y) * k / 4 + (k ? random() % 3 : 0))});
        e.push_back(q);
      }
      Ring out = e;
      if (turned) std::reverse(out.begin(), out.end());
      return out;
    };
    std::vector<std::vector<Ring>> features;
    for (int i = 0; i < n; ++i)
      for (int j = 0; j < n; ++j) {
        Ring ring;
        std::pair<int, int> at[] = {{i, j}, {i + 1, j}, {i + 1, j + 1}, {i, j + 1}};
        for (int k = 0; k < 4; ++k) {
          Ring e = edge(at[k], at[(k + 1) % 4]);
          ring.insert(ring.end(), e.begin(), e.end() - 1);
        }
        ring.push_back(ring.front());
        std::rotate(ring.begin(), ring.begin() + random() % (ring.size() - 1), ring.end() - 1);
        ring.back() = ring.front();
        features.push_back({ring});
      }
    FlatLayer layer = areas(features);
    Topology t = build(layer, n * cell + 40);
    REQUIRE(t.layers[0].ring_end.size() == features.size());
    for (size_t f = 0; f < features.size(); ++f) {
      std::vector<GridPoint> want;
      for (const Point& p : features[f][0]) {
        GridPoint g{int32_t(p.x), int32_t(p.y)};
        if (want.empty() || want.back() != g) want.push_back(g);
      }
      CHECK(cycle(assemble(t, t.layers[0], f)) == cycle(want));
    }
    size_t shared = 0;
    for (auto& [arc, ways] : uses(t.layers[0])) {
      CHECK(ways.size() <= 2);
      if (ways.size() == 2) {
        ++shared;
        CHECK(ways[0] != ways[1]);
      }
    }
    CHECK(shared == 2 * n * (n - 1));
  }
}

TEST_CASE("an area below the grid still stands, and small rings of others are counted as dropped") {
  Ring speck = {{5, 5}, {5.01, 5}, {5.01, 5.01}, {5, 5}};
  Topology t = build(areas({{speck}, {{{0, 0}, {8, 0}, {8, 8}, {0, 8}, {0, 0}}, speck}}), 8);
  CHECK(t.layers[0].feature_end == std::vector<size_t>{1, 2});
  CHECK(assemble(t, t.layers[0], 0).size() == 4);
  CHECK(t.dropped_rings == 2);
}

TEST_CASE("the outlines of classes cover what their areas cover, with fewer corners") {
  std::mt19937 random(11);
  const int n = 9;
  std::vector<std::vector<Ring>> squares;
  std::vector<int> group;
  for (int x = 0; x < n; ++x)
    for (int y = 0; y < n; ++y) {
      double a = x, b = y;
      // Files run rings either way, and begin them anywhere.
      Ring ring = {{a, b}, {a + 1, b}, {a + 1, b + 1}, {a, b + 1}};
      std::rotate(ring.begin(), ring.begin() + static_cast<long>(random() % 4), ring.end());
      if (random() % 2) std::reverse(ring.begin(), ring.end());
      ring.push_back(ring[0]);
      squares.push_back({ring});
      group.push_back(static_cast<int>(random() % 3));
    }
  Topology t = build(areas(squares), 900);
  ClassRings rings = class_rings(t, t.layers[0], group);
  CHECK(rings.points.size() < 5 * squares.size());
  for (int x = 0; x < n; ++x)
    for (int y = 0; y < n; ++y) {
      double px = (x + 0.5) / t.step, py = (y + 0.5) / t.step;
      std::vector<int> times(3, 0);
      for (size_t r = 0, i = 0; r < rings.ring_end.size(); ++r) {
        size_t first = i;
        for (; i < rings.ring_end[r]; ++i) {
          const GridPoint& a = rings.points[i];
          const GridPoint& b = rings.points[i + 1 < rings.ring_end[r] ? i + 1 : first];
          bool crosses = (a.y > py) != (b.y > py);
          if (crosses && px < a.x + (py - a.y) * (b.x - a.x) / (b.y - a.y))
            ++times[rings.ring_class[r]];
        }
        CHECK(rings.points[first] == rings.points[rings.ring_end[r] - 1]);
      }
      for (int k = 0; k < 3; ++k)
        CHECK((times[k] % 2 == 1) == (group[x * n + y] == k));
    }
}
