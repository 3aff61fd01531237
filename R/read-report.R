# What reading statistics found and did, as data and as a few lines of text.

#' What reading a file found and did
#'
#' @param data A tibble from [read_statistics()], as it came.
#' @return A list of class `ochre_reading`: `file`, `format`, `rows`, `columns`, `delimiter`, `encoding`,
#'   `decimal_mark`, `layer` (the sheet or table), `titles` and `footer` (the lines cut off above and below), `filled` (how many
#'   cells were filled under merged ones), `blank` (how many empty rows were left out), `marks`, a tibble with columns `column`,
#'   `mark` and `count` of what was read as missing, and `signs`, one with `column`, `sign`
#'   (`"percent sign"`, `"thousands mark"`) and `count` of what was taken off numbers. Printed, it is a few lines of text.
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
  length(report$footer) > 0 || length(report$titles) > 0 || report$filled > 0 || nrow(report$marks) > 0 || nrow(report$signs) > 0 ||
    report$decimal_mark != "." || !(report$encoding %||% "UTF-8") %in% "UTF-8"
}

#' @export
format.ochre_reading <- function(x, ...) {
  by_column <- function(rows, one) {
    parts <- split(rows, factor(rows$column, unique(rows$column)))
    unname(vapply(parts, function(m) one(m, paste(sprintf("%s \u00d7 %s", format(m$count, big.mark = ",", trim = TRUE), m[[2]]), collapse = ", ")), ""))
  }
  x$marks$mark <- paste0("\"", x$marks$mark, "\"", recycle0 = TRUE)
  quoted <- function(lines) sprintf("\"%s%s\"", substr(lines[1], 1, 70), if (nchar(lines[1]) > 70) "\u2026" else "")
  c(sprintf("%s: %s%s, %s%s.", basename(x$file), if (!is.null(x$layer)) sprintf("`%s`, ", x$layer) else "", count_words(x$rows, "row"), count_words(x$columns, "column"),
            if (x$format == "table") sprintf("; delimiter %s, decimal mark %s, encoding %s", shown_mark(x$delimiter), shown_mark(x$decimal_mark), x$encoding)
            else sprintf("; %s", if (x$format == "json") "JSON" else formats[[x$format]])),
    if (length(x$titles)) sprintf("Skipped %s above the header: %s", count_words(length(x$titles), "line"), quoted(x$titles)),
    if (length(x$footer)) sprintf("Cut off %s: %s", count_words(length(x$footer), "footer line"), quoted(x$footer)),
    if (x$blank) sprintf("Left out %s.", count_words(x$blank, "empty row")),
    if (x$filled) sprintf("Filled %s under merged ones.", count_words(x$filled, "cell")),
    by_column(x$marks, function(m, counted) sprintf("`%s`: %s read as missing; see `%s_reason`.", m$column[1], counted, m$column[1])),
    by_column(x$signs, function(m, counted) sprintf("`%s`: %s taken off.", m$column[1], counted)))
}

#' @export
print.ochre_reading <- function(x, ...) cat(format(x), sep = "\n")

shown_mark <- function(x) switch(x, "\t" = "tab", "," = "comma", ";" = "semicolon", "|" = "bar", "." = "point", paste0("`", x, "`"))
