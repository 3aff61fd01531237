// Classes of one variable; finite values only, which R/step-fit.R makes sure of.
#include <Rcpp.h>

#include "core/classes.hpp"
#include "core/fifteen-digits.hpp"

using Rcpp::Named;

// [[Rcpp::export]]
Rcpp::List distinct_core(const Rcpp::NumericVector& values) {
  ochre::Distinct d = ochre::distinct_values(std::vector<double>(values.begin(), values.end()));
  return Rcpp::List::create(Named("value") = d.value, Named("weight") = d.weight);
}

// First distinct value of each class, counted from 1.
// [[Rcpp::export]]
Rcpp::IntegerVector natural_starts_core(const Rcpp::NumericVector& value,
                                        const Rcpp::NumericVector& weight, int k) {
  Rcpp::IntegerVector out;
  for (size_t s : ochre::natural_starts({value.begin(), weight.begin(), size_t(value.size())}, k))
    out.push_back(static_cast<int>(s) + 1);
  return out;
}

// [[Rcpp::export]]
Rcpp::List class_sums_core(const Rcpp::NumericVector& value, const Rcpp::NumericVector& weight,
                           const Rcpp::IntegerVector& starts) {
  std::vector<size_t> s;
  for (int i : starts)
    s.push_back(static_cast<size_t>(i) - 1);
  ochre::ClassSums c = ochre::class_sums({value.begin(), weight.begin(), size_t(value.size())}, s);
  return Rcpp::List::create(Named("count") = c.count, Named("mean") = c.mean,
                            Named("squares") = c.squares);
}

// [[Rcpp::export]]
Rcpp::NumericVector fifteen_digits_core(const Rcpp::NumericVector& values) {
  Rcpp::NumericVector out(values.size());
  for (R_xlen_t i = 0; i < values.size(); ++i)
    out[i] = ochre::fifteen_digits(values[i]);
  return out;
}
