# Small numbers: rates steadied by their neighbours in the table, rates flagged as unsteady. Counts
# are hidden in prepare-hide.R.

#' Steady rates of small areas
#'
#' Empirical-Bayes smoothing: each rate is drawn toward the rate of all areas (or of its region),
#' the more the fewer people it has. What is left of the differences between areas after chance
#' would explain its part says how far.
#'
#' @inheritParams rate_per
#' @param within Column whose values are groups of areas, bare or as text: rates are drawn toward
#'   the rate of their group; `NULL` (default) for the rate of all.
#' @param name Name of the new column: one text; by default `<count>_steady`.
#' @return `data` with two more columns: `<name>`, the steadied rate for `per` people, and
#'   `<name>_weight`, from 0 (the common rate) to 1 (the area's own). Missing values and a
#'   population of zero give `NA`.
#' @section Errors: `ochre_error_column`, `ochre_error_argument`.
#' @source Marshall, R.J. (1991) Mapping disease and mortality rates using empirical Bayes
#'   estimators, Journal of the Royal Statistical Society C 40(2), 283-294.
#' @examples
#' steady_rate(data.frame(cases = c(0, 3, 90), people = c(200, 900, 40000)), cases, people)
#' @concept empirical Bayes
#' @concept smoothing
#' @export
steady_rate <- function(data, count, population, per = 1000, within = NULL, name = NULL) {
  check_table(data, "data", lazy = TRUE)
  data <- fetch_whole(data)
  count <- column_name(rlang::enquo(count), data, "count")
  population <- column_name(rlang::enquo(population), data, "population")
  within <- column_name(rlang::enquo(within), data, "within", null = TRUE)
  check_number(per, "per", min = .Machine$double.eps)
  check_new_name(name)
  top <- check_counts(data, count, "count")
  base <- check_counts(data, population, "population")
  known <- !is.na(top) & !is.na(base) & base > 0
  group <- if (is.null(within)) {
    rep(1L, nrow(data))
  } else {
    match(data[[within]], unique(data[[within]]))
  }
  g <- factor(ifelse(known, group, NA), seq_len(max(group, 0L)))
  people <- rowsum_by(base, g)
  common <- rowsum_by(top, g) / people
  n <- tabulate(g, nlevels(g))
  rate <- top / base
  # Variance between areas beyond that of chance; none left means that all share one rate.
  spread <- rowsum_by(base * (rate - common[as.integer(g)])^2, g) / people -
    common / (people / n)
  spread <- pmax(0, spread)
  chance <- common[as.integer(g)] / base
  weight <- ifelse(
    spread[as.integer(g)] + chance > 0,
    spread[as.integer(g)] / (spread[as.integer(g)] + chance),
    0
  )
  name <- name %||% paste0(count, "_steady")
  data[[name]] <- ifelse(
    known,
    per * (common[as.integer(g)] + weight * (rate - common[as.integer(g)])),
    NA_real_
  )
  data[[paste0(name, "_weight")]] <- ifelse(known, weight, NA_real_)
  note_made(data, c(name, paste0(name, "_weight")), c(count, population))
}

#' Flag rates that rest on few cases
#'
#' The relative standard error of a rate is one over the root of its count: 20 cases make 22 %.
#'
#' @inheritParams rate_per
#' @param count Column, bare or as text; numeric, not negative.
#' @param most_error Flag where the relative standard error is above this: one number, a fraction.
#' @param name Name of the new column: one text; by default `<count>_unsteady`.
#' @return `data` with one more column, `TRUE` where the rate is unsteady (also where nothing was
#'   counted), `NA` where the count is missing.
#' @section Errors: `ochre_error_column`, `ochre_error_argument`.
#' @source Brillinger, D.R. (1986) The natural variability of vital rates and associated statistics,
#'   Biometrics 42(4), 693-734 (the standard error of a Poisson count).
#' @examples
#' flag_unsteady(data.frame(cases = c(0, 8, 60)), cases)
#' @export
flag_unsteady <- function(data, count, most_error = 0.23, name = NULL) {
  check_table(data, "data", lazy = TRUE)
  data <- fetch_whole(data)
  count <- column_name(rlang::enquo(count), data, "count")
  check_number(most_error, "most_error", min = 0.001, max = 10)
  check_new_name(name)
  top <- check_counts(data, count, "count")
  name <- name %||% paste0(count, "_unsteady")
  data[[name]] <- ifelse(top > 0, 1 / sqrt(top) > most_error, TRUE)
  note_made(data, name, count)
}
