# What reading statistics found and did, as data and as a few lines of text.

#' What reading a file found and did
#'
#' @param data A tibble from [read_statistics()], as it came.
#' @return A list of class `ochre_reading`: `file`, `format`, `rows`, `columns`, `delimiter`,
#'   `encoding`, `decimal_mark`, `layer` (the sheet or table), `layers` (the sheets to choose
#'   from), `titles` and `footer` (the lines cut off above and below), `filled` (how many cells
#'   were filled under merged ones), `blank` (how many empty rows were left out), `marks`, a
#'   tibble with columns `column`, `mark` and `count` of what was read as missing, and `signs`,
#'   one with `column`, `sign` (`"percent sign"`, `"thousands mark"`, or a currency) and `count`
#'   of what was taken off numbers; `numbers`, names of the columns of JSON whose texts became
#'   numbers; `odd`, a tibble with `column`, `value`, `count`, `row` and `of` of what keeps a
#'   column of numbers text; `renamed`, the names that stood there, named by those that columns
#'   have now; `headers`, how many rows repeated the header. Printed, it is a few lines of text.
#' @section Errors: `ochre_error_argument` when `data` was not read by [read_statistics()] or
#'   was changed since.
#' @export
reading_report <- function(data) {
  refuse_missing(missing(data), "data", rlang::current_env())
  report <- attr(data, "ochre_reading")
  if (is.null(report)) {
    ochre_abort("argument", "`data` has no reading report.",
                "Give what read_statistics() returned, before changing it.", arg = "data")
  }
  report
}

reading_notable <- function(report) {
  length(report$footer) > 0 ||
    length(report$titles) > 0 ||
    report$filled > 0 ||
    nrow(report$marks) > 0 ||
    nrow(report$signs) > 0 ||
    nrow(report$odd) > 0 ||
    length(report$numbers) > 0 ||
    length(report$renamed) > 0 ||
    report$headers > 0 ||
    report$rows == 0 ||
    length(report$layers) > 1 ||
    report$decimal_mark != "." ||
    !(report$encoding %||% "UTF-8") %in% "UTF-8"
}

#' @export
format.ochre_reading <- function(x, ...) {
  c(
    reading_head(x),
    if (length(x$layers) > 1) {
      sprintf(
        "Took `%s` of %d sheets; the others are %s. `layer` names another.",
        x$layer,
        length(x$layers),
        list_words(setdiff(x$layers, x$layer), 6)
      )
    },
    if (!x$rows) "It has a header and no rows.",
    dropped_lines(x),
    renamed_words(x$renamed),
    if (length(x$numbers)) sprintf("Texts read as numbers: %s.", list_words(x$numbers, 8)),
    mark_lines(x),
    odd_words(x$odd)
  )
}

# What was read, with its size and how it is written.
reading_head <- function(x) {
  how <- if (x$format == "table") {
    sprintf(
      "delimiter %s, decimal mark %s, encoding %s",
      shown_mark(x$delimiter),
      shown_mark(x$decimal_mark),
      x$encoding
    )
  } else if (x$format == "json") {
    "JSON"
  } else {
    formats[[x$format]]
  }
  layer <- if (!is.null(x$layer)) sprintf("`%s`, ", x$layer)
  sprintf(
    "%s: %s%s, %s; %s.",
    basename(x$file),
    layer %||% "",
    count_words(x$rows, "row"),
    count_words(x$columns, "column"),
    how
  )
}

# Lines and rows that are no data.
dropped_lines <- function(x) {
  quoted <- function(lines) {
    sprintf("\"%s%s\"", substr(lines[1], 1, 70), if (nchar(lines[1]) > 70) "\u2026" else "")
  }
  titles <- count_words(length(x$titles), "line")
  footers <- count_words(length(x$footer), "footer line")
  headers <- count_words(x$headers, "row that repeats", "rows that repeat")
  c(
    if (length(x$titles)) sprintf("Skipped %s above the header: %s", titles, quoted(x$titles)),
    if (length(x$footer)) sprintf("Cut off %s: %s", footers, quoted(x$footer)),
    if (x$blank) sprintf("Left out %s.", count_words(x$blank, "empty row")),
    if (x$filled) sprintf("Filled %s under merged ones.", count_words(x$filled, "cell")),
    if (x$headers) sprintf("Left out %s the header.", headers)
  )
}

# Marks read as missing values, and signs taken off numbers, column by column.
mark_lines <- function(x) {
  x$marks$mark <- paste0("\"", x$marks$mark, "\"", recycle0 = TRUE)
  by_column <- function(rows, words) {
    parts <- split(rows, factor(rows$column, unique(rows$column)))
    unname(vapply(parts, function(m) {
      count <- format(m$count, big.mark = ",", trim = TRUE)
      counted <- paste(sprintf("%s \u00d7 %s", count, m[[2]]), collapse = ", ")
      words(m$column[1], counted)
    }, ""))
  }
  missing <- by_column(x$marks, function(column, counted) {
    sprintf("`%s`: %s read as missing; see `%s_reason`.", column, counted, column)
  })
  signs <- by_column(x$signs, function(column, counted) {
    sprintf("`%s`: %s taken off.", column, counted)
  })
  c(missing, signs)
}

renamed_words <- function(renamed) {
  if (!length(renamed)) return(NULL)
  old <- ifelse(nzchar(renamed), sprintf("a second `%s`", renamed), "one without a name")
  sprintf(
    "Named columns anew: %s.",
    paste(
      sprintf("%s is `%s`", utils::head(old, 6), utils::head(names(renamed), 6)),
      collapse = ", "
    )
  )
}

# Columns that would be numbers but for a few values.
odd_words <- function(odd) {
  parts <- split(odd, factor(odd$column, unique(odd$column)))
  unname(vapply(
    parts,
    function(o) {
      shown <- sprintf("\"%s\" (row %d)", substr(o$value, 1, 30), o$row)
      sprintf(
        "`%s` stays text: %s of %s not like the others, such as %s.",
        o$column[1],
        format(sum(o$count), big.mark = ","),
        if (sum(o$count) == 1) {
          paste(format(o$of[1], big.mark = ","), "values is")
        } else {
          paste(format(o$of[1], big.mark = ","), "values are")
        },
        list_words(shown, 3, mark = "")
      )
    },
    ""
  ))
}

#' @export
print.ochre_reading <- function(x, ...) cat(format(x), sep = "\n")

shown_mark <- function(x) {
  switch(x,
    "\t" = "tab",
    "," = "comma",
    ";" = "semicolon",
    "|" = "bar",
    "." = "point",
    paste0("`", x, "`")
  )
}
