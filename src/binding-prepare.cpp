// Rows into groups, and age-standardised sums.
#include "binding-bridge.h"
#include "core/age-rates.hpp"

using Rcpp::List;
using Rcpp::Named;

namespace {

// Texts of one encoding are the same where their addresses are: R keeps each once.
ochre::Numbered number_column(SEXP column) {
  const size_t n = Rf_xlength(column);
  if (TYPEOF(column) == INTSXP) return ochre::number_values(INTEGER(column), n, NA_INTEGER);
  if (TYPEOF(column) != STRSXP) Rcpp::stop("a column of texts or whole numbers is wanted");
  std::vector<uint64_t> mark(n);
  const SEXP* text = STRING_PTR(column);
  for (size_t i = 0; i < n; ++i) mark[i] = reinterpret_cast<uintptr_t>(text[i]);
  return ochre::number_values(mark.data(), n, reinterpret_cast<uintptr_t>(NA_STRING));
}

ochre::AgeRows age_rows(const Rcpp::IntegerVector& group, const Rcpp::IntegerVector& age, const Rcpp::NumericVector& count, const Rcpp::NumericVector& population, int groups, int ages) {
  return {group.begin(), age.begin(), count.begin(), population.begin(), size_t(group.size()), size_t(groups), size_t(ages)};
}

}  // namespace

// `index` counts groups from 0 in order of first appearance, -1 where a column is missing; `first` is
// the row of each group, from 1.
// [[Rcpp::export]]
List group_rows_core(const List& columns) {
  return guarded([&] {
    ochre::Numbered all = number_column(columns[0]);
    for (R_xlen_t k = 1; k < columns.size(); ++k) {
      ochre::Numbered next = number_column(columns[k]);
      const uint64_t many = next.first.size() + 1;
      const uint64_t missing = ~uint64_t{0};
      std::vector<uint64_t> mark(all.index.size());
      for (size_t i = 0; i < mark.size(); ++i) mark[i] = all.index[i] < 0 || next.index[i] < 0 ? missing : all.index[i] * many + next.index[i];
      all = ochre::number_values(mark.data(), mark.size(), missing);
    }
    Rcpp::NumericVector first(all.first.size());
    for (size_t i = 0; i < all.first.size(); ++i) first[i] = static_cast<double>(all.first[i]) + 1;
    return List::create(Named("index") = Rcpp::IntegerVector(all.index.begin(), all.index.end()), Named("first") = first);
  });
}

// [[Rcpp::export]]
List check_ages_core(const Rcpp::IntegerVector& group, const Rcpp::IntegerVector& age, const Rcpp::NumericVector& count, const Rcpp::NumericVector& population, int groups, int ages) {
  return guarded([&] {
    ochre::AgeFaults f = ochre::check_age_rows(age_rows(group, age, count, population, groups, ages));
    auto one = [](const ochre::AgeFaults::Fault& x) { return Rcpp::NumericVector::create(Named("number") = double(x.number), Named("first") = double(x.first) + 1); };
    return List::create(Named("negative_count") = one(f.negative_count), Named("negative_population") = one(f.negative_population), Named("part_count") = one(f.part_count),
                        Named("count_without_people") = one(f.count_without_people), Named("repeated") = one(f.repeated));
  });
}

// [[Rcpp::export]]
List total_ages_core(const Rcpp::IntegerVector& group, const Rcpp::IntegerVector& age, const Rcpp::NumericVector& count, const Rcpp::NumericVector& population, int groups, int ages) {
  return guarded([&] {
    ochre::AgeTotals t = ochre::total_ages(age_rows(group, age, count, population, groups, ages));
    return List::create(Named("count") = t.count, Named("population") = t.population);
  });
}

// [[Rcpp::export]]
List sum_ages_core(const Rcpp::IntegerVector& group, const Rcpp::IntegerVector& age, const Rcpp::NumericVector& count, const Rcpp::NumericVector& population, int groups, const Rcpp::NumericVector& weight) {
  return guarded([&] {
    ochre::AgeSums s = ochre::sum_ages(age_rows(group, age, count, population, groups, weight.size()), std::vector<double>(weight.begin(), weight.end()));
    return List::create(Named("count") = s.count, Named("population") = s.population, Named("weight") = s.weight, Named("direct") = s.direct,
                        Named("spread") = s.spread, Named("expected") = s.expected);
  });
}
