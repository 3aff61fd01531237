# Points into areas: each point is in exactly one area, also where it lies on a border.

#' Which area each point lies in
#'
#' `find_areas()` names the area of each point, `count_in_areas()` counts points, and
#' `summarise_in_areas()` sums or averages a column of them. A point on a border that two areas
#' share is in one of them, and never in both; a message says which points are in none.
#'
#' @param points A tibble with a `geometry` column of points, from [read_boundaries()], or a data
#'   frame with columns `longitude` and `latitude` in degrees. To count and to sum, also a lazy
#'   table with these columns or a PostGIS geometry column: the database counts by a grid of cells,
#'   and only points in cells on a border are fetched; a message reports more than a tenth. All
#'   queries see one snapshot of the table (PostgreSQL, SQLite), and an open transaction stays open.
#' @param boundaries A tibble with a `geometry` column of areas.
#' @param id Column of `boundaries` that names areas, bare or as text; `NULL` (default) takes
#'   `code`, `id` or the key of a join, or else row numbers.
#' @param value Column of `points`, bare or as text; numeric.
#' @param fun `"sum"` (default), `"mean"`, `"min"` or `"max"`.
#' @param name Name of the new column: one text; by default `points`, or `<value>_<fun>`.
#' @return `find_areas()`: `points` with three more columns: `area` (missing where the point is in
#'   none), and for those in none `nearest`, the area whose border is nearest, and `distance_km`.
#'   The others: `boundaries` with one more column, whole numbers for counts (0 where there is no
#'   point), double otherwise (`NA` where there is no value). Missing values are left out. A point
#'   without coordinates is in no area.
#' @section Errors: `ochre_error_argument`, `ochre_error_column`, `ochre_error_geometry`;
#'   `ochre_error_database`, also when a table changes while it is counted.
#' @examples
#' districts <- read_boundaries(ochre_demo("districts.geojson"))
#' clinics <- read_statistics(ochre_demo("clinics.csv"))
#' count_in_areas(clinics, districts)$points
#' @concept point in polygon
#' @concept spatial join
#' @export
find_areas <- function(points, boundaries, id = NULL) {
  id <- id_column(boundaries, rlang::enquo(id))
  where <- locate_points(points, boundaries, id)
  points$area <- where$key[where$row]
  points$nearest <- where$key[where$nearest]
  points$distance_km <- where$metres / 1000
  move_geometry_last(points)
}

#' @rdname find_areas
#' @export
count_in_areas <- function(points, boundaries, id = NULL, name = "points") {
  refuse_missing(missing(points), "points", rlang::current_env())
  check_new_name(name, null = FALSE)
  id <- id_column(boundaries, rlang::enquo(id))
  if (is_lazy(points)) {
    found <- lazy_in_areas(points, boundaries, id)
    tell_lazy_outside(found)
    rows <- found$rows
    boundaries[[name]] <- if (max(rows, 0) <= .Machine$integer.max) as.integer(rows) else rows
    return(move_geometry_last(boundaries))
  }
  where <- locate_points(points, boundaries, id, words_named)
  tell_outside(where)
  boundaries[[name]] <- tabulate(where$row, nrow(boundaries))
  move_geometry_last(boundaries)
}

#' @rdname find_areas
#' @export
summarise_in_areas <- function(points, boundaries, value, fun = "sum", id = NULL, name = NULL) {
  check_table(points, "points", lazy = TRUE)
  value <- column_name(rlang::enquo(value), points, "value")
  check_choice(fun, c("sum", "mean", "min", "max"), "fun")
  check_new_name(name)
  id <- id_column(boundaries, rlang::enquo(id))
  found <- if (is_lazy(points)) {
    found <- lazy_in_areas(points, boundaries, id, value)
    tell_lazy_outside(found)
    found
  } else {
    x <- check_numeric(points, value, "value")
    where <- locate_points(points, boundaries, id, words_named)
    tell_outside(where)
    known <- !is.na(where$row) & !is.na(x)
    sum_by_row(where$row[known], x[known], nrow(boundaries))
  }
  out <- switch(
    fun,
    sum = found$sum, mean = found$sum / found$known, min = found$least, max = found$most
  )
  out[found$known == 0] <- NA
  boundaries[[name %||% paste0(value, "_", fun)]] <- out
  move_geometry_last(boundaries)
}

# Of each of `count` rows how many values there are, their sum, the least and the greatest.
sum_by_row <- function(row, value, count) {
  group <- factor(row, seq_len(count))
  # The first of each in order of size.
  first <- function(order) value[order][match(seq_len(count), row[order])]
  list(
    known = tabulate(row, count),
    sum = rowsum_by(value, group),
    least = first(order(value)),
    most = first(order(-value))
  )
}

# `row` of the area of each point; for the first `named` of those in none `nearest` and `metres`,
# which take longer than where a point lies; `key` names areas.
locate_points <- function(points, boundaries, id, named = Inf, call = rlang::caller_env()) {
  check_table(points, "points", call = call)
  areas <- areas_for_points(boundaries, call)
  at <- positions_of(points, call)
  row <- call_core(locate_core(areas, at$lon, at$lat), call = call)$row
  placed <- is.finite(at$lon) & is.finite(at$lat)
  lost <- utils::head(which(is.na(row) & placed), named)
  near <- call_core(nearest_core(areas, at$lon[lost], at$lat[lost]), call = call)
  nearest <- rep(NA_integer_, length(row))
  metres <- rep(NA_real_, length(row))
  nearest[lost] <- near$row
  metres[lost] <- near$metres
  name <- name_column(points)
  list(
    row = row,
    placed = placed,
    nearest = nearest,
    metres = metres,
    key = if (is.null(id)) seq_len(nrow(boundaries)) else boundaries[[id]],
    who = if (is.na(name)) paste("row", seq_along(row)) else as.character(points[[name]])
  )
}

areas_for_points <- function(boundaries, call) {
  check_table(boundaries, "boundaries", call = call)
  areas <- geometry_of(boundaries, "boundaries", call)
  check_areas(areas, "boundaries", call)
  check_shapes_differ(areas, call)
  areas
}

# A point would lie in both of two areas of one shape.
check_shapes_differ <- function(areas, call) {
  twice <- which(duplicated(first_of_shape(areas)))
  if (!length(twice)) return(invisible())
  ochre_abort(
    "geometry",
    paste0("`boundaries` has {count_words(length(twice), 'row')} with the shape of another ",
           "row, so that a point would lie in both."),
    "Keep one row for each area first, for example one period.", arg = "boundaries", rows = twice
  )
}

# One position for each row, as `lon` and `lat`.
positions_of <- function(points, call) {
  columns <- point_columns(points, call)
  if (!is.null(columns)) {
    lon <- as.numeric(points[[columns[1]]])
    return(list(lon = lon, lat = as.numeric(points[[columns[2]]])))
  }
  p <- call_core(points_core(geometry_of(points, "points", call)), call = call)
  again <- duplicated(p$feature)
  if (any(again)) {
    ochre_abort("geometry",
                "`points` has a row with several positions (row {p$feature[again][1]}).",
                "Give one point a row.", arg = "points")
  }
  first <- match(seq_len(nrow(points)), p$feature)
  list(lon = p$lon[first], lat = p$lat[first])
}

tell_outside <- function(where) {
  lost <- which(is.na(where$row))
  if (!length(lost)) return(invisible())
  far <- ifelse(
    is.na(where$metres[lost]),
    ifelse(where$placed[lost], "not in degrees", "no coordinates"),
    sprintf(
      "%s km from %s",
      format_number(where$metres[lost] / 1000, 1),
      where$key[where$nearest[lost]]
    )
  )
  ochre_warn(
    "outside",
    sprintf(
      "%s in none of the areas: %s.", count_words(length(lost), "point lies", "points lie"),
      list_words(paste0(where$who[lost], " (", far, ")"), mark = "")
    ),
    paste0("find_areas() gives the nearest area of each; check_boundaries(inside = ) says ",
           "where coordinates look swapped."), rows = lost
  )
}
