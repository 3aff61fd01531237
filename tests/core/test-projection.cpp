// Projections: published worked examples, there and back, and equal areas.
#include <doctest/doctest.h>

#include <cmath>
#include <random>

#include "projection.hpp"

using namespace ochre;
constexpr double kPi = 3.14159265358979323846;

TEST_CASE("Snyder's worked examples for the azimuthal equal-area projection") {
  // Snyder (1987), page 332: a sphere of radius 3, centre 40 N 100 W, point 20 S 100 E.
  Projection sphere(ProjectionKind::azimuthal, -100, 40, 0, 0, 3.0, 0.0);
  Point p = sphere.forward(100, -20);
  CHECK(p.x == doctest::Approx(-4.2339303).epsilon(1e-7));
  CHECK(p.y == doctest::Approx(4.0257775).epsilon(1e-7));
  // Page 333: Clarke 1866, centre 40 N 100 W, point 30 N 110 W.
  Projection clarke(ProjectionKind::azimuthal, -100, 40, 0, 0, 6378206.4, 0.00676866);
  p = clarke.forward(-110, 30);
  CHECK(p.x == doctest::Approx(-965932.1).epsilon(1e-7));
  CHECK(p.y == doctest::Approx(-1056814.9).epsilon(1e-7));
}

TEST_CASE("Snyder's worked examples for the other projections") {
  auto near = [](Point p, double x, double y) {
    return std::fabs(p.x - x) < 0.06 && std::fabs(p.y - y) < 0.06;
  };
  // Page 335: azimuthal at the pole, International ellipsoid.
  CHECK(near(
      Projection(ProjectionKind::azimuthal, -100, 90, 0, 0, 6378388.0, 0.00672267).forward(5, 80),
      1077459.7, 288704.5));
  // Page 292: equal-area conic, Clarke 1866; page 291: on the unit sphere.
  CHECK(near(Projection(ProjectionKind::conic, -96, 23, 29.5, 45.5, 6378206.4, 0.00676866)
                 .forward(-75, 35),
             1885472.7, 1535925.0));
  Point p = Projection(ProjectionKind::conic, -96, 23, 29.5, 45.5, 1, 0).forward(-75, 35);
  CHECK(p.x == doctest::Approx(0.2952720).epsilon(1e-6));
  CHECK(p.y == doctest::Approx(0.2416774).epsilon(1e-6));
  // Page 269: transverse Mercator, Clarke 1866, scale 0.9996 at the middle meridian.
  p = Projection(ProjectionKind::transverse, -75, 0, 0, 0, 6378206.4, 0.00676866)
          .forward(-73.5, 40.5);
  CHECK(near({0.9996 * p.x, 0.9996 * p.y}, 127106.5, 4484124.4));
  // Page 266: Mercator on the unit sphere.
  p = Projection(ProjectionKind::web_mercator, -180, 0, 0, 0, 1, 0).forward(-75, 35);
  CHECK(p.x == doctest::Approx(1.8325957).epsilon(1e-6));
  CHECK(p.y == doctest::Approx(0.6528366).epsilon(1e-6));
}

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

TEST_CASE("the projection is picked from the extent") {
  auto pick = [](double w, double s, double e, double n) {
    ExtentFinder f;
    for (int i = 0; i <= 20; ++i)
      for (int j = 0; j <= 20; ++j)
        f.add(w + (e - w) * i / 20, s + (n - s) * j / 20);
    return f.fit().kind();
  };
  CHECK(pick(5, 45, 10, 50) == ProjectionKind::azimuthal);
  CHECK(pick(-30, 40, 40, 55) == ProjectionKind::conic);
  CHECK(pick(-72, -50, -68, -20) == ProjectionKind::transverse);
  CHECK(pick(-180, 62, 175, 83) == ProjectionKind::azimuthal);
  CHECK(pick(-170, -60, 175, 80) == ProjectionKind::world);
}
