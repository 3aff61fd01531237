# The ways to step a variable into classes. Each verb only says what is wanted; fitting it to
# values is in step-fit.R.

#' Classification methods for a variable
#'
#' * `steps_equal()`: classes of equal width from the least to the greatest value.
#' * `steps_quantile()`: classes with as equal counts (or weights) as ties allow. Each break lies
#'   between two distinct values, where the share of values below it is nearest to the wanted one.
#' * `steps_natural()`: the classes whose members differ least from their class mean (the
#'   least sum of squared deviations; the exact optimum, not an approximation).
#' * `steps_deviation()`: breaks at equal distances from the mean, counted in standard deviations;
#'   with an odd number of classes the mean is in the middle of one, with an even number it is a
#'   break.
#' * `steps_geometric()`: class widths grow by a constant factor; for values above
#'   zero over several powers of ten.
#' * `steps_headtail()`: for many small values and few large ones: a break at the mean, then at
#'   the mean of the values above it, and so on while those are fewer than 40 %.
#' * `steps_rounded()`: numbers that a reader can hold in mind, near the breaks of another method.
#' * `steps_around()`: classes on both sides of a midpoint (zero change, a target, the national
#'   rate), as many on each side as its share of the values' range needs; a diverging ramp has its
#'   middle there.
#' * `steps_at()`: given breaks; with `round = TRUE` each moved to the nearest round number.
#' * `steps_categories()`: one class for each different text, in the order of a factor's levels
#'   or, else, of their number.
#'
#' Classes are closed on the left; the last is closed on both sides. With `closed = "right"` given
#' limits belong to the class below: "50 or less", "over 50". Computed breaks are written
#' with as few decimals as possible without moving any value to another class (quantiles: at most
#' one in a hundred of a class); with `digits` they are rounded to that many decimals, and values
#' follow the rounded breaks. Where breaks are moved to round numbers, the fit says how many values
#' change their class by it.
#'
#' Every `steps` argument also takes a short form: a number of classes (`5`, as quantiles), the name
#' of a method (`"natural"`), breaks (`c(0, 10, 50, Inf)`), or fitted steps, which keep their
#' classes (`fit_steps(x)`, `compare_steps(x)$steps[[1]]`).
#'
#' @param n Wanted number of classes: one whole number from 1 to 12. Data with fewer distinct
#'   values give fewer classes; `steps_headtail()` takes it as the most.
#' @param digits Decimals of the breaks: one whole number, or `NULL` (default).
#' @param weight Column of weights, bare or as text, such as the population: then classes have as
#'   equal sums of it as ties allow. `NULL` (default) for none.
#' @param width Width of a class in standard deviations: one number above zero.
#' @param near The method whose breaks are made round: one of `"natural"`, `"quantile"`,
#'   `"equal"`, `"geometric"`, `"deviation"`.
#' @param midpoint The break in the middle: one number.
#' @param breaks Increasing numbers, at least two, the outer ends included; `-Inf` and `Inf`
#'   leave an end open.
#' @param closed `"left"` (default): a value on a break begins the class above it; `"right"`: it
#'   ends the class below.
#' @param labels What the classes are called in place of their limits: one text a class; for
#'   categories also a named vector, `c(value = "words")`, of those that are to be called
#'   otherwise. `NULL` (default) writes the limits.
#' @param round `TRUE` moves each inner break to the nearest number that a reader can hold in mind.
#' @return A value of class `ochre_step_method`, to be fitted by [fit_steps()] or given to
#'   [shade_areas()].
#' @section Errors: `ochre_error_argument`.
#' @source Natural breaks: Fisher, W.D. (1958) On grouping for maximum homogeneity, Journal of the
#'   American Statistical Association 53, 789-798. Standard deviations, geometric: Evans, I.S.
#'   (1977) The selection of class intervals, Transactions of the Institute of British Geographers
#'   2, 98-124. Head and tail: Jiang, B. (2013) Head/tail breaks, The Professional Geographer 65,
#'   482-494.
#' @examples
#' fit_steps(c(1, 2, 4, 8, 16, 32), steps_quantile(3))
#' fit_steps(c(-3, -1, 0.5, 2, 4, 9, 12), steps_around(0, 4))
#' @concept classification
#' @concept breaks
#' @concept class intervals
#' @concept class breaks
#' @concept natural breaks
#' @concept Jenks
#' @concept equal interval
#' @concept quantile
#' @concept standard deviation
#' @concept head/tail
#' @concept bins
#' @name steps
NULL

#' @rdname steps
#' @export
steps_equal <- function(n = 5, digits = NULL, labels = NULL) {
  step_method("equal", n, digits, labels)
}

#' @rdname steps
#' @export
steps_quantile <- function(n = 5, digits = NULL, weight = NULL, labels = NULL) {
  weight <- later_column(rlang::enquo(weight), "weight")
  step_method("quantile", n, digits, labels, weight = weight)
}

#' @rdname steps
#' @export
steps_natural <- function(n = 5, digits = NULL, labels = NULL) {
  step_method("natural", n, digits, labels)
}

#' @rdname steps
#' @export
steps_deviation <- function(n = 5, width = 1, digits = NULL, labels = NULL) {
  check_number(width, "width", min = 0.01)
  step_method("deviation", n, digits, labels, width = width)
}

#' @rdname steps
#' @export
steps_geometric <- function(n = 5, digits = NULL, labels = NULL) {
  step_method("geometric", n, digits, labels)
}

#' @rdname steps
#' @export
steps_headtail <- function(n = 7, digits = NULL, labels = NULL) {
  step_method("headtail", n, digits, labels)
}

#' @rdname steps
#' @export
steps_rounded <- function(n = 5, near = "natural", labels = NULL) {
  check_choice(near, c("natural", "quantile", "equal", "geometric", "deviation"), "near")
  step_method("rounded", n, NULL, labels, near = near)
}

#' @rdname steps
#' @export
steps_around <- function(midpoint = 0, n = 6, near = "equal", digits = NULL, labels = NULL) {
  check_number(midpoint, "midpoint")
  check_choice(near, c("equal", "natural", "quantile"), "near")
  check_number(n, "n", min = 2, max = 12, whole = TRUE)
  step_method("around", n, digits, labels, midpoint = midpoint, near = near)
}

#' @rdname steps
#' @export
steps_categories <- function(labels = NULL) {
  structure(
    list(
      method = "categories", n = NA_integer_, digits = NULL,
      words = check_labels(labels, named = TRUE)
    ),
    class = "ochre_step_method"
  )
}

#' @rdname steps
#' @export
steps_at <- function(breaks, round = FALSE, closed = "left", labels = NULL) {
  refuse_missing(missing(breaks), "breaks", rlang::current_env())
  check_flag(round, "round")
  check_choice(closed, c("left", "right"), "closed")
  if (is.list(breaks)) breaks <- unlist(breaks)
  if (!is.numeric(breaks) ||
      length(breaks) < 2 ||
      anyNA(breaks) ||
      is.unsorted(breaks, strictly = TRUE)) {
    ochre_abort("argument", "`breaks` must be at least two increasing numbers.",
                "Give both outer ends too, for example steps_at(c(0, 10, 20, 50)).", arg = "breaks")
  }
  if (length(breaks) > 13) {
    ochre_abort("argument", "`breaks` must make at most 12 classes.", arg = "breaks")
  }
  structure(
    list(
      method = "given", n = length(breaks) - 1L, breaks = as.numeric(breaks),
      digits = NULL, round = round, right = closed == "right",
      words = check_labels(labels, most = length(breaks) - 1L)
    ),
    class = "ochre_step_method"
  )
}

step_method <- function(method, n, digits, labels, ..., call = rlang::caller_env()) {
  check_number(n, "n", min = 1, max = 12, whole = TRUE, call = call)
  check_number(digits, "digits", min = -12, max = 12, whole = TRUE, null = TRUE, call = call)
  words <- check_labels(labels, call = call)
  structure(
    list(method = method, n = as.integer(n), digits = digits, words = words, ...),
    class = "ochre_step_method"
  )
}

# Own words for classes: one text each, none twice. Only categories have names to say which.
check_labels <- function(labels, most = NULL, named = FALSE, call = rlang::caller_env()) {
  if (is.null(labels)) return(NULL)
  labels <- check_texts(labels, "labels", call)
  fault <- if (!length(labels) || any(!nzchar(trimws(labels)))) {
    "needs a text for each class"
  } else if (!named && !is.null(names(labels))) {
    "has names, which only steps_categories() takes"
  } else if (is.null(names(labels)) && anyDuplicated(labels)) {
    "calls two classes the same"
  } else if (!is.null(most) && length(labels) != most) {
    sprintf(
      "has %s for %s",
      count_words(length(labels), "text"),
      count_words(most, "class", "classes")
    )
  }
  if (!is.null(fault)) ochre_abort("argument", "`labels` {fault}.", arg = "labels")
  labels
}

# A step method from what stands for one in short; see the page of help.
as_steps <- function(steps, arg, call = rlang::caller_env()) {
  if (inherits(steps, "ochre_step_method")) return(steps)
  if (inherits(steps, "ochre_steps")) return(steps_as_fitted(steps, arg, call))
  if (is.list(steps) && !is.object(steps)) steps <- unlist(steps)
  if (is.numeric(steps) && length(steps) > 1) return(steps_at(steps))
  if (is.numeric(steps)) {
    check_number(steps, arg, min = 1, max = 12, whole = TRUE, call = call)
    return(steps_quantile(steps))
  }
  if (is.character(steps) && length(steps) == 1) {
    name <- sub("^steps_", "", sub("\\(\\)$", "", steps))
    own <- usual_methods[lower_case(name)]
    if (!is.na(own)) {
      ochre_abort("argument", "`{arg}` has no method `{steps}`.", "Use \"{own}\".")
    }
    check_choice(name, names(step_methods), arg, call = call)
    return(step_methods[[name]]())
  }
  ochre_abort("argument",
              paste0("`{arg}` must be a number of classes, a method, breaks or fitted steps, ",
                     "not {describe(steps)}."),
              "For example 5, \"natural\", c(0, 10, 50) or steps_quantile(5).")
}

# The very classes of steps that were fitted before.
steps_as_fitted <- function(fitted, arg, call) {
  if (fitted$method == "categories") {
    return(steps_categories(stats::setNames(fitted$labels, fitted$breaks)))
  }
  if (!length(fitted$counts)) {
    ochre_abort("argument", "`{arg}` has no classes: there was no value to fit them to.")
  }
  structure(
    list(
      method = "given", n = length(fitted$counts), breaks = fitted$breaks, digits = NULL,
      round = FALSE, right = isTRUE(fitted$right), words = fitted$words, fitted = fitted
    ),
    class = "ochre_step_method"
  )
}

# What other programs call a method.
usual_methods <- c(
  jenks = "natural", fisher = "natural", quantiles = "quantile", sd = "deviation",
  stdev = "deviation", pretty = "rounded", interval = "equal", categorical = "categories"
)

step_methods <- list(
  quantile = steps_quantile,
  natural = steps_natural,
  equal = steps_equal,
  rounded = steps_rounded,
  geometric = steps_geometric,
  deviation = steps_deviation,
  headtail = steps_headtail,
  around = steps_around,
  categories = steps_categories
)

#' @export
print.ochre_step_method <- function(x, ...) {
  cat(sprintf(
    "Steps wanted: %s%s\n",
    x$method,
    if (is.na(x$n)) "" else paste0(", ", count_words(x$n, "class", "classes"))
  ))
  invisible(x)
}
