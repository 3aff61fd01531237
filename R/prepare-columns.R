# Columns made ready: other names, other values, numbers out of texts, texts taken apart and put
# together. With dplyr in R one writes mutate() and rename(); a sheet file has these words.

#' Make columns ready
#'
#' What a table often needs before it is joined. In R the verbs of dplyr do the same; in a sheet
#' file these are the words for it.
#'
#' * `rename_columns()` gives columns other names.
#' * `recode_values()` puts one value in place of another: short codes become words, a missing
#'   year becomes "not known".
#' * `set_values()` sets some cells to one value, or to missing: those that hold given values or
#'   lie beyond limits that no true value passes.
#' * `to_numbers()` reads texts as numbers: "1.204,5", "34 %", "€ 12".
#' * `split_column()` takes texts apart at a mark.
#' * `paste_columns()` puts columns together by a template.
#' * `cut_code()` takes the first or last letters of a code, which often are the code of the larger
#'   area, and pads codes that lost their zeros.
#'
#' @param data A data frame.
#' @param names New and old names: a named character vector, `c(new = "old")`.
#' @param column Column, bare or as text.
#' @param values What stands for what: a named vector, `c(old = "new")`; compared as text.
#' @param missing Value for cells that are missing: one value; `NULL` (default) leaves them so.
#' @param rest Value for all that `values` does not name: one value; `NULL` (default) leaves them
#'   as they are.
#' @param name Name of the new column: one text; by default the column itself is changed, and
#'   `paste_columns()` needs one.
#' @param to The value to set: one value; `NA` (default) sets them to missing.
#' @param is Values to look for: a vector, compared as text; `NULL` (default) for none.
#' @param below,above Numbers below or above which cells are set: one number each; `NULL` (default)
#'   for none.
#' @param where Another column in which to look, bare or as text; `NULL` (default) looks in
#'   `column` itself.
#' @param columns Columns, bare or as text, such as `c(a, b)`.
#' @param decimal_mark `"."` (default) or `","`.
#' @param at Text at which to split, taken as it stands: one text.
#' @param into Names of the new columns: a character vector. What is left over stays in the last.
#' @param text A template such as `"{town}, {street}"`: one text.
#' @param first,last How many letters to take: one whole number, of one of them; `NULL` (default)
#'   takes all.
#' @param width Length to which codes of digits are filled up with zeros on the left: one whole
#'   number; `NULL` (default) leaves them.
#' @return `data` with the columns changed or added. A recoded column is text, or numbers where all
#'   its values are. `to_numbers()` adds `<column>_reason` where marks such as "<5" stood. Cells
#'   that are missing stay so, and pasted ones are missing where every part is. `recode_values()`
#'   and `set_values()` say how many cells changed.
#' @section Errors: `ochre_error_column` when a column is not there, has no numbers, or holds text
#'   that is no number (field `rows`); `ochre_error_argument`, also when nothing in the column is
#'   what is to be replaced.
#' @examples
#' wells <- data.frame(
#'   id = c("7", "12", "103"),
#'   state = c("A", "B", NA),
#'   depth = c("12,5", "9999", "8,25")
#' )
#' wells |>
#'   recode_values(state, c(A = "open", B = "closed"), missing = "not known") |>
#'   to_numbers(depth, decimal_mark = ",") |>
#'   set_values(depth, above = 500) |>
#'   cut_code(id, width = 4)
#' @name columns
NULL

#' @rdname columns
#' @export
rename_columns <- function(data, names) {
  refuse_missing(missing(names), "names", rlang::current_env())
  check_table(data, "data", lazy = TRUE)
  new <- names(names)
  old <- unlist(names, use.names = FALSE)
  if (!is.character(old) || is.null(new) || anyNA(old) || any(!nzchar(new))) {
    ochre_abort("argument", "`names` must give an old name for each new one.",
                "For example c(cases = \"Cases (7 days)\").", arg = "names")
  }
  check_column(data, old, "names")
  for (name in new) check_new_name(name, "names")
  if ("geometry" %in% old) {
    ochre_abort("argument", "The column `geometry` keeps its name.", arg = "names")
  }
  all <- colnames(data)
  all[match(old, all)] <- new
  twice <- all[duplicated(all)]
  if (length(twice)) {
    ochre_abort("argument", "Two columns would be called `{twice[1]}`.", "Take another name.",
                arg = "names")
  }
  if (is_lazy(data)) return(dplyr::rename(data, !!!stats::setNames(old, new)))
  rename_made(data, all)
}

#' @rdname columns
#' @export
recode_values <- function(data, column, values = NULL, missing = NULL, rest = NULL,
                          name = NULL) {
  check_table(data, "data")
  column <- column_name(rlang::enquo(column), data, "column")
  check_new_name(name)
  values <- check_recoding(values)
  missing <- check_cell(missing, "missing")
  rest <- check_cell(rest, "rest")
  old <- as_key(data[[column]])
  at <- match(old, names(values))
  unused <- setdiff(names(values), old)
  if (length(unused) && length(unused) == length(values)) {
    ochre_abort("argument", "`{column}` is nowhere {list_words(unused)}.",
                did_you_mean(unused[1], unique(old[!is.na(old)]), "It has"), arg = "values")
  }
  if (length(unused)) {
    ochre_warn("unused", "`{column}` is nowhere {list_words(unused)}.",
               "Is it written in another way there?", values = unused)
  }
  new <- old
  if (!is.null(rest)) new[!is.na(old)] <- as_key(rest)
  new[!is.na(at)] <- unname(values)[at[!is.na(at)]]
  if (!is.null(missing)) new[is.na(old)] <- as_key(missing)
  changed <- sum(!is.na(at)) + sum(is.na(old) & !is.na(new))
  ochre_tell("Replaced {count_words(changed, 'value')} of `{column}`.")
  data[[name %||% column]] <- plain_column(new, data[[column]])
  if (is.null(name)) data else note_made(data, name, column)
}

# A named vector or a list of single values, as texts.
check_recoding <- function(values, call = rlang::caller_env()) {
  if (is.null(values)) return(character())
  single <- (is.atomic(values) || is.list(values)) && all(lengths(values) == 1)
  if (!single || is.null(names(values)) || any(!nzchar(names(values)))) {
    ochre_abort("argument", "`values` must give one new value for each old one.",
                "For example c(A = \"open\", B = \"closed\").", arg = "values")
  }
  twice <- names(values)[duplicated(names(values))]
  if (length(twice)) ochre_abort("argument", "`values` names `{twice[1]}` twice.", arg = "values")
  stats::setNames(as_key(unlist(values, use.names = FALSE)), names(values))
}

check_cell <- function(x, arg, null = TRUE, call = rlang::caller_env()) {
  if (is.null(x) && null) return(NULL)
  if (is.atomic(x) && length(x) == 1 && !is.object(x)) return(x)
  ochre_abort("argument", "`{arg}` must be one value, not {describe(x)}.")
}

# Numbers again where the column had numbers and all new values are some.
plain_column <- function(new, old) {
  if (!is.numeric(old)) return(new)
  number <- suppressWarnings(as.numeric(new))
  if (any(is.na(number) & !is.na(new))) new else number
}

#' @concept missing data
#' @concept sentinel values
#' @rdname columns
#' @export
set_values <- function(data, column, to = NA, is = NULL, below = NULL, above = NULL,
                       where = NULL) {
  check_table(data, "data")
  column <- column_name(rlang::enquo(column), data, "column")
  where <- column_name(rlang::enquo(where), data, "where", null = TRUE) %||% column
  to <- check_cell(to, "to", null = FALSE)
  check_number(below, "below", null = TRUE)
  check_number(above, "above", null = TRUE)
  if (is.null(is) && is.null(below) && is.null(above)) {
    ochre_abort("argument", "Nothing says which cells are to be set.",
                "Give `is`, `below` or `above`.", arg = "is")
  }
  if (!is.atomic(unlist(is))) {
    ochre_abort("argument", "`is` must be values.", "For example c(-9, -99).", arg = "is")
  }
  seen <- data[[where]]
  hit <- as_key(seen) %in% as_key(unlist(is)) & !is.na(seen)
  if (!is.null(below) || !is.null(above)) {
    number <- check_numeric(data, where, "where")
    hit <- hit | (number < below %||% -Inf) %in% TRUE | (number > above %||% Inf) %in% TRUE
  }
  old <- data[[column]]
  new <- if (is.factor(old)) as.character(old) else old
  if (is.numeric(new) && !is.na(to) && !is.numeric(to)) new <- as_key(new)
  new[hit] <- if (is.character(new) && !is.na(to)) as_key(to) else to
  ochre_tell(
    paste0("Set {count_words(sum(hit), 'value')} of `{column}` to ",
           "{if (is.na(to)) 'missing' else as_key(to)}.")
  )
  data[[column]] <- new
  data
}

#' @rdname columns
#' @export
to_numbers <- function(data, columns, decimal_mark = ".") {
  check_table(data, "data")
  columns <- column_names(rlang::enquo(columns), data, "columns")
  check_choice(decimal_mark, c(".", ","), "decimal_mark")
  for (column in columns) {
    x <- data[[column]]
    if (is.numeric(x)) next
    text <- trimws(as.character(x))
    text[!nzchar(text)] <- NA
    read <- as_numbers(text, decimal_mark)
    if (is.null(read$value)) {
      bad <- which(!is.na(text) & !is_number(text, decimal_mark))
      ochre_abort(
        "column",
        paste0("`{column}` cannot be read as numbers: row {format(bad[1])} holds ",
               "\"{shorten(text[bad[1]], 40)}\"."),
        "Set such values to missing first with set_values(), or say another decimal_mark.",
        arg = "columns", rows = bad
      )
    }
    data[[column]] <- read$value
    if (any(!is.na(read$reason))) data[[paste0(column, "_reason")]] <- read$reason
  }
  data
}

#' @rdname columns
#' @export
split_column <- function(data, column, at, into) {
  check_table(data, "data")
  column <- column_name(rlang::enquo(column), data, "column")
  check_text(at, "at")
  into <- check_texts(into, "into")
  if (!nzchar(at) || length(into) < 2 || anyDuplicated(into)) {
    ochre_abort(
      "argument",
      "`at` must be a text that stands between two parts, and `into` two or more new names.",
      arg = if (nzchar(at)) "into" else "at"
    )
  }
  for (name in into) check_new_name(name, "into")
  text <- as.character(data[[column]])
  parts <- stringi::stri_split_fixed(text, at, n = length(into), simplify = NA)
  for (i in seq_along(into)) {
    part <- if (i > ncol(parts)) rep(NA_character_, length(text)) else trimws(parts[, i])
    part[!nzchar(part)] <- NA
    data[[into[i]]] <- part
  }
  whole <- sum(!is.na(text) & is.na(parts[, min(2, ncol(parts))]))
  if (whole) {
    ochre_warn(
      "unsplit",
      paste0("{count_words(whole, 'value')} of `{column}` without \"{at}\": all of it went ",
             "into `{into[1]}`.")
    )
  }
  data
}

#' @rdname columns
#' @export
paste_columns <- function(data, text, name) {
  check_table(data, "data")
  check_text(text, "text")
  check_template(text, data, "text")
  check_new_name(name, null = FALSE)
  locale <- english
  locale$missing <- ""
  words <- character(nrow(data))
  pieces <- parse_template(text)
  columns <- unlist(lapply(pieces, `[[`, "column"))
  # Without a column all rows have the same words.
  known <- rep(is.null(columns), nrow(data))
  for (piece in pieces) {
    part <- if (is.null(piece$column)) {
      piece$text
    } else if (is.numeric(data[[piece$column]]) && !is.null(piece$format)) {
      format_field(data[[piece$column]], piece$format, NULL, locale)
    } else {
      as_key(data[[piece$column]])
    }
    if (!is.null(piece$column)) known <- known | !is.na(part)
    words <- paste0(words, ifelse(is.na(part), "", part))
  }
  words[!known] <- NA
  data[[name]] <- words
  note_made(data, name, columns)
}

#' @rdname columns
#' @export
cut_code <- function(data, column, first = NULL, last = NULL, width = NULL, name = NULL) {
  check_table(data, "data")
  column <- column_name(rlang::enquo(column), data, "column")
  check_number(first, "first", min = 1, max = 1000, whole = TRUE, null = TRUE)
  check_number(last, "last", min = 1, max = 1000, whole = TRUE, null = TRUE)
  check_number(width, "width", min = 1, max = 40, whole = TRUE, null = TRUE)
  check_new_name(name)
  if (!is.null(first) && !is.null(last)) {
    ochre_abort("argument", "`first` and `last` cannot go together.", arg = "last")
  }
  code <- as_key(data[[column]])
  if (!is.null(width)) {
    short <- which(grepl("^[0-9]+$", code) & nchar(code) < width)
    code[short] <- stringi::stri_pad_left(code[short], width, "0")
  }
  if (!is.null(first)) code <- substr(code, 1, first)
  if (!is.null(last)) code <- substr(code, pmax(1, nchar(code) - last + 1), nchar(code))
  data[[name %||% column]] <- code
  data
}
