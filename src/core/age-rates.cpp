#include "age-rates.hpp"

#include <algorithm>
#include <cmath>

namespace ochre {

namespace {

// Marks cells of groups × ages as seen: a bit each where that is small beside the rows, else a
// sorted list.
size_t mark_repeats(const AgeRows& in, AgeFaults::Fault& fault) {
  const uint64_t cells = static_cast<uint64_t>(in.groups) * in.ages;
  auto cell = [&](size_t i) {
    return static_cast<uint64_t>(in.group[i]) * in.ages + in.age[i];
  };
  if (cells <= 64 * (static_cast<uint64_t>(in.rows) + 1024)) {
    std::vector<uint64_t> seen(cells / 64 + 1, 0);
    for (size_t i = 0; i < in.rows; ++i) {
      if (in.group[i] < 0 || in.age[i] < 0) continue;
      const uint64_t c = cell(i), bit = uint64_t{1} << (c & 63);
      if (seen[c >> 6] & bit) fault.add(i);
      seen[c >> 6] |= bit;
    }
    return fault.number;
  }
  std::vector<std::pair<uint64_t, size_t>> order;
  order.reserve(in.rows);
  for (size_t i = 0; i < in.rows; ++i) {
    if (in.group[i] >= 0 && in.age[i] >= 0) order.emplace_back(cell(i), i);
  }
  std::sort(order.begin(), order.end());
  std::vector<size_t> repeated;
  for (size_t k = 1; k < order.size(); ++k) {
    if (order[k].first == order[k - 1].first) repeated.push_back(order[k].second);
  }
  std::sort(repeated.begin(), repeated.end());
  for (size_t row : repeated)
    fault.add(row);
  return fault.number;
}

}  // namespace

AgeFaults check_age_rows(const AgeRows& in) {
  AgeFaults out;
  for (size_t i = 0; i < in.rows; ++i) {
    const double d = in.count[i], n = in.population[i];
    if (d < 0) out.negative_count.add(i);
    if (n < 0) out.negative_population.add(i);
    if (d != std::floor(d) && !std::isnan(d)) out.part_count.add(i);
    if (n == 0 && d > 0) out.count_without_people.add(i);
  }
  mark_repeats(in, out.repeated);
  return out;
}

AgeTotals total_ages(const AgeRows& in) {
  AgeTotals out{std::vector<double>(in.ages, 0), std::vector<double>(in.ages, 0)};
  for (size_t i = 0; i < in.rows; ++i) {
    if (in.age[i] < 0 || in.group[i] < 0) continue;
    if (!std::isnan(in.count[i])) out.count[in.age[i]] += in.count[i];
    if (!std::isnan(in.population[i])) out.population[in.age[i]] += in.population[i];
  }
  return out;
}

AgeSums sum_ages(const AgeRows& in, const std::vector<double>& weight) {
  const std::vector<double> zero(in.groups, 0);
  AgeSums out{zero, zero, zero, zero, zero, zero};
  for (size_t i = 0; i < in.rows; ++i) {
    const int g = in.group[i];
    if (g < 0 || in.age[i] < 0) continue;
    const double w = weight[in.age[i]], d = in.count[i], n = in.population[i];
    // Nobody there: the rate of this age group is not known.
    const double rate = n > 0 ? d / n : std::nan("");
    out.count[g] += d;
    out.population[g] += n;
    out.weight[g] += w;
    out.direct[g] += w * rate;
    out.spread[g] += w * w * (n > 0 ? rate / n : std::nan(""));
    out.expected[g] += w * n;
  }
  return out;
}

}  // namespace ochre
