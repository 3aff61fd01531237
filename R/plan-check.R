# All that is wrong with a sheet file, its data, and the map that they make.

#' What is wrong with a sheet
#'
#' Reads a sheet file as [read_sheet()] does, and goes on after an error: with the tables that do
#' not need what failed, the layers of those, and the map of these. Nothing is written.
#'
#' @inheritParams read_sheet
#' @return A tibble with one row for each finding, in the order in which they were met: `severity`
#'   (`"error"` for what ends a build, `"warning"` for what would mislead a reader), `kind` (the
#'   class without its beginning), `what`, `mend` (`NA` for none), and `line` of the sheet (`NA`
#'   where it is of the whole). No row means that a build would say nothing.
#' @section Errors: `ochre_error_argument`, and `ochre_error_file` where there is no such file.
#' @examples
#' sheet_findings(ochre_demo("map.ochre.yml"))
#' @export
sheet_findings <- function(file, values = list()) {
  check_text(file, "file")
  values <- check_values(values)
  check_file(file, rlang::current_env())
  found <- new.env()
  found$rows <- list()
  text <- finding(found, load_sheet(file, values))
  if (!is.null(text)) find_in_sheet(found, text)
  rows <- unique(found$rows)
  text_of <- function(field) vapply(rows, function(r) r[[field]], "")
  tibble::tibble(
    severity = text_of("severity"),
    kind = text_of("kind"),
    what = text_of("what"),
    mend = text_of("mend"),
    line = vapply(rows, function(r) r$line, 0L)
  )
}

# The value of the code, or NULL after an error; warnings and the error are kept.
finding <- function(found, code) {
  note <- function(severity, e) {
    mend <- paste(e$mend, collapse = " ")
    found$rows <- c(found$rows, list(list(
      severity = severity,
      kind = sub("^ochre_(error|warning)_", "", class(e)[1]),
      what = e$what,
      mend = if (nzchar(mend)) mend else NA_character_,
      line = if (length(e$line)) as.integer(e$line)[1] else NA_integer_
    )))
  }
  tryCatch(
    hear_warnings(code, function(w) note("warning", w), quiet = TRUE),
    ochre_error = function(e) {
      # Each fault of a sheet is a finding of its own.
      many <- length(e$paths) > 1
      for (mend in if (many) e$mend) note("error", list_error(e, mend))
      if (!many) note("error", e)
      NULL
    }
  )
}

list_error <- function(e, what) {
  line <- suppressWarnings(as.integer(sub("^line ([0-9]+).*$", "\\1", what)))
  structure(list(what = what, line = line), class = class(e))
}

find_in_sheet <- function(found, text) {
  tables <- list()
  for (name in names(text$content$tables)) {
    if (needs_lost(text, name, names(tables))) next
    tables[[name]] <- finding(found, make_table(text, name, tables))
  }
  sheet <- finding(found, bare_sheet(text))
  if (is.null(sheet)) return(invisible())
  for (i in seq_along(text$content$layers)) {
    data <- text$content$layers[[i]][[1]]$data
    if (is.character(data) && !data %in% names(tables)) next
    sheet <- finding(found, put_layer(sheet, text, i, tables)) %||% sheet
  }
  attr(sheet, "text") <- text
  if (length(sheet$layers)) finding(found, resolve_sheet(sheet))
  invisible()
}

# Does a table stand on one that could not be made?
needs_lost <- function(text, name, made) {
  used <- unlist(lapply(text$content$tables[[name]], function(step) {
    unlist(step[[1]][intersect(names(step[[1]]), table_arguments)])
  }))
  any(used %in% setdiff(names(text$content$tables), made))
}
