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
#include "report.hpp"
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
  const int sizes = small_run() ? 1 : 4;
  for (int k = 0; k < sizes; ++k) {
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
    char detail[200];
    std::snprintf(detail, sizeof detail, "%.0f vertices to %zu, %.3f s", n, left, best[1]);
    report("topology and simplification, " + std::to_string(int(n / 1000)) + ",000 vertices",
           ratio[2], "a sort", 2.5, detail);
    x[k] = std::log(n * std::log(n));
    y[k] = std::log(best[1]);
  }
  if (sizes < 4) return;
  double mx = 0, my = 0, sxy = 0, sxx = 0;
  for (int k = 0; k < 4; ++k) {
    mx += x[k] / 4;
    my += y[k] / 4;
  }
  for (int k = 0; k < 4; ++k) {
    sxy += (x[k] - mx) * (y[k] - my);
    sxx += (x[k] - mx) * (x[k] - mx);
  }
  report("topology and simplification, growth", sxy / sxx, "n log n, as a power", 1.1,
         "over four sizes");
}

static void labels() {
  FlatLayer layer = tiling(small_run() ? 20 : 142, 25);
  double best[2] = {1e9, 1e9}, room = 0, land = 0;
  for (int run = 0; run < 3; ++run) {
    auto t = Clock::now();
    for (const LabelPoint& p : label_points(layer))
      room += p.metres;
    best[0] = std::min(best[0], seconds(t));
    t = Clock::now();
    for (size_t f = 0; f < layer.features(); ++f)
      land += ring_area_m2(layer.ring(f), layer.ring_size(f));
    best[1] = std::min(best[1], seconds(t));
  }
  char detail[200];
  std::snprintf(detail, sizeof detail, "label points %.3f s, areas %.3f s", best[0], best[1]);
  report("label points and areas of 20,000 districts", best[0] + best[1], "a second", 1, detail);
  if (!(room > 0 && land > 0)) std::abort();
}

static void points() {
  FlatLayer layer = tiling(small_run() ? 20 : 142, 25);
  std::vector<double> ratio;
  double best[2] = {1e9, 1e9};
  size_t found = 0;
  for (int run = 0; run < 5; ++run) {
    std::mt19937_64 random(run);
    const size_t n = small_run() ? 10000 : 1000000;
    std::vector<double> x(n), y(n), values(n);
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
  char detail[200];
  std::snprintf(detail, sizeof detail, "%zu areas, sort %.3f s, located %.3f s", layer.features(),
                best[0], best[1]);
  report("1M points into areas", ratio[2], "a sort", 5, detail);
  if (!found) std::abort();
}

int main(int, char** args) {
  if (!std::strcmp(args[1], "topology"))
    topology();
  else if (!std::strcmp(args[1], "points"))
    points();
  else
    labels();
}
