# Refusals at the door: each takes the value, the argument's name and the caller.

check_text <- function(x, arg, null = FALSE, call = rlang::caller_env()) {
  if (is.null(x) && null) return(invisible(NULL))
  if (!is.character(x) || length(x) != 1 || is.na(x)) {
    ochre_abort("argument", sprintf("`%s` must be one text, not %s.", arg, describe(x)), arg = arg, call = call)
  }
  invisible(x)
}

check_number <- function(x, arg, min = -Inf, max = Inf, whole = FALSE, null = FALSE, call = rlang::caller_env()) {
  if (is.null(x) && null) return(invisible(NULL))
  good <- is.numeric(x) && length(x) == 1 && !is.na(x) && x >= min && x <= max && (!whole || x == round(x))
  if (!good) {
    range <- if (is.finite(min) && is.finite(max)) sprintf(" from %s to %s", format(min), format(max))
             else if (is.finite(min)) sprintf(" of at least %s", format(min)) else ""
    ochre_abort("argument", sprintf("`%s` must be one %snumber%s, not %s.", arg, if (whole) "whole " else "", range, describe(x)),
                arg = arg, call = call)
  }
  invisible(x)
}

check_flag <- function(x, arg, call = rlang::caller_env()) {
  if (!is.logical(x) || length(x) != 1 || is.na(x)) {
    ochre_abort("argument", sprintf("`%s` must be TRUE or FALSE, not %s.", arg, describe(x)), arg = arg, call = call)
  }
  invisible(x)
}

check_choice <- function(x, choices, arg, call = rlang::caller_env()) {
  check_text(x, arg, call = call)
  if (!x %in% choices) {
    ochre_abort("argument", sprintf("`%s` must be one of %s, not `%s`.", arg, list_words(choices, 20), x),
                did_you_mean(x, choices), arg = arg, call = call)
  }
  invisible(x)
}

check_table <- function(x, arg, call = rlang::caller_env()) {
  if (!is.data.frame(x)) {
    ochre_abort("argument", sprintf("`%s` must be a data frame, not %s.", arg, describe(x)),
                "Read a file with read_statistics() or read_boundaries().", arg = arg, call = call)
  }
  invisible(x)
}

check_column <- function(data, column, arg, call = rlang::caller_env()) {
  missing <- setdiff(column, names(data))
  if (length(missing)) {
    ochre_abort("column", sprintf("`%s` names the column `%s`, which the data do not have.", arg, missing[1]),
                did_you_mean(missing[1], setdiff(names(data), "geometry"), "Its columns"),
                arg = arg, column = missing[1], call = call)
  }
  invisible(column)
}

describe <- function(x) {
  if (is.null(x)) return("NULL")
  if (is.data.frame(x)) return("a data frame")
  if (is.character(x) && length(x) == 1) return(paste0("the text \"", substr(x, 1, 40), "\""))
  if (is.atomic(x) && length(x) == 1) return(format(x))
  if (is.atomic(x)) return(sprintf("%d values of type %s", length(x), typeof(x)))
  paste0("an object of class ", class(x)[1])
}
