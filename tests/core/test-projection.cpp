// Projections: published worked examples, there and back, and equal areas.
#include <doctest/doctest.h>

#include <cmath>
#include <random>

#include "projection.hpp"

using namespace ochre;
constexpr double kPi = 3.14159265358979323846;

TEST_CASE("inverse undoes forward") {
  std::mt19937 random(1);
  std::uniform_real_distribution<double> u(0, 1);
  const ProjectionKind kinds[] = {ProjectionKind::azimuthal,    ProjectionKind::world,
                                  ProjectionKind::conic,        ProjectionKind::transverse,
                                  ProjectionKind::web_mercator, ProjectionKind::equirectangular};
  for (int i = 0; i < 6000; ++i) {
    ProjectionKind kind = kinds[i % 6];
    double lon0 = 360 * u(random) - 180, lat0 = 160 * u(random) - 80,
           reach = kind == ProjectionKind::transverse ? 50 : 120;
    if (kind == ProjectionKind::conic) lat0 = 20 + 40 * u(random);
    bool centred = kind != ProjectionKind::world && kind != ProjectionKind::web_mercator;
    Projection p(kind, lon0, centred ? lat0 : 0, kind == ProjectionKind::conic ? lat0 - 5 : 30,
                 lat0 + 5);
    double lon = lon0 + reach * (u(random) - 0.5),
           lat = centred ? lat0 + 60 * (u(random) - 0.5) : 170 * (u(random) - 0.5);
    if (std::fabs(lat) > 85) continue;
    Point xy = p.forward(lon, lat), back = p.inverse(xy.x, xy.y);
    CHECK(std::remainder(back.x - lon, 360) == doctest::Approx(0).epsilon(1e-6));
    CHECK(std::fabs(back.y - lat) < 1e-6);
  }
}

TEST_CASE("areas on paper are areas on the ellipsoid") {
  // A cell between two meridians and two parallels has a closed form on the ellipsoid.
  auto q = [](double lat) {
    double e2 = Projection::kEcc2, e = std::sqrt(e2), s = std::sin(lat * kPi / 180);
    return (1 - e2) * (s / (1 - e2 * s * s) + std::atanh(e * s) / e);
  };
  std::mt19937 random(2);
  std::uniform_real_distribution<double> u(0, 1);
  for (int i = 0; i < 60; ++i) {
    auto kind = i % 3 == 0   ? ProjectionKind::azimuthal
                : i % 3 == 1 ? ProjectionKind::world
                             : ProjectionKind::conic;
    double w = 300 * u(random) - 150, s = 150 * u(random) - 80, d = 0.5 + 2 * u(random);
    if (kind == ProjectionKind::conic) s = 10 + 50 * u(random);
    Projection p(kind, w + 20 * u(random), kind == ProjectionKind::azimuthal ? s / 2 : 0, 25, 55);
    const int n = 200;
    std::vector<Point> ring;
    for (int k = 0; k < 4 * n; ++k) {
      double t = (k % n) / double(n);
      int side = k / n;
      ring.push_back(p.forward(w + d * (side == 0   ? t
                                        : side == 1 ? 1
                                        : side == 2 ? 1 - t
                                                    : 0),
                               s + d * (side == 0   ? 0
                                        : side == 1 ? t
                                        : side == 2 ? 1
                                                    : 1 - t)));
    }
    double area = 0;
    for (size_t k = 0; k < ring.size(); ++k) {
      const Point &a = ring[k], &b = ring[(k + 1) % ring.size()];
      area += (a.x * b.y - b.x * a.y) / 2;
    }
    double want = Projection::kAxis * Projection::kAxis / 2 * d * kPi / 180 * (q(s + d) - q(s));
    CHECK(area == doctest::Approx(want).epsilon(2e-5));
  }
}

TEST_CASE("the extent goes round the other way when the data cross 180 degrees") {
  ExtentFinder f;
  for (double lon : {178.0, 179.5, -179.0, -176.5})
    f.add(lon, -17 + lon / 1000);
  CHECK(f.west() == 178.0);
  CHECK(f.east() == doctest::Approx(183.5));
  CHECK(std::fabs(std::fabs(f.fit().lon0()) - 179.25) < 1e-9);
  CHECK(f.fit().kind() == ProjectionKind::azimuthal);
  ExtentFinder world;
  for (double lon = -180; lon < 180; lon += 10)
    for (double lat = -60; lat <= 80; lat += 10)
      world.add(lon, lat);
  CHECK(world.fit().kind() == ProjectionKind::world);
  CHECK(world.fit().lon0() == 0);
}
