# What readers can infer about hidden counts: the least and the greatest value that each can have,
# by linear programming over all published sums and cells together.

#' What can be inferred about hidden counts
#'
#' The attack that [hide_small()] guards against: from the published cells and sums, and the rule
#' that only counts above zero are hidden, the least and the greatest value that each hidden count
#' can have. Run it on what you are about to publish, with the true counts at hand.
#'
#' @param data A data frame with the true counts.
#' @param count Column, bare or as text; numeric, whole, not negative.
#' @param hidden Which counts are not published: a logical vector, one for each row, or a column,
#'   such as the reason that [hide_small()] leaves (not missing where hidden).
#' @inheritParams hide_small
#' @return A tibble with one row for each hidden count: `row`, `count` (the true one), `least` and
#'   `greatest` (whole numbers; `Inf` where no sum bounds it), and `safe`: whether no value from 1
#'   to `limit` - 1 is excluded. Only counts below the limit need to be safe.
#' @section Errors: `ochre_error_column`; `ochre_error_argument`; `ochre_error_package` without
#' package lpSolve.
#' @source Hundepool, A. et al. (2012) Statistical Disclosure Control, Wiley, section 4.3 (the
#'   attacker's problem).
#' @examples
#' cases <- data.frame(cases = c(3, 12, 40))
#' infer_hidden(cases, cases, hidden = c(TRUE, TRUE, FALSE))
#' @export
infer_hidden <- function(data, count, hidden, limit = 5, within = NULL, total = TRUE, by = NULL,
                         margins = NULL, sums = NULL) {
  check_table(data, "data", lazy = TRUE)
  data <- fetch_whole(data)
  count <- column_name(rlang::enquo(count), data, "count")
  check_number(limit, "limit", min = 2, whole = TRUE)
  within <- column_name(rlang::enquo(within), data, "within", null = TRUE)
  by <- column_names(rlang::enquo(by), data, "by", null = TRUE)
  wish <- list(within = within, total = total, by = by, margins = margins, sums = sums)
  table <- sums_wanted(data, count, wish)
  hidden <- hidden_rows(rlang::enquo(hidden), data)
  cells <- which(hidden & !is.na(table$value))
  found <- ranges_of(cells, table)
  tibble::tibble(
    row = cells,
    count = table$value[cells],
    least = found$least,
    greatest = found$greatest,
    safe = found$least <= 1 & found$greatest >= limit - 1
  )
}

hidden_rows <- function(quo, data, call = rlang::caller_env()) {
  refuse_missing(rlang::quo_is_missing(quo), "hidden", call)
  hidden <- rlang::eval_tidy(quo, data)
  if (is.character(hidden) && length(hidden) == 1 && hidden %in% names(data)) {
    hidden <- data[[hidden]]
  }
  if (is.atomic(hidden) && !is.logical(hidden)) hidden <- !is.na(hidden)
  if (!is.logical(hidden) || length(hidden) != nrow(data)) {
    ochre_abort(
      "argument",
      paste0("`hidden` has {count_words(length(hidden), 'value')}, and `data` ",
             "{count_words(nrow(data), 'row')}."), "Give TRUE or FALSE for each row, or a column.",
      arg = "hidden"
    )
  }
  hidden %in% TRUE
}

# The least and greatest value of each cell, when all of these are hidden.
ranges_of <- function(cells, table, call = rlang::caller_env()) {
  least <- rep(1, length(cells))
  greatest <- rep(Inf, length(cells))
  if (!in_one_sum(table)) need_package("lpSolve", "Reckoning with several sums", call)
  for (part in linked_cells(cells, table)) {
    range <- range_of_part(part, table, call)
    at <- match(part, cells)
    least[at] <- range$least
    greatest[at] <- range$greatest
  }
  list(least = least, greatest = greatest)
}

# Where one sum holds all of them, what it leaves for each when the others are as small as can be,
# or as large; else a linear program for each end.
range_of_part <- function(part, table, call) {
  at <- equations_of(part, table)
  ends <- vapply(
    seq_along(part),
    function(k) {
      c(end_of(k, "min", at, length(part), call), end_of(k, "max", at, length(part), call))
    },
    c(0, 0)
  )
  list(least = ends[1, ], greatest = ends[2, ])
}

end_of <- function(k, direction, at, n, call = rlang::caller_env()) {
  if (!length(at$sums)) {
    return(if (direction == "min") 1 else Inf)
  }
  one <- length(at$sums) == 1 && all(at$matrix[, 3] > 0)
  if (one) {
    return(if (n > 1 && direction == "min") 1 else at$right - (n - 1))
  }
  end <- extreme(k, direction, at, n, call)
  if (direction == "min") ceiling(end - 1e-6) else floor(end + 1e-6)
}

# A hidden cell is at least 1, because zeros are published; programs count from 0.
extreme <- function(k, direction, at, n, call) {
  less <- as.numeric(rowsum_by(at$matrix[, 3], factor(at$matrix[, 1], seq_along(at$right))))
  solved <- lpSolve::lp(
    direction,
    objective.in = as.numeric(seq_len(n) == k),
    dense.const = at$matrix,
    const.dir = rep("=", length(at$right)),
    const.rhs = at$right - less
  )
  if (solved$status == 3) return(Inf)
  if (solved$status != 0) {
    ochre_abort("internal", "The linear program of what can be inferred has no solution.")
  }
  solved$objval + 1
}
