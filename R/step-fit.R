# Fitting steps to values: which values begin a class, what the breaks are called, how well the
# classes fit. The partition is decided on the distinct sorted values, so that equal values
# share a class; only then are the breaks written as short decimals (step-breaks.R).

#' Fit steps to values
#'
#' @param x Numeric vector; with [steps_categories()] texts or a factor. `NA` and `NaN` are
#'   counted as missing; infinite values are counted apart, belong to no class, and a warning
#'   `ochre_warning_infinite` says so.
#' @param steps How to form classes: see [steps].
#' @param weights For `steps_quantile()` and rounded ones near it: one number for each value, not
#'   negative, such as the people of the area; missing ones count as zero. `NULL` (default) counts
#'   each value once. [shade_areas()] takes the column that `steps_quantile(weight = )` names.
#' @return A list of class `ochre_steps`: `method`; `breaks`, the class ends including the outer
#'   ones (one more than there are classes), rising; where all values are one, half a unit of its
#'   last decimal below and above it; `labels`, one text a class, which never overlap and are true
#'   at the decimals shown; `counts`, values in each class; `means`; `fit`, the goodness of
#'   variance fit (1 less the squared deviations within classes over those of all values; between
#'   0 and 1, 1 for constant values); `tabular`, the same with absolute instead of squared
#'   deviations; `evenness` of the classes' counts (1 when all are alike); `largest`, the share of
#'   values in the fullest class; `moved`, how many values changed their class by rounding, or
#'   `NULL`; `right`, whether limits belong to the class below them; `words`, labels of the writer's
#'   own, or `NULL`; `below`, the number of classes below a midpoint, or `NULL`; `digits`, decimals
#'   of the labels; `missing` and `infinite`, counts; `values`, a histogram for printing. Fractions
#'   are read at fifteen digits. Without a finite value there are no classes and `fit` is `NA`.
#'   Constant values make one class. Fewer distinct values than classes, or ties, make fewer
#'   classes, and a warning `ochre_warning_classes` says so; an empty class gives
#'   `ochre_warning_empty`.
#' @section Errors: `ochre_error_outside` when values lie outside of given breaks (fields
#'   `values`, `rows`); `ochre_error_argument`.
#' @source Tabular accuracy: Jenks, G.F., Caspall, F.C. (1971) Error on choroplethic maps, Annals
#'   of the Association of American Geographers 61, 217-244.
#' @examples
#' fit_steps(c(3.1, 4.7, 5, 5.2, 9.9, NA), steps_natural(3))
#' @export
fit_steps <- function(x, steps = steps_quantile(5), weights = NULL) {
  refuse_missing(missing(x), "x", rlang::current_env())
  steps <- as_steps(steps, "steps")
  if (steps$method == "categories") return(fit_categories(x, steps$words))
  if (!is.numeric(x)) ochre_abort("argument", "`x` must be numeric, not {describe(x)}.", arg = "x")
  finite <- is.finite(x)
  warn_infinite(which(is.infinite(x)))
  weights <- check_weights(weights, x, finite)
  known <- as.numeric(if (all(finite)) x else x[finite])
  data <- call_core(distinct_core(known))
  check_not_tiny(data)
  ends <- range_of_sorted(data$value)
  data <- without_noise(data)
  # Numbers so large or small that sums of squares would not hold them are fitted in other units.
  power <- scale_power(data$value)
  scaled <- list(value = data$value * 10^-power, weight = data$weight)
  values <- list(data = data, scaled = scaled, power = power, known = known, weights = weights)
  fitted <- fit_breaks(values, steps, x)
  fitted$right <- isTRUE(steps$right)
  sums <- class_summary(scaled, class_starts(fitted$breaks, data$value, fitted$right))
  warn_empty(sums$count)
  noisy <- !identical(ends, range_of_sorted(data$value))
  exact <- noisy && steps$method != "given" && is.null(fitted$only)
  breaks <- if (exact) data_ends(fitted$breaks, data$value, ends) else fitted$breaks
  fitted$words <- own_words(steps$words, length(sums$count))
  new_steps(steps$method, breaks, fitted, list(
    counts = as.integer(sums$count),
    means = sums$mean * 10^power,
    fit = sums$fit,
    tabular = sums$tabular,
    missing = sum(is.na(x)),
    infinite = sum(is.infinite(x)),
    values = bin_values(data)
  ))
}

# Where each class begins among the sorted values.
class_starts <- function(breaks, value, right = FALSE) {
  if (!length(value)) return(integer())
  inner <- fifteen_digits(breaks[-c(1, length(breaks))])
  findInterval(inner, value, left.open = !right) + 1L
}

# The words for the classes, of which there may be fewer than wanted.
own_words <- function(words, classes, call = rlang::caller_env()) {
  if (is.null(words) || length(words) == classes || !classes) return(words)
  ochre_abort(
    "argument",
    paste0("`labels` has {count_words(length(words), 'text')}, and there are ",
           "{count_words(classes, 'class', 'classes')}."),
    "Give one text a class; ties and few distinct values make fewer classes than wanted.",
    arg = "labels"
  )
}

# The outer breaks are the data's own, to the last bit.
data_ends <- function(breaks, value, ends) {
  inner <- breaks[-c(1, length(breaks))]
  inner <- below_greatest(inner, c(value[-length(value)], ends[2]), 0, FALSE)
  c(ends[1], inner, ends[2])
}

# Fitted steps: `fitted` is how the breaks came about, `found` what the values show in them.
new_steps <- function(method, breaks, fitted, found) {
  counts <- found$counts
  about <- list(
    method = method,
    breaks = breaks,
    labels = fitted$words %||% label_classes(breaks, fitted),
    evenness = evenness(counts),
    largest = if (sum(counts)) max(counts) / sum(counts) else NA_real_,
    digits = as.integer(max(fitted$digits, 0L))
  )
  way <- list(
    closed = fitted$closed,
    below = fitted$below,
    moved = fitted$moved,
    only = fitted$only,
    right = fitted$right,
    words = fitted$words
  )
  structure(c(about, found, way), class = "ochre_steps")
}

warn_infinite <- function(rows) {
  if (!length(rows)) return(invisible())
  ochre_warn(
    "infinite",
    sprintf(
      "%s to no class.",
      count_words(length(rows), "infinite value belongs", "infinite values belong")
    ), "They often come from a division by zero.", rows = rows
  )
}

# `values` has `data`, the distinct values with their counts; `scaled`, the same times 10^-power;
# `known`, all finite values as they came, with their `weights`.
fit_breaks <- function(values, steps, x, call = rlang::caller_env(2)) {
  data <- values$data
  scaled <- values$scaled
  power <- values$power
  value <- data$value
  m <- length(value)
  if (!m) return(list(breaks = numeric(), digits = 0L, closed = TRUE))
  if (steps$method == "given") return(given_breaks(data, steps, x, call))
  known <- values$known
  if (power == 0) return(computed_breaks(data, steps, known, values$weights, call))
  if (!is.null(steps$midpoint)) steps$midpoint <- steps$midpoint * 10^-power
  if (!is.null(steps$digits)) steps$digits <- min(12, max(-12, steps$digits + power))
  fitted <- computed_breaks(scaled, steps, known, values$weights, call)
  if (m == 1) {
    return(one_value(
      value,
      list(n = 1, method = steps$method, midpoint = steps$midpoint * 10^power)
    ))
  }
  inner <- fitted$breaks[-c(1, length(fitted$breaks))]
  at <- findInterval(inner, scaled$value, left.open = TRUE)
  inner <- as.numeric(sprintf("%.14e", inner * 10^power))
  inner <- ifelse(inner > value[at] & inner <= value[at + 1L], inner, value[at + 1L])
  fitted$breaks <- c(value[1], below_greatest(unique(inner), value, 0, FALSE), value[m])
  fitted$digits <- max(0, fitted$digits - power)
  fitted$closed <- FALSE
  fitted
}

warn_empty <- function(counts) {
  empty <- sum(counts == 0)
  if (!empty) return(invisible())
  ochre_warn(
    "empty",
    paste0("{empty} of {count_words(length(counts), 'class', 'classes')} ",
           "{if (empty == 1) 'is' else 'are'} empty."), "Try fewer classes or another method.",
    counts = counts
  )
}

check_weights <- function(weights, x, finite, call = rlang::caller_env()) {
  if (is.null(weights)) return(NULL)
  if (!is.numeric(weights) ||
      length(weights) != length(x) ||
      isTRUE(suppressWarnings(min(weights, na.rm = TRUE)) < 0)) {
    ochre_abort("argument", "`weights` must be one number for each value, not negative.",
                arg = "weights")
  }
  if (!all(finite)) weights <- weights[finite]
  if (anyNA(weights)) weights[is.na(weights)] <- 0
  if (sum(weights) > 0) weights
}

# How even the classes' sizes are: 1 when all are alike, 0 when one has all (Pielou, E.C. 1966,
# The measurement of diversity in different types of biological collections, Journal of
# Theoretical Biology 13, 131-144).
evenness <- function(sizes) {
  share <- sizes / sum(sizes)
  if (length(sizes) < 2) return(1)
  -sum(ifelse(share > 0, share * log(share), 0)) / log(length(sizes))
}

computed_breaks <- function(data, steps, x, weights, call = rlang::caller_env(2)) {
  value <- data$value
  m <- length(value)
  if (!is.null(steps$midpoint)) steps$midpoint <- fifteen_digits(steps$midpoint)
  if (m == 1) return(one_value(value, steps))
  below <- NULL
  moved <- NULL
  if (steps$method == "around") {
    wanted <- around_targets(data, steps, x, call)
    inner <- around_breaks(wanted$inner, data, steps)
    below <- if (is.null(inner$middle)) wanted$below else inner$middle
  } else {
    method <- if (steps$method == "rounded") list(method = steps$near, n = steps$n) else steps
    target <- step_targets(data, method, x, weights, call)
    target <- target[target > value[1] & target <= value[m]]
    inner <- if (steps$method == "rounded") {
      round_breaks(target, data) %||% c(short_breaks(target, value), moved = 0)
    } else if (is.null(steps$digits)) {
      loose_breaks(target, data, steps, weights) %||%
        short_breaks(target, value, slack_of(target, data, steps))
    } else {
      rounded_breaks(target, value, steps$digits)
    }
    moved <- inner$moved
  }
  few <- !steps$method %in% c("headtail", "around", "deviation")
  if (few && length(inner$breaks) < steps$n - 1) warn_fewer(length(inner$breaks) + 1, steps$n)
  closed <- reads_true(inner$breaks, value, inner$digits)
  breaks <- below_greatest(inner$breaks, value, inner$digits, closed)
  list(
    breaks = c(value[1], breaks, value[m]), digits = inner$digits, closed = closed,
    below = below, moved = moved
  )
}

# All values are one: a class from half a unit of its last decimal below it to half a unit above.
one_value <- function(value, steps) {
  if (steps$n > 1) warn_fewer(1, steps$n)
  digits <- min(decimals_of(value), max(0, 3 - floor(log10(max(abs(value), 1e-9)))))
  half <- max(10^-digits / 2, abs(value) * 1e-15)
  list(
    breaks = value + c(-half, half),
    digits = digits,
    closed = TRUE,
    only = value,
    below = if (steps$method == "around") as.integer(value < steps$midpoint)
  )
}

# How far a break may be moved to be written shorter: freely where the method is about which
# values go together, a little where it is about places.
slack_of <- function(target, data, steps) {
  if (!steps$method %in% c("equal", "deviation", "geometric") || !length(target)) return(Inf)
  ends <- c(data$value[1], target, data$value[length(data$value)])
  0.02 * pmin(diff(ends)[-length(ends) + 1L], diff(ends)[-1])
}

warn_fewer <- function(got, wanted) {
  ochre_warn(
    "classes", "The values allow only {count_words(got, 'class', 'classes')}, not {wanted}.",
    "Equal values share a class, so ties and few distinct values make fewer.", classes = got
  )
}

given_breaks <- function(data, steps, x, call) {
  breaks <- steps$breaks
  fitted <- steps$fitted
  outside <- which(is.finite(x) & is_outside(fifteen_digits(x), breaks))
  if (length(outside)) {
    ochre_abort(
      "outside",
      sprintf(
        "%s outside of the given breaks (%s to %s): from %s to %s.",
        count_words(length(outside), "value lies", "values lie"), format(breaks[1]),
        format(breaks[length(breaks)]), format(min(x[outside])), format(max(x[outside]))
      ), "Move the outer breaks, or begin with -Inf or end with Inf.", values = x[outside],
      rows = outside
    )
  }
  if (!is.null(fitted)) {
    return(unclass(fitted)[c("breaks", "digits", "closed", "below", "moved", "only")])
  }
  inner <- fifteen_digits(breaks[-c(1, length(breaks))])
  moved <- NULL
  if (steps$round && length(inner)) {
    rounded <- round_breaks(inner, data) %||% list(breaks = inner, moved = 0)
    moved <- rounded$moved
    breaks <- c(breaks[1], rounded$breaks, breaks[length(breaks)])
    inner <- rounded$breaks
  }
  digits <- max(0, decimals_of(breaks[is.finite(breaks)]))
  list(
    breaks = breaks,
    digits = digits,
    closed = !steps$right && reads_true(inner, data$value, digits),
    moved = moved
  )
}

class_summary <- function(data, starts) {
  if (!length(data$value)) return(list(count = integer(), mean = numeric(), fit = NA_real_))
  # An empty class starts where the next one does.
  full <- unique(starts[starts > 1 & starts <= length(data$value)])
  sums <- call_core(class_sums_core(data$value, data$weight, full))
  all <- call_core(class_sums_core(data$value, data$weight, integer()))
  ends <- c(1L, starts, length(data$value) + 1L)
  at <- match(ends[-length(ends)], c(1L, full))
  at[diff(ends) == 0] <- NA
  mean <- sums$mean[at]
  around <- absolute_deviations(data, 1L, all$mean)
  list(
    count = ifelse(is.na(at), 0, sums$count[at]),
    mean = mean,
    fit = if (all$squares > 0) max(0, 1 - sum(sums$squares) / all$squares) else 1,
    tabular = if (around > 0) {
      max(0, 1 - absolute_deviations(data, c(1L, full), sums$mean) / around)
    } else {
      1
    }
  )
}

# Sum of the distances of all values from the mean of their class.
absolute_deviations <- function(data, starts, means) {
  sum(data$weight * abs(data$value - rep(means, diff(c(starts, length(data$value) + 1L)))))
}

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
  refuse_missing(missing(steps), "steps", rlang::current_env())
  refuse_missing(missing(x), "x", rlang::current_env())
  if (!inherits(steps, "ochre_steps")) {
    ochre_abort("argument", "`steps` must come from fit_steps().", arg = "steps")
  }
  if (steps$method == "categories") return(match(as.character(x), steps$breaks))
  if (!is.numeric(x)) ochre_abort("argument", "`x` must be numeric, not {describe(x)}.", arg = "x")
  breaks <- fifteen_digits(steps$breaks)
  k <- length(breaks) - 1L
  if (k < 1) return(rep(NA_integer_, length(x)))
  read <- fifteen_digits(x)
  at <- findInterval(read, breaks[-c(1, k + 1)], left.open = isTRUE(steps$right)) + 1L
  at[!is.finite(x) | is_outside(read, breaks)] <- NA
  as.integer(at)
}

# Numbers as they are read, beyond the outer breaks.
is_outside <- function(read, breaks) {
  ends <- fifteen_digits(range_of_sorted(breaks))
  read < ends[1] | read > ends[2]
}
