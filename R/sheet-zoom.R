# Numbers that change as the reader zooms: widths, dashes and sizes.

#' A value that changes with the zoom
#'
#' For `draw_lines(width = , dash = )`, `write_labels(scale = )` and `place_symbols(grow = )` in a
#' page. A figure, and a reader without scripts, has the value of the whole map. In a sheet file:
#' `width: {zooms: [1, 8], values: [0.5, 2]}`.
#'
#' @param zooms Zooms at which values are given, rising: numbers from 1, the whole map, to 64, the
#'   closest.
#' @param values As many values: numbers; for dashes a list of pairs, the lengths of a dash and of
#'   a gap in widths of the line.
#' @param stepped `TRUE` keeps each value until the next zoom; `FALSE` (default) goes evenly from
#'   one to the next with each doubling of the zoom.
#' @return A list of class `ochre_by_zoom`.
#' @section Errors: `ochre_error_argument`.
#' @examples
#' by_zoom(c(1, 8), c(0.5, 2))
#' by_zoom(c(1, 4), list(c(1, 2), c(4, 3)), stepped = TRUE)
#' @export
by_zoom <- function(zooms, values, stepped = FALSE) {
  refuse_missing(missing(zooms), "zooms", rlang::current_env())
  refuse_missing(missing(values), "values", rlang::current_env())
  zooms <- unlist(zooms)
  if (!is.numeric(zooms) ||
      !length(zooms) ||
      anyNA(zooms) ||
      is.unsorted(zooms, strictly = TRUE) ||
      any(zooms < 1 | zooms > 64)) {
    ochre_abort("argument", "`zooms` must be rising numbers from 1 to 64.", "For example c(1, 8).",
                arg = "zooms")
  }
  values <- lapply(as.list(values), function(v) unlist(v))
  size <- unique(lengths(values))
  if (length(values) != length(zooms) ||
      length(size) != 1 ||
      !size %in% 1:2 ||
      !all(vapply(values, function(v) is.numeric(v) && all(is.finite(v)), NA))) {
    ochre_abort(
      "argument",
      sprintf(
        "`values` must be %s, one for each zoom.",
        count_words(length(zooms), "number or pair", "numbers or pairs")
      ), arg = "values"
    )
  }
  check_flag(stepped, "stepped")
  structure(
    list(zooms = zooms, values = if (size == 1) unlist(values) else values, stepped = stepped),
    class = "ochre_by_zoom"
  )
}

#' @export
format.ochre_by_zoom <- function(x, ...) {
  sprintf(
    "%s: %s",
    if (x$stepped) "From each zoom on" else "Between zooms",
    paste(
      sprintf(
        "%s at zoom %s",
        vapply(as.list(x$values), function(v) paste(format_plain(v), collapse = " and "), ""),
        format_plain(x$zooms)
      ),
      collapse = ", "
    )
  )
}

format_plain <- function(x) vapply(x, format, "", digits = 6)

#' @export
print.ochre_by_zoom <- function(x, ...) {
  cat(format(x), sep = "\n")
  invisible(x)
}

is_by_zoom <- function(x) {
  inherits(x, "ochre_by_zoom") || (is.list(x) &&
      !is.object(x) &&
      all(c("zooms", "values") %in% names(x)))
}

# As given, or the same words from a sheet file; `size` is 2 for pairs.
check_by_zoom <- function(x, arg, min, max, size = 1, call = rlang::caller_env()) {
  if (!is_by_zoom(x)) {
    ochre_abort("argument", "`{arg}` must come from by_zoom(), not be {describe(x)}.",
                "For example by_zoom(c(1, 8), c(1, 3)).")
  }
  if (!inherits(x, "ochre_by_zoom")) {
    x <- do.call(by_zoom, x[intersect(names(x), names(formals(by_zoom)))])
  }
  if (any(lengths(as.list(x$values)) != size) ||
      any(unlist(x$values) < min | unlist(x$values) > max)) {
    ochre_abort(
      "argument",
      paste0("Values of `{arg}` must be {if (size == 2) 'pairs of numbers' else 'numbers'} ",
             "from {format(min)} to {format(max)}.")
    )
  }
  x
}

whole_map_value <- function(x) unlist(x$values[1])
