# A heat layer: places and weights for the page, which makes its surface at each zoom, and that of
# the whole map for figures.

heat_colours <- 7L
heat_view <- 900  # pixels that the longer side of the whole map is taken to have in a figure
# The share of the highest below which nothing is drawn; viewer/src/heat.ts has the same.
heat_least <- 0.04

resolve_heat <- function(layer, on, setting) {
  weight <- if (!is.null(layer$weight)) as.numeric(layer$data[[layer$weight]])
  frame <- on$map$frame
  size <- max(frame[["x1"]] - frame[["x0"]], frame[["y1"]] - frame[["y0"]])
  kernel <- layer$radius * size / heat_view
  rows <- heat_rows(on$point, weight, frame, kernel)
  colours <- heat_ramp(layer, setting$ground)
  words <- setting$locale$page
  labels <- rep("", length(colours))
  labels[c(1, length(labels))] <- c(words$low, words$high)
  x <- on$point$x[rows]
  y <- on$point$y[rows]
  surface <- density_grid(x, y, weight[rows] %||% rep(1, length(rows)), frame, kernel)
  points <- fill_word(words$places, format_number(length(rows), 0, locale = setting$locale))
  list(
    legend = layer$legend,
    legend_note = if (length(rows)) words$heat_note else setting$locale$none,
    labels = labels,
    colours = colours,
    radius = layer$radius,
    opacity = layer$opacity,
    x = x,
    y = y,
    weight = if (!is.null(weight)) signif(weight[rows], 4),
    grid = heat_grid(surface, length(colours)),
    facts = sprintf("%s: %s.", layer$legend, points)
  )
}

# Rows with a place on the map, or so near that their circle reaches it.
heat_rows <- function(point, weight, frame, kernel) {
  known <- is.finite(point$x) & is.finite(point$y)
  if (!is.null(weight)) known <- known & is.finite(weight)
  warn_left_out(which(!known), "the heat surface")
  near <- point$x >= frame[["x0"]] - kernel & point$x <= frame[["x1"]] + kernel &
    point$y >= frame[["y0"]] - kernel & point$y <= frame[["y1"]] + kernel
  off <- which(known & !near)
  if (length(off)) {
    ochre_warn(
      "off_map",
      sprintf(
        "%s outside the map and left out of the heat surface.",
        count_words(length(off), "point is", "points are")
      ), rows = off
    )
  }
  which(known & near)
}

heat_ramp <- function(layer, ground) {
  if (length(layer$ramp) > 1) return(if (layer$reverse) rev(layer$ramp) else layer$ramp)
  name <- layer$ramp %||% "madder"
  as.character(unclass(ramp_colours(name, heat_colours, layer$reverse, ground)))
}

# Cells in as many equal steps as there are colours.
heat_grid <- function(surface, k) {
  top <- max(surface$value, 0)
  if (top <= 0) return(class_grid(surface, integer(length(surface$value))))
  step <- pmin(k, 1L + as.integer(floor(k * surface$value / top)))
  class_grid(surface, ifelse(surface$value < heat_least * top, 0L, step))
}
