# What a file holds, before anything is done with it.

#' What a file holds
#'
#' @param file Path or address of a file that [read_boundaries()] or [read_statistics()] can read;
#'   which one is found from its content.
#' @param layer Which one, where a file holds several: one text, or `NULL`.
#' @return A list of class `ochre_inspection`: `file`; `kind` (`"boundaries"`, `"statistics"`, or
#'   `"several"` when the file holds several layers and none was named: then only `layers`, their
#'   names, and `holds`, a word for them such as `"sheets"`); `source` (`format`, `system`);
#'   `rows`; `columns`, a tibble with `column`, `type`, `role` (`"count"`, which can be added up;
#'   `"number"`; `"year"` and `"code"`, which are written without thousands marks; `"text"`,
#'   `"yes/no"`, `"date"`), `missing`, `distinct`, `examples`; `keys`, names of columns that
#'   could tell rows apart (complete, all different, text or called a code); for boundaries
#'   `shapes` (how many of each geometry type) and `extent` (west, south, east, north in
#'   degrees), else `NULL`; for statistics `reading`, see [reading_report()], else `NULL`.
#' @section Errors: Those of [read_boundaries()] and [read_statistics()].
#' @examples
#' inspect_file(ochre_demo("districts.geojson"))
#' @export
inspect_file <- function(file, layer = NULL) {
  check_text(file, "file")
  check_text(layer, "layer", null = TRUE)
  with_copy(file, function(copy) inspect_copy(file, layer, copy))
}

inspect_copy <- function(file, layer, copy) {
  source <- tryCatch(
    find_source(file, layer, union(boundary_kinds, statistics_kinds), copy),
    ochre_error_layer = identity
  )
  found <- source
  if (!inherits(source, "condition")) {
    on.exit(remove_path(source$temporary))
    found <- tryCatch(inspect_source(file, source, layer), ochre_error_layer = identity)
  }
  if (inherits(found, "condition")) {
    found <- list(kind = "several", layers = found$layers, holds = found$holds %||% "layers")
  }
  structure(c(list(file = file), found), class = "ochre_inspection")
}

inspect_source <- function(file, source, layer) {
  # Of a service all pages.
  leads <- page_facts(source)[c("next_page", "items", "collections")]
  if (is_address(file) && any(lengths(leads))) {
    return(inspected("boundaries", inspect_boundaries(whole_boundaries(file, layer))))
  }
  format <- find_format(source)
  chosen <- if (is.null(source$layer)) layer else source$inner_layer
  if (format == "workbook" && is.null(chosen)) check_one_sheet(source)
  statistics <- format %in% c("table", "workbook", "dbf")
  if (!statistics) {
    read <- tryCatch(read_format(source, layer, NULL), ochre_error_file = identity)
    if (inherits(read, "condition")) {
      check_fault(source, format, read)
      statistics <- TRUE
    }
  }
  looked <- if (statistics) {
    inspect_statistics(source, format, chosen)
  } else {
    inspect_boundaries(as_boundaries(read, source$name, NULL))
  }
  inspected(if (statistics) "statistics" else "boundaries", looked)
}

inspected <- function(kind, looked) {
  columns <- column_facts(looked$table)
  found <- list(
    kind = kind,
    rows = nrow(looked$table),
    columns = columns,
    keys = likely_keys(columns, nrow(looked$table))
  )
  c(found, looked$more)
}

# What a file holds, as it was inspected to be, without a word on how it was read.
read_inspected <- function(file, kind, layer = NULL) {
  suppressWarnings(suppressMessages(
    if (kind == "boundaries") read_boundaries(file, layer) else read_statistics(file, layer = layer)
  ))
}

# One of several sheets has to be named.
check_one_sheet <- function(source) {
  sheets <- sheets_of(source)
  if (length(sheets) < 2) return(invisible())
  what <- sprintf("`%s` holds %d sheets.", source$name, length(sheets))
  ochre_abort("layer", what, layers = sheets)
}

# A file without geometry may hold rows; what holds neither says why.
check_fault <- function(source, format, fault) {
  rows <- if (format %in% c("json", "geoparquet")) fault_in_rows(source) else fault
  if (is.null(rows)) return(invisible())
  # A list in JSON can only be meant as rows.
  rlang::cnd_signal(if (begins_with_list(source)) rows else fault)
}

inspect_statistics <- function(source, format, layer) {
  wishes <- list(marks = "reason")
  rows <- rows_of(source, statistics_format(source), layer, wishes)
  table <- typed_rows(rows, source$name, wishes)
  places <- if (format %in% c("table", "workbook")) table_places(source, format, layer)
  more <- list(reading = attr(table, "ochre_reading"), source = list(format = format))
  list(table = table, more = c(more, if (!is.null(places)) geometry_facts(places)))
}

# A table as points, where it has columns of places.
table_places <- function(source, format, layer) {
  tryCatch(
    suppressWarnings({
      places <- read_places(source, format, layer, NULL)
      as_boundaries(places, source$name, NULL)
    }),
    ochre_error = function(e) NULL
  )
}

inspect_boundaries <- function(data) {
  list(
    table = data[setdiff(names(data), "geometry")],
    more = c(geometry_facts(data), list(source = attr(data, "ochre_source")))
  )
}

column_facts <- function(table) {
  columns <- unclass(table)
  role <- as.character(mapply(column_role, columns, names(table)))
  tibble::tibble(
    column = names(table),
    type = vapply(table, type_word, ""),
    role = role,
    missing = vapply(table, function(x) sum(is.na(x)), 0L),
    distinct = vapply(table, function(x) length(unique(x[!is.na(x)])), 0L),
    examples = as.character(mapply(example_words, columns, role))
  )
}

# Columns that could tell rows apart: complete, all different, texts or whole numbers called codes.
likely_keys <- function(columns, rows) {
  complete <- columns$missing == 0 & columns$distinct == rows
  coded <- columns$type == "whole number" & named_like_code(columns$column)
  columns$column[complete & (columns$type == "text" | coded)]
}

# JSON or Parquet that holds no boundaries may hold a table; NULL if it does.
fault_in_rows <- function(source) {
  tryCatch(
    {
      rows_of(source, statistics_format(source), NULL, list())
      NULL
    },
    ochre_error = identity
  )
}

begins_with_list <- function(source) {
  identical(without_marks(first_bytes(source$path))[1], charToRaw("["))
}

geometry_facts <- function(data) {
  shapes <- table(wk::wk_geometry_type_label(wk::wk_meta(data$geometry)$geometry_type))
  world <- call_core(extent_core(list(unclass(data$geometry)), list(), ""))
  list(
    shapes = stats::setNames(as.integer(shapes), names(shapes)),
    none = sum(is.na(data$geometry)),
    extent = if (!world$empty) world$places[[1]]$extent
  )
}

type_word <- function(x) {
  if (is.logical(x)) {
    "yes/no"
  } else if (is.integer(x)) {
    "whole number"
  } else if (is.numeric(x)) {
    "number"
  } else {
    "text"
  }
}

example_words <- function(x, role) {
  seen <- unique(x[!is.na(x)])
  shown <- if (is.numeric(seen)) {
    format_field(
      utils::head(sort(seen)[unique(round(seq(1, length(seen), length.out = 3)))], 3),
      NULL,
      plain_format(x, role = role)
    )
  } else {
    utils::head(as.character(seen), 3)
  }
  shown <- ifelse(nchar(shown) > 24, paste0(substr(shown, 1, 23), "\u2026"), shown)
  if (is.numeric(seen)) paste(shown, collapse = " \u2026 ") else paste(shown, collapse = ", ")
}

#' @export
format.ochre_inspection <- function(x, ...) {
  if (x$kind == "several") {
    return(c(
      sprintf("%s: holds %d %s.", basename(x$file), length(x$layers), x$holds),
      paste0("  ", x$layers),
      sprintf("Name one, for example layer = \"%s\".", x$layers[1])
    ))
  }
  head <- if (is.null(x$reading)) inspection_head(x) else format(x$reading)
  system <- if (!is.null(x$source$system)) paste("Coordinates:", transformed_words(x$source))
  keys <- if (length(x$keys)) {
    paste("Likely keys:", paste(x$keys, collapse = ", "))
  } else {
    "No column tells all rows apart."
  }
  c(head, system, shape_line(x), extent_line(x$extent), "", column_lines(x$columns), "", keys)
}

inspection_head <- function(x) {
  sprintf(
    "%s: %s (%s), %s, %s.",
    basename(x$file),
    x$kind,
    formats[[x$source$format]],
    count_words(x$rows, if (x$kind == "boundaries") "feature" else "row"),
    count_words(nrow(x$columns), "column")
  )
}

shape_line <- function(x) {
  if (!length(x$shapes)) return(NULL)
  shapes <- paste(sprintf("%d %s", x$shapes, names(x$shapes)), collapse = ", ")
  without <- if (x$none) sprintf("(%d without)", x$none)
  paste(c("Geometry:", shapes, without), collapse = " ")
}

extent_line <- function(extent) {
  if (is.null(extent)) return(NULL)
  sprintf(
    "Extent: %s to %s, %s to %s",
    degrees_word(extent[["west"]], "E", "W"),
    degrees_word(extent[["east"]], "E", "W"),
    degrees_word(extent[["south"]], "N", "S"),
    degrees_word(extent[["north"]], "N", "S")
  )
}

# A line for each column: name, type and role, how many are missing, examples.
column_lines <- function(columns) {
  count <- format(columns$missing, big.mark = ",", trim = TRUE)
  lost <- ifelse(columns$missing > 0, sprintf("%s missing", count), "")
  said <- columns$role %in% c("count", "year", "code") & columns$type != "text"
  kind <- paste0(columns$type, ifelse(said, paste0(", ", columns$role), ""))
  padded <- paste(format(columns$column), format(kind), format(lost), sep = "  ")
  sub(" +$", "", paste0("  ", padded, "  ", columns$examples, recycle0 = TRUE))
}

degrees_word <- function(v, plus, minus) {
  sprintf("%.2f\u00b0%s", abs(v), if (v < 0) minus else plus)
}

#' @export
print.ochre_inspection <- function(x, ...) {
  cat(format(x), sep = "\n")
  invisible(x)
}
