# From fields of text to typed columns: which columns are numbers, which are codes, and what
# stood where a number should have been.

missing_marks <- c("NA", "N/A", "n/a", "na", "n.a.", "-", "\u2013", "\u2014", ".", "..", "...", "*", ":", "x", "X", "null", "NULL")

type_columns <- function(table, decimal_mark, text) {
  marks <- list()
  out <- list()
  for (name in names(table)) {
    column <- table[[name]]
    typed <- if (name %in% text || named_like_code(name)) NULL else as_numbers(column, decimal_mark)
    if (is.null(typed)) {
      out[[name]] <- column
      next
    }
    out[[name]] <- typed$value
    if (!all(is.na(typed$reason))) {
      out[[paste0(name, "_reason")]] <- typed$reason
      counts <- table(factor(typed$reason, unique(stats::na.omit(typed$reason))))
      marks[[name]] <- tibble::tibble(column = name, mark = names(counts), count = as.integer(counts))
    }
  }
  empty <- tibble::tibble(column = character(), mark = character(), count = integer())
  list(table = tibble::as_tibble(out, .name_repair = "unique_quiet"), marks = do.call(rbind, c(list(empty), unname(marks))))
}

named_like_code <- function(name) grepl("(^|[_. ])(code|id|key|zip|postcode|postal_code)$", tolower(name))

# NULL when the column is not one of numbers.
as_numbers <- function(column, decimal_mark) {
  seen <- column[!is.na(column)]
  if (!length(seen)) return(NULL)
  seen <- unique(seen)
  hidden <- stringi::stri_detect_regex(seen, "^[<\u2264] ?[0-9]+$")
  mark <- hidden | seen %in% missing_marks
  numbers <- seen[!mark]
  if (!length(numbers) || !all(is_number(numbers, decimal_mark)) || any(is_code(numbers))) return(NULL)
  value <- parse_number(numbers, decimal_mark)
  whole <- all(value == round(value)) && all(abs(value) <= .Machine$integer.max)
  at <- match(column, numbers)
  list(value = if (whole) as.integer(value)[at] else value[at], reason = ifelse(column %in% seen[mark], column, NA_character_))
}

is_number <- function(x, decimal_mark) {
  group <- if (decimal_mark == ",") "." else ","
  stringi::stri_detect_regex(x, sprintf(
    "^[-+\u2212]?([0-9]+|[0-9]{1,3}([%s '\u2019\u00a0\u202f][0-9]{3})+)?([%s][0-9]+)?([eE][-+]?[0-9]{1,3})?$", group, decimal_mark
  )) & stringi::stri_detect_regex(x, "[0-9]")
}

# Leading zeros, or more digits than a double keeps.
is_code <- function(x) {
  stringi::stri_detect_regex(x, "^0[0-9]+$") | (stringi::stri_detect_regex(x, "^[0-9]+$") & nchar(x) > 15)
}

parse_number <- function(x, decimal_mark) {
  x <- stringi::stri_replace_all_regex(x, if (decimal_mark == ",") "[. '\u2019\u00a0\u202f]" else "[, '\u2019\u00a0\u202f]", "")
  x <- stringi::stri_replace_all_fixed(x, c("\u2212", decimal_mark), c("-", "."), vectorize_all = FALSE)
  as.numeric(x)
}
