#include "symbols.hpp"

#include <algorithm>
#include <cmath>
#include <numeric>

namespace ochre {

namespace {
constexpr double kPi = 3.14159265358979323846;
}

double lens_area(double d, double r1, double r2) {
  if (d >= r1 + r2) return 0;
  double small = std::min(r1, r2), large = std::max(r1, r2);
  if (d <= large - small) return kPi * small * small;
  double a = (d * d + large * large - small * small) / (2 * d), b = d - a;
  auto segment = [](double r, double h) {
    h = std::max(-r, std::min(r, h));
    return r * r * std::acos(h / r) - h * std::sqrt(std::max(0.0, r * r - h * h));
  };
  return segment(large, a) + segment(small, b);
}

// A sweep from left to right; a circle is compared with those whose right edge is not passed.
double overlap_share(const std::vector<double>& x, const std::vector<double>& y,
                     const std::vector<double>& radius, double enough) {
  std::vector<size_t> order(x.size());
  std::iota(order.begin(), order.end(), 0);
  std::sort(order.begin(), order.end(),
            [&](size_t a, size_t b) { return x[a] - radius[a] < x[b] - radius[b]; });
  double total = 0, overlap = 0;
  for (double r : radius)
    total += kPi * r * r;
  if (total <= 0) return 0;
  std::vector<size_t> open;
  for (size_t i : order) {
    size_t kept = 0;
    for (size_t j : open) {
      if (x[j] + radius[j] <= x[i] - radius[i]) continue;
      open[kept++] = j;
      if (std::fabs(y[i] - y[j]) >= radius[i] + radius[j]) continue;
      overlap += lens_area(std::hypot(x[i] - x[j], y[i] - y[j]), radius[i], radius[j]);
      if (overlap > enough * total) return overlap / total;
    }
    open.resize(kept);
    open.push_back(i);
  }
  return overlap / total;
}

double largest_radius(const std::vector<double>& x, const std::vector<double>& y,
                      const std::vector<double>& relative, double least, double most,
                      double share) {
  std::vector<double> radius(relative.size());
  auto fits = [&](double largest) {
    for (size_t i = 0; i < radius.size(); ++i)
      radius[i] = relative[i] * largest;
    return overlap_share(x, y, radius, share) <= share;
  };
  if (fits(most)) return most;
  if (!fits(least)) return least;
  for (int i = 0; i < 20; ++i) {
    double middle = (least + most) / 2;
    (fits(middle) ? least : most) = middle;
  }
  return least;
}

}  // namespace ochre
