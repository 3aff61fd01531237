# From fields of text to typed columns: which columns are numbers, which are codes, and what
# stood where a number should have been.

missing_marks <- c(
  "NA", "N/A", "n/a", "na", "n.a.", "-", "\u2013", "\u2014", ".", "..", "...", "*", ":",
  "x", "X", "null", "NULL"
)

# `typed` when the source knows what is a number: then text becomes numbers only with marks in it.
# `strings` when numbers may also come as texts (JSON): they are read by the same rule, and said.
type_columns <- function(table, decimal_mark, text, marks = "reason", typed = FALSE,
                         strings = FALSE) {
  said <- list(marks = list(), signs = list(), odd = list())
  numbers <- character()
  out <- list()
  for (name in names(table)) {
    column <- table[[name]]
    keep <- name %in% text || named_like_code(name)
    if (!is.character(column)) {
      out[[name]] <- if (keep && is.numeric(column)) as_key(column) else column
      next
    }
    read <- if (keep) NULL else as_numbers(column, decimal_mark)
    if (!is.null(read$odd)) said$odd[[name]] <- tibble::tibble(column = name, read$odd)
    good <- !is.null(read$value)
    marked <- good && !all(is.na(read$reason))
    if (!good ||
        (marked && marks == "text") ||
        (typed && !strings && !marked && !nrow(read$signs))) {
      out[[name]] <- column
      next
    }
    if (strings) numbers <- c(numbers, name)
    out[[name]] <- read$value
    if (nrow(read$signs)) said$signs[[name]] <- tibble::tibble(column = name, read$signs)
    if (marked) {
      out[[paste0(name, "_reason")]] <- read$reason
      counts <- table(factor(read$reason, unique(stats::na.omit(read$reason))))
      said$marks[[name]] <- tibble::tibble(
        column = name,
        mark = names(counts),
        count = as.integer(counts)
      )
    }
  }
  bind <- function(parts, ...) {
    do.call(rbind, c(list(tibble::tibble(column = character(), ...)), unname(parts)))
  }
  list(
    table = tibble::as_tibble(out, .name_repair = "unique_quiet", .rows = length(table[[1]])),
    numbers = numbers,
    marks = bind(said$marks, mark = character(), count = integer()),
    signs = bind(said$signs, sign = character(), count = integer()),
    odd = bind(said$odd, value = character(), count = integer(), row = integer(), of = integer())
  )
}

# `value`, `reason` (NULL where there is none) and `signs` of a column of numbers; `odd`, the few
# values that keep one of numbers from being one; NULL for any other column.
as_numbers <- function(column, decimal_mark) {
  found <- distinct_texts(column)
  seen <- found$text
  if (!length(seen)) return(NULL)
  # Most columns are numbers as they stand, or none.
  quick <- call_core(plain_numbers_core(seen))
  rows <- tabulate(found$at, length(seen))
  if (sum(rows[quick$word]) > most_odd * sum(rows)) return(NULL)
  if (decimal_mark != ".") quick <- NULL
  slow <- if (is.null(quick)) seq_along(seen) else which(is.na(quick$value))
  # Long texts are no numbers, and not worth a look.
  short <- seen
  short[slow] <- ifelse(nchar(seen[slow], "bytes") > 100, "\u2026", seen[slow])
  mark <- logical(length(seen))
  mark[slow] <- stands_for_missing(short[slow])
  numbers <- seen[!mark]
  if (!length(numbers)) return(NULL)
  if (sum(mark) == length(slow)) {
    return(if (!quick$codes) numbers_of(found, mark, quick$value[!mark]))
  }
  bare <- list(text = short[!mark], sign = rep("", sum(!mark)))
  good <- is_number(bare$text, decimal_mark)
  if (!all(good)) bare <- without_signs(bare$text)
  if (!all(good)) good <- is_number(bare$text, decimal_mark)
  if (any(is_code(bare$text))) return(NULL)
  if (!all(good)) return(odd_among(column, numbers, good))
  value <- parse_number(bare$text, decimal_mark)
  # With and without a percent sign: 34 % and 0.34 cannot be told from 34 % and 34; nor two
  # currencies.
  percent <- bare$sign == "%"
  if (any(percent) && any(!percent & value != 0)) return(odd_among(column, numbers, percent))
  currency <- unique(bare$sign[!percent & nzchar(bare$sign)])
  if (length(currency) > 1) return(odd_among(column, numbers, bare$sign == currency[1]))
  grouped <- stringi::stri_detect_regex(
    bare$text,
    if (decimal_mark == ",") "[. '\u2019\u00a0\u202f]" else "[, '\u2019\u00a0\u202f]"
  )
  rows <- rows[!mark]
  taken <- c(sum(rows[percent]), sum(rows[nzchar(bare$sign) & !percent]), sum(rows[grouped]))
  sign <- c(
    "percent sign",
    if (length(currency)) sprintf("\"%s\"", currency) else "",
    "thousands mark"
  )
  signs <- tibble::tibble(sign = sign, count = taken)[taken > 0, ]
  numbers_of(found, mark, value, signs)
}

stands_for_missing <- function(text) {
  stringi::stri_detect_regex(text, "^[<\u2264] ?[0-9]+$") | text %in% missing_marks
}

no_signs <- list(sign = character(), count = integer())

# A column from the values of its distinct texts; `mark` says which are none.
numbers_of <- function(found, mark, value, signs = tibble::as_tibble(no_signs)) {
  whole <- all(value == round(value)) && all(abs(value) <= .Machine$integer.max)
  of_seen <- rep(if (whole) NA_integer_ else NA_real_, length(mark))
  of_seen[!mark] <- if (whole) as.integer(value) else value
  list(
    value = of_seen[found$at],
    reason = if (any(mark)) ifelse(mark, found$text, NA_character_)[found$at],
    signs = signs
  )
}

# Percent and currency signs before or after a number.
without_signs <- function(x) {
  currency <- "\\p{Sc}|EUR|USD|GBP|CHF|PLN|z\u0142"
  pattern <- sprintf("^([-+\u2212]?)\\s*(%s)\\s?|\\s?(%%|%s)$", currency, currency)
  signed <- stringi::stri_detect_regex(x, pattern)
  sign <- rep("", length(x))
  sign[signed] <- trimws(stringi::stri_extract_first_regex(
    x[signed],
    "%|\\p{Sc}|EUR|USD|GBP|CHF|PLN|z\u0142"
  ))
  text <- x
  text[signed] <- stringi::stri_replace_all_regex(x[signed], pattern, "$1")
  list(text = text, sign = sign)
}

# As a share of a column's values.
most_odd <- 0.2

# A column that is nearly one of numbers stays text, and what keeps it there is said.
odd_among <- function(column, numbers, good) {
  at <- match(column, numbers)
  known <- sum(!is.na(at))
  wrong <- which(!is.na(at) & !good[at])
  if (!any(good) || length(wrong) > most_odd * known) return(NULL)
  value <- unique(column[wrong])
  list(
    odd = tibble::tibble(
      value = value,
      count = tabulate(match(column[wrong], value)),
      row = wrong[match(value, column[wrong])],
      of = known
    )
  )
}

is_number <- function(x, decimal_mark) {
  group <- if (decimal_mark == ",") "." else ","
  stringi::stri_detect_regex(
    x,
    sprintf(
      paste0(
        "^[-+\u2212]?([0-9]+|[0-9]{1,3}([%s ",
        "'\u2019\u00a0\u202f][0-9]{3})+)?([%s][0-9]+)?([eE][-+]?[0-9]{1,3})?$"
      ),
      group,
      decimal_mark
    )
  ) &
    stringi::stri_detect_regex(x, "[0-9]")
}

# Leading zeros, or more digits than a double keeps.
is_code <- function(x) {
  stringi::stri_detect_regex(x, "^0[0-9]+$") |
    (stringi::stri_detect_regex(x, "^[0-9]+$") & nchar(x) > 15)
}

parse_number <- function(x, decimal_mark) {
  x <- stringi::stri_replace_all_regex(
    x,
    if (decimal_mark == ",") "[. '\u2019\u00a0\u202f]" else "[, '\u2019\u00a0\u202f]",
    ""
  )
  x <- stringi::stri_replace_all_fixed(
    x,
    c("\u2212", decimal_mark),
    c("-", "."),
    vectorize_all = FALSE
  )
  as.numeric(x)
}
