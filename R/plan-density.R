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
  cell <- density_cell(frame, kernel)
  if (kernel < 2 * cell) ochre_abort("argument", sprintf("`kernel` is %s m, too small for this map: a picture cannot show circles of less than %s m.", format_number(layer$kernel, 0), format_number(2 * cell / unit, 0)), "Give a larger `kernel`, or a map of a smaller place.", arg = "kernel")
  # Per square kilometre on the ground.
  surface <- density_grid(point$x[known], point$y[known], weight[known], frame, kernel)
  value <- surface$value * 1e6 * unit^2
  # Three figures are more than a surface in steps can show, and keep its breaks short.
  highest <- max(value, 0)
  value[value <= highest / 50] <- NA
  if (highest > 0) value <- round(value, 2 - floor(log10(highest)))
  steps <- fit_steps(value, layer$steps)
  class <- class_of(steps, value)
  class[is.na(class)] <- 0L
  list(legend = layer$legend, labels = class_labels(steps, layer$format), colours = layer_colours(layer, steps), breaks = steps$breaks, opacity = layer$opacity,
       grid = class_grid(surface, class),
       facts = if (any(!is.na(value))) density_fact(value, layer, steps))
}

density_fact <- function(value, layer, steps) {
  ends <- c(0, max(value, na.rm = TRUE))
  said <- format_field(ends, NULL, own_format(layer$format, steps, ends))
  sprintf(wording$now$alt_range, layer$legend, said[1], said[2])
}

density_cell <- function(frame, kernel) max(max(frame[["x1"]] - frame[["x0"]], frame[["y1"]] - frame[["y0"]]) / density_side, kernel / density_reach)

# Sums of the kernel in the cells of a grid over the map.
density_grid <- function(x, y, weight, frame, kernel) {
  cell <- density_cell(frame, kernel)
  columns <- as.integer(ceiling((frame[["x1"]] - frame[["x0"]]) / cell))
  rows <- as.integer(ceiling((frame[["y1"]] - frame[["y0"]]) / cell))
  list(
    x0 = frame[["x0"]], y0 = frame[["y0"]], cell = cell, columns = columns, rows = rows,
    value = call_core(
      density_core(x, y, weight, frame[["x0"]], frame[["y0"]], cell, columns, rows, kernel)
    )
  )
}

# The grid as a plan keeps it: classes as runs; and back, a column of the matrix for each row of cells from below.
class_grid <- function(surface, class) {
  runs <- rle(class)
  c(surface[c("x0", "y0", "cell", "columns", "rows")], list(runs = runs$lengths, class = runs$values))
}
grid_classes <- function(g) matrix(inverse.rle(structure(list(lengths = g$runs, values = g$class), class = "rle")), g$columns, g$rows)
