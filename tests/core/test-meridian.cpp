// What steps over 180° or goes around a pole: areas, extents, cutting, sewing, projecting, merging,
// labels. Each file's way of drawing one shape gives the same shape.
#include <doctest/doctest.h>

#include <cmath>
#include <random>

#include "cut.hpp"
#include "geodesy.hpp"
#include "label-point.hpp"
#include "locate.hpp"
#include "merge.hpp"
#include "prepare-layer.hpp"
#include "rings.hpp"
#include "sew.hpp"

using namespace ochre;

namespace {

using Ring = std::vector<Point>;
constexpr double kPi = 3.14159265358979323846;

FlatLayer polygons(const std::vector<std::vector<Ring>>& features) {
  FlatLayer layer;
  for (const auto& rings : features) {
    for (const Ring& r : rings)
      layer.add_ring(r.data(), r.size());
    layer.end_part(Shape::polygon);
    layer.end_feature(Shape::polygon);
  }
  return layer;
}

// A wavy coast around a pole, from longitude -180 on, the first point not repeated.
Ring coast(double pole, double lat, int n) {
  Ring out;
  for (int i = 0; i < n; ++i) {
    double lon = -180 + 360.0 * i / n;
    out.push_back(
        {lon, pole * (lat + 4 * std::sin(3 * lon * kPi / 180) + std::cos(11 * lon * kPi / 180))});
  }
  return out;
}

Ring closed(Ring r) {
  r.push_back(r.front());
  return r;
}

// The ways in which files draw land around a pole.
std::vector<std::vector<Ring>> ways_round_pole(double pole, double lat) {
  Ring c = coast(pole, lat, 360), down = c, single = c, back(c.rbegin(), c.rend());
  Point first = c.front();
  for (Ring* r : {&down, &single})
    r->push_back({180, first.y});
  down.push_back({180, pole * 90});
  down.push_back({-180, pole * 90});
  down.push_back(first);
  single.push_back({0, pole * 90});
  single.push_back(first);
  Ring dense = c;
  dense.push_back({180, first.y});
  for (int i = 0; i <= 36; ++i)
    dense.push_back({180 - 10.0 * i, pole * 90});
  dense.push_back(first);
  Ring cap;
  for (int i = 0; i <= 36; ++i)
    cap.push_back({-180 + 10.0 * i, pole * 90});
  cap.push_back(cap.front());
  Ring turned = c;
  std::rotate(turned.begin(), turned.begin() + 100, turned.end());
  return {{closed(c)},
          {closed(back)},
          {closed(turned)},
          {down},
          {Ring(down.rbegin(), down.rend())},
          {single},
          {dense},
          {cap, closed(c)},
          {closed(c), cap}};
}

double total(const FlatLayer& layer) {
  double sum = 0;
  for (size_t p = 0; p < layer.part_end.size(); ++p)
    sum += part_area_m2(layer, p);
  return sum;
}

// The area of what a projected layer fills, drawn by the even-odd rule.
double filled(const FlatLayer& flat) {
  double sum = 0;
  for (size_t p = 0; p < flat.part_end.size(); ++p)
    for (size_t r = flat.first_ring(p); r < flat.part_end[p]; ++r) {
      double a = std::fabs(signed_area(flat.ring(r), flat.ring_size(r)));
      sum += r == flat.first_ring(p) ? a : -a;
    }
  return sum;
}

}  // namespace

TEST_CASE(
    "land around a pole has one area, whichever way a file draws it, and it is never negative") {
  for (double pole : {-1.0, 1.0}) {
    double want = 0;
    for (const auto& rings : ways_round_pole(pole, 70)) {
      FlatLayer layer = polygons({rings});
      double area = part_area_m2(layer, 0);
      if (want == 0) want = area;
      CHECK(area > 0);
      CHECK(area == doctest::Approx(want).epsilon(1e-9));
      CHECK(total(cut_layer(layer, 180)) == doctest::Approx(want).epsilon(1e-9));
      CHECK(total(cut_layer(layer, -33)) == doctest::Approx(want).epsilon(1e-4));
      CHECK(total(sew_layer(layer)) == doctest::Approx(want).epsilon(1e-9));
    }
    // A band of sea around it: two rings about one pole, and across the equator.
    for (double south : {40.0, -50.0}) {
      Ring inner = closed(coast(pole, 80, 180)), outer = closed(coast(pole, south, 180));
      FlatLayer band = polygons({{outer, inner}}), other = polygons({{inner, outer}});
      double north = ring_area_m2(inner.data(), inner.size()), whole = 5.10065622e14;
      double cap = std::fabs(ring_area_m2(outer.data(), outer.size())), hole = std::fabs(north);
      double between = south > 0 ? cap - hole : whole - cap - hole;
      CHECK(part_area_m2(band, 0) == doctest::Approx(between).epsilon(1e-6));
      CHECK(part_area_m2(other, 0) == doctest::Approx(between).epsilon(1e-6));
    }
  }
}

TEST_CASE(
    "land around a pole fills its area on azimuthal maps from anywhere, also on the far side, "
    "without a seam") {
  for (double pole : {-1.0, 1.0})
    for (const auto& rings : ways_round_pole(pole, 72)) {
      FlatLayer layer = polygons({rings});
      double want = part_area_m2(layer, 0);
      for (double lat0 : {-90.0, -89.9999, -35.0, 0.0, 60.0, 90.0})
        for (double lon0 : {-180.0, 0.0, 77.0, 180.0}) {
          Projection p(ProjectionKind::azimuthal, lon0, lat0);
          PreparedLayer flat = prepare_layer(layer, p, {});
          double far = 0;
          for (const Point& q : flat.layer.points)
            far = std::max(far, std::hypot(q.x, q.y));
          CHECK(far < 1.31e7);
          CHECK(filled(flat.layer) ==
                doctest::Approx(want).epsilon(lat0 * pole < -80 ? 5e-3 : 1e-3));
        }
    }
}

TEST_CASE(
    "an area over 180 degrees is one shape, whether cut there or not, and its frame is small") {
  // 170 E to 170 W, 10 S to 20 N, once uncut, once with a step of 360 degrees at the meridian, once
  // in two parts.
  Ring uncut = {{170, -10}, {-170, -10}, {-170, 20}, {170, 20}, {170, -10}};
  Ring stepped = {{170, -10}, {180, -10}, {-180, -10}, {-170, -10}, {-170, 20},
                  {-180, 20}, {180, 20},  {170, 20},   {170, -10}};
  Ring west = {{170, -10}, {180, -10}, {180, 4}, {180, 20}, {170, 20}, {170, -10}},
       east = {{-180, -10}, {-170, -10}, {-170, 20}, {-180, 20}, {-180, -10}};
  FlatLayer parts;
  for (const Ring& r : {west, east}) {
    parts.add_ring(r.data(), r.size());
    parts.end_part(Shape::polygon);
  }
  parts.end_feature(Shape::multipolygon);
  double want = 20 * kPi / 180 * 6371007.1809 * 6371007.1809 *
                (std::sin(20 * kPi / 180) + std::sin(10 * kPi / 180));
  for (const FlatLayer& layer : {polygons({{uncut}}), polygons({{stepped}}), parts}) {
    ExtentFinder extent;
    for (size_t r = 0; r < layer.ring_end.size(); ++r)
      extent.add_run(layer.ring(r), layer.ring_size(r));
    CHECK(extent.west() == 170);
    CHECK(extent.east() == doctest::Approx(190));
    CHECK(total(layer) == doctest::Approx(want).epsilon(0.006));
    Projection p = extent.fit();
    CHECK(std::fabs(std::fabs(p.lon0()) - 180) < 1e-9);
    PreparedLayer flat = prepare_layer(layer, p, {});
    CHECK(flat.layer.part_end.size() == 1);
    CHECK(filled(flat.layer) == doctest::Approx(total(layer)).epsilon(1e-3));
    // No point of the coast lies on the meridian but where it crosses that.
    size_t on = 0;
    for (const Point& q : flat.layer.points)
      on += std::fabs(q.x) < 1;
    CHECK(on <= 4);
    // It reaches from one edge to the other of a map that is torn elsewhere, and is cut at the
    // middle of one torn there.
    for (double lon0 : {180.0, 0.0, 30.0}) {
      PreparedLayer world = prepare_layer(layer, Projection(ProjectionKind::world, lon0, 0), {});
      CHECK(world.layer.part_end.size() == (lon0 == 0 ? 2 : 1));
      CHECK(filled(world.layer) == doctest::Approx(total(layer)).epsilon(1e-3));
    }
    BorderLines around = border_lines(layer, {0}, true);
    double length = 0;
    for (size_t r = 0; r < around.lines.ring_end.size(); ++r)
      length += run_length_m(around.lines.ring(r), around.lines.ring_size(r));
    CHECK(length == doctest::Approx(run_length_m(uncut.data(), uncut.size())).epsilon(0.003));
    AreaLocator locator(layer);
    for (double lon : {175.0, 180.0, -180.0, -175.0, 185.0})
      CHECK(locator.find(lon, 5) == 0);
    for (double lon : {169.0, -169.0, 0.0})
      CHECK(locator.find(lon, 5) == -1);
  }
}

TEST_CASE("a whole world in one row is a band, not nothing") {
  FlatLayer box = polygons({{{{-180, -60}, {180, -60}, {180, 60}, {-180, 60}, {-180, -60}}}});
  CHECK(part_area_m2(box, 0) == doctest::Approx(5.10065622e14 * 0.866).epsilon(0.002));
  CHECK(filled(prepare_layer(box, Projection(ProjectionKind::world, 0, 0), {}).layer) ==
        doctest::Approx(part_area_m2(box, 0)).epsilon(1e-3));
}

TEST_CASE(
    "a point on the border of the outermost area is in it, and on a shared border in one of the "
    "two") {
  FlatLayer layer = polygons(
      {{{{0, 0}, {4, 0}, {4, 4}, {0, 4}, {0, 0}}}, {{{4, 0}, {8, 0}, {8, 4}, {4, 4}, {4, 0}}}});
  AreaLocator locator(layer);
  for (const Point& p : layer.points)
    CHECK(locator.find(p.x, p.y) >= 0);
  for (double t : {0.1, 1.0, 2.5, 3.9}) {
    CHECK(locator.find(t, 4) == 0);
    CHECK(locator.find(t, 0) == 0);
    CHECK(locator.find(8, t) == 1);
    CHECK(locator.find(0, t) == 0);
    CHECK(locator.find(4, t) >= 0);
  }
  CHECK(locator.find(4, 4.0000001) == -1);
}

TEST_CASE("a merged area has the sum of its parts, or its group is named") {
  std::mt19937 random(5);
  std::uniform_real_distribution<double> u(0, 1);
  Ring a = {{0, 0}, {4, 0}, {4, 4}, {0, 4}, {0, 0}}, b = {{4, 0}, {8, 0}, {8, 4}, {4, 4}, {4, 0}};
  Ring bow = {{4, 0}, {8, 4}, {8, 0}, {4, 4}, {4, 0}},
       over = {{3, 0}, {8, 0}, {8, 4}, {3, 4}, {3, 0}};
  CHECK(merge_areas(polygons({{a}, {b}}), {0, 0}, 1).not_the_sum.empty());
  CHECK(merge_areas(polygons({{a}, {b}, {b}}), {0, 0, 0}, 1).not_the_sum == std::vector<int>{0});
  CHECK(merge_areas(polygons({{a}, {b}, {a}, {b}}), {0, 0, 1, 1}, 2).not_the_sum.empty());
  // Whatever quadrilaterals come, crossed, turned or laid over each other: nothing goes without a
  // word.
  for (int round = 0; round < 3000; ++round) {
    std::vector<std::vector<Ring>> features;
    for (int f = 0; f < 4; ++f) {
      Ring r;
      for (int k = 0; k < 4; ++k)
        r.push_back({std::floor(u(random) * 6), std::floor(u(random) * 6)});
      features.push_back({closed(r)});
    }
    FlatLayer layer = polygons(features);
    MergedAreas merged = merge_areas(layer, {0, 0, 0, 0}, 1);
    double sum = total(layer);
    bool same = std::fabs(total(merged.layer) - sum) <= 1e-9 * sum;
    CHECK(same == merged.not_the_sum.empty());
  }
  CHECK(total(merge_areas(polygons({{a}, {bow}}), {0, 0}, 1).layer) >= 0);
  CHECK(merge_areas(polygons({{a}, {over}}), {0, 0}, 1)
            .not_the_sum.empty());  // both are there, one over the other
}

TEST_CASE("the label of a large area stands where a search over the globe finds the most room") {
  auto sphere_km = [](Point a, Point b) {
    double s = std::pow(std::sin((b.y - a.y) * kPi / 360), 2) +
               std::cos(a.y * kPi / 180) * std::cos(b.y * kPi / 180) *
                   std::pow(std::sin((b.x - a.x) * kPi / 360), 2);
    return 2 * 6371.0088 * std::asin(std::sqrt(s));
  };
  std::mt19937 random(9);
  std::uniform_real_distribution<double> u(0, 1);
  for (int round = 0; round < 12; ++round) {
    Point middle{360 * u(random) - 180, 120 * u(random) - 60};
    Ring ring;
    double wide = 8 + 40 * u(random), high = 5 + 20 * u(random);
    for (int i = 0; i < 24; ++i) {
      double a = i * kPi / 12, r = 0.6 + 0.4 * u(random), y = middle.y + high * r * std::sin(a);
      ring.push_back({std::remainder(middle.x + wide * r * std::cos(a), 360),
                      std::max(-85.0, std::min(85.0, y))});
    }
    FlatLayer layer = polygons({{closed(ring)}});
    LabelPoint label = label_point(layer, 0);
    AreaLocator locator(layer);
    CHECK(locator.find(label.at.x, label.at.y) == 0);
    FlatLayer dense = bend_edges(bend_edges(layer));
    auto room = [&](Point p) {
      double best = 1e9;
      for (size_t i = 0; i + 1 < dense.points.size(); ++i) {
        Point a = dense.points[i], b = dense.points[i + 1];
        for (int k = 0; k < 4; ++k) {
          double t = k / 4.0;
          best = std::min(best, sphere_km(p, {a.x + t * std::remainder(b.x - a.x, 360),
                                              a.y + t * (b.y - a.y)}));
        }
      }
      return best;
    };
    double best = 0;
    for (int i = 0; i <= 50; ++i)
      for (int k = 0; k <= 50; ++k) {
        Point p{std::remainder(middle.x + wide * (i / 25.0 - 1), 360),
                middle.y + high * (k / 25.0 - 1)};
        if (locator.find(p.x, p.y) == 0) best = std::max(best, room(p));
      }
    CHECK(label.metres / 1000 == doctest::Approx(room(label.at)).epsilon(0.02));
    CHECK(label.metres / 1000 > 0.98 * best);
  }
  // Around a pole: the pole itself, when the coast is a parallel.
  Ring parallel;
  for (int i = 0; i < 90; ++i)
    parallel.push_back({-180 + 4.0 * i, -70});
  LabelPoint pole = label_point(polygons({{closed(parallel)}}), 0);
  CHECK(pole.at.y < -89.5);
  CHECK(pole.metres == doctest::Approx(geodesic({0, -90}, {0, -70}).metres).epsilon(0.02));
}
