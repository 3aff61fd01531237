// Rows of areas and age groups, summed in one pass each: what direct and indirect standardisation
// need.
//
// A row has the number of its group (an area, or an area and period) and of its age group, from 0;
// a negative one is left out. Missing counts or populations are NaN and make their group NaN. Cost
// is proportional to the rows.
#pragma once
#include <cstddef>
#include <cstdint>
#include <vector>

namespace ochre {

struct AgeRows {
  const int* group;
  const int* age;
  const double* count;
  const double* population;
  size_t rows;
  size_t groups;
  size_t ages;
};

// How many rows have each fault, and the first one (its position, or `rows` when there is none).
struct AgeFaults {
  struct Fault {
    size_t number = 0, first = 0;
    void add(size_t row) {
      if (!number++) first = row;
    }
  };
  Fault negative_count, negative_population, part_count, count_without_people, repeated;
};
AgeFaults check_age_rows(const AgeRows&);

struct AgeTotals {
  std::vector<double> count, population;  // by age group; missing values left out
};
AgeTotals total_ages(const AgeRows&);

// Per group. With w the weight of an age group (for direct rates a share of the standard), d the
// count and n the population: `weight` is the sum of w, `direct` of w d/n, `spread` of w² d/n²;
// with w a standard's rate `expected` is the sum of w n.
struct AgeSums {
  std::vector<double> count, population, weight, direct, spread, expected;
};
AgeSums sum_ages(const AgeRows&, const std::vector<double>& weight);

}  // namespace ochre
