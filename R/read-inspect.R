# What a file holds, before anything is done with it.

#' What a file holds
#'
#' @param file Path or address of a file that [read_boundaries()] or [read_statistics()] can read;
#'   which one is found from its content.
#' @param layer Which one, where a file holds several: one text, or `NULL`.
#' @return A list of class `ochre_inspection`: `file`; `kind` (`"boundaries"`, `"statistics"`, or `"several"`
#'   when the file holds several layers and none was named: then only `layers`, their names); `source` (`format`, `system`);
#'   `rows`; `columns`, a tibble with `column`, `type`, `role` (`"count"`, which can be added
#'   up; `"number"`; `"year"` and `"code"`, which are written without thousands marks; `"text"`, `"yes/no"`,
#'   `"date"`), `missing`, `distinct`, `examples`; `keys`,
#'   names of columns that could tell rows apart (complete, all different, text or called a code);
#'   for boundaries `shapes` (how many of each geometry type) and `extent` (west, south, east,
#'   north in degrees), else `NULL`; for statistics `reading`, see [reading_report()], else `NULL`.
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
  if (!inherits(source, "condition")) {
    on.exit(unlink(source$temporary, recursive = TRUE))
    source <- tryCatch(inspect_source(source, layer), ochre_error_layer = identity)
  }
  if (!inherits(source, "condition")) return(structure(c(list(file = file), source), class = "ochre_inspection"))
  structure(list(file = file, kind = "several", layers = source$layers), class = "ochre_inspection")
}

inspect_source <- function(source, layer) {
  format <- find_format(source)
  chosen <- if (is.null(source$layer)) layer else source$inner_layer
  if (format == "workbook" && is.null(chosen)) {
    sheets <- sheets_of(source)
    if (length(sheets) > 1) ochre_abort("layer", sprintf("`%s` holds %d sheets.", source$name, length(sheets)), layers = sheets)
  }
  statistics <- format %in% c("table", "workbook", "dbf")
  read <- if (!statistics) tryCatch(read_format(source, layer, NULL), ochre_error_file = identity)
  if (inherits(read, "condition")) {
    rows <- if (format %in% c("json", "geoparquet")) fault_in_rows(source) else read
    # A list in JSON can only be meant as rows.
    if (!is.null(rows)) rlang::cnd_signal(if (begins_with_list(source)) rows else read)
    statistics <- TRUE
  }
  if (statistics) {
    wishes <- list(marks = "reason")
    table <- typed_rows(rows_of(source, statistics_format(source), chosen, wishes), source$name, wishes)
    places <- if (format %in% c("table", "workbook")) tryCatch(suppressWarnings(as_boundaries(read_places(source, format, chosen, NULL), source$name, NULL)), ochre_error = function(e) NULL)
    extra <- c(list(reading = attr(table, "ochre_reading"), source = list(format = format)), if (!is.null(places)) geometry_facts(places))
  } else {
    data <- as_boundaries(read, source$name, NULL)
    extra <- c(geometry_facts(data), list(source = attr(data, "ochre_source")))
    table <- data[setdiff(names(data), "geometry")]
  }
  columns <- tibble::tibble(
    column = names(table), type = vapply(table, type_word, ""),
    role = vapply(names(table), function(name) column_role(table[[name]], name), ""), missing = vapply(table, function(x) sum(is.na(x)), 0L),
    distinct = vapply(table, function(x) length(unique(x[!is.na(x)])), 0L), examples = vapply(names(table), function(name) example_words(table[[name]], name), "")
  )
  keys <- columns$column[columns$missing == 0 & columns$distinct == nrow(table) & (columns$type == "text" | (columns$type == "whole number" & named_like_code(columns$column)))]
  c(list(kind = if (statistics) "statistics" else "boundaries", rows = nrow(table), columns = columns, keys = keys), extra)
}

# JSON or Parquet that holds no boundaries may hold a table; NULL if it does.
fault_in_rows <- function(source) {
  tryCatch({
    rows_of(source, statistics_format(source), NULL, list())
    NULL
  }, ochre_error = identity)
}

begins_with_list <- function(source) identical(
  without_marks(first_bytes(source$path))[1], charToRaw("[")
)

geometry_facts <- function(data) {
  shapes <- table(wk::wk_geometry_type_label(wk::wk_meta(data$geometry)$geometry_type))
  world <- call_core(extent_core(list(unclass(data$geometry)), list(), ""))
  list(shapes = stats::setNames(as.integer(shapes), names(shapes)), none = sum(is.na(data$geometry)), extent = if (!world$empty) world$places[[1]]$extent)
}

type_word <- function(x) {
  if (is.logical(x)) "yes/no" else if (is.integer(x)) "whole number" else if (is.numeric(x)) "number" else "text"
}

example_words <- function(x, name) {
  seen <- unique(x[!is.na(x)])
  shown <- if (is.numeric(seen)) format_field(utils::head(sort(seen)[unique(round(seq(1, length(seen), length.out = 3)))], 3), NULL, plain_format(x, name)) else utils::head(as.character(seen), 3)
  shown <- ifelse(nchar(shown) > 24, paste0(substr(shown, 1, 23), "\u2026"), shown)
  if (is.numeric(seen)) paste(shown, collapse = " \u2026 ") else paste(shown, collapse = ", ")
}

#' @export
format.ochre_inspection <- function(x, ...) {
  if (x$kind == "several") {
    return(c(sprintf("%s: holds %d layers.", basename(x$file), length(x$layers)), paste0("  ", x$layers), sprintf("Name one, for example layer = \"%s\".", x$layers[1])))
  }
  lost <- ifelse(x$columns$missing > 0, sprintf("%s missing", format(x$columns$missing, big.mark = ",", trim = TRUE)), "")
  kind <- paste0(x$columns$type, ifelse(x$columns$role %in% c("count", "year", "code") & x$columns$type != "text", paste0(", ", x$columns$role), ""))
  rows <- paste0("  ", format(x$columns$column), "  ", format(kind), "  ", format(lost), "  ", x$columns$examples)
  place <- if (!is.null(x$extent)) sprintf("Extent: %s to %s, %s to %s", degrees_word(x$extent[["west"]], "E", "W"), degrees_word(x$extent[["east"]], "E", "W"),
                                          degrees_word(x$extent[["south"]], "N", "S"), degrees_word(x$extent[["north"]], "N", "S"))
  shapes <- if (length(x$shapes)) paste("Geometry:", paste(sprintf("%d %s", x$shapes, names(x$shapes)), collapse = ", "), if (x$none) sprintf("(%d without)", x$none) else "")
  head <- if (!is.null(x$reading)) format(x$reading)
          else sprintf("%s: %s (%s), %s, %s.", basename(x$file), x$kind, formats[[x$source$format]], count_words(x$rows, if (x$kind == "boundaries") "feature" else "row"), count_words(nrow(x$columns), "column"))
  c(head, if (!is.null(x$source$system)) sprintf("System: %s, brought to longitude and latitude.", x$source$system),
    trimws(shapes, "right"), place, "", sub(" +$", "", rows), "",
    if (length(x$keys)) paste("Likely keys:", paste(x$keys, collapse = ", ")) else "No column tells all rows apart.")
}

degrees_word <- function(v, plus, minus) sprintf("%.2f\u00b0%s", abs(v), if (v < 0) minus else plus)

#' @export
print.ochre_inspection <- function(x, ...) {
  cat(format(x), sep = "\n")
  invisible(x)
}
