# Fitting steps to values: which values begin a class, what the breaks are called, how well the
# classes fit. The partition is decided on the distinct sorted values, so that equal values
# share a class; only then are the breaks written as short decimals (step-breaks.R).

#' Fit steps to values
#'
#' @param x Numeric vector; with [steps_categories()] texts or a factor. `NA` and `NaN` are counted as missing; infinite values are counted
#'   apart, belong to no class, and a warning `ochre_warning_infinite` says so.
#' @param steps A method from [steps_equal()] and its kin.
#' @param weights For `steps_quantile()` and rounded ones near it: one number for each value, not negative, such as the people of the area; missing ones
#'   count as zero. `NULL` (default) counts each value once. [shade_areas()] takes the column that `steps_quantile(weight = )` names.
#' @return A list of class `ochre_steps`: `method`; `breaks`, the class ends including the
#'   outer ones (one more than there are classes; the last two are equal when the last class
#'   holds the greatest value only); `labels`, one text a class, which never
#'   overlap and are true at the decimals shown; `counts`, values in each class; `means`;
#'   `fit`, the goodness of variance fit (1 less the squared deviations within classes over
#'   those of all values; between 0 and 1, 1 for constant values); `tabular`, the same with absolute instead of squared deviations; `evenness` of
#'   the classes' counts (1 when all are alike); `largest`, the share of values in the fullest class; `moved`, how many values changed their class by
#'   rounding, or `NULL`; `below`, the number of classes below a midpoint, or `NULL`; `digits`, decimals of the
#'   labels; `missing` and `infinite`, counts; `values`, a histogram for printing.
#'   Without a finite value there are no classes and `fit` is `NA`. Constant values make one
#'   class. Fewer distinct values than classes, or ties, make fewer classes, and a warning
#'   `ochre_warning_classes` says so; an empty class gives `ochre_warning_empty`.
#' @section Errors: `ochre_error_outside` when values lie outside of given breaks (fields
#'   `values`, `rows`); `ochre_error_argument`.
#' @source Tabular accuracy: Jenks, G.F., Caspall, F.C. (1971) Error on choroplethic maps, Annals of the Association of American
#'   Geographers 61, 217-244.
#' @examples
#' fit_steps(c(3.1, 4.7, 5, 5.2, 9.9, NA), steps_natural(3))
#' @export
fit_steps <- function(x, steps = steps_quantile(5), weights = NULL) {
  check_steps(steps, "steps")
  if (steps$method == "categories") return(fit_categories(x))
  if (!is.numeric(x)) ochre_abort("argument", sprintf("`x` must be numeric, not %s.", describe(x)), arg = "x")
  finite <- is.finite(x)
  infinite <- sum(is.infinite(x))
  if (infinite) {
    ochre_warn("infinite", sprintf("%s to no class.", count_words(infinite, "infinite value belongs", "infinite values belong")),
               "They often come from a division by zero.", rows = which(is.infinite(x)))
  }
  weights <- check_weights(weights, x, finite)
  data <- distinct_core(as.numeric(if (all(finite)) x else x[finite]))
  fitted <- if (!length(data$value)) list(breaks = numeric(), digits = 0L, closed = TRUE)
            else if (steps$method == "given") given_breaks(data, steps, x)
            else computed_breaks(data, steps, if (all(finite)) x else x[finite], weights)
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
    means = sums$mean, fit = sums$fit, tabular = sums$tabular, evenness = evenness(sums$count), largest = if (sum(sums$count)) max(sums$count) / sum(sums$count) else NA_real_,
    digits = as.integer(max(fitted$digits, 0L)), missing = sum(is.na(x)), infinite = infinite, closed = fitted$closed, below = fitted$below, moved = fitted$moved,
    values = bin_values(data)
  ), class = "ochre_steps")
}

check_weights <- function(weights, x, finite, call = rlang::caller_env()) {
  if (is.null(weights)) return(NULL)
  if (!is.numeric(weights) || length(weights) != length(x) || isTRUE(suppressWarnings(min(weights, na.rm = TRUE)) < 0)) {
    ochre_abort("argument", "`weights` must be one number for each value, not negative.", arg = "weights", call = call)
  }
  if (!all(finite)) weights <- weights[finite]
  if (anyNA(weights)) weights[is.na(weights)] <- 0
  if (sum(weights) > 0) weights
}

# How even the classes' sizes are: 1 when all are alike, 0 when one has all (Pielou, E.C. 1966, The
# measurement of diversity in different types of biological collections, Journal of Theoretical Biology 13, 131-144).
evenness <- function(sizes) {
  share <- sizes / sum(sizes)
  if (length(sizes) < 2) return(1)
  -sum(ifelse(share > 0, share * log(share), 0)) / log(length(sizes))
}

# One class for each different text.
fit_categories <- function(x, call = rlang::caller_env()) {
  text <- as.character(x)
  known <- if (is.factor(x)) levels(x)[levels(x) %in% text] else names(sort(-table(text)))
  if (length(known) > 12) {
    ochre_abort("argument", sprintf("There are %d categories; a map can show 12 that are told apart.", length(known)), "Join the rare ones to one, such as \"other\".", arg = "steps", call = call)
  }
  structure(list(
    method = "categories", breaks = known, labels = known, counts = as.integer(table(factor(text, known))), means = rep(NA_real_, length(known)), fit = NA_real_, tabular = NA_real_,
    evenness = evenness(as.integer(table(factor(text, known)))), largest = if (length(known)) max(table(text)) / sum(!is.na(text)) else NA_real_, digits = 0L, missing = sum(is.na(text)), infinite = 0L, values = list(counts = numeric())
  ), class = "ochre_steps")
}

check_steps <- function(steps, arg, call = rlang::caller_env()) {
  if (!inherits(steps, "ochre_step_method")) {
    ochre_abort("argument", sprintf("`%s` must come from a steps_\u2026() function, not be %s.", arg, describe(steps)),
                "For example steps_quantile(5).", arg = arg, call = call)
  }
  invisible(steps)
}

computed_breaks <- function(data, steps, x, weights, call = rlang::caller_env(2)) {
  value <- data$value
  m <- length(value)
  if (m == 1) {
    if (steps$n > 1) warn_fewer(1, steps$n)
    return(list(breaks = c(value, value), digits = min(decimals_of(value), max(0, 3 - floor(log10(max(abs(value), 1e-9))))), closed = TRUE, below = if (steps$method == "around") as.integer(value < steps$midpoint)))
  }
  below <- NULL
  moved <- NULL
  if (steps$method == "around") {
    wanted <- around_targets(data, steps, x, call)
    target <- wanted$inner
    inner <- around_breaks(target, data, steps)
    below <- if (is.null(inner$middle)) wanted$below else inner$middle
  } else if (steps$method == "rounded") {
    target <- step_targets(data, list(method = steps$near, n = steps$n), x, weights, call)
    target <- target[target > value[1] & target <= value[m]]
    inner <- round_breaks(target, data) %||% short_breaks(target, value)
    moved <- inner$moved %||% 0
  } else {
    target <- step_targets(data, steps, x, weights, call)
    target <- target[target > value[1] & target <= value[m]]
    inner <- if (is.null(steps$digits)) short_breaks(target, value, slack_of(target, data, steps)) else rounded_breaks(target, value, steps$digits)
  }
  if (length(inner$breaks) < steps$n - 1 && !steps$method %in% c("headtail", "around", "deviation")) warn_fewer(length(inner$breaks) + 1, steps$n)
  list(breaks = c(value[1], inner$breaks, value[m]), digits = inner$digits, closed = reads_true(inner$breaks, value, inner$digits), below = below, moved = moved)
}

# How far a break may be moved to be written shorter: freely where the method is about which values go
# together, a little where it is about places.
slack_of <- function(target, data, steps) {
  if (!steps$method %in% c("equal", "deviation", "geometric") || !length(target)) return(Inf)
  ends <- c(data$value[1], target, data$value[length(data$value)])
  0.02 * pmin(diff(ends)[-length(ends) + 1L], diff(ends)[-1])
}

# The midpoint stays what was asked for; the others are written shorter around it.
around_breaks <- function(target, data, steps) {
  if (!length(target)) return(list(breaks = numeric(), digits = 0L))
  digits <- steps$digits
  if (is.null(digits)) {
    range <- diff(range(data$value)) / steps$n
    for (digits in seq(max(0, min(12, -floor(log10(range)) - 1)), 12)) if (max(abs(round(target, digits) - target)) <= 0.02 * range && !anyDuplicated(round(target, digits))) break
  }
  breaks <- round(target, digits)
  # The midpoint may be shortened only so far that no value changes sides.
  at <- match(steps$midpoint, target)
  if (!is.na(at)) for (d in digits:15) {
    breaks[at] <- round(steps$midpoint, d)
    if (moved_values(steps$midpoint, breaks[at], data) == 0) break
  }
  middle <- if (!is.na(at)) breaks[at]
  breaks <- sort(unique(breaks))
  list(breaks = breaks, digits = max(0, decimals_of(breaks)), middle = if (!is.null(middle)) match(middle, breaks))
}

warn_fewer <- function(got, wanted) {
  ochre_warn("classes", sprintf("The values allow only %s, not %d.", count_words(got, "class", "classes"), wanted),
             "Equal values share a class, so ties and few distinct values make fewer.", classes = got)
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
  moved <- NULL
  if (steps$round && length(inner)) {
    rounded <- round_breaks(inner, data) %||% list(breaks = inner, moved = 0)
    moved <- rounded$moved
    breaks <- c(breaks[1], rounded$breaks, breaks[length(breaks)])
    inner <- rounded$breaks
  }
  digits <- max(decimals_of(breaks[is.finite(breaks)]))
  list(breaks = breaks, digits = digits, closed = reads_true(inner, data$value, digits), moved = moved)
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
  mean <- sums$mean[at]
  around <- absolute_deviations(data, 1L, all$mean)
  list(count = ifelse(is.na(at), 0, sums$count[at]), mean = mean,
       fit = if (all$squares > 0) max(0, 1 - sum(sums$squares) / all$squares) else 1,
       tabular = if (around > 0) max(0, 1 - absolute_deviations(data, c(1L, full), sums$mean) / around) else 1)
}

# Sum of the distances of all values from the mean of their class.
absolute_deviations <- function(data, starts, means) sum(data$weight * abs(data$value - rep(means, diff(c(starts, length(data$value) + 1L)))))

#' The class of each value
#'
#' @param steps Fitted steps from [fit_steps()].
#' @param x Numeric vector; of categories texts.
#' @return Integer vector: the class from 1, `NA` for missing and infinite values and for
#'   values outside of the outer breaks.
#' @section Errors: `ochre_error_argument`.
#' @examples
#' class_of(fit_steps(1:10, steps_equal(3)), c(1, 5, 10, NA))
#' @export
class_of <- function(steps, x) {
  if (!inherits(steps, "ochre_steps")) ochre_abort("argument", "`steps` must come from fit_steps().", arg = "steps")
  if (steps$method == "categories") return(match(as.character(x), steps$breaks))
  if (!is.numeric(x)) ochre_abort("argument", sprintf("`x` must be numeric, not %s.", describe(x)), arg = "x")
  breaks <- steps$breaks
  k <- length(breaks) - 1L
  if (k < 1) return(rep(NA_integer_, length(x)))
  at <- findInterval(x, breaks, rightmost.closed = TRUE)
  if (breaks[1] == breaks[k + 1]) at <- ifelse(x == breaks[1], 1L, 0L)
  at[!is.finite(x) | at < 1L | at > k] <- NA
  as.integer(at)
}
