#include "groups.hpp"

#include <algorithm>

namespace ochre {

std::vector<size_t> number_integers(const int* value, size_t size, int missing, int* index) {
  int64_t least = INT64_MAX, most = INT64_MIN;
  for (size_t i = 0; i < size; ++i) {
    if (value[i] == missing) continue;
    least = std::min<int64_t>(least, value[i]);
    most = std::max<int64_t>(most, value[i]);
  }
  if (least > most || most - least > static_cast<int64_t>(4 * size + 1024)) {
    return number_marks(
        [&](size_t i) { return static_cast<uint64_t>(static_cast<uint32_t>(value[i])); }, size,
        static_cast<uint32_t>(missing), index);
  }
  std::vector<size_t> first;
  std::vector<int> known(static_cast<size_t>(most - least + 1), -1);
  for (size_t i = 0; i < size; ++i) {
    if (value[i] == missing) {
      index[i] = -1;
      continue;
    }
    int& k = known[static_cast<size_t>(value[i] - least)];
    if (k < 0) {
      k = static_cast<int>(first.size());
      first.push_back(i);
    }
    index[i] = k;
  }
  return first;
}

void sum_groups(const double* value, const int* group, size_t size, double* sums, size_t groups) {
  std::vector<long double> sum(groups, 0);
  for (size_t i = 0; i < size; ++i)
    if (group[i] >= 1 && static_cast<size_t>(group[i]) <= groups)
      sum[static_cast<size_t>(group[i]) - 1] += static_cast<long double>(value[i]);
  std::copy(sum.begin(), sum.end(), sums);
}

Cells fill_cells(const int* area, const int* period, const int* place, size_t rows, size_t areas,
                 size_t periods, int none, int* cell) {
  Cells out;
  std::fill(cell, cell + areas * periods, none);
  size_t filled = 0;
  for (size_t i = 0; i < rows; ++i) {
    if (area[i] == none || (period && period[i] < 0)) continue;
    int& at = cell[(period ? static_cast<size_t>(place[period[i]]) * areas : 0) +
                   static_cast<size_t>(area[i] - 1)];
    if (at == none)
      ++filled;
    else
      ++out.repeats;
    at = static_cast<int>(i) + 1;
  }
  out.empty = areas * periods - filled;
  return out;
}

}  // namespace ochre
