// Simplification on random tilings: shared borders stay shared and nothing crosses.
#include <doctest/doctest.h>

#include <array>
#include <cmath>
#include <map>
#include <random>
#include <set>

#include "geodesy.hpp"
#include "merge.hpp"
#include "predicates.hpp"
#include "rings.hpp"
#include "simplify.hpp"

using namespace ochre;

namespace {

// A grid of cells whose corners are shifted and whose edges wander; neighbours share them.
FlatLayer tiling(unsigned seed, int n, int steps, double wild) {
  std::mt19937 random(seed);
  std::uniform_real_distribution<double> u(-1, 1);
  std::map<std::pair<int, int>, Point> corner;
  for (int i = 0; i <= n; ++i)
    for (int j = 0; j <= n; ++j)
      corner[{i, j}] = {i + 0.2 * u(random), 40 + j + 0.2 * u(random)};
  std::map<std::pair<std::pair<int, int>, std::pair<int, int>>, std::vector<Point>> edges;
  auto edge = [&](std::pair<int, int> a, std::pair<int, int> b) {
    bool turned = b < a;
    if (turned) std::swap(a, b);
    auto& e = edges[{a, b}];
    if (e.empty()) {
      Point p = corner[a], q = corner[b];
      for (int k = 0; k <= steps; ++k) {
        double t = double(k) / steps,
               off = k == 0 || k == steps ? 0 : wild * std::sin(3.14159 * t) * u(random);
        if (k == steps)
          e.push_back(q);  // to the last bit
        else
          e.push_back({p.x + t * (q.x - p.x) - off * (q.y - p.y),
                       p.y + t * (q.y - p.y) + off * (q.x - p.x)});
      }
    }
    return turned ? std::vector<Point>(e.rbegin(), e.rend()) : e;
  };
  FlatLayer layer;
  for (int i = 0; i < n; ++i)
    for (int j = 0; j < n; ++j) {
      std::vector<Point> ring;
      std::pair<int, int> at[] = {{i, j}, {i + 1, j}, {i + 1, j + 1}, {i, j + 1}};
      for (int k = 0; k < 4; ++k) {
        auto e = edge(at[k], at[(k + 1) % 4]);
        ring.insert(ring.end(), e.begin(), e.end() - 1);
      }
      ring.push_back(ring.front());
      layer.add_ring(ring.data(), ring.size());
      layer.end_part(Shape::polygon);
      layer.end_feature(Shape::polygon);
    }
  return layer;
}

std::vector<std::pair<Point, Point>> segments(const FlatLayer& layer) {
  auto less = [](Point a, Point b) {
    return a.x < b.x || (a.x == b.x && a.y < b.y);
  };
  std::set<std::array<double, 4>> seen;
  std::vector<std::pair<Point, Point>> out;
  for (size_t r = 0; r < layer.ring_end.size(); ++r)
    for (size_t i = 0; i + 1 < layer.ring_size(r); ++i) {
      Point a = layer.ring(r)[i], b = layer.ring(r)[i + 1];
      if (less(b, a)) std::swap(a, b);
      if (seen.insert({a.x, a.y, b.x, b.y}).second) out.push_back({a, b});
    }
  return out;
}

// All pairs compared: the check that the grid of segments must agree with.
size_t conflicts(const FlatLayer& layer) {
  auto s = segments(layer);
  size_t n = 0;
  for (size_t i = 0; i < s.size(); ++i)
    for (size_t j = i + 1; j < s.size(); ++j) {
      Meeting m = meeting(s[i].first, s[i].second, s[j].first, s[j].second);
      n += m == Meeting::cross || m == Meeting::touch || m == Meeting::overlap;
    }
  return n;
}

double land(const FlatLayer& layer) {
  double sum = 0;
  for (size_t r = 0; r < layer.ring_end.size(); ++r)
    sum += signed_area(layer.ring(r), layer.ring_size(r));
  return sum;
}

}  // namespace

TEST_CASE("the side of a line is exact where rounding would decide") {
  // Shewchuk's example: points a few units in the last place from the line y = x.
  for (int i = 0; i < 64; ++i)
    for (int j = 0; j < 64; ++j) {
      Point c{0.5 + i * std::ldexp(1.0, -53), 0.5 + j * std::ldexp(1.0, -53)};
      CHECK(side_of({12, 12}, {24, 24}, c) == (c.y > c.x) - (c.y < c.x));
    }
}

namespace {

// A layer with its arcs and the order in which their vertices go.
struct Lighter {
  FlatLayer layer;
  BorderNet net;
  AreaSides sides;
  Simplifier simplifier;
  explicit Lighter(const FlatLayer& from, double shape = 0.5)
      : layer(from),
        net(border_net(layer)),
        sides(area_sides(layer, net.net)),
        simplifier(net.vertex, net.net, sides, true, shape) {}
  FlatLayer after(size_t steps) const {
    return rebuild(layer, net, simplifier.after(steps), {}).layer;
  }
  FlatLayer with_share(double share) const {
    return after(simplifier.steps_for_count(share * layer.points.size()));
  }
};

}  // namespace

TEST_CASE(
    "borders stay shared, nothing crosses that did not, and every area keeps its place in a "
    "tiling") {
  for (unsigned seed = 1; seed <= 12; ++seed) {
    FlatLayer layer = tiling(seed, 4, 24, seed % 3 ? 0.12 : 0.03);
    if (conflicts(layer)) continue;
    size_t arcs = border_net(layer).net.arcs();
    for (double shape : {0.0, 0.5, 1.0}) {
      Lighter lighter(layer, shape);
      for (double share : {0.6, 0.25, 0.05, 0.0}) {
        FlatLayer light = lighter.with_share(share);
        CHECK(conflicts(light) == 0);
        CHECK(border_net(light).net.arcs() == arcs);
        CHECK(light.features() == 16);
        // The outline moves only where vertices went; inside, what one area loses its neighbour
        // wins.
        MergedAreas whole = merge_areas(light, std::vector<int>(16, 0), 1);
        CHECK(whole.not_the_sum.empty());
        CHECK(land(whole.layer) == doctest::Approx(land(light)).epsilon(1e-12));
        CHECK(whole.layer.ring_end.size() == 1);
      }
    }
  }
}

TEST_CASE(
    "no lighter border crosses another or leaves an island behind it, and small areas keep their "
    "size") {
  size_t stays = 0;
  for (unsigned seed = 1; seed <= 20; ++seed) {
    // Rings one in another like the lines of a contour map, closer than their waves are high, and
    // islets between them.
    std::mt19937 random(seed);
    std::uniform_real_distribution<double> u(-1, 1);
    FlatLayer layer;
    double wave[3] = {u(random), u(random), u(random)};
    for (int k = 0; k < 6; ++k) {
      std::vector<Point> ring;
      for (int i = 0; i < 240; ++i) {
        double a = i * 3.14159265358979 / 120,
               r = 3 + 0.12 * k + 0.5 * std::sin(9 * a + wave[0]) * wave[1] +
                   0.4 * std::sin(23 * a) * wave[2] + 0.02 * u(random);
        ring.push_back({r * std::cos(a), r * std::sin(a)});
      }
      ring.push_back(ring.front());
      layer.add_ring(ring.data(), ring.size());
      layer.end_part(Shape::polygon);
      double a = u(random) * 3, r = 3.06 + 0.12 * k + 0.5 * std::sin(9 * a + wave[0]) * wave[1] +
                                    0.4 * std::sin(23 * a) * wave[2];
      std::vector<Point> islet = {{r * std::cos(a), r * std::sin(a)}};
      islet.push_back({islet[0].x + 0.002, islet[0].y});
      islet.push_back({islet[0].x, islet[0].y + 0.002});
      islet.push_back(islet[0]);
      layer.add_ring(islet.data(), 4);
      layer.end_part(Shape::polygon);
      layer.end_feature(Shape::multipolygon);
    }
    if (conflicts(layer)) continue;
    Lighter lighter(layer);
    for (size_t steps : {lighter.simplifier.steps() / 2, lighter.simplifier.steps()}) {
      FlatLayer light = lighter.after(steps);
      CHECK(conflicts(light) == 0);
      // Of each ring, the same rings lie around it as before.
      for (size_t inner = 0; inner < 12; ++inner)
        for (size_t outer = 0; outer < 12; outer += 2) {
          if (inner == outer) continue;
          Point p = layer.ring(inner)[0], q = light.ring(inner)[0];
          CHECK(in_ring(layer.ring(outer), layer.ring_size(outer), p.x, p.y) ==
                in_ring(light.ring(outer), light.ring_size(outer), q.x, q.y));
        }
      stays += steps == lighter.simplifier.steps() && light.points.size() > 6 * 4 + 6 * 4;
    }
  }
  CHECK(stays > 10);  // more than a triangle each, because islands are in the way
}

TEST_CASE(
    "each share is met to one vertex and is a part of every larger one, whatever stands in the "
    "way") {
  for (unsigned seed = 1; seed <= 6; ++seed) {
    FlatLayer layer = tiling(seed, 5, 40, seed % 2 ? 0.1 : 0.01);
    Lighter lighter(layer);
    double whole = static_cast<double>(layer.points.size());
    std::vector<uint8_t> last(lighter.net.net.vertex.size(), 0);
    for (double share : {0.0, 0.1, 0.2, 0.3, 0.5, 0.7, 0.9, 0.95, 1.0}) {
      size_t steps = lighter.simplifier.steps_for_count(share * whole);
      double count = static_cast<double>(lighter.after(steps).points.size());
      CHECK(std::fabs(count - std::max(share * whole, lighter.simplifier.least_count())) <= 1);
      std::vector<uint8_t> keep = lighter.simplifier.after(steps).keep;
      size_t lost = 0;
      for (size_t i = 0; i < keep.size(); ++i)
        lost += last[i] && !keep[i];
      CHECK(lost == 0);
      last = keep;
    }
  }
}

TEST_CASE("areas of very different sizes keep theirs to a tenth until nothing else can go") {
  // Large wandering cells, one of them with a fringe of islets of a millionth of its size.
  FlatLayer layer = tiling(3, 3, 60, 0.02);
  std::mt19937 random(4);
  std::uniform_real_distribution<double> u(-1, 1);
  for (int k = 0; k < 40; ++k) {
    std::vector<Point> ring;
    for (int i = 0; i < 30; ++i) {
      double a = i * 3.14159265358979 / 15, r = 0.003 * (1 + 0.2 * u(random));
      ring.push_back({10 + 0.05 * k + r * std::cos(a), 41 + r * std::sin(a)});
    }
    ring.push_back(ring.front());
    layer.add_ring(ring.data(), ring.size());
    layer.end_part(Shape::polygon);
    layer.end_feature(Shape::polygon);
  }
  Lighter lighter(layer);
  for (double share : {0.9, 0.5, 0.3}) {
    FlatLayer light = lighter.with_share(share);
    for (size_t f = 0; f < layer.features(); ++f) {
      CHECK(part_area_m2(light, f) == doctest::Approx(part_area_m2(layer, f)).epsilon(0.1));
    }
  }
  FlatLayer least = lighter.after(lighter.simplifier.steps());
  for (size_t f = 0; f < layer.features(); ++f)
    CHECK(part_area_m2(least, f) > 0);
}

TEST_CASE("closed rings stay rings, and two borders between the same places stay two") {
  // A lens: two arcs from one junction to another.
  FlatLayer layer;
  std::vector<Point> lens, rest;
  for (int i = 0; i <= 20; ++i)
    lens.push_back({i / 10.0, 0.2 * std::sin(3.14159265 * i / 20)});
  for (int i = 19; i >= 0; --i)
    lens.push_back({i / 10.0, -0.2 * std::sin(3.14159265 * i / 20)});
  lens.back() = lens.front();
  rest = {{0, 0}};
  for (int i = 19; i > 0; --i)
    rest.push_back({(20 - i) / 10.0, 0.2 * std::sin(3.14159265 * (20 - i) / 20)});
  for (size_t i = 0; i <= 20; ++i)
    rest[i < rest.size() ? i : 0] = lens[i < rest.size() ? i : 0];
  rest.push_back(lens[20]);
  rest.push_back({2, 2});
  rest.push_back({0, 2});
  rest.push_back({0, 0});
  for (auto* ring : {&lens, &rest}) {
    layer.add_ring(ring->data(), ring->size());
    layer.end_part(Shape::polygon);
    layer.end_feature(Shape::polygon);
  }
  Lighter lighter(layer);
  FlatLayer light = lighter.after(lighter.simplifier.steps());
  CHECK(std::fabs(signed_area(light.ring(0), light.ring_size(0))) > 0.01);
  CHECK(conflicts(light) == 0);
}
