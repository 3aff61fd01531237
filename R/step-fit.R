# Fitting steps to values: which values begin a class, what the breaks are called, how well the
# classes fit. The partition is decided on the distinct sorted values, so that equal values
# share a class; only then are the breaks written as short decimals (step-breaks.R).

#' Fit steps to values
#'
#' @param x Numeric vector. `NA` and `NaN` are counted as missing; infinite values are counted
#'   apart, belong to no class, and a warning `ochre_warning_infinite` says so.
#' @param steps A method from [steps_equal()], [steps_quantile()], [steps_natural()] or
#'   [steps_at()].
#' @return A list of class `ochre_steps`: `method`; `breaks`, the class ends including the
#'   outer ones (one more than there are classes; the last two are equal when the last class
#'   holds the greatest value only); `labels`, one text a class, which never
#'   overlap and are true at the decimals shown; `counts`, values in each class; `means`;
#'   `fit`, the goodness of variance fit (1 less the squared deviations within classes over
#'   those of all values; between 0 and 1, 1 for constant values); `digits`, decimals of the
#'   labels; `missing` and `infinite`, counts; `values`, a histogram for printing.
#'   Without a finite value there are no classes and `fit` is `NA`. Constant values make one
#'   class. Fewer distinct values than classes, or ties, make fewer classes, and a warning
#'   `ochre_warning_classes` says so; an empty class gives `ochre_warning_empty`.
#' @section Errors: `ochre_error_outside` when values lie outside of given breaks (fields
#'   `values`, `rows`); `ochre_error_argument`.
#' @examples
#' fit_steps(c(3.1, 4.7, 5, 5.2, 9.9, NA), steps_natural(3))
#' @export
fit_steps <- function(x, steps = steps_quantile(5)) {
  if (!is.numeric(x)) ochre_abort("argument", sprintf("`x` must be numeric, not %s.", describe(x)), arg = "x")
  check_steps(steps, "steps")
  finite <- is.finite(x)
  infinite <- sum(is.infinite(x))
  if (infinite) {
    ochre_warn("infinite", sprintf("%s to no class.", count_words(infinite, "infinite value belongs", "infinite values belong")),
               "They often come from a division by zero.", rows = which(is.infinite(x)))
  }
  data <- distinct_core(as.numeric(if (all(finite)) x else x[finite]))
  fitted <- if (!length(data$value)) list(breaks = numeric(), digits = 0L, closed = TRUE)
            else if (steps$method == "given") given_breaks(data, steps, x)
            else computed_breaks(data, steps)
  breaks <- fitted$breaks
  inner <- breaks[-c(1, length(breaks))]
  starts <- if (length(data$value)) findInterval(inner, data$value, left.open = TRUE) + 1L else integer()
  sums <- class_summary(data, starts)
  if (any(sums$count == 0)) {
    ochre_warn("empty", sprintf("%d of %s %s empty.", sum(sums$count == 0), count_words(length(sums$count), "class", "classes"),
                                if (sum(sums$count == 0) == 1) "is" else "are"),
               "Try fewer classes or another method.", counts = sums$count)
  }
  structure(list(
    method = steps$method, breaks = breaks, labels = label_classes(breaks, data, fitted), counts = as.integer(sums$count),
    means = sums$mean, fit = sums$fit, digits = max(fitted$digits, 0L), missing = sum(is.na(x)), infinite = infinite,
    values = bin_values(data)
  ), class = "ochre_steps")
}

check_steps <- function(steps, arg, call = rlang::caller_env()) {
  if (!inherits(steps, "ochre_step_method")) {
    ochre_abort("argument", sprintf("`%s` must come from a steps_\u2026() function, not be %s.", arg, describe(steps)),
                "For example steps_quantile(5).", arg = arg, call = call)
  }
  invisible(steps)
}

computed_breaks <- function(data, steps, call = rlang::caller_env()) {
  value <- data$value
  m <- length(value)
  if (m == 1) {
    if (steps$n > 1) warn_fewer(1, steps$n)
    return(list(breaks = c(value, value), digits = decimals_of(value), closed = TRUE))
  }
  target <- switch(steps$method,
    equal = seq(value[1], value[m], length.out = steps$n + 1)[-c(1, steps$n + 1)],
    quantile = , natural = {
      starts <- if (steps$method == "natural") natural_starts_core(value, data$weight, steps$n) else quantile_starts(data, steps$n)
      value[starts - 1] + (value[starts] - value[starts - 1]) / 2
    })
  slack <- if (steps$method == "equal") 0.02 * (value[m] - value[1]) / steps$n else Inf
  inner <- if (is.null(steps$digits)) short_breaks(target, value, slack) else rounded_breaks(target, value, steps$digits)
  if (length(inner$breaks) < steps$n - 1) warn_fewer(length(inner$breaks) + 1, steps$n)
  list(breaks = c(value[1], inner$breaks, value[m]), digits = inner$digits, closed = reads_true(inner$breaks, value, inner$digits))
}

warn_fewer <- function(got, wanted) {
  ochre_warn("classes", sprintf("The values allow only %s, not %d.", count_words(got, "class", "classes"), wanted),
             "Equal values share a class, so ties and few distinct values make fewer.", classes = got)
}

# Where the share of values below comes nearest to i/n.
quantile_starts <- function(data, n) {
  below <- cumsum(data$weight)
  wanted <- below[length(below)] * seq_len(n - 1) / n
  below <- below[-length(below)]
  at <- findInterval(wanted, below)
  low <- pmax(at, 1L)
  high <- pmin(at + 1L, length(below))
  sort(unique(ifelse(wanted - below[low] <= below[high] - wanted, low, high))) + 1L
}

given_breaks <- function(data, steps, x, call = rlang::caller_env(2)) {
  breaks <- steps$breaks
  outside <- which(is.finite(x) & (x < breaks[1] | x > breaks[length(breaks)]))
  if (length(outside)) {
    ochre_abort("outside", sprintf("%s outside of the given breaks (%s to %s): from %s to %s.",
                                   count_words(length(outside), "value lies", "values lie"), format(breaks[1]),
                                   format(breaks[length(breaks)]), format(min(x[outside])), format(max(x[outside]))),
                "Move the outer breaks, or begin with -Inf or end with Inf.", values = x[outside], rows = outside, call = call)
  }
  inner <- breaks[-c(1, length(breaks))]
  digits <- max(decimals_of(breaks[is.finite(breaks)]))
  list(breaks = breaks, digits = digits, closed = reads_true(inner, data$value, digits))
}

class_summary <- function(data, starts) {
  if (!length(data$value)) return(list(count = integer(), mean = numeric(), fit = NA_real_))
  # An empty class starts where the next one does.
  full <- unique(starts[starts > 1 & starts <= length(data$value)])
  sums <- class_sums_core(data$value, data$weight, full)
  all <- class_sums_core(data$value, data$weight, integer())
  ends <- c(1L, starts, length(data$value) + 1L)
  at <- match(ends[-length(ends)], c(1L, full))
  at[diff(ends) == 0] <- NA
  list(count = ifelse(is.na(at), 0, sums$count[at]), mean = sums$mean[at],
       fit = if (all$squares > 0) max(0, 1 - sum(sums$squares) / all$squares) else 1)
}

#' The class of each value
#'
#' @param steps Fitted steps from [fit_steps()].
#' @param x Numeric vector.
#' @return Integer vector: the class from 1, `NA` for missing and infinite values and for
#'   values outside of the outer breaks.
#' @section Errors: `ochre_error_argument`.
#' @examples
#' class_of(fit_steps(1:10, steps_equal(3)), c(1, 5, 10, NA))
#' @export
class_of <- function(steps, x) {
  if (!inherits(steps, "ochre_steps")) ochre_abort("argument", "`steps` must come from fit_steps().", arg = "steps")
  if (!is.numeric(x)) ochre_abort("argument", sprintf("`x` must be numeric, not %s.", describe(x)), arg = "x")
  breaks <- steps$breaks
  k <- length(breaks) - 1L
  if (k < 1) return(rep(NA_integer_, length(x)))
  at <- findInterval(x, breaks, rightmost.closed = TRUE)
  if (breaks[1] == breaks[k + 1]) at <- ifelse(x == breaks[1], 1L, 0L)
  at[!is.finite(x) | at < 1L | at > k] <- NA
  as.integer(at)
}
