# Reading statistics: a delimited text file as it comes from an agency, into a tibble whose
# codes are still codes. Guessing is in read-guess.R, typing in read-types.R.

#' Read statistics
#'
#' Reads a delimited text file (CSV, TSV and their kin). Delimiter, decimal mark and encoding
#' are found from the content and can be given instead.
#'
#' A column is read as numbers only if nothing is lost by it. It stays text when a value has
#' a leading zero (`0101`), more than 15 digits, or when the column is called a code or id.
#' Marks that agencies write in place of a number (`<5`, `n/a`, `–`, `*`, `..`) become missing
#' values, and a column `<name>_reason` beside it keeps what stood there. A footer (last lines
#' with fewer fields than the header) is cut off. What was found and done is said in one
#' message, and kept: see [reading_report()].
#'
#' @param file Path of a file: one text.
#' @param delimiter One character that separates fields; `NULL` (default) finds it among
#'   comma, semicolon, tab and bar.
#' @param decimal_mark `"."` or `","`; `NULL` (default) finds it. The other one is then
#'   understood as a thousands mark, as is a space or an apostrophe between groups of three.
#' @param encoding Name of an encoding as [iconv()] knows it; `NULL` (default) takes UTF-8 or
#'   UTF-16 where the bytes are that, and Windows-1252 otherwise.
#' @param text Names of columns to keep as text whatever they hold: a character vector.
#' @return A tibble with one row a record. Empty fields are `NA`.
#' @section Errors:
#' `ochre_error_file` when the file cannot be read, is empty, or a row has another number of
#' fields than the header (field `row`, a line number); `ochre_error_column` when `text` names
#' a column that is not there; `ochre_error_argument`.
#' @examples
#' visits <- read_statistics(ochre_demo("visits.csv"))
#' reading_report(visits)
#' @export
read_statistics <- function(file, delimiter = NULL, decimal_mark = NULL, encoding = NULL, text = NULL) {
  check_text(file, "file")
  check_text(delimiter, "delimiter", null = TRUE)
  check_text(encoding, "encoding", null = TRUE)
  if (!is.null(decimal_mark)) check_choice(decimal_mark, c(".", ","), "decimal_mark")
  path <- check_file(file)
  if (file.size(path) == 0) ochre_abort("file", sprintf("`%s` is empty.", file), "Fetch it again.", file = file)

  found <- guess_format(path, file, delimiter, encoding)
  raw <- read_fields(path, file, found)
  if (!is.null(text)) check_column(raw$table, text, "text")
  decimal_mark <- decimal_mark %||% guess_decimal_mark(raw$table, found$delimiter)
  typed <- type_columns(raw$table, decimal_mark, text)
  report <- list(
    file = file, rows = nrow(typed$table), columns = ncol(raw$table), delimiter = found$delimiter,
    encoding = found$encoding, decimal_mark = decimal_mark, footer = raw$footer, marks = typed$marks
  )
  out <- structure(typed$table, ochre_reading = structure(report, class = "ochre_reading"))
  if (!"reading" %in% getOption("ochre.quiet") && reading_notable(report)) {
    ochre_tell(paste(format(attr(out, "ochre_reading")), collapse = "\n"))
  }
  out
}

`%||%` <- function(a, b) if (is.null(a)) b else a

# All fields as text; the rows that do not fit are told apart into footer and fault.
read_fields <- function(path, file, found, call = rlang::caller_env()) {
  table <- tryCatch(suppressWarnings(readr::read_delim(
    path, delim = found$delimiter, quote = "\"", escape_double = TRUE, trim_ws = TRUE, na = "", lazy = FALSE,
    col_types = readr::cols(.default = readr::col_character()), locale = readr::locale(encoding = found$encoding),
    name_repair = "minimal", progress = FALSE, show_col_types = FALSE
  )), error = function(e) {
    ochre_abort("file", sprintf("`%s` cannot be read as a table: %s.", file, strip_period(gsub("\\s+", " ", sub("\n.*", "", conditionMessage(e))))),
                "Is it a table of lines with the same delimiter?", file = file, call = call)
  })
  problems <- readr::problems(table)
  table <- tibble::as_tibble(as.list(table), .name_repair = "minimal")
  names(table) <- tidy_names(names(table))
  if (ncol(table) == 0) ochre_abort("file", sprintf("`%s` has no columns.", file), "Its first line must name them.", file = file, call = call)

  rows <- seq_len(nrow(table))
  short <- unique(problems$row[grepl("columns", problems$expected) & count_of(problems$actual) < ncol(table)]) - 1L
  last_whole <- max(0L, setdiff(rows, short))
  footer <- rows[rows > last_whole]
  wrong <- setdiff(unique(problems$row) - 1L, footer)
  wrong <- wrong[wrong >= 1]
  if (length(wrong)) {
    at <- problems[problems$row == wrong[1] + 1L, ][1, ]
    ochre_abort("file", sprintf("`%s`, line %d: found %s, but the header has %s.", file, at$row, count_words(count_of(at$actual), "column"), count_words(ncol(table), "column")),
                c(if (length(wrong) > 1) sprintf("%d other lines have the same fault.", length(wrong) - 1L),
                  sprintf("Look for a missing or unquoted %s in that line.", shown_mark(found$delimiter))),
                file = file, row = at$row, call = call)
  }
  if (nrow(table) == length(footer)) {
    ochre_abort("file", sprintf("`%s` has a header and no rows.", file), "Fetch it again, or name the `delimiter`.", file = file, call = call)
  }
  notes <- apply(as.matrix(table[footer, ]), 1, function(x) paste(stats::na.omit(x), collapse = ", "))
  list(table = table[setdiff(rows, footer), ], footer = unname(notes))
}

count_of <- function(x) suppressWarnings(as.integer(sub("^(\\d+) columns?$", "\\1", x)))

tidy_names <- function(names) {
  names[is.na(names) | names == ""] <- "unnamed"
  make.unique(enc2utf8(names), sep = "_")
}

shown_mark <- function(x) switch(x, "\t" = "tab", "," = "comma", ";" = "semicolon", "|" = "bar", "." = "point", paste0("`", x, "`"))

#' What reading a file found and did
#'
#' @param data A tibble from [read_statistics()], as it came.
#' @return A list of class `ochre_reading`: `file`, `rows`, `columns`, `delimiter`, `encoding`,
#'   `decimal_mark`, `footer` (the lines cut off) and `marks`, a tibble with columns `column`,
#'   `mark` and `count` of what was read as missing. Printed, it is a few lines of text.
#' @section Errors: `ochre_error_argument` when `data` was not read by [read_statistics()] or
#'   was changed since.
#' @export
reading_report <- function(data) {
  report <- attr(data, "ochre_reading")
  if (is.null(report)) {
    ochre_abort("argument", "`data` has no reading report.", "Give what read_statistics() returned, before changing it.", arg = "data")
  }
  report
}

reading_notable <- function(report) {
  length(report$footer) > 0 || nrow(report$marks) > 0 || report$decimal_mark != "." || report$encoding != "UTF-8"
}

#' @export
format.ochre_reading <- function(x, ...) {
  marks <- split(x$marks, factor(x$marks$column, unique(x$marks$column)))
  mark_lines <- vapply(marks, function(m) {
    sprintf("`%s`: %s read as missing; see `%s_reason`.", m$column[1],
            paste(sprintf("%s \u00d7 \"%s\"", format(m$count, big.mark = ",", trim = TRUE), m$mark), collapse = ", "), m$column[1])
  }, "")
  c(sprintf("%s: %s, %s; delimiter %s, decimal mark %s, encoding %s.", basename(x$file), count_words(x$rows, "row"),
            count_words(x$columns, "column"), shown_mark(x$delimiter), shown_mark(x$decimal_mark), x$encoding),
    if (length(x$footer)) sprintf("Cut off %s: \"%s\"", count_words(length(x$footer), "footer line"), substr(x$footer, 1, 60)[1]),
    unname(mark_lines))
}

#' @export
print.ochre_reading <- function(x, ...) cat(format(x), sep = "\n")
