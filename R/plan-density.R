# A layer that shades how densely points lie: a grid over the map, its values in steps. The core evaluates the kernel; classes
# are kept as runs of equal cells, row by row from below, because bands are long.

density_side <- 720   # cells along the longer side of the map, at most
density_reach <- 48   # cells that the kernel is wide on one side, at most

plan_density <- function(layer, point, frame, projection) {
  weight <- if (is.null(layer$weight)) rep(1, length(point$x)) else as.numeric(layer$data[[layer$weight]])
  known <- is.finite(point$x) & is.finite(point$y) & is.finite(weight)
  if (any(!known)) ochre_warn("symbols", sprintf("%s left out of the density: the place or the weight is missing.", count_words(sum(!known), "point is", "points are")), rows = which(!known))
  # Map units for a metre: one in the equal-area projections, more away from the equator in others.
  unit <- map_scale(frame, projection)
  kernel <- layer$kernel * unit
  size <- c(frame[["x1"]] - frame[["x0"]], frame[["y1"]] - frame[["y0"]])
  cell <- max(max(size) / density_side, kernel / density_reach)
  if (kernel < 2 * cell) ochre_abort("argument", sprintf("`kernel` is %s m, too small for this map: a picture cannot show circles of less than %s m.", format_number(layer$kernel, 0), format_number(2 * cell / unit, 0)), "Give a larger `kernel`, or a map of a smaller place.", arg = "kernel")
  columns <- as.integer(ceiling(size[1] / cell))
  rows <- as.integer(ceiling(size[2] / cell))
  # Per square kilometre on the ground.
  value <- density_core(point$x[known], point$y[known], weight[known], frame[["x0"]], frame[["y0"]], cell, columns, rows, kernel) * 1e6 * unit^2
  # Three figures are more than a surface in steps can show, and keep its breaks short.
  highest <- max(value, 0)
  value[value <= highest / 50] <- NA
  if (highest > 0) value <- round(value, 2 - floor(log10(highest)))
  steps <- fit_steps(value, layer$steps)
  class <- class_of(steps, value)
  class[is.na(class)] <- 0L
  runs <- rle(class)
  list(legend = layer$legend, labels = class_labels(steps, layer$format), colours = layer_colours(layer, steps), breaks = steps$breaks, opacity = layer$opacity,
       grid = list(x0 = frame[["x0"]], y0 = frame[["y0"]], cell = cell, columns = columns, rows = rows, runs = runs$lengths, class = runs$values),
       facts = if (any(!is.na(value))) sprintf(wording$now$alt_range, layer$legend, format_field(0, NULL, own_format(layer$format, steps$digits)), format_field(max(value, na.rm = TRUE), NULL, own_format(layer$format, steps$digits))))
}
