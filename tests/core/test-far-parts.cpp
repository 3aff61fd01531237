// Which parts of the land lie far off, and where a map of the whole world is torn.
#include <doctest/doctest.h>

#include "far-parts.hpp"
#include "projection.hpp"

using namespace ochre;

namespace {

// A layer of boxes of land: west, south, east, north.
FlatLayer boxes(const std::vector<Box>& all) {
  FlatLayer layer;
  for (const Box& b : all) {
    for (Point p : {Point{b.x0, b.y0}, Point{b.x1, b.y0}, Point{b.x1, b.y1}, Point{b.x0, b.y1},
                    Point{b.x0, b.y0}})
      layer.points.push_back(p);
    layer.ring_end.push_back(layer.points.size());
    layer.part_end.push_back(layer.ring_end.size());
    layer.part_shape.push_back(Shape::polygon);
    layer.feature_end.push_back(layer.part_end.size());
  }
  return layer;
}

}  // namespace

TEST_CASE("an archipelago across the ocean is far off, islands near the coast are not") {
  // A country of twelve provinces, an island off its coast, and five specks far away.
  std::vector<Box> land;
  for (int i = 0; i < 4; ++i)
    for (int j = 0; j < 3; ++j)
      land.push_back({4.0 * i, 40 + 3.0 * j, 4.0 * i + 4, 43 + 3.0 * j});
  land.push_back({16.5, 42, 17, 42.5});
  for (int k = 0; k < 5; ++k)
    land.push_back({-70 + 1.0 * k, -20, -69.5 + 1.0 * k, -19.6});
  FarParts found = find_far_parts({boxes(land)});
  REQUIRE(found.far.size() == 1);
  CHECK(found.far[0].parts == 5);
  CHECK(found.far[0].land < 0.02);
  CHECK(found.far[0].box.x0 < -70);
  CHECK(found.far[0].box.x1 > -65.5);
  CHECK(found.share_main > 0.8);
  CHECK(found.share_all < 0.1);
}

TEST_CASE("far parts are found on both sides of 180 degrees, and none where there is no land") {
  std::vector<Box> land;
  for (int i = 0; i < 10; ++i)
    land.push_back({140 + 2.0 * i, -44, 142 + 2.0 * i, -34});
  land.push_back({-178, -30, -177.6, -29.6});  // 20 degrees on, past 180
  land.push_back({-110, 5, -109.8, 5.2});
  FarParts found = find_far_parts({boxes(land)});
  REQUIRE(found.far.size() >= 1);
  for (const FarGroup& far : found.far)
    CHECK(far.parts < 3);
  FlatLayer points;
  for (double x : {0.0, 1.0, 90.0}) {
    points.points.push_back({x, 0});
    points.ring_end.push_back(points.points.size());
    points.part_end.push_back(points.ring_end.size());
    points.part_shape.push_back(Shape::point);
    points.feature_end.push_back(points.part_end.size());
  }
  CHECK(find_far_parts({points}).far.empty());
}

TEST_CASE("the edge of a map of the world cuts the least land, whichever way a ring runs") {
  for (bool turned : {false, true}) {
    ExtentFinder world;
    auto add = [&](double w, double s, double e, double n) {
      std::vector<Point> ring = {{w, s}, {e, s}, {e, n}, {w, n}, {w, s}};
      if (turned) std::reverse(ring.begin(), ring.end());
      world.add_run(ring.data(), ring.size());
    };
    add(-170, 10, -20, 60);
    add(-15, -30, 150, 65);
    add(150, 50, 180, 70);  // land that a file cut in two at 180
    add(-180, 60, -172, 70);
    add(-180, -90, 180, -75);  // round a pole: every meridian cuts it
    // Free are 172 to 170 W and 20 to 15 W; the first make the middle that is nearest to 0.
    CHECK(world.least_cut() >= 8);
    CHECK(world.least_cut() <= 10);
    CHECK(world.fit(ProjectionKind::world).lon0() == world.least_cut());
  }
}
