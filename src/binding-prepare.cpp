// Rows into groups, and age-standardised sums.
#include "binding-bridge.h"
#include "core/age-rates.hpp"
#include "core/groups.hpp"
#include "core/share-out.hpp"

using Rcpp::List;
using Rcpp::Named;

namespace {

// Texts of one encoding are the same where their addresses are: R keeps each once.
uint64_t mark_of(SEXP text) {
  return reinterpret_cast<uintptr_t>(text);
}
struct TextMarks {
  const SEXP* text;
  explicit TextMarks(SEXP column) : text(STRING_PTR_RO(column)) {}
  uint64_t operator()(size_t i) const { return mark_of(text[i]); }
};

std::vector<size_t> number_column(SEXP column, int* index) {
  const size_t n = Rf_xlength(column);
  if (TYPEOF(column) == INTSXP)
    return ochre::number_integers(INTEGER(column), n, NA_INTEGER, index);
  if (TYPEOF(column) != STRSXP) Rcpp::stop("a column of texts or whole numbers is wanted");
  return ochre::number_marks(TextMarks(column), n, mark_of(NA_STRING), index);
}

ochre::AgeRows age_rows(const Rcpp::IntegerVector& group, const Rcpp::IntegerVector& age,
                        const Rcpp::NumericVector& count, const Rcpp::NumericVector& population,
                        int groups, int ages) {
  return {group.begin(),        age.begin(),    count.begin(), population.begin(),
          size_t(group.size()), size_t(groups), size_t(ages)};
}

}  // namespace

// As match(value, table) for texts; missing ones match nothing.
// [[Rcpp::export]]
List look_up_core(const Rcpp::CharacterVector& value, const Rcpp::CharacterVector& table) {
  return guarded([&] {
    Rcpp::IntegerVector at(Rcpp::no_init(value.size()));
    ochre::look_up(TextMarks(table), table.size(), TextMarks(value), value.size(),
                   mark_of(NA_STRING), 1, NA_INTEGER, at.begin());
    return List::create(Named("at") = at);
  });
}

// `area` counts from 1, `period` and `place` from 0 (or are empty); `row` counts from 1.
// [[Rcpp::export]]
List fill_cells_core(const Rcpp::IntegerVector& area, const Rcpp::IntegerVector& period,
                     const Rcpp::IntegerVector& place, int areas) {
  return guarded([&] {
    const size_t periods = period.size() ? place.size() : 1;
    Rcpp::IntegerVector row(Rcpp::no_init(static_cast<R_xlen_t>(areas * periods)));
    ochre::Cells cells =
        ochre::fill_cells(area.begin(), period.size() ? period.begin() : nullptr, place.begin(),
                          area.size(), areas, periods, NA_INTEGER, row.begin());
    return List::create(Named("row") = row, Named("repeats") = double(cells.repeats),
                        Named("empty") = double(cells.empty));
  });
}

// A column at other rows (from 1, NA gives a missing value), or repeated: the whole of it `times`
// times, each value `each` times. Attributes stay, names go. In base R setting the attributes would
// copy the column once more, which a long table feels.
// [[Rcpp::export]]
SEXP take_rows_core(SEXP column, const Rcpp::IntegerVector& row, int times, int each) {
  const bool repeat = times > 0;
  const R_xlen_t n = Rf_xlength(column), wanted = repeat ? n * times * each : row.size();
  const int* at = row.begin();
  // Position of the source of each value, -1 for a missing one.
  auto walk = [&](auto set) {
    if (!repeat) {
      for (R_xlen_t i = 0; i < wanted; ++i)
        set(i, at[i] == NA_INTEGER ? -1 : R_xlen_t(at[i]) - 1);
      return;
    }
    R_xlen_t i = 0;
    for (int t = 0; t < times; ++t)
      for (R_xlen_t k = 0; k < n; ++k)
        for (int e = 0; e < each; ++e)
          set(i++, k);
  };
  Rcpp::Shield<SEXP> out(Rf_allocVector(TYPEOF(column), wanted));
  auto plain = [&](auto* to, const auto* from, auto missing) {
    if (repeat) return walk([=](R_xlen_t i, R_xlen_t k) { to[i] = from[k]; });
    ochre::share_out(wanted, 1 << 16, [=](size_t first, size_t end) {
      for (size_t i = first; i < end; ++i)
        to[i] = at[i] == NA_INTEGER ? missing : from[at[i] - 1];
    });
  };
  switch (TYPEOF(column)) {
    case LGLSXP:
    case INTSXP:
      plain(INTEGER(out), INTEGER(column), NA_INTEGER);
      break;
    case REALSXP:
      plain(REAL(out), REAL(column), NA_REAL);
      break;
    case STRSXP:
      walk([&, from = STRING_PTR_RO(column)](R_xlen_t i, R_xlen_t k) {
        SET_STRING_ELT(out, i, k < 0 ? NA_STRING : from[k]);
      });
      break;
    case VECSXP:
      walk([&](R_xlen_t i, R_xlen_t k) {
        if (k >= 0) SET_VECTOR_ELT(out, i, VECTOR_ELT(column, k));
      });
      break;
    default:
      Rcpp::stop("a plain column is wanted");
  }
  SHALLOW_DUPLICATE_ATTRIB(out, column);
  Rf_setAttrib(out, R_NamesSymbol, R_NilValue);
  return out;
}

// Sums of the values of each group; groups count from 1.
// [[Rcpp::export]]
List group_sums_core(const Rcpp::NumericVector& value, const Rcpp::IntegerVector& group,
                     int groups) {
  return guarded([&] {
    Rcpp::NumericVector sums(groups);
    ochre::sum_groups(value.begin(), group.begin(), group.size(), sums.begin(), groups);
    return List::create(Named("sums") = sums);
  });
}

// `index` counts groups from 0 in order of first appearance, -1 where a column is missing; `first`
// is the row of each group, from 1.
// [[Rcpp::export]]
List group_rows_core(const List& columns) {
  return guarded([&] {
    const R_xlen_t n = Rf_xlength(columns[0]);
    Rcpp::IntegerVector index(Rcpp::no_init(n));
    std::vector<size_t> first = number_column(columns[0], index.begin());
    std::vector<int> next(columns.size() > 1 ? n : 0);
    for (R_xlen_t k = 1; k < columns.size(); ++k) {
      const uint64_t many = number_column(columns[k], next.data()).size();
      const uint64_t missing = ~uint64_t{0};
      auto both = [&](size_t i) {
        return index[i] < 0 || next[i] < 0 ? missing
                                           : static_cast<uint64_t>(index[i]) * many + next[i];
      };
      Rcpp::IntegerVector joined(Rcpp::no_init(n));
      first = ochre::number_marks(both, n, missing, joined.begin());
      index = joined;
    }
    Rcpp::NumericVector from_one(first.size());
    for (size_t i = 0; i < first.size(); ++i)
      from_one[i] = static_cast<double>(first[i]) + 1;
    return List::create(Named("index") = index, Named("first") = from_one);
  });
}

// [[Rcpp::export]]
List check_ages_core(const Rcpp::IntegerVector& group, const Rcpp::IntegerVector& age,
                     const Rcpp::NumericVector& count, const Rcpp::NumericVector& population,
                     int groups, int ages) {
  return guarded([&] {
    ochre::AgeFaults f =
        ochre::check_age_rows(age_rows(group, age, count, population, groups, ages));
    auto one = [](const ochre::AgeFaults::Fault& x) {
      return Rcpp::NumericVector::create(Named("number") = double(x.number),
                                         Named("first") = double(x.first) + 1);
    };
    return List::create(Named("negative_count") = one(f.negative_count),
                        Named("negative_population") = one(f.negative_population),
                        Named("part_count") = one(f.part_count),
                        Named("count_without_people") = one(f.count_without_people),
                        Named("repeated") = one(f.repeated));
  });
}

// [[Rcpp::export]]
List total_ages_core(const Rcpp::IntegerVector& group, const Rcpp::IntegerVector& age,
                     const Rcpp::NumericVector& count, const Rcpp::NumericVector& population,
                     int groups, int ages) {
  return guarded([&] {
    ochre::AgeTotals t = ochre::total_ages(age_rows(group, age, count, population, groups, ages));
    return List::create(Named("count") = t.count, Named("population") = t.population);
  });
}

// [[Rcpp::export]]
List sum_ages_core(const Rcpp::IntegerVector& group, const Rcpp::IntegerVector& age,
                   const Rcpp::NumericVector& count, const Rcpp::NumericVector& population,
                   int groups, const Rcpp::NumericVector& weight) {
  return guarded([&] {
    ochre::AgeSums s =
        ochre::sum_ages(age_rows(group, age, count, population, groups, weight.size()),
                        std::vector<double>(weight.begin(), weight.end()));
    return List::create(Named("count") = s.count, Named("population") = s.population,
                        Named("weight") = s.weight, Named("direct") = s.direct,
                        Named("spread") = s.spread, Named("expected") = s.expected);
  });
}
