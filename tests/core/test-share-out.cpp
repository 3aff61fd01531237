// Work that is shared out to cores is the same work.
#include <doctest/doctest.h>

#include <mutex>
#include <random>
#include <set>
#include <stdexcept>

#include "label-point.hpp"
#include "locate.hpp"
#include "share-out.hpp"

using namespace ochre;

namespace {
struct Cores {
  explicit Cores(int n) { cores_allowed = n; }
  ~Cores() { cores_allowed = 2; }
};

FlatLayer squares(int n) {
  FlatLayer layer;
  for (int i = 0; i < n * n; ++i) {
    double x = i % n, y = i / n;
    std::vector<Point> ring = {{x, y}, {x + 0.9, y}, {x + 0.9, y + 0.7}, {x, y + 0.7}, {x, y}};
    layer.add_ring(ring.data(), ring.size());
    layer.end_part(Shape::polygon);
    layer.end_feature(Shape::polygon);
  }
  return layer;
}
}  // namespace

TEST_CASE("every number is worked on once, whatever the cores") {
  for (int cores : {1, 2, 7}) {
    Cores set(cores);
    std::vector<int> seen(10007, 0);
    share_out(seen.size(), 10, [&](size_t from, size_t to) {
      for (size_t i = from; i < to; ++i)
        ++seen[i];
    });
    CHECK(std::set<int>(seen.begin(), seen.end()) == std::set<int>{1});
  }
  share_out(0, 10, [](size_t, size_t) { FAIL("there is nothing to do"); });
}

TEST_CASE("what a piece throws reaches the caller, and only one thread is heard") {
  static int heard;
  heard = 0;
  pulse_listener = [] {
    ++heard;
  };
  CHECK_THROWS_WITH(share_out(100000, 10,
                              [](size_t from, size_t) {
                                pulse();
                                if (from == 5000) throw std::runtime_error("five thousand");
                              }),
                    "five thousand");
  pulse_listener = [] {
    throw std::runtime_error("stop");
  };
  CHECK_THROWS_WITH(share_out(100000, 10,
                              [](size_t, size_t) {
                                for (int k = 0; k < 300; ++k)
                                  pulse();
                              }),
                    "stop");
  pulse_listener = nullptr;
}

TEST_CASE("points and label points are those of one core") {
  FlatLayer layer = squares(40);
  std::mt19937 random(3);
  std::uniform_real_distribution<double> u(-1, 41);
  std::vector<double> x(30000), y(x.size());
  for (size_t i = 0; i < x.size(); ++i) {
    x[i] = u(random);
    y[i] = u(random);
  }
  x[7] = NAN;
  AreaLocator locator(layer);
  std::vector<int> many(x.size()), one(x.size());
  locator.find_all(x.data(), y.data(), x.size(), many.data());
  auto room = label_points(layer);
  Cores single(1);
  locator.find_all(x.data(), y.data(), x.size(), one.data());
  CHECK(many == one);
  for (size_t i = 0; i < 500; ++i) {
    // A second computation: the square that a place is in.
    double fx = x[i] - std::floor(x[i]), fy = y[i] - std::floor(y[i]);
    bool in = x[i] >= 0 && y[i] >= 0 && x[i] < 40 && y[i] < 40 && fx < 0.9 && fy < 0.7;
    CHECK(one[i] == (in ? int(std::floor(y[i])) * 40 + int(std::floor(x[i])) : -1));
  }
  auto alone = label_points(layer);
  for (size_t i = 0; i < room.size(); ++i)
    CHECK((room[i].metres == alone[i].metres && room[i].at.x == alone[i].at.x));
}
