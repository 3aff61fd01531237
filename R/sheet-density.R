# The verb for a density surface from points.

#' Shade how densely points lie
#'
#' A surface in stepped colours: around each place, how many points (or how much of their weight)
#' lie per square kilometre, evened out over a circle. Where less than a fiftieth of the highest
#' density lies nothing is drawn.
#'
#' @inheritParams place_symbols
#' @param data A tibble with a `geometry` column of points, or a data frame with columns named
#'   `longitude` and `latitude` (or `lon`, `lat`), in degrees.
#' @param kernel Radius of the circle over which a point is spread: one number in metres. Larger
#'   is smoother.
#' @param weight Column of weights, bare or as text; numeric, not negative; points with a missing
#'   one are left out. `NULL` (default) counts each point once.
#' @param steps How to form classes of the densities that are drawn: see [steps_quantile()].
#'   Default five equal ones.
#' @param ramp,reverse The colours, as in [shade_areas()].
#' @param legend Title of the legend: one text; by default says what is counted per square
#'   kilometre.
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
#' map_sheet("Where clinics are") |>
#'   draw_lines(areas) |>
#'   shade_density(clinics, kernel = 15000, weight = patients, legend = "Patients per km\u00b2")
#' @concept kernel density
#' @export
shade_density <- function(sheet, data, kernel, weight = NULL, steps = steps_equal(5),
                          ramp = NULL, reverse = FALSE, legend = NULL, opacity = 0.85,
                          format = NULL, ...) {
  if (...length()) return(call_by_own_names(match.call()))
  check_sheet(sheet)
  check_number(kernel, "kernel", min = 1, max = 5e6)
  weight <- weight_column(rlang::enquo(weight), data)
  steps <- as_steps(steps, "steps")
  if (steps$method == "categories") {
    ochre_abort("argument", "Densities are numbers, and cannot be categories.",
                "For example steps_equal(5).", arg = "steps")
  }
  check_flag(reverse, "reverse")
  check_number(opacity, "opacity", min = 0.2, max = 1)
  check_text(legend, "legend", null = TRUE)
  with_layer(
    sheet,
    "density",
    list(
      data = data,
      at = point_columns(data),
      kernel = kernel,
      weight = weight,
      value = weight %||% "points",
      steps = steps,
      ramp = check_ramp_wish(ramp),
      reverse = reverse,
      legend = legend %||% fill_word(sheet$locale$page$per_km2, points_word(weight, sheet$locale)),
      opacity = opacity,
      format = check_format(format)
    )
  )
}

# The column that weights the points of a surface, or NULL.
weight_column <- function(quo, data, call = rlang::caller_env()) {
  check_table(data, "data", call = call)
  check_one_period(data, call = call)
  weight <- column_name(quo, data, "weight", null = TRUE, call = call)
  if (!is.null(weight)) check_counts(data, weight, "weight", call = call)
  weight
}

# What points are called in a legend, in the words of the map's language.
points_word <- function(weight, locale) {
  if (is.null(weight)) locale$page$points else words_of(weight)
}
