# Templates: text with {column} and {column|format}, parsed once and filled for all rows at once.

parse_template <- function(text, call = rlang::caller_env()) {
  pieces <- stringi::stri_extract_all_regex(
    text,
    "\\{\\{|\\}\\}|\\{[^{}]*\\}|[^{}]+|[{}]",
    omit_no_match = TRUE
  )[[1]]
  lapply(pieces, function(piece) {
    if (piece %in% c("{", "}")) {
      ochre_abort("template", "The template \"{text}\" has a brace without its partner.",
                  "Write {{{{ or }}}} for a brace itself.")
    }
    if (piece %in% c("{{", "}}")) return(list(text = substr(piece, 1, 1)))
    if (!startsWith(piece, "{")) return(list(text = piece))
    inside <- strsplit(substr(piece, 2, nchar(piece) - 1), "|", fixed = TRUE)[[1]]
    format <- if (length(inside) > 1) trimws(inside[length(inside)])
    if (!length(inside) ||
        !nzchar(trimws(inside[1])) ||
        length(inside) > 2 ||
        (!is.null(format) && !grepl("^\\+?[0-9]{0,2}%?$", format))) {
      ochre_abort("template",
                  "The template \"{text}\" has the field `{piece}`, which cannot be read.",
                  "Write {{column}}, {{column|1}}, {{column|+1}} or {{column|1%}}.")
    }
    list(column = chartr(field_marks[2], field_marks[1], trimws(inside[1])), format = format)
  })
}

# What means something in a template stands for itself in the name of a column, as letters that
# Unicode leaves to private use.
field_marks <- c("{}|", "\ue010\ue011\ue012")
as_field <- function(column) paste0("{", chartr(field_marks[1], field_marks[2], column), "}")

check_template <- function(text, data, arg, call = rlang::caller_env()) {
  if (is.null(text)) return(NULL)
  check_text(text, arg, call = call)
  for (piece in parse_template(text, call)) {
    if (!is.null(piece$column)) {
      check_column(data, piece$column, arg, call = call)
      if (!is.null(piece$format)) check_numeric(data, piece$column, arg, call = call)
    }
  }
  text
}

# Fills a template for all rows. `digits` gives decimals for columns without a format. At the
# first missing value a text says "no data" and ends; with `blank` it is NA instead when every
# field is missing.
fill_template <- function(template, data, digits, locale, blank = FALSE) {
  words <- character(nrow(data))
  open <- rep(TRUE, nrow(data))
  known <- fields <- 0
  for (piece in parse_template(template)) {
    if (is.null(piece$column)) {
      words[open] <- paste0(words[open], piece$text)
      next
    }
    x <- data[[piece$column]]
    filled <- format_field(
      x,
      piece$format,
      digits[[piece$column]] %||% plain_format(x, piece$column),
      locale
    )
    words[open] <- paste0(words[open], ifelse(is.na(filled), locale$missing, filled)[open])
    open <- open & !is.na(filled)
    known <- known + !is.na(filled)
    fields <- fields + 1
  }
  if (blank && fields) words[known == 0] <- NA
  words
}

# `format` is what the template asks for this field; `own` is the variable's own format, or only
# its decimals.
format_field <- function(x, format = NULL, own = NULL, locale = english) {
  if (!is.numeric(x)) {
    out <- enc2utf8(as.character(x))
    return(ifelse(is.na(x), NA_character_, out))
  }
  x <- as.numeric(x)
  x[!is.finite(x)] <- NA
  if (!is.list(own)) own <- list(digits = own)
  asked <- if (!is.null(format)) suppressWarnings(as.integer(gsub("[+%]", "", format)))
  if (isTRUE(asked >= 0)) own[c("digits", "breaks")] <- list(asked, NULL)
  was_percent <- isTRUE(own$percent)
  if (!is.null(format) && startsWith(format, "+")) own$plus <- TRUE
  if (!is.null(format) && endsWith(format, "%")) own$percent <- TRUE
  if (!is.null(own$breaks) && isTRUE(own$percent) != was_percent) own$breaks <- NULL
  if (isTRUE(own$percent)) x <- in_percent(x)
  digits <- own$digits %||% plain_digits(x)
  out <- write_true(x, own, digits, locale)
  if (isTRUE(own$plus)) out <- ifelse(!is.na(x) & round(x, digits) > 0, paste0("+", out), out)
  with_unit(out, own)
}

plain_digits <- function(x) {
  x <- x[!is.na(x)]
  if (!length(x)) return(0L)
  for (d in 0:1) if (all(abs(x - round(x, d)) < 1e-9)) return(d)
  # Three figures of the greatest, so that small numbers do not all read as zero.
  max(2, 2 - floor(log10(max(abs(x)))))
}

# The decimals that a template shows a column with, for checking against the classes; `own` where
# it does not say.
template_digits <- function(template, column, own = NULL) {
  if (is.null(template)) return(integer())
  unlist(lapply(parse_template(template), function(p) {
    if (!identical(p$column, column)) return(NULL)
    asked <- if (!is.null(p$format) && !endsWith(p$format, "%")) {
      suppressWarnings(as.integer(sub("+", "", p$format, fixed = TRUE)))
    }
    if (is.null(asked) || is.na(asked)) own else asked
  }))
}
