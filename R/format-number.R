# How the numbers of one variable are written: once for its legend, its hover labels, its popup.

#' How the numbers of a variable are written
#'
#' For `shade_areas(format = )` and `place_symbols(format = )`: the same format reaches the
#' legend, hover label and popup, so that they cannot disagree. A template may override the
#' decimals of a field (`{rate|1}`), not its unit.
#'
#' @param unit Unit that stands after each number, such as `"\u20ac"` or `"km"`: one text; `NULL`
#'   (default) for none.
#' @param digits Decimals in hover labels and popups: one whole number; `NULL` (default) as in the
#'   legend, whose decimals are those of the breaks.
#' @param percent `TRUE` shows fractions as percentages: 0.345 as 34.5 %.
#' @param plus `TRUE` writes a plus before numbers above zero, for changes.
#' @param marks `FALSE` leaves out thousands marks, for years and codes.
#' @param open_ends `TRUE` writes the first and the last class of a legend as "under 20" and "50
#'   and over" instead of with the least and the greatest value.
#' @param large `TRUE` writes the limits of a legend in millions, billions or trillions, `FALSE`
#'   in full. `NULL` (default) does so where they are long and get shorter. Labels and popups
#'   always have the whole number.
#' @return A list of class `ochre_format`.
#' @section Errors: `ochre_error_argument`.
#' @examples
#' number_format(unit = "km", digits = 1)
#' @export
number_format <- function(unit = NULL, digits = NULL, percent = FALSE, plus = FALSE,
                          marks = TRUE, open_ends = FALSE, large = NULL) {
  check_text(unit, "unit", null = TRUE)
  check_number(digits, "digits", min = 0, max = 12, whole = TRUE, null = TRUE)
  check_flag(percent, "percent")
  check_flag(plus, "plus")
  check_flag(marks, "marks")
  check_flag(open_ends, "open_ends")
  if (!is.null(large)) check_flag(large, "large")
  if (percent && !is.null(unit)) {
    ochre_abort("argument", "`unit` cannot go with `percent`, whose unit is the percent sign.",
                arg = "unit")
  }
  structure(
    list(
      unit = unit, digits = digits, percent = percent, plus = plus, marks = marks,
      open_ends = open_ends, large = large
    ),
    class = "ochre_format"
  )
}

check_format <- function(format, call = rlang::caller_env()) {
  if (is.null(format) || inherits(format, "ochre_format")) return(format)
  if (is.list(format)) return(make_with(number_format, format, "format", call))
  ochre_abort("argument", "`format` must come from number_format().", arg = "format")
}

# A space that does not break stands before a unit.
with_unit <- function(text, format) {
  unit <- if (isTRUE(format$percent)) "%" else format$unit
  if (is.null(unit)) return(text)
  ifelse(is.na(text), NA_character_, paste0(text, "\u00a0", unit))
}

# Does a layer show values of a column between those that the labels of its classes name? New
# values may lie anywhere.
shows_between <- function(layer, column, steps, format = NULL) {
  value <- layer$data[[column]]
  if (isTRUE(layer$live)) return(TRUE)
  if (!is.numeric(value)) return(FALSE)
  asked <- lapply(c(layer$hover, layer$popup), template_digits, column = column)
  more <- if (isTRUE(format$percent)) 2 else 0
  digits <- max(-Inf, format$digits, unlist(asked), na.rm = TRUE) + more
  if (digits <= max(0, steps$digits)) return(FALSE)
  value <- value[is.finite(value)]
  any(round(value, digits) != round(value, max(0, steps$digits)))
}

# A hundred times, without the noise of the multiplication; open ends stay open.
in_percent <- function(x) ifelse(is.finite(x), fifteen_digits(100 * fifteen_digits(x)), x)

# How the values of a variable with classes are written: with the decimals of its breaks, of
# percentages two less, and, where nobody asked for a number of decimals, with as many more as it
# takes for each value to read as one of its class (`breaks`, for format_field()).
own_format <- function(format, steps, value = NULL) {
  own <- if (is.null(format)) list() else unclass(format)
  asked <- own$digits
  percent <- isTRUE(own$percent)
  own$digits <- asked %||% max(0, steps$digits - if (percent) 2 else 0)
  inner <- steps$breaks[-c(1, length(steps$breaks))]
  if (!is.null(asked) || !is.numeric(inner) || !length(inner)) return(own)
  own$breaks <- if (percent) in_percent(inner) else fifteen_digits(inner)
  own$right <- isTRUE(steps$right)
  if (is.numeric(value)) {
    own$digits <- true_digits(if (percent) in_percent(value) else value, own)
  }
  own
}

# The least number of decimals with which all values read as ones of their class, up to three more
# than asked for; a few of many that are close to a break are left to write_true().
true_digits <- function(value, own) {
  digits <- own$digits
  value <- unique(value[is.finite(value)])
  value <- fifteen_digits(value)
  wrong <- vapply(0:3, function(more) mean(reads_wrong(value, own, digits + more)), 0)
  if (!length(value) || all(wrong == 0)) return(digits)
  best <- which(wrong <= if (length(value) > 200) 0.01 else 0)[1]
  if (is.na(best)) best <- which(wrong <= 0.01)[1]
  digits + if (is.na(best)) 3 else best - 1
}

reads_wrong <- function(value, own, digits) {
  class <- function(v) findInterval(v, own$breaks, left.open = isTRUE(own$right))
  class(round(value, digits)) != class(value)
}

# Numbers in so many decimals, of which those that would read as another class have more.
write_true <- function(x, own, digits, locale) {
  if (is.null(own$breaks)) return(format_number(x, digits, own$marks %||% TRUE, locale))
  x <- fifteen_digits(x)  # as classes read it
  out <- format_number(x, digits, own$marks %||% TRUE, locale)
  wrong <- which(is.finite(x))[reads_wrong(x[is.finite(x)], own, digits)]
  while (length(wrong) && digits < 320) {
    digits <- digits + 1
    out[wrong] <- format_number(x[wrong], digits, own$marks %||% TRUE, locale)
    wrong <- wrong[reads_wrong(x[wrong], own, digits)]
  }
  out
}

# Decimals fixed, thousands marked, a true minus sign; for legend, hover texts, popups and tables
# alike.
format_number <- function(x, digits, marks = TRUE, locale = english) {
  if (!length(x)) return(character())
  if (length(x) > 1000) {
    distinct <- unique(x)
    if (2 * length(distinct) < length(x)) {
      return(format_number(distinct, digits, marks, locale)[match(x, distinct)])
    }
  }
  x <- round(x, digits)
  decimals <- max(digits, 0)
  text <- sprintf("%.*f", decimals, abs(x))
  whole <- if (decimals) substr(text, 1, nchar(text) - decimals - 1) else text
  long <- which(marks & nchar(whole) > 3)
  whole[long] <- gsub("\\B(?=(\\d{3})+$)", locale$thousands, whole[long], perl = TRUE)
  part <- if (decimals) {
    paste0(locale$decimal, substring(text, nchar(text) - decimals + 1))
  }
  out <- paste0(ifelse(x < 0, "\u2212", ""), whole, part)
  out[!is.finite(x)] <- NA
  out
}

# How every number is read, value and break alike: see src/core/fifteen-digits.hpp.
fifteen_digits <- function(x) if (is.integer(x)) x else call_core(fifteen_digits_core(x))
