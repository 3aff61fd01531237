# Several ways to step one variable, side by side.

#' Compare ways to step a variable
#'
#' Fits each method with each number of classes, and says what it is good and bad at. Printed it
#' is a table; `as_figure()` of it draws a histogram with the breaks for each, and small maps
#' where the data have areas.
#'
#' @param data A data frame, also with a `geometry` column of areas, or a numeric vector.
#' @param value Column of `data`, bare or as text; numeric.
#' @param n Numbers of classes: whole numbers from 2 to 11.
#' @param methods Names of methods: any of `"natural"`, `"quantile"`, `"equal"`, `"rounded"`,
#'   `"geometric"`, `"deviation"`, `"headtail"`. One that cannot take the values (geometric ones
#'   that are not above zero) is left out, and a message says so.
#' @param weight Column of weights, bare or as text, such as the population, for quantiles; `NULL`
#'   (default) for none.
#' @return A tibble of class `ochre_comparison` with one row a method and number: `method`, `n`
#'   (wanted), `classes` (got), `fit` and `tabular` (see [fit_steps()]), `empty` (empty classes),
#'   `largest` (share of values in the fullest class), `evenness` of the counts, `evenness_km2` of
#'   the classes' areas (with geometry, else `NA`), `moved` (values that rounding moved, or `NA`),
#'   `breaks` (text) and `steps`, the fitted steps as a list.
#' @section Errors: `ochre_error_column`, `ochre_error_argument`.
#' @examples
#' compare_steps(
#'   c(1, 2, 2, 3, 5, 8, 13, 21, 34, 55),
#'   n = 3:4,
#'   methods = c("natural", "quantile", "rounded")
#' )
#' @export
compare_steps <- function(data, value = NULL, n = c(4, 5, 7),
                          methods = c(
                            "natural", "quantile", "equal", "rounded", "geometric",
                            "deviation", "headtail"
                          ),
                          weight = NULL) {
  refuse_missing(missing(data), "data", rlang::current_env())
  given <- if (is.numeric(data)) {
    list(x = data, name = "values")
  } else {
    check_table(data, "data")
    value <- column_name(rlang::enquo(value), data, "value")
    weight <- column_name(rlang::enquo(weight), data, "weight", null = TRUE)
    compared_values(data, value, weight)
  }
  if (!is.numeric(n) || !length(n) || anyNA(n) || any(n < 2 | n > 11 | n != round(n))) {
    ochre_abort("argument", "`n` must be whole numbers from 2 to 11.", arg = "n")
  }
  if (!any(is.finite(given$x))) {
    ochre_abort("column", "`{given$name}` has no finite value to compare.", arg = "data")
  }
  methods <- check_texts(methods, "methods")
  for (method in methods) check_choice(method, eval(formals(compare_steps)$methods), "methods")
  rows <- unlist(lapply(unique(methods), compared_rows, given = given, n = n), recursive = FALSE)
  if (!length(rows)) {
    ochre_abort("argument", "None of the methods can take these values.",
                "Add \"natural\" or \"quantile\".", arg = "methods")
  }
  out <- do.call(rbind, rows)
  structure(
    out,
    variable = given$name, wkb = given$wkb, value = given$x,
    class = c("ochre_comparison", class(out))
  )
}

# The values of a column, with their weights and the areas that they belong to.
compared_values <- function(data, value, weight, call = rlang::caller_env()) {
  wkb <- if ("geometry" %in% names(data)) geometry_of(data, "data", call)
  list(
    x = check_numeric(data, value, "value", call = call),
    name = value,
    weights = if (!is.null(weight)) check_counts(data, weight, "weight", call = call),
    wkb = wkb,
    size = if (!is.null(wkb)) call_core(measure_core(wkb), call = call)$area
  )
}

# One method in all numbers of classes; none where it cannot take the values.
compared_rows <- function(method, given, n) {
  rows <- list()
  for (k in if (method == "headtail") max(n) else sort(unique(n))) {
    way <- step_methods[[method]](k)
    weights <- if (method == "quantile") given$weights
    steps <- tryCatch(
      suppressWarnings(fit_steps(given$x, way, weights)),
      ochre_error_argument = function(e) {
        ochre_tell("Left out {method}: {e$what}")
        NULL
      }
    )
    if (is.null(steps)) break
    rows[[length(rows) + 1]] <- compared_row(method, k, steps, given$x, given$size)
  }
  rows
}

compared_row <- function(method, n, steps, x, size) {
  class <- if (!is.null(size)) factor(class_of(steps, x), seq_along(steps$counts))
  inner <- steps$breaks[-c(1, length(steps$breaks))]
  tibble::tibble(
    method = method,
    n = as.integer(n),
    classes = length(steps$counts),
    fit = steps$fit,
    tabular = steps$tabular,
    empty = sum(steps$counts == 0),
    largest = steps$largest,
    evenness = steps$evenness,
    evenness_km2 = if (is.null(size)) {
      NA_real_
    } else {
      evenness(rowsum_by(ifelse(is.na(size), 0, size), class))
    },
    moved = as.integer(steps$moved %||% NA),
    breaks = paste(format_number(inner, steps$digits), collapse = "  "),
    steps = list(steps)
  )
}

#' @export
format.ochre_comparison <- function(x, ...) {
  number <- function(v, digits = 2) ifelse(is.na(v), "", format_number(v, digits))
  columns <- list(
    method = x$method,
    classes = as.character(x$classes),
    fit = number(x$fit, 3),
    tabular = number(x$tabular, 3),
    fullest = paste0(number(100 * x$largest, 0), " %"),
    even = number(x$evenness),
    `even by area` = number(x$evenness_km2),
    empty = as.character(x$empty),
    moved = ifelse(is.na(x$moved), "", x$moved),
    breaks = x$breaks
  )
  if (all(!nzchar(columns[[7]]))) columns[[7]] <- NULL
  left <- names(columns) %in% c("method", "breaks")
  lines <- do.call(
    paste,
    c(
      Map(
        function(cells, head, l) {
          formatC(c(head, cells), width = (if (l) -1 else 1) * max(nchar(c(head, cells))))
        },
        columns,
        names(columns),
        left
      ),
      sep = "  "
    )
  )
  best <- which.max(x$fit)
  c(
    sprintf("Classification methods for `%s`:", attr(x, "variable")),
    "",
    sub(" +$", "", paste0("  ", lines)),
    "",
    sprintf(
      paste0(
        "Best fit: %s with %s. Fit and tabular accuracy rise with the number of classes; ",
        "evenness is 1 when all are of one size."
      ),
      x$method[best],
      count_words(x$classes[best], "class", "classes")
    )
  )
}

#' @export
print.ochre_comparison <- function(x, ...) {
  cat(format(x), sep = "\n")
  invisible(x)
}
