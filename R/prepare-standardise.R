# Rates as they would be if all areas had the same ages.

#' Standardise rates by age
#'
#' Direct: each area's rates by age group, weighted by a standard population. Indirect: the count
#' in proportion to what a standard's rates would have given (the standardised ratio).
#'
#' @param data A data frame with one row an area and age group.
#' @param count,population Columns, bare or as text; numeric, not negative; counts whole.
#' @param age,area Columns that name the age group and the area, bare or as text.
#' @param standard The standard: a data frame with the column `age` under the same name as in `data` and a column
#'   `population` (direct), or `count` and `population` (indirect). `NULL` (default) takes all areas of
#'   `data` together.
#' @param method `"direct"` (default) or `"indirect"`.
#' @param per The direct rate is for so many people: one number above zero.
#' @param level Level of the limits: one number from 0.5 to 0.9999.
#' @return A tibble with one row an area in order of first appearance: the area's column, `count`, `population`,
#'   and for direct `rate`, `rate_low`, `rate_high` (Dobson's limits with Byar's for the count), for
#'   indirect `expected`, `ratio`, `ratio_low`, `ratio_high` (Byar's limits). An age group without people
#'   counts for nothing, and makes the direct rate `NA`, because its rate is not known; so do missing values.
#'   The limits of a direct rate are `NA` where nothing was counted.
#' @section Errors: `ochre_error_column` when a column is not there, not numeric, negative or not
#'   whole, or when people are counted in a group without people (field `rows`); `ochre_error_duplicates` when an
#'   area has an age group twice; `ochre_error_argument` when `standard` lacks a column or an age group.
#' @source Dobson, A.J., Kuulasmaa, K., Eberle, E., Scherer, J. (1991) Confidence intervals for weighted
#'   sums of Poisson parameters, Statistics in Medicine 10, 457-462. Breslow, N.E., Day, N.E. (1987)
#'   Statistical Methods in Cancer Research II, pages 52-69.
#' @examples
#' ages <- data.frame(area = rep(c("a", "b"), each = 2), age = rep(c("0-64", "65+"), 2),
#'                    cases = c(5, 20, 9, 12), people = c(8000, 2000, 9000, 1000))
#' standardise_rate(ages, cases, people, age, area)
#' @export
standardise_rate <- function(data, count, population, age, area, standard = NULL, method = "direct", per = 1000, level = 0.95) {
  check_table(data, "data")
  count <- column_name(rlang::enquo(count), data, "count")
  population <- column_name(rlang::enquo(population), data, "population")
  age <- column_name(rlang::enquo(age), data, "age")
  area <- column_name(rlang::enquo(area), data, "area")
  check_choice(method, c("direct", "indirect"), "method")
  check_number(per, "per", min = .Machine$double.eps)
  check_level(level)
  top <- check_counts(data, count, "count", whole = TRUE)
  base <- check_counts(data, population, "population")
  lost <- which(base == 0 & top > 0)
  if (length(lost)) ochre_abort("column", sprintf("`%s` counts in %s where `%s` is zero (row %d).", count, count_words(length(lost), "row"), population, lost[1]), "Are the two of different years or places?", rows = lost)
  ages <- unique(as_key(data[[age]]))
  areas <- unique(data[[area]])
  a <- match(as_key(data[[age]]), ages)
  i <- factor(match(data[[area]], areas), seq_along(areas))
  twice <- duplicated((as.integer(i) - 1) * length(ages) + a)
  if (any(twice)) ochre_abort("duplicates", sprintf("%s stand for an area and age group that was there before (row %d: %s, %s).", count_words(sum(twice), "row"), which(twice)[1], format(data[[area]][twice][1]), format(data[[age]][twice][1])),
                              "Sum them first, or keep one period.", rows = which(twice))
  weight <- standard_of(standard, age, ages, a, top, base, method)
  out <- tibble::tibble(area = areas, count = rowsum_by(top, i), population = rowsum_by(base, i))
  names(out)[1] <- area
  byar <- count_limits(out$count, "byar", level)
  if (method == "indirect") {
    out$expected <- rowsum_by(base * weight[a], i)
    base_of <- ifelse(out$expected > 0, 1 / out$expected, NA_real_)
    out$ratio <- out$count * base_of
    return(add_limits(out, "ratio", byar, base_of))
  }
  share <- weight / sum(weight)
  rate <- ifelse(base > 0, top / base, NA_real_)
  present <- rowsum_by(share[a], i)
  direct <- rowsum_by(share[a] * rate, i)
  # An age group that an area does not have leaves its rate unknown.
  direct[abs(present - 1) > 1e-9] <- NA
  spread <- sqrt(rowsum_by(share[a]^2 * ifelse(base > 0, top / base^2, NA_real_), i) / out$count)
  out$rate <- per * direct
  add_limits(out, "rate", list(low = direct + spread * (byar$low - out$count), high = direct + spread * (byar$high - out$count)), ifelse(out$count > 0, per, NA_real_))
}

# Weights (people) or rates of the standard, one for each age group.
standard_of <- function(standard, age, ages, a, top, base, method, call = rlang::caller_env()) {
  if (is.null(standard)) {
    people <- rowsum_by(ifelse(is.na(base), 0, base), factor(a, seq_along(ages)))
    return(if (method == "direct") people else rowsum_by(ifelse(is.na(top), 0, top), factor(a, seq_along(ages))) / people)
  }
  check_table(standard, "standard", call = call)
  wanted <- c(age, "population", if (method == "indirect") "count")
  lacks <- setdiff(wanted, names(standard))
  if (length(lacks)) ochre_abort("argument", sprintf("`standard` has no column `%s`.", lacks[1]), sprintf("It needs %s.", list_words(wanted)), arg = "standard", call = call)
  at <- match(ages, as_key(standard[[age]]))
  if (anyNA(at)) ochre_abort("argument", sprintf("`standard` has no age group %s.", list_words(ages[is.na(at)])), did_you_mean(ages[is.na(at)][1], as_key(standard[[age]]), "It has"), arg = "standard", call = call)
  people <- check_counts(standard, "population", "standard", call = call)[at]
  if (method == "direct") people else check_counts(standard, "count", "standard", call = call)[at] / people
}
