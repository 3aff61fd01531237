# The verb for a heat surface, which a page computes as the reader zooms.

#' Show where points crowd
#'
#' A surface of flowing colours, from few to many, that a page makes anew at each zoom, so that a
#' crowd seen from afar falls apart into its places. It says where points lie close, not how many:
#' for numbers see [shade_density()]. A figure shows it as the whole map does.
#'
#' @inheritParams shade_density
#' @param radius Radius of the circle over which a point is spread: one number of CSS pixels, at
#'   every zoom.
#' @param weight Column of weights, bare or as text; numeric, not negative; points with a missing
#'   one are left out. `NULL` (default) counts each point once.
#' @param ramp,reverse The colours: a ramp's name or own colours from few to many, as in
#'   [shade_areas()]; `NULL` (default) for `"madder"`.
#' @param legend Title of the legend: one text.
#' @param opacity Opacity of the surface, from 0.2 to 1 (default 0.85), so that what lies below
#'   is seen.
#' @param ... Not used. `color` works wherever there is `colour`; other names are refused, with the
#'   name to use.
#' @return The sheet with one more layer.
#' @section Errors: `ochre_error_column`; `ochre_error_argument`.
#' @source Silverman, B.W. (1986) Density Estimation for Statistics and Data Analysis, Chapman and
#'   Hall, section 4.2.1 (the quartic kernel).
#' @examples
#' areas <- read_boundaries(ochre_demo("districts.geojson"))
#' clinics <- read_statistics(ochre_demo("clinics.csv"))
#' map_sheet("Where patients are seen") |>
#'   draw_lines(areas) |>
#'   shade_heat(clinics, weight = patients)
#' @concept heatmap
#' @concept heat map
#' @export
shade_heat <- function(sheet, data, radius = 28, weight = NULL, ramp = NULL, reverse = FALSE,
                       legend = NULL, opacity = 0.85, ...) {
  if (...length()) return(call_by_own_names(match.call()))
  check_sheet(sheet)
  check_number(radius, "radius", min = 6, max = 200)
  weight <- weight_column(rlang::enquo(weight), data)
  ramp <- check_ramp_wish(ramp)
  if (length(ramp) == 1 && ramp_paths[[ramp]]$kind == "categories") {
    ochre_abort("argument", "The colours of `{ramp}` have no order.", "Name a sequential ramp.",
                arg = "ramp")
  }
  check_flag(reverse, "reverse")
  check_number(opacity, "opacity", min = 0.2, max = 1)
  check_text(legend, "legend", null = TRUE)
  with_layer(
    sheet,
    "heat",
    list(
      data = data,
      at = point_columns(data),
      radius = radius,
      weight = weight,
      ramp = ramp,
      reverse = reverse,
      opacity = opacity,
      legend = legend %||% points_word(weight, sheet$locale)
    )
  )
}
