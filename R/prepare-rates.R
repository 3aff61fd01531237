# Counts as rates, shares and densities; changes and indices.

#' A count as a rate
#'
#' `per` times the count divided by the population.
#'
#' @param data A data frame with one row an area, or a lazy table: it stays one, or with limits
#'   its rows are fetched.
#' @param count,population Columns, bare or as text; numeric, not negative.
#' @param per The rate is per this many people: one number above zero.
#' @param name Name of the new column: one text; by default `<count>_per_<per>`.
#' @param limits Confidence limits: `"none"` (default), `"garwood"` (exact for a Poisson count) or
#'   `"byar"` (its close approximation); counts must then be whole.
#' @param level Their level: one number from 0.5 to 0.9999, default 0.95.
#' @return `data` with one more column (double), and with limits two more, `<name>_low` and
#'   `<name>_high`. Missing count or population, or a population of zero, give `NA`.
#' @section Errors: `ochre_error_column` when a column is not there, not numeric, negative, or, with
#'   limits, not whole (field `rows`); `ochre_error_argument`.
#' @source Garwood, F. (1936) Fiducial limits for the Poisson distribution, Biometrika 28, 437-442.
#'   Breslow, N.E., Day, N.E. (1987) Statistical Methods in Cancer Research II, page 69.
#' @examples
#' rate_per(data.frame(cases = c(3, 8), people = c(1500, 2000)), cases, people, limits = "garwood")
#' @export
rate_per <- function(data, count, population, per = 1000, name = NULL, limits = "none",
                     level = 0.95) {
  check_table(data, "data", lazy = TRUE)
  count <- column_name(rlang::enquo(count), data, "count")
  population <- column_name(rlang::enquo(population), data, "population")
  check_number(per, "per", min = .Machine$double.eps)
  check_new_name(name)
  check_choice(limits, c("none", "garwood", "byar"), "limits")
  check_level(level)
  name <- name %||% paste0(count, "_per_", format(per, scientific = FALSE, trim = TRUE))
  if (is_lazy(data) && limits == "none") return(lazy_rate(data, count, population, per, name))
  data <- fetch_whole(data)
  top <- if (limits == "none") {
    check_numeric(data, count, "count")
  } else {
    check_counts(data, count, "count", whole = TRUE)
  }
  base <- check_counts(data, population, "population")
  factor <- ifelse(base > 0, per / base, NA_real_)
  data[[name]] <- factor * top
  limits <- if (limits != "none") count_limits(top, limits, level)
  note_made(add_limits(data, name, limits, factor), with_limits(name), c(count, population))
}

#' A part as a share of a whole
#'
#' @inheritParams rate_per
#' @param count Column of the part, bare or as text; numeric, not negative.
#' @param total Column of the whole, bare or as text; numeric, at least the count.
#' @param limits `"none"` (default) or `"wilson"`.
#' @param name Name of the new column: one text; by default `<count>_share`.
#' @return `data` with one more column, a fraction from 0 to 1 (shown as a percentage by
#'   `{column|1%}`), and with limits two more, `<name>_low` and `<name>_high`. Missing values or a
#'   whole of zero give `NA`.
#' @section Errors: `ochre_error_column`, also when a part is larger than its whole (field
#' `rows`); `ochre_error_argument`.
#' @source Wilson, E.B. (1927) Probable inference, the law of succession, and statistical inference,
#'   Journal of the American Statistical Association 22, 209-212.
#' @examples
#' share_of(data.frame(old = c(81, 15), all = c(263, 148)), old, all, limits = "wilson")
#' @export
share_of <- function(data, count, total, name = NULL, limits = "none", level = 0.95) {
  check_table(data, "data", lazy = TRUE)
  count <- column_name(rlang::enquo(count), data, "count")
  total <- column_name(rlang::enquo(total), data, "total")
  check_new_name(name)
  check_choice(limits, c("none", "wilson"), "limits")
  check_level(level)
  name <- name %||% paste0(count, "_share")
  if (is_lazy(data) && limits == "none") return(lazy_share(data, count, total, name))
  data <- fetch_whole(data)
  top <- check_counts(data, count, "count")
  base <- check_counts(data, total, "total")
  more <- which(top > base)
  if (length(more)) {
    ochre_abort(
      "column",
      paste0("`{count}` is larger than `{total}` in {count_words(length(more), 'row')} (row ",
             "{more[1]}: {format(top[more[1]])} of {format(base[more[1]])})."),
      "Is one of them a column of another period or group?", rows = more
    )
  }
  base[base %in% 0] <- NA
  data[[name]] <- top / base
  limits <- if (limits == "wilson") share_limits(top, base, level)
  note_made(add_limits(data, name, limits), with_limits(name), c(count, total))
}

#' A count per square kilometre
#'
#' @param data A tibble with a `geometry` column of areas, whose own size on the ellipsoid counts
#'   (see [areas_km2()]).
#' @param count Column, bare or as text; numeric, not negative.
#' @param name Name of the new column: one text; by default `<count>_per_km2`.
#' @return `data` with one more column (double); `NA` where the count or the area is missing.
#' @section Errors: `ochre_error_column`, `ochre_error_argument`, `ochre_error_geometry`.
#' @examples
#' districts <- read_boundaries(ochre_demo("districts.geojson"))
#' density_per_km2(districts, population)$population_per_km2[1:3]
#' @export
density_per_km2 <- function(data, count, name = NULL) {
  check_table(data, "data")
  count <- column_name(rlang::enquo(count), data, "count")
  check_new_name(name)
  top <- check_counts(data, count, "count")
  size <- areas_km2(data)
  name <- name %||% paste0(count, "_per_km2")
  data[[name]] <- ifelse(size > 0, top / size, NA_real_)
  note_made(move_geometry_last(data), name, count)
}

#' Change between two periods, and index to a reference
#'
#' `change_between()` keeps the sign, so that a diverging ramp shows falls and rises; `index_to()`
#' gives each value in percent of that of one area.
#'
#' @param data A data frame with one row an area; for `change_between()` also a lazy table, which
#'   stays one.
#' @param before,after Columns of the two periods, bare or as text; numeric.
#' @param kind `"absolute"` (default), after minus before, or `"relative"`, that divided by the
#'   size of before (its absolute value, so that a rise is positive also where both are negative).
#' @param value Column, bare or as text; numeric.
#' @param area,reference For the index: the column that names areas, bare or as text, and the one to
#'   compare with: one value of it.
#' @param name Name of the new column: one text; by default `<after>_change` or `<value>_index`.
#' @return `data` with one more column (double): the change in the unit of the columns or as a
#'   fraction, or the index, 100 for the reference. Missing values, and a relative change from
#'   zero, give `NA`.
#' @section Errors: `ochre_error_column`; `ochre_error_argument`, also when `reference` is not
#' there once or its value is not above zero.
#' @examples
#' change_between(data.frame(y2030 = c(10, 8), y2031 = c(12, 6)), y2030, y2031, kind = "relative")
#' index_to(data.frame(area = c("a", "b"), rate = c(4, 5)), rate, area, "a")
#' @export
change_between <- function(data, before, after, kind = "absolute", name = NULL) {
  check_table(data, "data", lazy = TRUE)
  before <- column_name(rlang::enquo(before), data, "before")
  after <- column_name(rlang::enquo(after), data, "after")
  check_choice(kind, c("absolute", "relative"), "kind")
  check_new_name(name)
  name <- name %||% paste0(after, "_change")
  if (is_lazy(data)) return(lazy_change(data, before, after, kind, name))
  old <- check_numeric(data, before, "before")
  change <- check_numeric(data, after, "after") - old
  if (kind == "relative") change <- ifelse(old == 0, NA_real_, change / abs(old))
  data[[name]] <- change
  note_made(data, name, c(before, after))
}

#' @rdname change_between
#' @export
index_to <- function(data, value, area, reference, name = NULL) {
  check_table(data, "data", lazy = TRUE)
  data <- fetch_whole(data)
  value <- column_name(rlang::enquo(value), data, "value")
  area <- column_name(rlang::enquo(area), data, "area")
  check_new_name(name)
  x <- check_numeric(data, value, "value")
  reference <- check_key(reference, "reference")
  at <- which(as_key(data[[area]]) == reference)
  if (length(at) != 1) {
    ochre_abort(
      "argument",
      sprintf(
        "`reference` names `%s`, which `%s` has %s.", format(reference), area,
        if (length(at)) sprintf("%d times", length(at)) else "nowhere"
      ),
      if (!length(at)) {
        did_you_mean(reference, unique(stats::na.omit(as_key(data[[area]]))), "It has")
      }, arg = "reference"
    )
  }
  if (!isTRUE(x[at] > 0)) {
    what <- if (is.na(x[at])) "has no value" else sprintf("is %s", format(x[at]))
    ochre_abort(
      "argument",
      paste0("The reference `{format(reference)}` {what} in `{value}`, and an index needs one ",
             "above zero."), "Compare with another area, or use change_between().",
      arg = "reference"
    )
  }
  name <- name %||% paste0(value, "_index")
  data[[name]] <- 100 * x / x[at]
  note_made(data, name, value)
}
