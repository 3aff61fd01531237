# What a file holds, before anything is done with it.

#' What a file holds
#'
#' @param file Path of a file that [read_boundaries()] or [read_statistics()] can read; which one
#'   is found from its content.
#' @return A list of class `ochre_inspection`: `file`; `kind` (`"boundaries"` or `"statistics"`);
#'   `rows`; `columns`, a tibble with `column`, `type`, `missing`, `distinct`, `examples`; `keys`,
#'   names of columns that could tell rows apart (complete, all different, text or called a code);
#'   for boundaries `shapes` (how many of each geometry type) and `extent` (west, south, east,
#'   north in degrees), else `NULL`; for statistics `reading`, see [reading_report()], else `NULL`.
#' @section Errors: Those of [read_boundaries()] and [read_statistics()].
#' @examples
#' inspect_file(ochre_demo("districts.geojson"))
#' @export
inspect_file <- function(file) {
  check_text(file, "file")
  path <- check_file(file)
  if (looks_like_json(path)) {
    data <- read_boundaries(file)
    meta <- wk::wk_meta(data$geometry)
    shapes <- table(wk::wk_geometry_type_label(meta$geometry_type))
    world <- call_core(extent_core(list(unclass(data$geometry))))
    extra <- list(shapes = stats::setNames(as.integer(shapes), names(shapes)), none = sum(is.na(data$geometry)), extent = world$extent)
    table <- data[setdiff(names(data), "geometry")]
  } else {
    table <- suppressMessages(read_statistics(file))
    extra <- list(reading = reading_report(table))
  }
  columns <- tibble::tibble(
    column = names(table), type = vapply(table, type_word, ""), missing = vapply(table, function(x) sum(is.na(x)), 0L),
    distinct = vapply(table, function(x) length(unique(x[!is.na(x)])), 0L), examples = vapply(table, example_words, "")
  )
  keys <- columns$column[columns$missing == 0 & columns$distinct == nrow(table) & (columns$type == "text" | (columns$type == "whole number" & named_like_code(columns$column)))]
  structure(c(list(file = file, kind = if (is.null(extra$reading)) "boundaries" else "statistics", rows = nrow(table), columns = columns, keys = keys), extra),
            class = "ochre_inspection")
}

looks_like_json <- function(path) {
  start <- readBin(path, "raw", 1024)
  start <- start[!start %in% as.raw(c(0x20, 0x09, 0x0a, 0x0d, 0xef, 0xbb, 0xbf))]
  length(start) > 0 && start[1] %in% charToRaw("{[")
}

type_word <- function(x) {
  if (is.logical(x)) "yes/no" else if (is.integer(x)) "whole number" else if (is.numeric(x)) "number" else "text"
}

example_words <- function(x) {
  seen <- unique(x[!is.na(x)])
  shown <- if (is.numeric(seen)) format_field(utils::head(sort(seen)[unique(round(seq(1, length(seen), length.out = 3)))], 3)) else utils::head(as.character(seen), 3)
  shown <- ifelse(nchar(shown) > 24, paste0(substr(shown, 1, 23), "\u2026"), shown)
  if (is.numeric(seen)) paste(shown, collapse = " \u2026 ") else paste(shown, collapse = ", ")
}

#' @export
format.ochre_inspection <- function(x, ...) {
  lost <- ifelse(x$columns$missing > 0, sprintf("%s missing", format(x$columns$missing, big.mark = ",", trim = TRUE)), "")
  rows <- paste0("  ", format(x$columns$column), "  ", format(x$columns$type), "  ", format(lost), "  ", x$columns$examples)
  place <- if (!is.null(x$extent)) sprintf("Extent: %s to %s, %s to %s", degrees_word(x$extent[["west"]], "E", "W"), degrees_word(x$extent[["east"]], "E", "W"),
                                          degrees_word(x$extent[["south"]], "N", "S"), degrees_word(x$extent[["north"]], "N", "S"))
  shapes <- if (length(x$shapes)) paste("Geometry:", paste(sprintf("%d %s", x$shapes, names(x$shapes)), collapse = ", "), if (x$none) sprintf("(%d without)", x$none) else "")
  c(if (x$kind == "statistics") format(x$reading) else sprintf("%s: boundaries, %s, %s.", basename(x$file), count_words(x$rows, "feature"), count_words(nrow(x$columns), "column")),
    trimws(shapes, "right"), place, "", sub(" +$", "", rows), "",
    if (length(x$keys)) paste("Likely keys:", paste(x$keys, collapse = ", ")) else "No column tells all rows apart.")
}

degrees_word <- function(v, plus, minus) sprintf("%.2f\u00b0%s", abs(v), if (v < 0) minus else plus)

#' @export
print.ochre_inspection <- function(x, ...) {
  cat(format(x), sep = "\n")
  invisible(x)
}
