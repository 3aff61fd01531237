# Refusals at the door: each takes the value, the argument's name and the caller.

# An argument that the caller was not given. R looks through the calls that handed it on.
refuse_missing <- function(is_missing, arg, call) {
  if (!is_missing) return(invisible())
  ochre_abort("argument", "`{arg}` is missing.", "It has no default; see the function's help.")
}

# For verbs with `...`: one that was given `color` is called again with `colour`; any other name is
# refused, and Ochre's name for it is said.
call_by_own_names <- function(call, env = rlang::caller_env(2)) {
  verb <- paste0(c(rlang::call_name(call), "This verb")[1], "()")
  known <- setdiff(names(formals(rlang::caller_fn())), "...")
  given <- names(call)[-1]
  own <- sub("color", "colour", given, fixed = TRUE)
  if (all(own %in% known) && !anyDuplicated(own)) {
    names(call)[-1] <- own
    return(eval(call, env))
  }
  name <- c(given[!own %in% known], own[duplicated(own)])[1]
  if (!nzchar(name)) {
    ochre_abort("argument", "{verb} was given too many values.",
                "Its arguments: {list_words(known, 30)}.")
  }
  if (name %in% known) {
    ochre_abort("argument", "{verb} was given `{name}` twice.", "Give it once.", arg = name)
  }
  use <- intersect(usual_names[[name]], known)
  ochre_abort("argument", "{verb} has no argument `{name}`.",
              if (length(use)) sprintf("Use `%s`.", use[1]) else did_you_mean(name, known),
              arg = name)
}

# What other programs call an argument, and the names that Ochre may have for it.
usual_names <- list(
  classes = "steps", breaks = "steps", bins = "steps", n = "steps", method = "steps",
  palette = "ramp", colours = "ramp", colors = "ramp", tooltip = "hover",
  label = c("hover", "text"), title = "legend", name = "legend", column = c("value", "size"),
  values = "value", radius = "size", fill = "colour", alpha = "opacity", border = "borders",
  linewidth = "width", lwd = "width", facet = "by", weights = "weight"
)

check_text <- function(x, arg, null = FALSE, call = rlang::caller_env()) {
  refuse_missing(missing(x), arg, call)
  if (is.null(x) && null) return(invisible(NULL))
  if (!is.character(x) || length(x) != 1 || is.na(x)) {
    ochre_abort("argument", "`{arg}` must be one text, not {describe(x)}.")
  }
  if (Encoding(x) != "latin1" && !validUTF8(x)) {
    ochre_abort("argument",
                "`{arg}` holds bytes that are no text here: {encodeString(shown_bytes(x))}.",
                "Is it the name of a file from another system? Rename it.")
  }
  invisible(x)
}

# A name for a new column.
check_new_name <- function(x, arg = "name", null = TRUE, call = rlang::caller_env()) {
  check_text(x, arg, null = null, call = call)
  if (is.null(x)) return(invisible(NULL))
  if (!nzchar(trimws(x)) || nchar(x) > 200 || x == "geometry") {
    ochre_abort("argument", "`{arg}` cannot be {describe(x)}.",
                "Give a short name; `geometry` is taken by the boundaries.")
  }
  invisible(x)
}

# Any number of texts; a list of them as a sheet has it becomes a vector.
check_texts <- function(x, arg, call = rlang::caller_env()) {
  refuse_missing(missing(x), arg, call)
  if (is.list(x) && !is.object(x)) x <- unlist(x)
  if (is.null(x)) return(character())
  if (is.character(x)) for (text in x[!validUTF8(x)]) check_text(text, arg, call = call)
  if (!is.character(x) || anyNA(x)) {
    ochre_abort("argument", "`{arg}` must be texts, not {describe(x)}.")
  }
  x
}

# A single value that names a row: a text or a number.
check_key <- function(x, arg, call = rlang::caller_env()) {
  refuse_missing(missing(x), arg, call)
  if (is.factor(x)) x <- as.character(x)
  if (!(is.character(x) || is.numeric(x)) || length(x) != 1 || is.na(x)) {
    ochre_abort("argument", "`{arg}` must be one text or number, not {describe(x)}.")
  }
  as_key(x)
}

# What a function makes of a list of its arguments, such as a sheet file has.
make_with <- function(make, given, arg, call = rlang::caller_env()) {
  known <- setdiff(names(formals(make)), "...")
  odd <- setdiff(names(given), known)
  if (is.null(names(given)) && length(given) || length(odd) || anyDuplicated(names(given))) {
    what <- if (length(odd)) {
      sprintf("has no part `%s`", odd[1])
    } else {
      "needs a name for each part, once"
    }
    ochre_abort("argument", "`{arg}` {what}.", did_you_mean(c(odd, "")[1], known, "Parts"))
  }
  do.call(make, as.list(given))
}

check_number <- function(x, arg, min = -Inf, max = Inf, whole = FALSE, null = FALSE,
                         call = rlang::caller_env()) {
  refuse_missing(missing(x), arg, call)
  if (is.null(x) && null) return(invisible(NULL))
  good <- is.numeric(x) &&
    length(x) == 1 &&
    !is.na(x) &&
    x >= min &&
    x <= max &&
    (!whole || x == round(x))
  if (!good) {
    range <- if (is.finite(min) && is.finite(max)) {
      sprintf(" from %s to %s", format(min), format(max))
    } else if (min == .Machine$double.eps) {
      " above 0"
    } else if (is.finite(min)) {
      sprintf(" of at least %s", format(min))
    } else {
      ""
    }
    ochre_abort(
      "argument",
      "`{arg}` must be one {if (whole) 'whole ' else ''}number{range}, not {describe(x)}."
    )
  }
  invisible(x)
}

check_flag <- function(x, arg, call = rlang::caller_env()) {
  refuse_missing(missing(x), arg, call)
  if (!is.logical(x) || length(x) != 1 || is.na(x)) {
    ochre_abort("argument", "`{arg}` must be TRUE or FALSE, not {describe(x)}.")
  }
  invisible(x)
}

check_choice <- function(x, choices, arg, call = rlang::caller_env()) {
  check_text(x, arg, call = call)
  if (!x %in% choices) {
    near <- nearest_word(x, choices)
    ochre_abort("argument", "`{arg}` must be one of {list_words(choices, 20)}, not `{x}`.",
                if (!is.null(near)) sprintf("Did you mean `%s`?", near))
  }
  invisible(x)
}

# A lazy table is one in a database; verbs that cannot work there say how to fetch it.
check_table <- function(x, arg, lazy = FALSE, call = rlang::caller_env()) {
  refuse_missing(missing(x), arg, call)
  if (is_lazy(x) && lazy) return(invisible(x))
  if (is_lazy(x)) {
    ochre_abort(
      "argument", "`{arg}` is a table in a database, and this verb needs its rows.",
      "Reduce it first, for example with sum_areas(), then fetch it with dplyr::collect()."
    )
  }
  if (!is.data.frame(x)) {
    ochre_abort("argument", "`{arg}` must be a data frame, not {describe(x)}.",
                "Read a file with read_statistics() or read_boundaries().")
  }
  nameless <- which(is.na(names(x)) | !nzchar(names(x)))
  if (length(nameless)) {
    ochre_abort("column", "Column {nameless[1]} of `{arg}` has no name.", "Name it with names().")
  }
  invisible(x)
}

check_column <- function(data, column, arg, call = rlang::caller_env()) {
  column <- check_texts(column, arg, call)
  known <- if (is_lazy(data)) colnames(data) else names(data)
  missing <- setdiff(column, known)
  if (length(missing)) {
    ochre_abort("column", "`{arg}` names the column `{missing[1]}`, which the data do not have.",
                did_you_mean(missing[1], setdiff(known, "geometry"), "Its columns"),
                column = missing[1])
  }
  if (is.data.frame(data)) {
    shapes <- column[
      vapply(unclass(data)[column], function(x) is.list(x) || inherits(x, "wk_vctr"), NA)
    ]
    if (length(shapes)) {
      ochre_abort("column", "`{arg}` names the column `{shapes[1]}`, which holds no plain values.",
                  "Name a column of numbers, texts or dates.", column = shapes[1])
    }
  }
  invisible(column)
}

# Bytes that are no text, as numbers.
shown_bytes <- function(x) iconv(x, "UTF-8", "UTF-8", sub = "byte")

describe <- function(x) {
  if (is.null(x)) return("NULL")
  if (is.data.frame(x)) return("a data frame")
  if (is.character(x) && length(x) == 1) {
    return(paste0("the text \"", substr(shown_bytes(x), 1, 40), "\""))
  }
  if (is.atomic(x) && length(x) == 1) return(format(x))
  if (is.atomic(x)) return(sprintf("%d values of type %s", length(x), typeof(x)))
  paste0("an object of class ", class(x)[1])
}

check_numeric <- function(data, column, arg, call = rlang::caller_env()) {
  x <- data[[column]]
  # A column without a value is of no type: that of a day without cases.
  if (is.atomic(x) && !is.numeric(x) && all(is.na(x))) return(rep(NA_real_, length(x)))
  if (!is.numeric(x)) {
    odd <- unique(stats::na.omit(as.character(x)))
    odd <- odd[is.na(suppressWarnings(as.numeric(odd)))]
    ochre_abort(
      "column", "`{arg}` names the column `{column}`, which is not numeric.",
      if (length(odd)) {
        sprintf("It holds, for example, %s.", list_words(utils::head(odd, 3), mark = "\""))
      }
    )
  }
  as.numeric(x)
}

check_colour <- function(colour, arg, call = rlang::caller_env()) {
  if (is.null(colour)) return(NULL)
  check_text(colour, arg, call = call)
  tryCatch(farver::encode_colour(farver::decode_colour(colour)), error = function(e) {
    ochre_abort("argument", "`{arg}` is `{colour}`, which is no colour.",
                "Write it as #RRGGBB or a name from colours().")
  })
}

# A count cannot be negative, and one that is no whole number has no Poisson limits.
check_counts <- function(data, column, arg, whole = FALSE, call = rlang::caller_env()) {
  x <- check_numeric(data, column, arg, call = call)
  bad <- which(x < 0 | (whole & x != round(x)))
  if (length(bad)) {
    ochre_abort(
      "column",
      sprintf(
        "`%s` is %s in %s (row %s: %s).", column,
        if (any(x[bad] < 0)) "negative" else "not a whole number", count_words(length(bad), "row"),
        bad[1], format(x[bad[1]])
      ),
      if (any(x[bad] < 0)) {
        "A count cannot be; look for a mark of missing values such as -99."
      } else {
        "Limits are those of a count; leave `limits` at \"none\" for weighted numbers."
      }, rows = bad
    )
  }
  x
}
