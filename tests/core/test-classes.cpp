// Classes and symbols: known answers by brute force or by another computation.
#include <doctest/doctest.h>

#include <algorithm>
#include <cmath>
#include <cstring>
#include <functional>
#include <limits>
#include <random>

#include "classes.hpp"
#include "symbols.hpp"

using namespace ochre;

namespace {

long double spread(const std::vector<long double>& sum, const std::vector<long double>& square,
                   const std::vector<long double>& weight, size_t i, size_t j) {
  long double s = sum[j] - sum[i], w = weight[j] - weight[i];
  return square[j] - square[i] - s * s / w;
}

// Squared deviations within the classes that begin at `starts`, value by value.
double within(const Distinct& d, const std::vector<size_t>& starts) {
  double total = 0;
  for (size_t c = 0; c <= starts.size(); ++c) {
    size_t from = c ? starts[c - 1] : 0, to = c < starts.size() ? starts[c] : d.value.size();
    long double w = 0, m = 0;
    for (size_t i = from; i < to; ++i) {
      w += d.weight[i];
      m += static_cast<long double>(d.weight[i]) * d.value[i];
    }
    for (size_t i = from; i < to; ++i)
      total += double(d.weight[i] * (d.value[i] - m / w) * (d.value[i] - m / w));
  }
  return total;
}

// The least over all partitions, tried one after the other.
double brute(const Distinct& d, size_t k) {
  size_t n = d.value.size();
  double best = std::numeric_limits<double>::infinity();
  std::vector<size_t> starts;
  std::function<void(size_t)> choose = [&](size_t from) {
    if (starts.size() + 1 == k) {
      best = std::min(best, within(d, starts));
      return;
    }
    for (size_t s = from; s + (k - 2 - starts.size()) < n; ++s) {
      starts.push_back(s);
      choose(s + 1);
      starts.pop_back();
    }
  };
  choose(1);
  return best;
}

}  // namespace

TEST_CASE("natural breaks are the optimum over all partitions") {
  std::mt19937 random(3);
  for (int trial = 0; trial < 600; ++trial) {
    size_t n = 1 + random() % 13;
    std::vector<double> v;
    for (size_t i = 0; i < n; ++i) {
      switch (trial % 4) {
        case 0:
          v.push_back(double(random() % 20));
          break;  // ties
        case 1:
          v.push_back(std::exp(std::normal_distribution<>(0, 2)(random)));
          break;  // a long tail
        case 2:
          v.push_back(1e9 + 1e-3 * (random() % 1000));
          break;  // far from zero
        default:
          v.push_back(std::normal_distribution<>()(random) *
                      (random() % 5 ? 1 : 1e7));  // two scales
      }
    }
    Distinct d = distinct_values(v);
    for (int k = 1; k <= 6; ++k) {
      std::vector<size_t> starts = natural_starts(d, k);
      size_t classes = std::min<size_t>(k, d.value.size());
      REQUIRE(starts.size() + 1 == classes);
      double want = brute(d, classes), got = within(d, starts);
      CHECK(got <= want * (1 + 1e-9) + 1e-18);
    }
  }
}

TEST_CASE("ruling values out keeps the optimum of a plain quadratic computation") {
  std::mt19937 random(4);
  for (int shape = 0; shape < 4; ++shape) {
    std::vector<double> v(8600);
    for (double& x : v) {
      if (shape == 0) x = std::uniform_real_distribution<>()(random);
      if (shape == 1) x = std::exp(2 * std::normal_distribution<>()(random));
      if (shape == 2) x = std::normal_distribution<>()(random) + 6 * double(random() % 3);
      if (shape == 3)
        x = random() % 3 ? std::normal_distribution<>(0, 1e-3)(random)
                         : std::cauchy_distribution<>()(random);
    }
    Distinct d = distinct_values(v);
    size_t n = d.value.size();
    REQUIRE(n > 8192);
    std::vector<long double> sum(n + 1), square(n + 1), weight(n + 1);
    for (size_t i = 0; i < n; ++i) {
      sum[i + 1] = sum[i] + d.value[i];
      square[i + 1] = square[i] + static_cast<long double>(d.value[i]) * d.value[i];
      weight[i + 1] = weight[i] + 1;
    }
    const int k = 3;
    std::vector<long double> last(n + 1), next(n + 1);
    for (size_t j = 1; j <= n; ++j)
      last[j] = spread(sum, square, weight, 0, j);
    for (int q = 2; q <= k; ++q) {
      // Of the last class only the whole is asked for.
      for (size_t j = q < k ? q : n; j <= n; ++j) {
        next[j] = std::numeric_limits<long double>::infinity();
        for (size_t i = q - 1; i < j; ++i)
          next[j] = std::min(next[j], last[i] + spread(sum, square, weight, i, j));
      }
      last = next;
    }
    CHECK(within(d, natural_starts(d, k)) == doctest::Approx(double(last[n])).epsilon(1e-9));
  }
}

TEST_CASE("sorting agrees with the standard library on every kind of double") {
  std::mt19937_64 random(5);
  std::vector<double> v;
  while (v.size() < 5000) {
    uint64_t bits = random();
    double x;
    std::memcpy(&x, &bits, 8);
    if (std::isfinite(x)) v.push_back(x);
  }
  v.insert(v.end(), {0.0, -0.0, 5e-324, -5e-324, 1.0, 1.0});
  std::vector<double> want = v;
  std::sort(want.begin(), want.end());
  sort_doubles(v);
  CHECK(v == want);
}

TEST_CASE("the lens of two circles is the area that they share") {
  std::mt19937 random(6);
  std::uniform_real_distribution<double> u(0, 1);
  for (int i = 0; i < 200; ++i) {
    double r1 = 0.2 + u(random), r2 = 0.2 + u(random), d = 2.5 * u(random);
    // Slices of the common area, added up.
    double area = 0;
    const int n = 20000;
    for (int k = 0; k < n; ++k) {
      double x = -r1 + (k + 0.5) * 2 * r1 / n, h1 = std::sqrt(std::max(0.0, r1 * r1 - x * x)),
             h2 = std::sqrt(std::max(0.0, r2 * r2 - (x - d) * (x - d)));
      area += 2 * std::min(h1, h2) * 2 * r1 / n;
    }
    CHECK(std::fabs(lens_area(d, r1, r2) - area) < 1e-4);
  }
}

TEST_CASE("the largest radius is the greatest that keeps the overlap under the share") {
  std::mt19937 random(7);
  std::uniform_real_distribution<double> u(0, 1);
  std::vector<double> x(300), y(300), relative(300), radius(300);
  for (int i = 0; i < 300; ++i) {
    x[i] = 100 * u(random);
    y[i] = 100 * u(random);
    relative[i] = std::sqrt(u(random));
  }
  auto overlap = [&](double largest) {
    for (int i = 0; i < 300; ++i)
      radius[i] = largest * relative[i];
    double total = 0, common = 0;
    for (int i = 0; i < 300; ++i) {
      total += 3.141592653589793 * radius[i] * radius[i];
      for (int j = 0; j < i; ++j)
        common += lens_area(std::hypot(x[i] - x[j], y[i] - y[j]), radius[i], radius[j]);
    }
    return common / total;
  };
  double r = largest_radius(x, y, relative, 0.01, 20, 0.05);
  CHECK(overlap(r) <= 0.05);
  CHECK(overlap(r * 1.001) > 0.05);
}
