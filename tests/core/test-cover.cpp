// The cell of a point must give the area that the point itself is in, for any point, also where its
// cell is reckoned with an error.
#include <doctest/doctest.h>

#include <algorithm>
#include <cmath>
#include <iomanip>
#include <map>
#include <random>
#include <sstream>

#include "cover.hpp"
#include "locate.hpp"

using namespace ochre;

namespace {

// n by n areas whose shared borders are jagged; every seventh is missing, the first has a hole.
FlatLayer jagged(int n, double x0, double y0, double step, std::mt19937& draw) {
  std::uniform_real_distribution<double> jump(-0.2, 0.2);
  constexpr int kParts = 9;
  std::map<std::pair<int, int>, Point> known;
  auto corner = [&](int i, int j) {
    auto [at, fresh] = known.try_emplace({i, j}, Point{0, 0});
    if (fresh)
      at->second = {x0 + step * (i + jump(draw) * kParts) / kParts,
                    y0 + step * (j + jump(draw) * kParts) / kParts};
    return at->second;
  };
  FlatLayer layer;
  for (int f = 0; f < n * n; ++f) {
    const int i = f % n * kParts, j = f / n * kParts;
    if (f % 7 == 3) {
      layer.end_feature(static_cast<Shape>(0));
      continue;
    }
    std::vector<Point> ring;
    for (int k = 0; k < kParts; ++k)
      ring.push_back(corner(i + k, j));
    for (int k = 0; k < kParts; ++k)
      ring.push_back(corner(i + kParts, j + k));
    for (int k = 0; k < kParts; ++k)
      ring.push_back(corner(i + kParts - k, j + kParts));
    for (int k = 0; k < kParts; ++k)
      ring.push_back(corner(i, j + kParts - k));
    ring.push_back(ring.front());
    layer.add_ring(ring.data(), ring.size());
    if (f == 0) {
      const double x = x0 + step / 2, y = y0 + step / 2, r = step / 30;
      const Point hole[] = {{x, y}, {x, y + r}, {x + r, y}, {x, y}};
      layer.add_ring(hole, 4);
    }
    layer.end_part(Shape::polygon);
    layer.end_feature(Shape::polygon);
  }
  return layer;
}

double written(double number) {
  return std::stod((std::ostringstream() << std::setprecision(15) << number).str());
}

// What the levels say of a point whose place in the last grid is off by `error` cells.
int by_cells(const Cover& cover, Point p, double error) {
  const Cover::Level& last = cover.levels.back();
  const double at_x = (p.x - cover.box.x0) + error / last.per_x;
  const double at_y = (p.y - cover.box.y0) + error / last.per_y;
  for (const Cover::Level& level : cover.levels) {
    const auto column = static_cast<int64_t>(std::floor(at_x * level.per_x));
    const int64_t cell = column + level.side * static_cast<int64_t>(std::floor(at_y * level.per_y));
    const auto at = std::lower_bound(level.cell.begin(), level.cell.end(), cell);
    REQUIRE(at != level.cell.end());
    REQUIRE(*at == cell);
    const int area = level.area[static_cast<size_t>(at - level.cell.begin())];
    if (area != Cover::kBorder) return area;
  }
  return Cover::kBorder;
}

}  // namespace

TEST_CASE("a point's cell gives the area of the point") {
  std::mt19937 draw(7);
  for (double points : {5e3, 1e6, 4e7}) {
    const FlatLayer layer = jagged(10, points > 1e6 ? 171.3 : -3.1, -4.7, 0.83, draw);
    const Cover cover = cover_areas(layer, points);
    REQUIRE(!cover.levels.empty());
    const AreaLocator locator(layer);
    double cells = 0;
    for (const Cover::Level& level : cover.levels) {
      cells += static_cast<double>(level.cell.size());
      // What is written into a query says it exactly.
      CHECK(written(level.per_x) == level.per_x);
      CHECK(written(level.per_y) == level.per_y);
      // As short keys of an engine, with the marks of those that are in none.
      if (level.side < 256) CHECK(level.side * level.side + 2 < 1 << 16);
    }
    CHECK(cells < points);
    const Cover::Level& last = cover.levels.back();
    const auto side = static_cast<double>(last.side);
    const double wide = side / last.per_x, high = side / last.per_y;
    std::uniform_real_distribution<double> part(0, 1), error(-9e-7, 9e-7);
    int borders = 0;
    const int n = 200000;
    for (int i = 0; i < n; ++i) {
      Point p{cover.box.x0 + part(draw) * wide, cover.box.y0 + part(draw) * high};
      // Some on vertices and beside them, some on the edges of cells.
      if (i % 5 == 1) p = layer.points[static_cast<size_t>(i) % layer.points.size()];
      if (i % 10 == 6) p.x += error(draw);
      if (i % 5 == 2) p.x = cover.box.x0 + std::floor(1 + part(draw) * (side - 2)) / last.per_x;
      if (std::fabs(p.x) >= 180) continue;
      const int said = by_cells(cover, p, error(draw));
      if (said == Cover::kBorder) {
        borders += i % 5 == 0;
        continue;
      }
      const int is = locator.find(p.x, p.y);
      if (said != is) FAIL("a point is in ", is, " and its cell says ", said);
    }
    // Of forty million points less than a hundredth is left.
    if (points > 1e7) CHECK(borders < n / 5 / 60);
  }
}

TEST_CASE("few points, and areas without extent, have no cells or few") {
  std::mt19937 draw(1);
  CHECK(cover_areas(jagged(3, 0, 0, 1, draw), 4000).levels.empty());
  FlatLayer flat;
  const Point line[] = {{1, 1}, {2, 1}, {1, 1}};
  flat.add_ring(line, 3);
  flat.end_part(Shape::polygon);
  flat.end_feature(Shape::polygon);
  for (const FlatLayer& layer : {FlatLayer(), flat}) {
    const Cover cover = cover_areas(layer, 1e9);
    REQUIRE(!cover.levels.empty());
    for (int area : cover.levels.back().area)
      CHECK(area < 0);
  }
}
