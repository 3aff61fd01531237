// Where class breaks lie. Everything here works on distinct sorted values with weights (how
// often each occurs), so that equal values can never fall into two classes.
//
// Natural breaks are the partition into k classes with the least sum of squared deviations
// from the class means (Fisher, W.D. 1958, On grouping for maximum homogeneity, Journal of
// the American Statistical Association 53, 789-798). The optimum is exact:
//
//  1. Sums over any run are differences of prefix sums, kept as pairs of doubles ("double-
//     double") and centred, so that the subtraction loses nothing that matters.
//  2. The cost of a run is a Monge function of its ends, so the best start of the last class
//     moves only to the right as the run grows; each layer of the recurrence is solved by
//     divide and conquer in n log n instead of n².
//  3. Before that, most of the values are ruled out. The values are put into a few thousand
//     blocks. Breaks at block edges give an upper bound for the optimum. Leaving out the
//     blocks in which the breaks lie gives a lower bound for each possible place of each
//     break. Where the lower bound is above the upper bound that break cannot be. What is
//     left is usually a percent of the values, and only there the recurrence runs.
//
// Cost: the sort, one pass, and the recurrence on what is left; n log n at the worst.
#pragma once
#include <cstddef>
#include <vector>

namespace ochre {

struct Distinct {
  std::vector<double> value;   // increasing
  std::vector<double> weight;  // how many times
};

// The same, held by somebody else.
struct DistinctView {
  const double* value;
  const double* weight;
  size_t size;
  DistinctView(const double* v, const double* w, size_t n) : value(v), weight(w), size(n) {}
  DistinctView(const Distinct& d)
      : value(d.value.data()), weight(d.weight.data()), size(d.value.size()) {}
};

// Sorts (radix) and counts; the input must be finite.
Distinct distinct_values(std::vector<double> values);
void sort_doubles(std::vector<double>& values);

// The index of the first distinct value of each class but the first: k - 1 numbers.
// k is cut to the number of distinct values.
std::vector<size_t> natural_starts(const DistinctView& data, int k);

struct ClassSums {
  std::vector<double> count, mean, squares;  // squares: summed squared deviations from the mean
};
ClassSums class_sums(const DistinctView& data, const std::vector<size_t>& starts);

}  // namespace ochre
