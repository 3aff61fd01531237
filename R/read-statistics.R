# Reading statistics: a table as it comes from an agency, into a tibble whose codes are still
# codes. Each kind of source has a file of its own (read-delimited.R, read-workbook.R,
# read-json-rows.R, read-service.R, read-rows.R); typing is in read-types.R, the report in
# read-report.R.

#' Read statistics
#'
#' Reads a table from what an agency publishes: delimited text (such as CSV and TSV), a sheet of
#' an Excel or OpenDocument workbook, JSON, Parquet, the table of a shapefile (`.dbf`), each also
#' compressed (gzip, bzip2, xz, zip); from
#' a path, an address, a web service, or a database. What it is, its delimiter, decimal mark and
#' encoding are found from the content and can be given instead.
#'
#' A column is read as numbers only if nothing is lost by it. It stays text when a value has a
#' leading zero (`0101`), more than 15 digits, or when the column is called a code or id. Marks
#' that agencies write in place of a number (`<5`, `n/a`, `–`, `*`, `..`) become missing values,
#' and a column `<name>_reason` beside it keeps what stood there. Thousands marks and percent
#' signs are taken off (`34.5 %` is 34.5). Title lines above the header and a footer below the
#' table are cut off. In a workbook merged headings are filled: `Visits` over `2030` and `2031`
#' gives `Visits 2030` and `Visits 2031`. What was found and done is said in one message, and
#' kept: see [reading_report()].
#'
#' Currency and percent signs are taken off where all numbers of a column have the same. A column of
#' numbers that a few other values keep from being one stays text, and the message names them.
#' Columns that share a name get numbers, and rows that repeat the header are left out; both are
#' said. A header without rows gives an empty table.
#'
#' Sources that know types (Parquet, databases) keep them; there a text column becomes numbers
#' only where it holds numbers and such marks. Texts of JSON are read like fields of a delimited
#' text, and the message names the columns that became numbers.
#'
#' @section JSON:
#' The rows may be a list of records, one record a line, an object of columns, a list of lists
#' whose first holds the names, an object with `columns` and `data`, or an object of records,
#' whose keys become the column `key`. Where they lie deeper, `records` says where; without it the
#' only list of records is taken. Nested objects become columns `a.b`. Of GeoJSON each feature gives
#' a row of its properties. Of several documents in one file each is a row; where they hold rows of
#' their own, `records` puts those together, or `records = ""` takes each document as one row.
#'
#' @param file Path or address (`https://…`) of a file: one text. Or a database connection (package
#'   DBI), with `query` or `layer`.
#' @param delimiter One character that separates fields; `NULL` (default) finds it among
#'   comma, semicolon, tab and bar.
#' @param decimal_mark `"."` or `","`; `NULL` (default) finds it. The other one is then
#'   understood as a thousands mark, as is a space or an apostrophe between groups of three.
#' @param encoding Name of an encoding as [iconv()] knows it; `NULL` (default) takes UTF-8 or
#'   UTF-16 where the bytes are that, and Windows-1252 otherwise.
#' @param text Names of columns to keep as text whatever they hold: a character vector.
#' @param marks `"reason"` (default) reads marks in place of numbers as missing values with a reason
#'   beside them; `"text"` leaves a column that has such marks as text.
#' @param layer Which one, where a source holds several (sheets of a workbook, tables of a database,
#'   files of an archive, collections of a service): one text. `NULL` (default) takes the only one,
#'   of a workbook the first.
#' @param records For JSON: where the rows lie, as a JSON Pointer such as `"/data/rows"`: one text.
#' @param request For a web service: what to ask and how, from [service_request()].
#' @param query,params For a database: an SQL query, and a list of values for its placeholders.
#' @return A tibble with one row a record. Empty fields are `NA`.
#' @section Errors:
#' `ochre_error_file` when the file cannot be read, is empty, or a row has another number of
#' fields than the header (field `row`, a line number); `ochre_error_layer`; `ochre_error_records`
#' when JSON has no rows, or several lists of them, where it was looked; `ochre_error_url` and
#' `ochre_error_service`; `ochre_error_database`; `ochre_error_package` when a format needs a
#' package that is not installed; `ochre_error_column` when `text` names a column that is not
#' there; `ochre_error_argument`.
#' @source Bryan, P. et al. (2013) JavaScript Object Notation (JSON) Pointer, RFC 6901.
#' @examples
#' visits <- read_statistics(ochre_demo("visits.csv"))
#' reading_report(visits)
#' @export
read_statistics <- function(file, delimiter = NULL, decimal_mark = NULL, encoding = NULL,
                            text = NULL, marks = "reason", layer = NULL, records = NULL,
                            request = NULL, query = NULL, params = NULL) {
  refuse_missing(missing(file), "file", rlang::current_env())
  check_delimiter(delimiter)
  check_text(encoding, "encoding", null = TRUE)
  check_text(layer, "layer", null = TRUE)
  check_text(records, "records", null = TRUE)
  if (!is.null(decimal_mark)) check_choice(decimal_mark, c(".", ","), "decimal_mark")
  check_choice(marks, c("reason", "text"), "marks")
  wishes <- list(
    delimiter = delimiter, decimal_mark = decimal_mark, encoding = encoding, text = text,
    marks = marks, records = records
  )
  if (inherits(file, "DBIConnection")) {
    return(tell_reading(typed_rows(
      database_rows(file, layer, query, params),
      "the database",
      wishes
    )))
  }
  if (!is.null(query)) {
    ochre_abort("argument", "`query` needs a database connection as `file`.",
                "Connect with DBI::dbConnect().", arg = "query")
  }
  check_text(file, "file")
  rows <- function(source) {
    force(source)
    on.exit(remove_path(source$temporary))
    chosen <- if (is.null(source$layer)) layer else source$inner_layer
    typed_rows(rows_of(source, statistics_format(source), chosen, wishes), source$name, wishes)
  }
  if (!is.null(request)) {
    return(tell_reading(rows(list(
      path = ask_service(file, request, records),
      name = file,
      joined = TRUE
    ))))
  }
  tell_reading(with_copy(file, function(copy) {
    source <- find_source(file, layer, statistics_kinds, copy)
    rows(whole_service(file, source, layer, records) %||% source)
  }))
}

# The rows of a source, not yet typed: `table`, and what was found on the way. `typed` when the
# source knew what is a number.
rows_of <- function(source, format, layer, wishes, call = rlang::caller_env()) {
  rows <- switch(format,
    table = delimited_rows(source, wishes, call),
    workbook = ,
    opendocument = workbook_rows(source, format, layer, call),
    json = json_rows(source, wishes$records, call),
    dbf = dbf_rows(source, wishes$encoding, call),
    parquet = parquet_rows(source, call)
  )
  c(rows, list(format = format))
}

statistics_format <- function(source, call = rlang::caller_env()) {
  if (file.size(source$path) == 0) {
    ochre_abort("file", "`{source$name}` is empty.", "Fetch it again.", file = source$name)
  }
  start <- first_bytes(source$path)
  if (begins_with(start, 0x50, 0x41, 0x52, 0x31)) return("parquet")
  if (begins_with(start, 0x50, 0x4b, 0x03, 0x04)) {
    return(if (any(zip_members(source, call)$Name == "content.xml")) "opendocument" else "workbook")
  }
  if (begins_with(start, 0xd0, 0xcf, 0x11, 0xe0)) return("workbook")
  if (is_dbf(source$path, start)) return("dbf")
  text <- without_marks(start)
  if (length(text) && text[1] %in% charToRaw("{[")) return("json")
  if (length(text) && text[1] == charToRaw("<")) {
    refuse_markup(rawToChar(start[start != 0]), source, call)
  }
  "table"
}

# A table may begin with "<5", but not like XML.
refuse_markup <- function(words, source, call) {
  refuse_web_page(words, "a table", source, call)
  if (!grepl("<(\\?xml|!|([A-Za-z0-9]+:)?(kml|gpx)\\b)", words, useBytes = TRUE)) {
    return(invisible())
  }
  ochre_abort("file", "`{source$name}` is markup, not a table.",
              "If it is KML or GPX, read it with read_boundaries(); else ask for another format.",
              file = source$name)
}

# With its report as an attribute.
typed_rows <- function(rows, name, wishes, call = rlang::caller_env()) {
  if (!length(rows$table)) ochre_abort("file", "`{name}` has no columns.", file = name)
  text <- if (!is.null(wishes$text)) check_column(rows$table, wishes$text, "text", call = call)
  decimal_mark <- wishes$decimal_mark %||% if (rows$format == "table") {
    guess_decimal_mark(rows$table, rows$delimiter)
  } else {
    "."
  }
  typed <- type_columns(
    rows$table, decimal_mark, text, wishes$marks, isTRUE(rows$typed), isTRUE(rows$strings)
  )
  report <- list(
    file = name,
    format = rows$format,
    rows = nrow(typed$table),
    columns = length(rows$table),
    delimiter = rows$delimiter,
    encoding = rows$encoding,
    decimal_mark = decimal_mark,
    titles = rows$titles %||% character(),
    footer = rows$footer %||% character(),
    filled = rows$filled %||% 0L,
    blank = rows$blank %||% 0L,
    layer = rows$layer,
    layers = rows$layers,
    marks = typed$marks,
    signs = typed$signs,
    numbers = typed$numbers,
    odd = typed$odd,
    renamed = rows$renamed %||% character(),
    headers = rows$headers %||% 0L
  )
  out <- typed$table
  attr(out, "ochre_reading") <- structure(report, class = "ochre_reading")
  out
}

tell_reading <- function(table) {
  report <- attr(table, "ochre_reading")
  if (!"reading" %in% getOption("ochre.quiet") && reading_notable(report)) {
    ochre_tell(paste(format(report), collapse = "\n"))
  }
  table
}

check_delimiter <- function(x, call = rlang::caller_env()) {
  check_text(x, "delimiter", null = TRUE, call = call)
  if (is.null(x) || (nchar(x, "bytes") == 1 && !x %in% c("\"", "\n", "\r"))) return(invisible())
  ochre_abort("argument", "`delimiter` must be one character of ASCII, not {describe(x)}.",
              "For example \";\" or \"\\t\".", arg = "delimiter")
}
