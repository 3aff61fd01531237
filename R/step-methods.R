# The ways to step a variable into classes. Each verb only says what is wanted; fitting it to
# values is in step-fit.R.

#' Ways to step a variable into classes
#'
#' * `steps_equal()`: classes of equal width from the least to the greatest value.
#' * `steps_quantile()`: classes with as equal counts as ties allow. Each break lies between
#'   two distinct values, where the share of values below it is nearest to the wanted one.
#' * `steps_natural()`: the classes whose members differ least from their class mean (the
#'   least sum of squared deviations; the exact optimum, not an approximation).
#' * `steps_at()`: given breaks.
#'
#' Classes are closed on the left; the last is closed on both sides. Breaks of the first three
#' are written with as few decimals as possible without moving any value to another class; with
#' `digits` they are rounded to that many decimals, and values follow the rounded breaks.
#'
#' @param n Wanted number of classes: one whole number from 1 to 11. Data with fewer distinct
#'   values give fewer classes.
#' @param digits Decimals of the breaks: one whole number, or `NULL` (default).
#' @param breaks Increasing numbers, at least two, the outer ends included; `-Inf` and `Inf`
#'   leave an end open.
#' @return A value of class `ochre_step_method`, to be fitted by [fit_steps()] or given to
#'   [shade_areas()].
#' @section Errors: `ochre_error_argument`.
#' @source Natural breaks: Fisher, W.D. (1958) On grouping for maximum homogeneity, Journal of
#'   the American Statistical Association 53, 789-798.
#' @examples
#' fit_steps(c(1, 2, 4, 8, 16, 32), steps_quantile(3))
#' @name steps
NULL

#' @rdname steps
#' @export
steps_equal <- function(n = 5, digits = NULL) step_method("equal", n, digits)

#' @rdname steps
#' @export
steps_quantile <- function(n = 5, digits = NULL) step_method("quantile", n, digits)

#' @rdname steps
#' @export
steps_natural <- function(n = 5, digits = NULL) step_method("natural", n, digits)

#' @rdname steps
#' @export
steps_at <- function(breaks) {
  if (is.list(breaks)) breaks <- unlist(breaks)
  if (!is.numeric(breaks) || length(breaks) < 2 || anyNA(breaks) || any(diff(breaks) <= 0)) {
    ochre_abort("argument", "`breaks` must be at least two increasing numbers.",
                "Give both outer ends too, for example steps_at(c(0, 10, 20, 50)).", arg = "breaks")
  }
  if (length(breaks) > 12) ochre_abort("argument", "`breaks` must make at most 11 classes.", arg = "breaks")
  structure(list(method = "given", n = length(breaks) - 1L, breaks = as.numeric(breaks), digits = NULL), class = "ochre_step_method")
}

step_method <- function(method, n, digits, call = rlang::caller_env()) {
  check_number(n, "n", min = 1, max = 11, whole = TRUE, call = call)
  check_number(digits, "digits", min = -12, max = 12, whole = TRUE, null = TRUE, call = call)
  structure(list(method = method, n = as.integer(n), digits = digits), class = "ochre_step_method")
}

#' @export
print.ochre_step_method <- function(x, ...) {
  cat(sprintf("Steps wanted: %s, %s\n", x$method, count_words(x$n, "class", "classes")))
  invisible(x)
}
