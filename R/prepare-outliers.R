# Values that look like typing or scraping faults. They are reported, never dropped or changed.

#' Find values that look like faults
#'
#' `find_outliers()` lists them; `flag_outliers()` keeps the table and says beside each value what
#' is odd about it. Looked for are, in this order:
#' * an identifier where a measure should be: a value of at least three digits that is the row's
#'   own code, without leading zeros;
#' * a value below zero where no other is;
#' * a zero where none can be: if the least of the others, but for one in twenty and at least one,
#'   is m, a count as small as that is zero with probability exp(-m), here below one in a million;
#' * a factor of 10, 100 or 1000: far from the others, and among them when divided or multiplied
#'   by that;
#' * far from the others: by more than `most` robust standard deviations on a logarithmic scale.
#'
#' "The others" are, with `by`, the area's other values (at least four of them), else all values
#' of the column (at least eight).
#'
#' @param data A data frame, or a lazy table, whose rows are fetched.
#' @param value Column to look at, bare or as text; numeric. `find_outliers()` takes `NULL`
#'   (default) for all numeric columns that are no codes or periods.
#' @param by Column that names the area where there are several rows of each, bare or as text;
#'   `NULL` (default) compares all rows.
#' @param most From how many robust standard deviations on a value is far off: one number above 1.
#' @return `find_outliers()`: a tibble of class `ochre_outliers` with one row a finding: `column`,
#'   `row`, `key` (the row's code or name, or `NA`), `value`, `reason` and `usual` (the median of
#'   the others). `flag_outliers()`: `data` with one more column `<value>_outlier`, the reason or
#'   `NA`; a warning `ochre_warning_outliers` names the first ones. Missing values are never
#'   findings.
#' @section Errors: `ochre_error_column`, `ochre_error_argument`.
#' @source Iglewicz, B., Hoaglin, D.C. (1993) How to Detect and Handle Outliers, ASQC Quality
#'   Press (the median absolute deviation as a robust scale).
#' @examples
#' people <- data.frame(
#'   code = sprintf("%04d", 101:110),
#'   people = c(4100, 3900, 5200, 390000, 4400, 0, 107, 4700, 5100, 4300)
#' )
#' find_outliers(people)
#' @export
find_outliers <- function(data, value = NULL, by = NULL, most = 6) {
  check_table(data, "data", lazy = TRUE)
  data <- fetch_whole(data)
  value <- column_name(rlang::enquo(value), data, "value", null = TRUE)
  by <- column_name(rlang::enquo(by), data, "by", null = TRUE)
  check_number(most, "most", min = 1)
  list_outliers(
    data,
    value %||% names(data)[vapply(names(data), is_measure, NA, data = data, by = by)],
    by,
    most
  )
}

list_outliers <- function(data, columns, by, most) {
  key <- key_column(data, by)
  found <- lapply(columns, function(column) {
    x <- check_numeric(data, column, "value")
    odd <- odd_values(
      x,
      if (is.null(key)) NULL else as_key(data[[key]]),
      if (is.null(by)) NULL else as_key(data[[by]]),
      most
    )
    rows <- which(!is.na(odd$reason))
    who <- if (is.null(key)) rep(NA_character_, length(rows)) else as_key(data[[key]])[rows]
    tibble::tibble(
      column = rep(column, length(rows)),
      row = rows,
      key = who,
      value = x[rows],
      reason = odd$reason[rows],
      usual = odd$usual[rows]
    )
  })
  none <- tibble::tibble(
    column = character(), row = integer(), key = character(), value = numeric(),
    reason = character(), usual = numeric()
  )
  out <- do.call(rbind, c(list(none), found))
  structure(
    out,
    looked = length(columns),
    rows = nrow(data),
    class = c("ochre_outliers", class(out))
  )
}

#' @rdname find_outliers
#' @export
flag_outliers <- function(data, value, by = NULL, most = 6) {
  check_table(data, "data", lazy = TRUE)
  data <- fetch_whole(data)
  value <- column_name(rlang::enquo(value), data, "value")
  by <- column_name(rlang::enquo(by), data, "by", null = TRUE)
  check_number(most, "most", min = 1)
  found <- list_outliers(data, value, by, most)
  name <- paste0(value, "_outlier")
  data[[name]] <- rep(NA_character_, nrow(data))
  data[[name]][found$row] <- found$reason
  if (nrow(found)) {
    ochre_warn(
      "outliers",
      sprintf(
        "`%s` has %s that %s like a fault: %s.", value, count_words(nrow(found), "value"),
        if (nrow(found) == 1) "looks" else "look",
        list_words(
          sprintf(
            "%s (%s)", ifelse(is.na(found$key), paste("row", found$row), found$key), found$reason
          ),
          4, mark = ""
        )
      ), "They are kept; the column `{name}` names them.", rows = found$row
    )
  }
  move_geometry_last(data)
}

is_measure <- function(name, data, by) {
  beside <- grepl("^(longitude|latitude|lon|lat)$|_(low|high|weight)$", lower_case(name)) ||
    named_like_order(name)
  !identical(name, by) && !beside && column_role(data[[name]], name) %in% c("count", "number")
}

# The column that names rows: what `by` says, a code, or a name.
key_column <- function(data, by) {
  if (!is.null(by)) return(by)
  named <- names(data)[named_like_code(names(data))]
  if (length(named)) return(named[1])
  name <- name_column(data)
  if (!is.na(name)) return(name)
  text <- names(data)[vapply(data, function(x) is.character(x) && !anyDuplicated(x), NA)]
  if (length(text)) text[1]
}

# For each value its fault, or NA, and the median of the values it was compared with.
odd_values <- function(x, key, group, most) {
  reason <- rep(NA_character_, length(x))
  mark <- function(which, text) reason[which & !is.na(which) & is.na(reason)] <<- text
  if (!is.null(key)) {
    plain <- suppressWarnings(as.numeric(ifelse(grepl("^[0-9]{3,15}$", key), key, NA)))
    mark(x == plain & x >= 100 & !same_everywhere(x, plain), "the row's own code")
  }
  others <- compare_with(x, group)
  sign <- x < 0 & others$below & others$n >= others$enough
  mark(sign, "below zero, unlike the others")
  mark(x == 0 & others$least > -log(1e-6) & others$n >= others$enough, "zero where none can be")
  far <- (log10(abs(x)) - others$middle) / pmax(others$spread, 0.02)
  off <- x > 0 & abs(far) > most & others$n >= others$enough
  for (k in c(1, 2, 3)) {
    for (up in c(TRUE, FALSE)) {
      moved <- abs(log10(abs(x)) + (if (up) -k else k) - others$middle)
      mark(
        off &
          abs(log10(abs(x)) - others$middle) > k / 2 &
          moved < pmin(0.25, pmax(3 * others$spread, 0.05)),
        sprintf("%d times too %s", as.integer(10^k), if (up) "large" else "small")
      )
    }
  }
  mark(off, "far from the others")
  list(reason = reason, usual = rep_len(10^others$middle, length(x)))
}

# A column of codes, not one code in a column of measures.
same_everywhere <- function(x, plain) mean(x == plain, na.rm = TRUE) > 0.5

# Of the values that each is compared with, on a scale of powers of ten: how many, the median, the
# robust standard deviation; the least one above zero where that is not its own; whether so few are
# below zero that these look like faults.
compare_with <- function(x, group) {
  one <- function(v) {
    up <- log10(v[!is.na(v) & v > 0])
    list(
      n = length(up),
      middle = if (length(up)) stats::median(up) else NA_real_,
      spread = if (length(up) > 1) stats::mad(up) else NA_real_,
      least = if (length(up)) 10^least_of_most(up) else NA_real_,
      below = few_below(v[!is.na(v)])
    )
  }
  if (is.null(group)) return(c(one(x), enough = 8))
  parts <- lapply(split(x, factor(group, unique(group))), one)
  at <- match(group, names(parts))
  pick <- function(what) vapply(parts, function(p) as.numeric(p[[what]]), 0)[at]
  c(lapply(stats::setNames(nm = c("n", "middle", "spread", "least", "below")), pick), enough = 4)
}

# One in twenty, and at least one; of a mark such as -1 more.
few_below <- function(v) {
  below <- v[v < 0]
  most <- if (length(unique(below)) == 1) length(v) / 4 else length(v) / 20
  length(below) > 0 && length(below) <= max(1, most)
}

# The least but for one in twenty, and at least one, that may be a fault itself.
least_of_most <- function(v) {
  at <- min(length(v), 2L + length(v) %/% 20L)
  sort(v, partial = at)[at]
}

#' @export
format.ochre_outliers <- function(x, ...) {
  looked <- sprintf(
    "%s of %s",
    count_words(attr(x, "looked"), "column"),
    count_words(attr(x, "rows"), "row")
  )
  if (!nrow(x)) return(sprintf("No value in %s looks like a fault.", looked))
  who <- ifelse(is.na(x$key), paste("row", x$row), sprintf("%s (row %d)", x$key, x$row))
  lines <- sprintf(
    "  %s  %s  %s  %s; usual is about %s",
    format(x$column),
    format(who),
    format(format_field(x$value), justify = "right"),
    x$reason,
    format_field(signif(x$usual, 2))
  )
  c(
    sprintf(
      "%s in %s:",
      count_words(nrow(x), "value that looks like a fault", "values that look like faults"),
      looked
    ),
    utils::head(lines, 30),
    if (nrow(x) > 30) sprintf("  and %d more", nrow(x) - 30)
  )
}

#' @export
print.ochre_outliers <- function(x, ...) {
  cat(format(x), sep = "\n")
  invisible(x)
}
