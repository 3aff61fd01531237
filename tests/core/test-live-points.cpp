// Points that go one by one, and items by weight, against slow and simple ways.
#include <doctest/doctest.h>

#include <cmath>
#include <limits>
#include <random>
#include <set>

#include "least-first.hpp"
#include "live-points.hpp"

using namespace ochre;

TEST_CASE("a box finds what is left in it, as looking at every point does") {
  std::mt19937 random(11);
  for (int world = 0; world < 40; ++world) {
    // Clouds, lines, a single place, and points that are no numbers.
    const size_t n = world % 5 == 0 ? 3 : 600;
    std::uniform_real_distribution<double> u(-50, 50);
    std::vector<Point> points(n);
    for (size_t i = 0; i < n; ++i) {
      points[i] = {u(random), world % 4 == 1 ? 7 : u(random) * (world % 3 ? 1 : 1e-6)};
      if (world % 4 == 2) points[i] = {1, 2};
    }
    if (world % 4 == 3) points[1].x = std::numeric_limits<double>::quiet_NaN();
    LivePoints live(points);
    std::set<uint32_t> left;
    for (uint32_t i = 0; i < n; ++i)
      left.insert(i);
    for (int step = 0; step < 150; ++step) {
      const uint32_t gone = static_cast<uint32_t>(random() % n);
      live.remove(gone);
      left.erase(gone);
      const double x = u(random), y = u(random), side = std::fabs(u(random)) * (step % 2 ? 0.1 : 2);
      const Box box{x, y, x + side, y + side};
      std::set<uint32_t> found, known;
      live.search(box, [&](uint32_t i) {
        CHECK(found.insert(i).second);
        return true;
      });
      for (uint32_t i : left) {
        const Point& p = points[i];
        if (p.x >= box.x0 && p.x <= box.x1 && p.y >= box.y0 && p.y <= box.y1) known.insert(i);
      }
      CHECK(found == known);
      int seen = 0;
      live.search(box, [&](uint32_t) { return ++seen < 2; });
      CHECK(seen == static_cast<int>(std::min<size_t>(2, known.size())));
    }
  }
  LivePoints none((std::vector<Point>()));
  none.search({0, 0, 1, 1}, [](uint32_t) {
    FAIL("nothing is there");
    return true;
  });
}

TEST_CASE("the lightest comes first, whatever was put, changed and taken before") {
  std::mt19937 random(12);
  LeastFirst heap(200);
  std::set<std::pair<double, uint32_t>> known;
  std::vector<double> weight(200, -1);
  for (int step = 0; step < 20000; ++step) {
    if (random() % 3 || known.empty()) {
      const uint32_t item = static_cast<uint32_t>(random() % 200);
      known.erase({weight[item], item});
      weight[item] = static_cast<double>(random() % 50);
      known.insert({weight[item], item});
      heap.put(item, weight[item]);
      CHECK(heap.has(item));
    } else {
      const LeastFirst::Entry least = heap.pop();
      CHECK(*known.begin() == std::make_pair(least.weight, least.item));
      known.erase(known.begin());
      CHECK_FALSE(heap.has(least.item));
    }
    CHECK(heap.empty() == known.empty());
  }
}
