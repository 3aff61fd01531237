// Writing positions as GeoJSON text with 7 decimals against the bare route: the same numbers as
// integers to decimal digits with std::to_chars, a comma after each.
#include <algorithm>
#include <charconv>
#include <chrono>
#include <cstdio>
#include <random>

#include "geometry-text.hpp"
#include "report.hpp"

using namespace ochre;
using Clock = std::chrono::steady_clock;

int main() {
  std::mt19937 random(1);
  std::uniform_real_distribution<double> u(-180, 180);
  const size_t n = small_run() ? 10000 : 1000000;
  WkbWriter wkb;
  std::vector<double> xy(2 * n);
  for (double& v : xy)
    v = u(random) / (&v - xy.data() & 1 ? 2 : 1);
  wkb.header(Shape::line, false);
  wkb.count(n);
  wkb.coordinates(xy.data(), xy.size());
  std::vector<double> rate;
  double ours = 1e9, floor = 1e9;
  for (int run = 0; run < 7; ++run) {
    auto t = Clock::now();
    std::string plain;
    char b[24];
    for (double v : xy) {
      char* end = std::to_chars(b, b + sizeof b, static_cast<int64_t>(v * 1e7)).ptr;
      *end++ = ',';
      plain.append(b, end);
    }
    double bare = std::chrono::duration<double>(Clock::now() - t).count();
    t = Clock::now();
    std::string text;
    put_geojson(text, wkb.data(), wkb.size(), DecimalText(7));
    double mine = std::chrono::duration<double>(Clock::now() - t).count();
    rate.push_back(mine / bare);
    ours = std::min(ours, mine);
    floor = std::min(floor, bare);
    if (text.size() < plain.size()) std::printf(" ");
  }
  std::sort(rate.begin(), rate.end());
  char detail[200];
  std::snprintf(detail, sizeof detail, "%zu numbers, bare %.3f s, as GeoJSON %.3f s", 2 * n, floor,
                ours);
  report("coordinates written as GeoJSON", rate[3], "bare integers to text", 1.1, detail);
}
