#include "displace.hpp"

#include <algorithm>
#include <cmath>
#include <numeric>

#include "pulse.hpp"

namespace ochre {

namespace {
constexpr int kRounds = 200;
// Pairs that are looked at in all; thousands of circles on one spot have no room anyway.
constexpr size_t kPairs = 50000000;

// Moves (x, y) back to the circle of radius `most` around its home.
void hold(double& x, double& y, double home_x, double home_y, double most) {
  double dx = x - home_x, dy = y - home_y, d = std::hypot(dx, dy);
  if (d <= most || d == 0) return;
  x = home_x + dx * most / d;
  y = home_y + dy * most / d;
}
}  // namespace

Places displace(const std::vector<double>& x, const std::vector<double>& y,
                const std::vector<double>& radius, double gap, double most) {
  const size_t n = x.size();
  Places at{x, y};
  std::vector<size_t> order(n), open;
  std::iota(order.begin(), order.end(), 0);
  size_t pairs = 0;
  for (int round = 0; round < kRounds; ++round) {
    bool moved = false;
    // A sweep from left to right, as for the overlaps themselves.
    std::sort(order.begin(), order.end(), [&](size_t a, size_t b) {
      double left_a = at.x[a] - radius[a], left_b = at.x[b] - radius[b];
      return left_a != left_b ? left_a < left_b : a < b;
    });
    open.clear();
    std::vector<double> push_x(n, 0), push_y(n, 0);
    for (size_t i : order) {
      pulse();
      pairs += open.size();
      if (pairs > kPairs) {
        at.all = false;
        return at;
      }
      size_t kept = 0;
      for (size_t j : open) {
        if (at.x[j] + radius[j] + gap <= at.x[i] - radius[i]) continue;
        open[kept++] = j;
        double wanted = radius[i] + radius[j] + gap, dx = at.x[i] - at.x[j], dy = at.y[i] - at.y[j];
        if (std::fabs(dy) >= wanted) continue;
        double d = std::hypot(dx, dy);
        if (d >= wanted * 0.999) continue;
        if (d < 1e-9 * wanted) {  // on one spot: each pair gets a direction of its own
          double turn = 2.39996 * static_cast<double>(i + 1);
          dx = std::cos(turn);
          dy = std::sin(turn);
          d = 1;
          wanted += 1;  // so that wanted - d is the whole way
        }
        double share = radius[j] * radius[j] / (radius[i] * radius[i] + radius[j] * radius[j]);
        double way = 0.5 * (wanted - d) / d;
        push_x[i] += dx * way * share;
        push_y[i] += dy * way * share;
        push_x[j] -= dx * way * (1 - share);
        push_y[j] -= dy * way * (1 - share);
        moved = true;
      }
      open.resize(kept);
      open.push_back(i);
    }
    if (!moved) break;
    for (size_t i = 0; i < n; ++i) {
      at.x[i] += push_x[i];
      at.y[i] += push_y[i];
      hold(at.x[i], at.y[i], x[i], y[i], most);
    }
  }
  return at;
}

}  // namespace ochre
