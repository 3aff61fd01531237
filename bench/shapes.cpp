// A tiling of cells whose borders wander, like districts: finding its topology and simplifying it
// to 5 % of its vertices, against std::sort of as many doubles; label points and areas.
#include <algorithm>
#include <chrono>
#include <cmath>
#include <cstdio>
#include <cstring>
#include <random>

#include "geodesy.hpp"
#include "label-point.hpp"
#include "locate.hpp"
#include "simplify.hpp"

using namespace ochre;
using Clock = std::chrono::steady_clock;

static double seconds(Clock::time_point from) {
  return std::chrono::duration<double>(Clock::now() - from).count();
}

// n by n cells with `steps` vertices on each side.
static FlatLayer tiling(int n, int steps) {
  std::mt19937 random(1);
  std::uniform_real_distribution<double> u(-1, 1);
  auto side = [&](Point p, Point q) {
    std::vector<Point> e;
    double off = 0;
    for (int k = 0; k < steps; ++k) {
      double t = double(k) / steps;
      off = k ? 0.9 * off + 0.03 * u(random) * std::sin(3.14159 * t) : 0;
      e.push_back(
          {p.x + t * (q.x - p.x) - off * (q.y - p.y), p.y + t * (q.y - p.y) + off * (q.x - p.x)});
    }
    e.push_back(q);
    return e;
  };
  double size = 40.0 / n;
  auto corner = [&](int i, int j) {
    return Point{i * size, 30 + j * size * 0.7};
  };
  std::vector<std::vector<Point>> across((n + 1) * n), up((n + 1) * n);
  for (int i = 0; i < n; ++i)
    for (int j = 0; j <= n; ++j) {
      across[i * (n + 1) + j] = side(corner(i, j), corner(i + 1, j));
      up[i * (n + 1) + j] = side(corner(j, i), corner(j, i + 1));
    }
  FlatLayer layer;
  for (int i = 0; i < n; ++i)
    for (int j = 0; j < n; ++j) {
      std::vector<Point> ring;
      auto add = [&](const std::vector<Point>& e, bool back) {
        for (size_t k = 0; k + 1 < e.size(); ++k)
          ring.push_back(e[back ? e.size() - 1 - k : k]);
      };
      add(across[i * (n + 1) + j], false);
      add(up[j * (n + 1) + i + 1], false);
      add(across[i * (n + 1) + j + 1], true);
      add(up[j * (n + 1) + i], true);
      ring.push_back(ring.front());
      layer.add_ring(ring.data(), ring.size());
      layer.end_part(Shape::polygon);
      layer.end_feature(Shape::polygon);
    }
  return layer;
}

static void topology() {
  double x[4], y[4];
  const int cells[] = {32, 45, 63, 90};
  for (int k = 0; k < 4; ++k) {
    FlatLayer layer = tiling(cells[k], 62);
    std::vector<double> best(3, 1e9), ratio;
    size_t left = 0;
    for (int run = 0; run < 5; ++run) {
      std::mt19937_64 random(run);
      std::vector<double> values(layer.points.size());
      for (double& v : values)
        v = std::ldexp(double(random()), -64);
      auto t = Clock::now();
      std::sort(values.begin(), values.end());
      double floor = seconds(t);
      t = Clock::now();
      BorderNet b = border_net(layer);
      Simplifier s(b.vertex, b.net, area_sides(layer, b.net), true, kShapeWeight);
      SimplifiedLayer light =
          rebuild(layer, b, s.after(s.steps_for_kept(0.05 * double(b.vertex.size()))), {});
      double ours = seconds(t);
      left = light.layer.points.size();
      best[0] = std::min(best[0], floor);
      best[1] = std::min(best[1], ours);
      ratio.push_back(ours / floor);
    }
    std::sort(ratio.begin(), ratio.end());
    double n = layer.points.size();
    std::printf(
        "%9.0f vertices to %6zu: sort %.3f s, topology and simplification %.3f s, ratio, median of "
        "5 pairs: %.1f (at most 10)\n",
        n, left, best[0], best[1], ratio[2]);
    x[k] = std::log(n * std::log(n));
    y[k] = std::log(best[1]);
  }
  double mx = 0, my = 0, sxy = 0, sxx = 0;
  for (int k = 0; k < 4; ++k) {
    mx += x[k] / 4;
    my += y[k] / 4;
  }
  for (int k = 0; k < 4; ++k) {
    sxy += (x[k] - mx) * (y[k] - my);
    sxx += (x[k] - mx) * (x[k] - mx);
  }
  std::printf("time grows as (n log n) to the power %.2f over these sizes (1 is n log n)\n",
              sxy / sxx);
}

static void labels() {
  FlatLayer layer = tiling(142, 25);
  double best[2] = {1e9, 1e9}, room = 0, land = 0;
  for (int run = 0; run < 3; ++run) {
    auto t = Clock::now();
    for (size_t f = 0; f < layer.features(); ++f)
      room += label_point(layer, f).metres;
    best[0] = std::min(best[0], seconds(t));
    t = Clock::now();
    for (size_t f = 0; f < layer.features(); ++f)
      land += ring_area_m2(layer.ring(f), layer.ring_size(f));
    best[1] = std::min(best[1], seconds(t));
  }
  std::printf(
      "%zu districts of %zu vertices: label points %.3f s, areas %.3f s, together %.2f of a second "
      "(at most 1)\n",
      layer.features(), layer.ring_size(0), best[0], best[1], best[0] + best[1]);
  if (!(room > 0 && land > 0)) std::abort();
}

static void points() {
  FlatLayer layer = tiling(142, 25);
  std::vector<double> ratio;
  double best[2] = {1e9, 1e9};
  size_t found = 0;
  for (int run = 0; run < 5; ++run) {
    std::mt19937_64 random(run);
    std::vector<double> x(1000000), y(1000000), values(1000000);
    for (size_t i = 0; i < x.size(); ++i) {
      x[i] = std::ldexp(double(random()), -64) * 40;
      y[i] = 30 + std::ldexp(double(random()), -64) * 28;
      values[i] = std::ldexp(double(random()), -64);
    }
    auto t = Clock::now();
    std::sort(values.begin(), values.end());
    double floor = seconds(t);
    t = Clock::now();
    AreaLocator locator(layer);
    std::vector<int> in(x.size());
    locator.find_all(x.data(), y.data(), x.size(), in.data());
    for (int f : in)
      found += f >= 0;
    double ours = seconds(t);
    best[0] = std::min(best[0], floor);
    best[1] = std::min(best[1], ours);
    ratio.push_back(ours / floor);
  }
  std::sort(ratio.begin(), ratio.end());
  std::printf(
      "1,000,000 points into %zu areas of %zu vertices: sort %.3f s, located %.3f s (%.1f %% "
      "inside), ratio, median of 5 pairs: %.1f (at most 10)\n",
      layer.features(), layer.ring_size(0), best[0], best[1], found / 5e4, ratio[2]);
}

int main(int, char** args) {
  if (!std::strcmp(args[1], "topology"))
    topology();
  else if (!std::strcmp(args[1], "points"))
    points();
  else
    labels();
}
