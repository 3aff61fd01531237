#include "age-rates.hpp"

#include <algorithm>
#include <cmath>

namespace ochre {

namespace {

// Marks cells of groups × ages as seen: a bit each where that is small beside the rows, else a
// sorted list.
size_t mark_repeats(const AgeRows& in, AgeFaults::Fault& fault) {
  const uint64_t cells = static_cast<uint64_t>(in.groups) * in.ages;
  auto cell = [&](size_t i) { return static_cast<uint64_t>(in.group[i]) * in.ages + in.age[i]; };
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
  for (size_t row : repeated) fault.add(row);
  return fault.number;
}

// Open addressing over a table of twice the values' number; grows as values come.
template <class T>
Numbered number_hashed(const T* value, size_t size, T missing) {
  Numbered out;
  out.index.resize(size);
  size_t mask = 1023;
  std::vector<int> slot(mask + 1, -1);
  auto hash = [](T v) {
    uint64_t h = static_cast<uint64_t>(v) * 0x9E3779B97F4A7C15ull;
    return static_cast<size_t>(h ^ (h >> 29));
  };
  for (size_t i = 0; i < size; ++i) {
    // Tables are often sorted: the same value as the row above.
    if (i && value[i] == value[i - 1]) {
      out.index[i] = out.index[i - 1];
      continue;
    }
    if (value[i] == missing) {
      out.index[i] = -1;
      continue;
    }
    size_t at = hash(value[i]) & mask;
    while (slot[at] >= 0 && value[out.first[slot[at]]] != value[i]) at = (at + 1) & mask;
    if (slot[at] < 0) {
      slot[at] = static_cast<int>(out.first.size());
      out.first.push_back(i);
      if (2 * out.first.size() > mask) {
        mask = 4 * mask + 3;
        slot.assign(mask + 1, -1);
        for (size_t k = 0; k < out.first.size(); ++k) {
          size_t to = hash(value[out.first[k]]) & mask;
          while (slot[to] >= 0) to = (to + 1) & mask;
          slot[to] = static_cast<int>(k);
        }
        out.index[i] = static_cast<int>(out.first.size()) - 1;
        continue;
      }
    }
    out.index[i] = slot[at];
  }
  return out;
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

Numbered number_values(const int* value, size_t size, int missing) {
  int least = 0, most = -1;
  bool any = false;
  for (size_t i = 0; i < size; ++i) {
    if (value[i] == missing) continue;
    if (!any || value[i] < least) least = value[i];
    if (!any || value[i] > most) most = value[i];
    any = true;
  }
  const int64_t range = static_cast<int64_t>(most) - least + 1;
  if (!any || range > static_cast<int64_t>(4 * size + 1024)) return number_hashed(value, size, missing);
  Numbered out;
  out.index.resize(size);
  std::vector<int> known(static_cast<size_t>(range), -1);
  for (size_t i = 0; i < size; ++i) {
    if (value[i] == missing) {
      out.index[i] = -1;
      continue;
    }
    int& k = known[static_cast<size_t>(static_cast<int64_t>(value[i]) - least)];
    if (k < 0) {
      k = static_cast<int>(out.first.size());
      out.first.push_back(i);
    }
    out.index[i] = k;
  }
  return out;
}

Numbered number_values(const uint64_t* value, size_t size, uint64_t missing) { return number_hashed(value, size, missing); }

}  // namespace ochre
