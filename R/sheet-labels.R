# The verb for labels on the map.

#' Write labels on the map
#'
#' Labels avoid each other and the symbols: the most important are placed first, each at the best
#' free place beside its point or in its area, and those without room are left out. In a page more
#' appear as the reader zooms in.
#'
#' @inheritParams place_symbols
#' @param data A tibble with a `geometry` column of points, or of areas, whose labels stand inside
#'   of them; or a data frame with columns named `longitude` and `latitude` (or `lon`, `lat`), in
#'   degrees.
#' @param text What is written: a column, bare or as text, or a template such as
#'   `"{name}: {share|1}"`; see Templates. Rows with a missing text get no label. By default the
#'   column `name`, or else the first one of texts.
#' @param priority Column of importance, bare or as text; numeric, greater first, missing ones
#'   last. `NULL` (default) takes the rows in their order.
#' @param scale Size of the text relative to the map's other words: one number, or in a page
#'   [by_zoom()].
#' @param colour One colour that R knows; `NULL` (default) for that of the other words.
#' @param halo `TRUE` (default) draws a rim of the page's colour around the letters.
#' @param bold `TRUE` for bold letters.
#' @param ... Not used. `color` works wherever there is `colour`; other names are refused, with the
#'   name to use.
#' @return The sheet with one more layer.
#' @inheritSection shade_areas Templates
#' @section Errors: `ochre_error_column`; `ochre_error_template`; `ochre_error_argument`.
#' @source Imhof, E. (1975) Positioning names on maps, The American Cartographer 2, 128-144.
#' @examples
#' areas <- read_boundaries(ochre_demo("districts.geojson"))
#' map_sheet("The largest districts") |>
#'   shade_areas(density_per_km2(areas, population), population_per_km2) |>
#'   write_labels(areas, name, priority = population)
#' @concept label
#' @concept annotation
#' @export
write_labels <- function(sheet, data, text = NULL, priority = NULL, scale = 0.9, colour = NULL,
                         halo = TRUE, bold = FALSE, format = NULL, field_formats = NULL, ...) {
  if (...length()) return(call_by_own_names(match.call()))
  check_sheet(sheet)
  check_table(data, "data")
  check_one_period(data)
  priority <- column_name(rlang::enquo(priority), data, "priority", null = TRUE)
  if (!is.null(priority)) check_numeric(data, priority, "priority")
  scales <- if (is_by_zoom(scale)) check_by_zoom(scale, "scale", 0.3, 5)
  if (!is.null(scales)) scale <- whole_map_value(scales)
  check_number(scale, "scale", min = 0.3, max = 5)
  check_flag(halo, "halo")
  check_flag(bold, "bold")
  template <- popup_fields(rlang::enquo(text), data)
  if (is.null(template)) {
    name <- name_column(data)
    if (is.na(name)) {
      ochre_abort("argument", "`text` must say what to write: the data have no column of texts.",
                  arg = "text")
    }
    template <- as_field(name)
  }
  if (length(template) != 1) {
    ochre_abort("argument", "`text` must be one column or template.", arg = "text")
  }
  with_layer(
    sheet,
    "labels",
    list(
      data = data,
      at = point_columns(data),
      text = unname(template),
      priority = priority,
      scale = scale,
      zoomed = if (!is.null(scales)) list(size = scales),
      colour = check_colour(colour, "colour"),
      halo = halo,
      bold = bold,
      format = check_format(format),
      field_formats = check_field_formats(field_formats, data)
    )
  )
}
