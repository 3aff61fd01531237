# The verb for lines.

#' Draw lines
#'
#' Also the outlines of areas: give it the areas whose border is meant, for example with
#' `dash = TRUE` for one that is disputed or proposed.
#'
#' @inheritParams shade_areas
#' @param data A tibble with a `geometry` column of lines (the outlines of areas are drawn too).
#' @param colour One colour that R knows; or a column, bare or as text, whose values colour the
#'   lines; `NULL` (default) for Ochre's own.
#' @param width Width in points (1/72 inch) in a figure and CSS pixels in a page: one number; or a
#'   column, bare or as text, numeric and not negative, to which the width is in proportion; or
#'   [by_zoom()], in a page. Lines whose value is missing or zero are left out, and a warning
#'   `ochre_warning_symbols` says how many.
#' @param widest Width of the widest line, when a column sets the widths: one number in points.
#' @param width_steps How to form classes of width, such as `steps_natural(3)`: all lines of a
#'   class are as wide as its mean asks for. `NULL` (default) gives each its own.
#' @param dash `TRUE` for dashes; or [by_zoom()] of pairs, in a page.
#' @param casing `TRUE` draws a rim of the page's colour around each line, so that it is seen on
#'   any ground and lines that cross are told apart.
#' @param arrow `TRUE` puts an arrow head at the end of each line.
#' @param steps,ramp For a colour column: how to form classes (default five quantiles, or
#'   categories) and the colours, as in [shade_areas()].
#' @param colour_legend Title of the colours' legend: one text; by default the column's name in
#'   words.
#' @param legend What the lines are: one text; `NULL` (default) leaves them out of the legend, or
#'   with a column of widths takes its name in words.
#' @param hover Label beside the pointer, as in [shade_areas()]; `NULL` (default) for none.
#' @param ... Not used. `color` works wherever there is `colour`; other names are refused, with the
#'   name to use.
#' @return The sheet with one more layer.
#' @inheritSection shade_areas Templates
#' @section Errors: `ochre_error_column`; `ochre_error_argument`; `ochre_error_template`.
#' @export
draw_lines <- function(sheet, data, colour = NULL, width = 1, dash = FALSE, legend = NULL,
                       hover = NULL, widest = 8, width_steps = NULL, casing = FALSE,
                       arrow = FALSE, steps = NULL, ramp = NULL, colour_legend = NULL,
                       format = NULL, field_formats = NULL, popup = NULL, ...) {
  if (...length()) return(call_by_own_names(match.call()))
  check_sheet(sheet)
  check_table(data, "data")
  geometry_of(data, "data")
  check_one_period(data)
  sized <- width_column(rlang::enquo(width), data)
  check_number(widest, "widest", min = 0.5, max = 40)
  dashes <- if (is_by_zoom(dash)) check_by_zoom(dash, "dash", 0, 40, size = 2)
  if (!is.null(dashes)) dash <- sum(whole_map_value(dashes)) > 0
  for (flag in c("dash", "casing", "arrow")) check_flag(get(flag), flag)
  check_text(legend, "legend", null = TRUE)
  check_text(colour_legend, "colour_legend", null = TRUE)
  if (!is.null(width_steps)) width_steps <- as_steps(width_steps, "width_steps")
  colours <- colour_column(rlang::enquo(colour), data)
  steps <- colour_steps(colours$column, data, steps)
  with_layer(
    sheet,
    "lines",
    list(
      data = data,
      colour = colours$colour,
      colour_by = colours$column,
      steps = steps,
      ramp = check_ramp_wish(ramp),
      colour_legend = colour_legend %||% if (!is.null(colours$column)) words_of(colours$column),
      width = sized$width,
      size = sized$column,
      zoomed = Filter(Negate(is.null), list(width = sized$zoomed, dash = dashes)),
      widest = widest,
      width_steps = width_steps,
      dash = dash,
      casing = casing,
      arrow = arrow,
      legend = legend %||% if (!is.null(sized$column)) words_of(sized$column),
      hover = check_template(hover, data, "hover"),
      popup = popup_fields(rlang::enquo(popup), data),
      format = check_format(format),
      field_formats = check_field_formats(field_formats, data)
    )
  )
}

# `width` is a number, or names a column.
width_column <- function(quo, data, call = rlang::caller_env()) {
  expr <- rlang::quo_get_expr(quo)
  is_column <- is.symbol(expr) && as.character(expr) %in% names(data)
  value <- if (is_column) as.character(expr) else rlang::eval_tidy(quo)
  if (is_by_zoom(value)) {
    value <- check_by_zoom(value, "width", 0, 40, call = call)
    return(list(width = whole_map_value(value), zoomed = value))
  }
  if (is.character(value)) {
    check_text(value, "width", call = call)
    check_counts(data, check_column(data, value, "width", call = call), "width", call = call)
    return(list(column = value))
  }
  check_number(value, "width", min = 0.1, max = 40, call = call)
  list(width = value)
}
