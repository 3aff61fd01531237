# From fields of text to typed columns: which columns are numbers, which are codes, and what
# stood where a number should have been.

missing_marks <- c("NA", "N/A", "n/a", "na", "n.a.", "-", "\u2013", "\u2014", ".", "..", "...", "*", ":", "x", "X", "null", "NULL")

# `typed` when the source knows what is a number: then text becomes numbers only with marks in it.
type_columns <- function(table, decimal_mark, text, marks = "reason", typed = FALSE) {
  seen_marks <- list()
  signs <- list()
  out <- list()
  for (name in names(table)) {
    column <- table[[name]]
    keep <- name %in% text || named_like_code(name)
    if (!is.character(column)) {
      out[[name]] <- if (keep && is.numeric(column)) as_key(column) else column
      next
    }
    read <- if (keep) NULL else as_numbers(column, decimal_mark)
    marked <- !is.null(read) && !all(is.na(read$reason))
    if (is.null(read) || (marked && marks == "text") || (typed && !marked && !nrow(read$signs))) {
      out[[name]] <- column
      next
    }
    out[[name]] <- read$value
    if (nrow(read$signs)) signs[[name]] <- tibble::tibble(column = name, read$signs)
    if (marked) {
      out[[paste0(name, "_reason")]] <- read$reason
      counts <- table(factor(read$reason, unique(stats::na.omit(read$reason))))
      seen_marks[[name]] <- tibble::tibble(column = name, mark = names(counts), count = as.integer(counts))
    }
  }
  none <- tibble::tibble(column = character(), mark = character(), count = integer())
  no_sign <- tibble::tibble(column = character(), sign = character(), count = integer())
  list(table = tibble::as_tibble(out, .name_repair = "unique_quiet"), marks = do.call(rbind, c(list(none), unname(seen_marks))),
       signs = do.call(rbind, c(list(no_sign), unname(signs))))
}

# NULL when the column is not one of numbers.
as_numbers <- function(column, decimal_mark) {
  seen <- unique(column[!is.na(column)])
  if (!length(seen)) return(NULL)
  hidden <- stringi::stri_detect_regex(seen, "^[<\u2264] ?[0-9]+$")
  mark <- hidden | seen %in% missing_marks
  numbers <- seen[!mark]
  if (!length(numbers)) return(NULL)
  percent <- stringi::stri_detect_regex(numbers, "\\s?%$")
  bare <- if (any(percent)) stringi::stri_replace_first_regex(numbers, "\\s?%$", "") else numbers
  if (!all(is_number(bare, decimal_mark)) || any(is_code(bare))) return(NULL)
  value <- parse_number(bare, decimal_mark)
  # With and without a percent sign: 34 % and 0.34 cannot be told from 34 % and 34.
  if (any(percent) && any(!percent & value != 0)) return(NULL)
  grouped <- stringi::stri_detect_regex(bare, if (decimal_mark == ",") "[. '\u2019\u00a0\u202f]" else "[, '\u2019\u00a0\u202f]")
  whole <- all(value == round(value)) && all(abs(value) <= .Machine$integer.max)
  at <- match(column, numbers)
  taken <- c(sum(percent[at], na.rm = TRUE), sum(grouped[at], na.rm = TRUE))
  list(value = if (whole) as.integer(value)[at] else value[at], reason = ifelse(column %in% seen[mark], column, NA_character_),
       signs = tibble::tibble(sign = c("percent sign", "thousands mark"), count = taken)[taken > 0, ])
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
