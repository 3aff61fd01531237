// Symbols moved apart, labels placed, density surfaces: properties over random input, and known
// answers.
#include <algorithm>
#include <cmath>
#include <random>

#include <doctest/doctest.h>
#include "density.hpp"
#include "displace.hpp"
#include "labels.hpp"
#include "symbols.hpp"

using namespace ochre;

namespace {
std::mt19937 seeded(11);
double uniform(double low, double high) {
  return std::uniform_real_distribution<double>(low, high)(seeded);
}
}  // namespace

TEST_CASE("symbols that overlap are moved apart, no farther than allowed, and lonely ones stay") {
  for (int round = 0; round < 30; ++round) {
    std::vector<double> x, y, r;
    for (int i = 0; i < 60; ++i) {
      x.push_back(uniform(0, 100));
      y.push_back(uniform(0, 100));
      r.push_back(uniform(0.5, 4));
    }
    x.push_back(500);
    y.push_back(500);
    r.push_back(3);
    if (round == 0) x[1] = x[0], y[1] = y[0];  // two on one spot
    Places at = displace(x, y, r, 0.2, 12);
    double before = overlap_share(x, y, r, 1e300), after = overlap_share(at.x, at.y, r, 1e300);
    CHECK(after < 0.1 * before + 1e-6);
    for (size_t i = 0; i < x.size(); ++i)
      CHECK(std::hypot(at.x[i] - x[i], at.y[i] - y[i]) <= 12 + 1e-9);
    CHECK(at.x.back() == 500);
    CHECK(at.y.back() == 500);
    if (round == 0) CHECK(std::hypot(at.x[0] - at.x[1], at.y[0] - at.y[1]) > r[0]);
  }
}

TEST_CASE("of two circles that overlap the smaller one moves more, along the line between them") {
  Places at = displace({0, 3}, {0, 0}, {4, 1}, 0, 100);
  CHECK(at.y[0] == doctest::Approx(0));
  CHECK(at.y[1] == doctest::Approx(0));
  CHECK(at.x[1] - at.x[0] == doctest::Approx(5).epsilon(0.01));
  CHECK((at.x[1] - 3) == doctest::Approx(16 * -at.x[0]).epsilon(0.01));
}

TEST_CASE(
    "no label lies on another, on a symbol or off the page, and the first of two rivals wins") {
  for (int round = 0; round < 20; ++round) {
    std::vector<LabelWish> wishes;
    std::vector<Disc> discs;
    for (int i = 0; i < 150; ++i) {
      bool point = i % 2;
      double r = uniform(1, 6);
      wishes.push_back({uniform(0, 400), uniform(0, 300), uniform(10, 60), 10, point ? r + 1 : 0});
      if (point) discs.push_back({wishes.back().x, wishes.back().y, r});
    }
    std::vector<LabelPlace> at = place_labels(wishes, discs, 400, 300);
    size_t placed = 0;
    for (size_t i = 0; i < at.size(); ++i) {
      if (!at[i].placed) continue;
      ++placed;
      double x0 = at[i].x - wishes[i].width / 2, x1 = at[i].x + wishes[i].width / 2,
             y0 = at[i].y - 5, y1 = at[i].y + 5;
      CHECK((x0 >= 0 && y0 >= 0 && x1 <= 400 && y1 <= 300));
      for (size_t j = 0; j < i; ++j)
        if (at[j].placed)
          CHECK((std::fabs(at[i].x - at[j].x) >= (wishes[i].width + wishes[j].width) / 2 - 1e-9 ||
                 std::fabs(at[i].y - at[j].y) >= 10 - 1e-9));
      for (const Disc& d : discs) {
        double dx = std::max({x0 - d.x, 0.0, d.x - x1}), dy = std::max({y0 - d.y, 0.0, d.y - y1});
        CHECK(std::hypot(dx, dy) >= d.r - 1e-9);
      }
    }
    CHECK(placed > 20);
  }
  LabelWish one{50, 50, 300, 90, 0};
  std::vector<LabelPlace> rivals = place_labels({one, one}, {}, 100, 100);
  CHECK_FALSE(rivals[0].placed);  // wider than the page
  one.width = 90;
  rivals = place_labels({one, one}, {}, 100, 100);
  CHECK(rivals[0].placed);
  CHECK_FALSE(rivals[1].placed);
  CHECK(place_labels({}, {}, 100, 100).empty());
}

TEST_CASE(
    "a density surface holds the weights, is round, and has the kernel's height in its middle") {
  Grid grid;
  grid.x0 = -50;
  grid.y0 = -50;
  grid.cell = 0.5;
  grid.columns = grid.rows = 200;
  const double kPi = 3.14159265358979323846, h = 12;
  std::vector<double> one = density_surface({0.25}, {0.25}, {7}, grid, h);
  double total = 0, highest = 0;
  for (double v : one)
    total += v * grid.cell * grid.cell, highest = std::max(highest, v);
  CHECK(total == doctest::Approx(7));
  CHECK(highest == doctest::Approx(7 * 3 / (kPi * h * h)).epsilon(0.005));
  // At half the radius it is (1 - 1/4)^2 of that, in every direction; outside of the radius
  // nothing.
  auto at = [&](double x, double y) {
    return one[static_cast<size_t>((y + 50) / 0.5) * 200 + static_cast<size_t>((x + 50) / 0.5)];
  };
  for (double turn = 0; turn < 2 * kPi; turn += 0.4) {
    CHECK(at(0.25 + 6 * std::cos(turn), 0.25 + 6 * std::sin(turn)) ==
          doctest::Approx(highest * 0.5625).epsilon(0.09));
    CHECK(at(0.25 + 12.6 * std::cos(turn), 0.25 + 12.6 * std::sin(turn)) == 0);
  }
  // Many points are the sum of each; one outside of the grid still reaches into it.
  std::vector<double> x, y, w, sum(one.size(), 0);
  for (int i = 0; i < 40; ++i) {
    x.push_back(uniform(-60, 60));
    y.push_back(uniform(-60, 60));
    w.push_back(uniform(0, 3));
    std::vector<double> each = density_surface({x[i]}, {y[i]}, {w[i]}, grid, h);
    for (size_t k = 0; k < sum.size(); ++k)
      sum[k] += each[k];
  }
  std::vector<double> all = density_surface(x, y, w, grid, h);
  double off = 0;
  for (size_t k = 0; k < all.size(); ++k)
    off = std::max(off, std::fabs(all[k] - sum[k]));
  CHECK(off < 1e-12);
}
