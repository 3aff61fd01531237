// Lengths and areas on the ellipsoid against published values.
#include <doctest/doctest.h>

#include <cmath>
#include <vector>

#include "cut.hpp"
#include "geodesy.hpp"

using namespace ochre;

namespace {

// A polygon with geodesic edges as a ring of many short ones; its perimeter on the way.
std::vector<Point> geodesic_ring(const std::vector<Point>& corner, double& perimeter) {
  std::vector<Point> ring;
  perimeter = 0;
  for (size_t i = 0; i < corner.size(); ++i) {
    Point a = corner[i], b = corner[(i + 1) % corner.size()];
    Geodesic g = geodesic(a, b);
    perimeter += g.metres;
    for (int k = 0; k < 4000; ++k)
      ring.push_back(k ? geodesic_end(a, g.azimuth, g.metres * k / 4000) : a);
  }
  ring.push_back(ring.front());
  return ring;
}

double dms(double d, double m, double s) {
  return d + m / 60 + s / 3600;
}

}  // namespace

TEST_CASE("distances are the published ones, almost opposite points included") {
  // Geocentric Datum of Australia Technical Manual, chapter 4: Flinders Peak to Buninyong, GRS 80.
  Geodesic g =
      geodesic({dms(144, 25, 29.52440), -dms(37, 57, 3.72030)},
               {dms(143, 55, 35.38390), -dms(37, 39, 10.15610)}, {6378137.0, 1 / 298.257222101});
  CHECK(std::fabs(g.metres - 54972.271) < 0.001);
  CHECK(std::fabs(g.azimuth + 360 - dms(306, 52, 5.37)) < 0.01 / 3600);
  // Values published with Karney, C.F.F. (2013) Algorithms for geodesics, Journal of Geodesy 87,
  // 43-55.
  CHECK(std::fabs(geodesic({-73.8, 40.6}, {-0.5, 51.6}).metres - 5551759.400) < 0.001);
  CHECK(std::fabs(geodesic({0, 0}, {179.5, 0.5}).metres - 19936288.579) < 0.001);
  CHECK(std::fabs(geodesic({0, -30}, {179.8, 29.9}).metres - 19989832.8276) < 0.001);
  CHECK(std::fabs(geodesic({0, 0}, {180, 0}).metres - 20003931.4586) < 0.001);
  CHECK(geodesic({10, 20}, {10, 20}).metres == 0);
}

TEST_CASE("areas and perimeters of published polygons, around poles and across 180 degrees") {
  struct {
    std::vector<Point> corner;
    double perimeter, area;
  } known[] = {{{{0, 89}, {90, 89}, {180, 89}, {-90, 89}}, 631819.8745, 24952305678.0},
               {{{-1, 0}, {0, -1}, {1, 0}, {0, 1}}, 627598.2731, 24619419146.0},
               {{{0, 0}, {90, 0}, {0, 90}}, 30022685, 63758202715511.0},
               {{{-58, -63.1},
                 {-74, -72.9},
                 {-102, -71.9},
                 {-102, -74.9},
                 {-131, -74.3},
                 {-163, -77.5},
                 {163, -77.4},
                 {172, -71.7},
                 {140, -65.9},
                 {113, -65.7},
                 {88, -66.6},
                 {59, -66.9},
                 {25, -69.8},
                 {-4, -70.0},
                 {-14, -71.0},
                 {-33, -77.3},
                 {-46, -77.9},
                 {-61, -74.7}},
                16831067.893,
                13662703680020.1}};
  for (const auto& k : known) {
    double perimeter;
    std::vector<Point> ring = geodesic_ring(k.corner, perimeter);
    CHECK(perimeter == doctest::Approx(k.perimeter).epsilon(1e-7));
    CHECK(ring_area_m2(ring.data(), ring.size()) == doctest::Approx(k.area).epsilon(1e-7));
    // Cutting at any meridian keeps the area.
    FlatLayer layer;
    layer.add_ring(ring.data(), ring.size());
    layer.end_part(Shape::polygon);
    layer.end_feature(Shape::polygon);
    for (double meridian : {180.0, 10.0, -77.7}) {
      FlatLayer cut = cut_layer(layer, meridian);
      double sum = 0;
      for (size_t r = 0; r < cut.ring_end.size(); ++r)
        sum += ring_area_m2(cut.ring(r), cut.ring_size(r));
      CHECK(sum == doctest::Approx(k.area).epsilon(1e-6));
      for (size_t r = 0; r < cut.ring_end.size(); ++r) {
        double low = 1e9, high = -1e9;
        for (size_t i = 0; i < cut.ring_size(r); ++i) {
          low = std::min(low, cut.ring(r)[i].x);
          high = std::max(high, cut.ring(r)[i].x);
        }
        CHECK(std::floor((low + 1e-9 - meridian) / 360) ==
              std::floor((high - 1e-9 - meridian) / 360));  // on one side of the cut
      }
    }
  }
}
