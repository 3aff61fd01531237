# Between reading and joining: fewer rows, and one row an area (and period). Each verb also works
# on a lazy table (prepare-lazy.R), where the database does it.

#' Sum or average a measure for each area
#'
#' @param data A data frame with several rows an area, or a lazy table: then the database sums in
#'   one query and returns one row per area.
#' @param value Column to sum or average, bare or as text; numeric.
#' @param by Column that names the area, bare or as text; or several, such as `c(area, period)`.
#' @param weight Column of weights, bare or as text; numeric, not negative.
#' @param name Name of the new column: one text; by default that of `value`.
#' @return A tibble with one row an area in the order of first appearance (of a lazy table in
#'   sorted order): the columns `by`, the sum or weighted mean (double), and
#'   `<name>_missing`, the number of rows whose value (or weight) is missing. Missing values are
#'   left out, and a warning `ochre_warning_missing` says how many; the sum of nothing but missing
#'   values is `NA`, and so is a mean whose weights are all zero. Rows without an area are left out
#'   and said.
#' @section Errors: `ochre_error_column` when a column is not there, not numeric, or weights are
#' negative.
#' @examples
#' visits <- read_statistics(ochre_demo("visits.csv"))
#' sum_areas(visits, visits, by = district)
#' sum_areas(visits, visits, by = c(district, month))
#' average_areas(
#'   data.frame(area = c("a", "a"), rate = c(10, 20), people = c(300, 100)),
#'   rate,
#'   people,
#'   by = area
#' )
#' @export
sum_areas <- function(data, value, by, name = NULL) {
  check_table(data, "data", lazy = TRUE)
  value <- column_name(rlang::enquo(value), data, "value")
  by <- column_names(rlang::enquo(by), data, "by")
  check_new_name(name)
  name <- name %||% value
  if (is_lazy(data)) return(lazy_sums(data, value, NULL, by, name))
  number <- check_numeric(data, value, "value")
  lost <- is.na(number)
  if (any(lost)) number[lost] <- 0
  sums <- group_sums(data, by, list(number, lost))
  warn_twice(data, sums)
  total <- sums$sums[[1]]
  total[sums$sums[[2]] == sums$rows] <- NA
  out <- list(result = total, missing = sums$sums[[2]], name = name, value = value, what = "sums")
  summed_areas(data, by, sums, out)
}

#' @rdname sum_areas
#' @export
average_areas <- function(data, value, weight, by, name = NULL) {
  check_table(data, "data", lazy = TRUE)
  value <- column_name(rlang::enquo(value), data, "value")
  weight <- column_name(rlang::enquo(weight), data, "weight")
  by <- column_names(rlang::enquo(by), data, "by")
  check_new_name(name)
  name <- name %||% value
  if (is_lazy(data)) return(lazy_sums(data, value, weight, by, name))
  number <- check_numeric(data, value, "value")
  share <- check_counts(data, weight, "weight")
  lost <- is.na(number) | is.na(share)
  sums <- group_sums(data, by, list(ifelse(lost, 0, number * share), ifelse(lost, 0, share), lost))
  mean <- ifelse(sums$sums[[2]] > 0, sums$sums[[1]] / sums$sums[[2]], NA_real_)
  out <- list(result = mean, missing = sums$sums[[3]], name = name, value = value, what = "means")
  summed_areas(data, by, sums, out)
}

group_sums <- function(data, by, values) {
  group <- group_rows(data, by)
  at <- group$index + 1L
  n <- length(group$first)
  list(
    first = group$first,
    lost = which(at == 0L),
    index = at,
    rows = tabulate(at, n),
    sums = lapply(values, rowsum_by, at, n)
  )
}

# The table of an area each: `out` has the `result` of the column `value` under its `name`, how many
# rows were `missing`, and `what` the numbers are.
# A file that holds every row twice doubles all sums. Looked at in some groups; where these have
# each row several times, all do.
warn_twice <- function(data, sums) {
  if (!length(sums$rows) || any(sums$rows < 2)) return(invisible())
  some <- unique(round(seq(1, length(sums$rows), length.out = 50)))
  rows <- as.data.frame(data)[sums$index %in% some, setdiff(names(data), "geometry"), drop = FALSE]
  again <- duplicated(rows) | duplicated(rows, fromLast = TRUE)
  if (!all(again)) return(invisible())
  ochre_warn("repeated", "Every row is there twice or more, and its sums count each of them.",
             "Is the file one that was put together twice? unique() keeps each row once.")
}

summed_areas <- function(data, by, sums, out) {
  missing <- out$missing
  if (length(sums$lost)) {
    ochre_warn("missing",
               "Left out {count_words(length(sums$lost), 'row')} without {list_words(by)}.",
               rows = sums$lost)
  }
  warn_missing(
    out$value,
    sum(missing),
    sum(missing > 0),
    out$name,
    out$what,
    if (length(by) > 1) "group" else "area"
  )
  areas <- lapply(by, function(column) data[[column]][sums$first])
  tibble::as_tibble(
    stats::setNames(
      c(areas, list(out$result, as.integer(missing))),
      c(by, out$name, paste0(out$name, "_missing"))
    ),
    .name_repair = "unique_quiet"
  )
}

warn_missing <- function(value, rows, areas, name, what, one) {
  if (rows > 0) {
    ochre_warn(
      "missing",
      paste0("`{value}` is missing in {count_words(rows, 'row')} of ",
             "{count_words(areas, one)}; the {what} leave them out."),
      "The column `{name}_missing` counts them.", column = value
    )
  }
}

#' Keep some rows
#'
#' `keep_where()` keeps rows with given values; `keep_latest()` the last period of each area.
#'
#' @param data A data frame, or a lazy table. With `keep_where()` it stays one, and values are
#'   compared by the column's type in the database; `keep_latest()` fetches the rows it keeps.
#' @param column Column, bare or as text.
#' @param is Values to keep: a vector, compared as text.
#' @param period Column of the period, bare or as text: a date, a number, or text that sorts in
#'   time, such as `2031-05`; text is sorted by its bytes in every locale.
#' @param by Column that names the area, bare or as text; or several, such as `c(area, sex)`.
#' @param value Column that must not be missing in the row that is kept, bare or as text; `NULL`
#'   (default) takes the last row whatever it holds.
#' @return The rows of `data` that are kept; with `keep_latest()` in order of first appearance of
#'   the areas. A message says how many rows went, or when not all areas have the same last
#'   period.
#' @section Errors: `ochre_error_column`; `ochre_error_argument` when no row has a value of `is`;
#'   `ochre_error_duplicates` when an area has two rows of its last period.
#' @examples
#' keep_latest(
#'   data.frame(area = c("a", "a", "b"), year = c(2030, 2031, 2030), n = 1:3),
#'   year,
#'   area
#' )
#' keep_where(read_statistics(ochre_demo("visits.csv")), age_group, "65+")
#' @export
keep_latest <- function(data, period, by, value = NULL) {
  check_table(data, "data", lazy = TRUE)
  period <- column_name(rlang::enquo(period), data, "period")
  by <- column_names(rlang::enquo(by), data, "by")
  value <- column_name(rlang::enquo(value), data, "value", null = TRUE)
  if (is_lazy(data)) return(lazy_keep_latest(data, period, by, value))
  group <- group_rows(data, by)
  when <- order_of_values(data[[period]])
  keep <- which(
    group$index >= 0 & !is.na(when) & (if (is.null(value)) TRUE else !is.na(data[[value]]))
  )
  area <- group$index[keep]
  when <- when[keep]
  order <- order(area, -when)
  keep <- keep[order]
  first <- !duplicated(area[order])
  twice <- which(!first & c(FALSE, first[-length(first)]))
  twice <- twice[when[order][twice] == when[order][twice - 1]]
  if (length(twice)) refuse_two_latest(shown_key(key_of(data[keep[twice], ], by)), by)
  out <- data[keep[first], , drop = FALSE]
  tell_latest(out[[period]], period)
  out
}

refuse_two_latest <- function(areas, by, call = rlang::caller_env()) {
  ochre_abort(
    "duplicates",
    paste0("{list_words(by)} has {count_words(length(areas), 'area')} with several rows of ",
           "their last period: {list_words(areas)}."),
    "Sum them first, for example with sum_areas(), or keep one group.", keys = areas
  )
}

tell_latest <- function(kept, period) {
  areas <- rev(table(as.character(kept)))
  if (length(areas) < 2) return(invisible())
  parts <- sprintf("%s in %s", names(areas), vapply(areas, count_words, "", "area"))
  ochre_tell("Latest `{period}`: {paste(parts, collapse = ', ')}.")
}

#' @rdname keep_latest
#' @export
keep_where <- function(data, column, is) {
  refuse_missing(missing(is), "is", rlang::current_env())
  check_table(data, "data", lazy = TRUE)
  column <- column_name(rlang::enquo(column), data, "column")
  is <- unlist(is)
  if (!is.atomic(is) || !length(is)) {
    ochre_abort("argument", "`is` must hold the values to keep.", arg = "is")
  }
  if (is_lazy(data)) return(lazy_keep_where(data, column, is))
  key <- as_key(data[[column]])
  keep <- key %in% as_key(is)
  if (!any(keep)) warn_nothing_kept(column, is, key)
  tell_kept(sum(keep), length(keep), column, is)
  data[keep, , drop = FALSE]
}

warn_nothing_kept <- function(column, is, keys) {
  is <- as_key(is)
  ochre_warn("unused", "No row is kept: `{column}` is nowhere {list_words(is)}.",
             did_you_mean(is[1], unique(keys[!is.na(keys)]), "It has"), values = is)
}

tell_kept <- function(kept, rows, column, is) {
  ochre_tell(
    paste0("Kept {format(kept, big.mark = ',')} of {format(rows, big.mark = ',')} rows where ",
           "`{column}` is {list_words(as_key(is), mark = '')}.")
  )
}

# Numbers in the order of the values: text by its bytes, as in a database.
order_of_values <- function(x) {
  if (!is.character(x)) return(xtfrm(x))
  key <- as_key(x)
  match(key, sort(unique(key), method = "radix"))
}

#' From a column for each period to a row for each
#'
#' Columns whose names end in a year, month or quarter (`visits_2031`, `Visits 2031-05`, `2031`,
#' `rate 2031Q2`) are put under each other; those that begin alike make one new column.
#'
#' @param data A data frame, or a lazy table, which stays one.
#' @param columns Columns to stack, bare or as text, such as `c(a, b)`; `NULL` (default) for all
#'   whose names end so.
#' @param period Name of the new column of periods: one text.
#' @param value Name of the new column where the names are nothing but periods: one text.
#' @return A tibble with one row for each row of `data` and period, the periods of a row together,
#'   in order: the other columns, `period` (text), and the stacked columns; `NA` where a period
#'   has no column.
#' @section Errors: `ochre_error_column` when no column's name ends in a period, or columns that
#' go under each other
#'   are of different types; `ochre_error_argument`.
#' @examples
#' stack_periods(data.frame(code = c("01", "02"), visits_2030 = c(5, 7), visits_2031 = c(6, 9)))
#' @export
stack_periods <- function(data, columns = NULL, period = "period", value = "value") {
  check_table(data, "data", lazy = TRUE)
  columns <- column_names(rlang::enquo(columns), data, "columns", null = TRUE)
  check_new_name(period, "period", null = FALSE)
  check_new_name(value, "value", null = FALSE)
  all <- colnames(data)
  parts <- period_names(columns, all)
  stem <- paste0(ifelse(nzchar(parts$stem), parts$stem, value), parts$reason)
  when <- sort(unique(parts$period))
  others <- setdiff(all, parts$column)
  taken <- intersect(c(period, stem), others)
  if (length(taken)) {
    ochre_abort("argument", "The data have a column `{taken[1]}` already.",
                "Name another with `period` or `value`.", arg = "period")
  }
  stems <- unique(stem)
  layout <- lapply(when, function(w) {
    stats::setNames(parts$column[match(paste(stems, w), paste(stem, parts$period))], stems)
  })
  if (is_lazy(data)) return(lazy_stack(data, others, period, when, layout))
  stacked_rows(data, others, period, when, layout)
}

# Columns whose names end in a period, taken apart: `column`, `stem`, `period`, `reason`.
period_names <- function(columns, all, call = rlang::caller_env()) {
  year <- "(?:1[89]|20|21)[0-9]{2}"
  within <- "(?:[-_. ]?(?:0[1-9]|1[0-2]|[Qq][1-4]))?"
  pattern <- paste0("^(.*?)[ _.-]*(", year, within, ")(_reason)?$")
  parts <- stringi::stri_match_first_regex(columns %||% all, pattern)
  parts <- parts[!is.na(parts[, 1]), , drop = FALSE]
  if (!nrow(parts) || (!is.null(columns) && nrow(parts) < length(columns))) {
    none <- "No column's name ends in a year, month or quarter."
    one <- sprintf(
      "The name of the column `%s` does not end in a year, month or quarter.",
      setdiff(columns, parts[, 1])[1]
    )
    ochre_abort("column", if (is.null(columns)) "{none}" else "{one}",
                "Its columns: {list_words(setdiff(all, 'geometry'), 12)}.", arg = "columns")
  }
  reason <- ifelse(is.na(parts[, 4]), "", parts[, 4])
  list(column = parts[, 1], stem = parts[, 2], period = parts[, 3], reason = reason)
}

stacked_rows <- function(data, others, period, when, layout) {
  n <- nrow(data)
  # Row by row: 1st row's periods, then the 2nd's.
  order <- order(rep(seq_len(n), length(when)))
  out <- lapply(data[others], function(x) x[rep(seq_len(n), each = length(when))])
  out[[period]] <- rep(when, n)
  for (name in names(layout[[1]])) {
    columns <- lapply(layout, function(l) {
      if (is.na(l[[name]])) rep(NA, n) else data[[l[[name]]]]
    })
    kinds <- lapply(columns, function(x) if (!all(is.na(x))) kind_of_column(x))
    check_one_kind(unlist(kinds), name, rlang::caller_env(2))
    out[[name]] <- do.call(c, columns)[order]
  }
  tibble::as_tibble(out, .name_repair = "unique_quiet")
}

kind_of_column <- function(x) if (is.numeric(x)) "numbers" else class(x)[1]

check_one_kind <- function(kinds, name, call) {
  kinds <- unique(kinds)
  if (length(kinds) < 2) return(invisible())
  ochre_abort("column",
              "Columns of `{name}` are of different types: {list_words(kinds, mark = '')}.",
              "Look for text where numbers should be.", column = name)
}
