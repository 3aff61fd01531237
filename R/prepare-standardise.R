# Rates as they would be if all areas had the same ages. The core sums the rows in one pass
# (src/core/age-rates.hpp), a database does it in a query (prepare-lazy.R); here are the checks
# and limits.

#' Standardise rates by age
#'
#' Direct: each area's rates by age group, weighted by a standard population. Indirect: the count
#' in proportion to what a standard's rates would have given (the standardised ratio).
#'
#' @param data A data frame with one row an area (and period) and age group, or a lazy table,
#'   which the database sums, so that one row an area comes back.
#' @param count,population Columns, bare or as text; numeric, not negative; counts whole.
#' @param age Column that names the age group, bare or as text.
#' @param area Column that names the area, bare or as text; or several, such as `c(area, period)`.
#' @param standard The standard: a data frame with the column `age` under the same name as in
#'   `data` and a column `population` (direct), or `count` and `population` (indirect); Ochre's
#'   demo has a made-up one for the ages of its visits, `ochre_demo("standard.csv")`. `NULL`
#'   (default) takes all areas (and periods) of `data` together.
#' @param method `"direct"` (default) or `"indirect"`.
#' @param per The direct rate is per this many people: one number above zero.
#' @param level Level of the limits: one number from 0.5 to 0.9999.
#' @return A tibble with one row an area in order of first appearance (of a lazy table in order of
#'   their names): its columns, `count`, `population`, and for direct `rate`, `rate_low`,
#'   `rate_high` (Dobson's limits with Byar's for the count), for indirect `expected`, `ratio`,
#'   `ratio_low`, `ratio_high` (Byar's limits). An age group without people counts for nothing,
#'   and makes the direct rate `NA`, because its rate is not known; so do missing values. The
#'   limits of a direct rate are `NA` where nothing was counted. Rows without an area or age group
#'   are left out, and a warning `ochre_warning_missing` says how many.
#' @section Errors: `ochre_error_column` when a column is not there, not numeric, negative or not
#'   whole, or when people are counted in a group without people (field `row`, the first);
#'   `ochre_error_duplicates` when an area has an age group twice; `ochre_error_argument` when
#'   `standard` lacks a column or an age group.
#' @source Dobson, A.J., Kuulasmaa, K., Eberle, E., Scherer, J. (1991) Confidence intervals for
#'   weighted sums of Poisson parameters, Statistics in Medicine 10, 457-462. Breslow, N.E., Day,
#'   N.E. (1987) Statistical Methods in Cancer Research II, pages 52-69.
#' @examples
#' ages <- data.frame(area = rep(c("a", "b"), each = 2), age = rep(c("0-64", "65+"), 2),
#'                    cases = c(5, 20, 9, 12), people = c(8000, 2000, 9000, 1000))
#' standardise_rate(ages, cases, people, age, area)
#' @concept age standardisation
#' @export
standardise_rate <- function(data, count, population, age, area, standard = NULL,
                             method = "direct", per = 1000, level = 0.95) {
  check_table(data, "data", lazy = TRUE)
  count <- column_name(rlang::enquo(count), data, "count")
  population <- column_name(rlang::enquo(population), data, "population")
  age <- column_name(rlang::enquo(age), data, "age")
  area <- column_names(rlang::enquo(area), data, "area")
  check_choice(method, c("direct", "indirect"), "method")
  check_number(per, "per", min = .Machine$double.eps)
  check_level(level)
  if (is_lazy(data)) {
    columns <- list(count = count, population = population, age = age, area = area)
    summed <- lazy_sum_ages(data, columns, standard, method)
  } else {
    parts <- age_rows(data, count, population, area, age)
    check_age_rows(parts$rows, data, count, population, area, age)
    lost <- parts$rows[[1]] < 0 | parts$rows[[2]] < 0
    # An area without usable rows is dropped; a count of zero would be wrong.
    if (any(lost)) {
      data <- data[!lost, , drop = FALSE]
      parts <- age_rows(data, count, population, area, age)
    }
    rows <- parts$rows
    known <- as_key(data[[age]][parts$ages])
    weight <- standard_of(
      standard,
      age,
      known,
      function() call_core(do.call(total_ages_core, rows)),
      method
    )
    sums <- call_core(do.call(
      sum_ages_core,
      c(rows[1:5], list(if (method == "direct") weight / sum(weight) else weight))
    ))
    summed <- list(areas = data[parts$areas, area, drop = FALSE], sums = sums)
  }
  finish_rates(summed$areas, summed$sums, method, per, level)
}

# `rows` for the core: each row's area and age group, its count and people, and the number of areas
# and age groups; and the first row of each of the `areas` and `ages`.
age_rows <- function(data, count, population, area, age, call = rlang::caller_env()) {
  top <- check_numeric(data, count, "count", call = call)
  base <- check_numeric(data, population, "population", call = call)
  group <- group_rows(data, area)
  ages <- group_rows(data, age)
  list(
    rows = list(group$index, ages$index, top, base, length(group$first), length(ages$first)),
    areas = group$first, ages = ages$first
  )
}

finish_rates <- function(areas, sums, method, per, level) {
  out <- tibble::as_tibble(
    c(as.list(areas), list(count = sums$count, population = sums$population)),
    .name_repair = "unique_quiet"
  )
  byar <- count_limits(out$count, "byar", level)
  if (method == "indirect") {
    out$expected <- sums$expected
    base_of <- ifelse(out$expected > 0, 1 / out$expected, NA_real_)
    out$ratio <- out$count * base_of
    out <- add_limits(out, "ratio", byar, base_of)
    return(note_made(out, with_limits("ratio"), "count"))
  }
  direct <- sums$direct
  # An age group that an area does not have leaves its rate unknown.
  direct[abs(sums$weight - 1) > 1e-9 | is.nan(direct)] <- NA
  spread <- sqrt(sums$spread / out$count)
  out$rate <- per * direct
  # A straight line from the count's limits can lead below zero where the count is small.
  limits <- list(
    low = pmax(0, direct + spread * (byar$low - out$count)),
    high = direct + spread * (byar$high - out$count)
  )
  out <- add_limits(out, "rate", limits, ifelse(out$count > 0, per, NA_real_))
  note_made(out, with_limits("rate"), "count")
}

check_age_rows <- function(rows, data, count, population, area, age, call = rlang::caller_env()) {
  fault <- call_core(do.call(check_ages_core, rows), call = call)
  negative <- "A count cannot be; look for a mark of missing values such as -99."
  say <- function(kind, what, mend) {
    f <- fault[[kind]]
    if (!f[["number"]]) return(invisible())
    said <- paste0(what, sprintf(" (row %d).", f[["first"]]))
    said <- sub("{rows}", count_words(f[["number"]], "row"), said, fixed = TRUE)
    ochre_abort("column", said, mend, row = f[["first"]])
  }
  say("negative_count", sprintf("`%s` is negative in {rows}", count), negative)
  say("negative_population", sprintf("`%s` is negative in {rows}", population), negative)
  say(
    "part_count",
    sprintf("`%s` is not a whole number in {rows}", count),
    "Limits are those of a count; weighted numbers have no limits here."
  )
  say(
    "count_without_people",
    sprintf("`%s` counts in {rows} where `%s` is zero", count, population),
    "Are the two of different years or places?"
  )
  check_ages_once(fault$repeated, data[c(area, age)], call)
  lost <- sum(rows[[1]] < 0 | rows[[2]] < 0)
  warn_lost_ages(lost)
}

warn_lost_ages <- function(lost) {
  if (!lost) return(invisible())
  said <- sprintf("Left out %s without an area or age group.", count_words(lost, "row"))
  ochre_warn("missing", said)
}

check_ages_once <- function(repeated, keys, call) {
  if (!repeated[["number"]]) return(invisible())
  row <- repeated[["first"]]
  who <- vapply(keys, function(column) format(column[row]), "")
  ochre_abort(
    "duplicates",
    paste0("{count_words(repeated[['number']], 'row')} stand for an area and age group that ",
           "was there before (row {row}: {paste(who, collapse = ', ')})."),
    "Sum them first, keep one period, or name both: area = c(area, period)."
  )
}

# Weights (people) or rates of the standard, one for each age group; `totals` gives those of the
# data.
standard_of <- function(standard, age, ages, totals, method, call = rlang::caller_env()) {
  if (is.null(standard)) {
    all <- totals()
    return(if (method == "direct") all$population else all$count / all$population)
  }
  check_table(standard, "standard", call = call)
  wanted <- c(age, "population", if (method == "indirect") "count")
  lacks <- setdiff(wanted, names(standard))
  if (length(lacks)) {
    ochre_abort("argument", "`standard` has no column `{lacks[1]}`.",
                "It needs {list_words(wanted)}.", arg = "standard")
  }
  at <- match(ages, as_key(standard[[age]]))
  if (anyNA(at)) {
    ochre_abort("argument", "`standard` has no age group {list_words(ages[is.na(at)])}.",
                did_you_mean(ages[is.na(at)][1], as_key(standard[[age]]), "It has"),
                arg = "standard")
  }
  people <- check_counts(standard, "population", "standard", call = call)[at]
  if (method == "direct") {
    people
  } else {
    check_counts(standard, "count", "standard", call = call)[at] / people
  }
}
