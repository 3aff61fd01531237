# What stands beside the data: a scale bar, a mark that points north, a ranked list of the top
# areas.

# Map units for a metre at the middle of the map, along the parallel.
map_scale <- function(frame, projection) {
  middle <- call_core(inverse_core(
    mean(frame[c("x0", "x1")]),
    mean(frame[c("y0", "y1")]),
    projection
  ))
  step <- 0.01
  ends <- call_core(project_core(middle$lon + c(-step, step), rep(middle$lat, 2), projection))
  metres <- 2 * step * pi / 180 * 6378137 * cos(middle$lat * pi / 180) /
    sqrt(1 - 0.00669438 * sin(middle$lat * pi / 180)^2)
  scale <- sqrt(diff(ends$x)^2 + diff(ends$y)^2) / metres
  if (is.finite(scale) && scale > 0) scale else 1
}

# A round length between an eighth and a quarter of the map's width.
plan_scale_bar <- function(frame, projection, locale) {
  unit <- map_scale(frame, projection)
  wide <- (frame[["x1"]] - frame[["x0"]]) / unit
  steps <- c(1, 2, 5) %o% 10^(0:7)
  metres <- max(steps[steps <= max(1, wide / 4)])
  far <- metres >= 1000
  number <- format_number(if (far) metres / 1000 else metres, 0, locale = locale)
  word <- if (far) locale$page$kilometres else locale$page$metres
  list(length = metres * unit, label = fill_word(word, number))
}

# The direction of north at a place of the map, in degrees clockwise from up.
north_at <- function(x, y, projection) {
  here <- call_core(inverse_core(x, y, projection))
  ahead <- call_core(project_core(here$lon, min(here$lat + 0.05, 89.99), projection))
  atan2(ahead$x - x, ahead$y - y) * 180 / pi
}

# The areas with the highest values of a layer, with what their bars need.
plan_ranking <- function(layer, plan, n, locale) {
  layer$counted <- if (!is.null(layer$value)) counted_rows(layer)
  value <- if (!is.null(layer$value)) counted_values(layer)
  name <- name_column(layer$data)
  if (!is.null(layer$by) ||
      layer$steps$method == "categories" ||
      is.na(name) ||
      !is.null(layer$second)) {
    ochre_tell("The ranked bars are left out: they need one map of numbers with names.")
    return(NULL)
  }
  value[!is.finite(value)] <- NA
  rows <- utils::head(order(-value, na.last = NA), n)
  if (!length(rows)) return(NULL)
  top <- max(abs(value[rows]))
  format <- own_format(layer_format(layer), plan, value)
  list(
    title = layer$legend,
    names = as.character(layer$data[[name]][rows]),
    values = format_field(value, NULL, format, locale)[rows],
    share = if (top > 0) pmax(value[rows], 0) / top else rep(0, length(rows)),
    class = plan$class[rows]
  )
}
