# A heat layer: places and weights for the page, which makes its surface at each zoom, and that of the whole map for figures.

heat_colours <- 7L
heat_view <- 900  # pixels that the longer side of the whole map is taken to have in a figure
heat_least <- 0.04  # share of the highest below which nothing is drawn (viewer/src/heat.ts has the same)

plan_heat <- function(layer, point, frame) {
  weight <- if (is.null(layer$weight)) NULL else as.numeric(layer$data[[layer$weight]])
  known <- is.finite(point$x) & is.finite(point$y) & (if (is.null(weight)) TRUE else is.finite(weight))
  if (any(!known)) ochre_warn("symbols", sprintf("%s left out of the heat surface: the place or the weight is missing.", count_words(sum(!known), "point is", "points are")), rows = which(!known))
  size <- max(frame[["x1"]] - frame[["x0"]], frame[["y1"]] - frame[["y0"]])
  kernel <- layer$radius * size / heat_view
  off <- known & (point$x < frame[["x0"]] - kernel | point$x > frame[["x1"]] + kernel | point$y < frame[["y0"]] - kernel | point$y > frame[["y1"]] + kernel)
  if (any(off)) ochre_warn("off_map", sprintf("%s off the map and left out of the heat surface.", count_words(sum(off), "point lies", "points lie")), rows = which(off))
  rows <- which(known & !off)
  colours <- if (length(layer$ramp) > 1) (if (layer$reverse) rev(layer$ramp) else layer$ramp) else as.character(unclass(ramp_colours(layer$ramp %||% "madder", heat_colours, layer$reverse, look$ground)))
  labels <- rep("", length(colours))
  labels[c(1, length(labels))] <- c(wording$now$page$low, wording$now$page$high)
  list(legend = layer$legend, legend_note = wording$now$page$heat_note, labels = labels, colours = colours, radius = layer$radius, opacity = layer$opacity, x = point$x[rows], y = point$y[rows],
       weight = if (!is.null(weight)) signif(weight[rows], 4), grid = heat_grid(point$x[rows], point$y[rows], weight[rows] %||% rep(1, length(rows)), frame, kernel, length(colours)),
       facts = sprintf("%s: %s.", layer$legend, fill_word("places", format_number(length(rows), 0))))
}

# Cells in as many equal steps as there are colours.
heat_grid <- function(x, y, weight, frame, kernel, k) {
  surface <- density_grid(x, y, weight, frame, kernel)
  top <- max(surface$value, 0)
  class_grid(surface, if (top > 0) ifelse(surface$value < heat_least * top, 0L, pmin(k, 1L + as.integer(floor(k * surface$value / top)))) else integer(length(surface$value)))
}
