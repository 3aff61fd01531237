# Measures on the ellipsoid, and places for labels.

#' Areas and lengths on the ellipsoid
#'
#' Edges of areas are straight lines in longitude and latitude, as RFC 7946 has them; holes count
#' off. Lengths are those of geodesics from vertex to vertex. Both on WGS 84, so they do not depend
#' on a projection.
#'
#' @param boundaries A tibble with a `geometry` column.
#' @return A number for each row, `areas_km2()` in square kilometres and `lengths_km()` in
#'   kilometres; `NA` where there is no area, or no line, or no geometry.
#' @section Errors: `ochre_error_argument`, `ochre_error_geometry`.
#' @source Snyder, J.P. (1987), equation 3-12, for areas. Vincenty, T. (1975) Direct and inverse
#'   solutions of geodesics on the ellipsoid, Survey Review 23(176), 88-93, for lengths. Checked
#'   against the values published with Karney, C.F.F. (2013) Algorithms for geodesics, Journal of
#'   Geodesy 87, 43-55.
#' @examples
#' districts <- read_boundaries(ochre_demo("districts.geojson"))
#' sum(areas_km2(districts))
#' @export
areas_km2 <- function(boundaries) {
  check_table(boundaries, "boundaries")
  call_core(measure_core(geometry_of(boundaries, "boundaries")))$area / 1e6
}

#' @rdname areas_km2
#' @export
lengths_km <- function(boundaries) {
  check_table(boundaries, "boundaries")
  call_core(measure_core(geometry_of(boundaries, "boundaries")))$length / 1e3
}

#' Where a label of an area stands
#'
#' The place inside of an area's largest part that is farthest from any border. A centroid may lie
#' outside of a bent area, or in a lake; this never does.
#'
#' @param boundaries A tibble with a `geometry` column of areas.
#' @return `boundaries` with points in place of the areas: `geometry`, and one more column
#'   `room_km`, the distance to the nearest border in kilometres (double). A row without an area
#'   has a missing geometry.
#' @section Errors: `ochre_error_argument`, `ochre_error_geometry`.
#' @source Garcia-Castellanos, D., Lombardo, U. (2007) Poles of inaccessibility: a calculation
#'   algorithm for the remotest places on Earth, Scottish Geographical Journal 123(3), 227-233.
#' @examples
#' label_points(read_boundaries(ochre_demo("districts.geojson")))
#' @concept centroid
#' @concept point on surface
#' @export
label_points <- function(boundaries) {
  check_table(boundaries, "boundaries")
  p <- call_core(label_points_core(geometry_of(boundaries, "boundaries")))
  boundaries$room_km <- p$room / 1000
  boundaries$geometry <- wk::new_wk_wkb(point_wkb(p$lon, p$lat), crs = wk::wk_crs_longlat())
  boundaries[c(setdiff(names(boundaries), "geometry"), "geometry")]
}
