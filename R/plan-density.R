# A layer that shades how densely points lie: a grid over the map, its values in steps. The core
# evaluates the kernel; classes are kept as runs of equal cells, row by row from below, because
# bands are long.

density_side <- 1200  # cells along the longer side of the map, at most
density_reach <- 64  # cells that the kernel is wide on one side, at most

resolve_density <- function(layer, on, setting) {
  weight <- if (is.null(layer$weight)) {
    rep(1, length(on$point$x))
  } else {
    as.numeric(layer$data[[layer$weight]])
  }
  known <- is.finite(on$point$x) & is.finite(on$point$y) & is.finite(weight)
  warn_left_out(which(!known), "the density")
  # Map units for a metre: one in the equal-area projections, more away from the equator in others.
  unit <- map_scale(on$map$frame, on$map$projection)
  kernel <- layer$kernel * unit
  check_kernel(layer$kernel, 2 * density_cell(on$map$frame, kernel) / unit)
  # Per square kilometre on the ground.
  surface <- density_grid(on$point$x[known], on$point$y[known], weight[known], on$map$frame, kernel)
  value <- surface$value * 1e6 * unit^2
  # Three figures are more than a surface in steps can show, and keep its breaks short.
  highest <- max(value, 0)
  value[value <= highest / 50] <- NA
  if (highest > 0) value <- round(value, 2 - floor(log10(highest)))
  steps <- fit_steps(value, layer$steps)
  class <- class_of(steps, value)
  class[is.na(class)] <- 0L
  list(
    legend = layer$legend,
    legend_note = if (!length(steps$counts)) setting$locale$none,
    labels = class_labels(steps, layer$format, setting$locale),
    colours = layer_colours(layer, steps, setting$ground),
    breaks = steps$breaks,
    opacity = layer$opacity,
    grid = class_grid(surface, class),
    facts = if (any(!is.na(value))) density_fact(value, layer, steps, setting$locale)
  )
}

# A picture cannot show circles of less than so many metres.
check_kernel <- function(kernel, least) {
  if (kernel >= least) return(invisible())
  ochre_abort(
    "argument",
    paste0("`kernel` is {format_number(kernel, 0)} m, too small for this map: a picture ",
           "cannot show circles of less than {format_number(least, 0)} m."),
    "Give a larger `kernel`, or a map of a smaller place.", arg = "kernel"
  )
}

warn_left_out <- function(rows, what) {
  if (!length(rows)) return(invisible())
  ochre_warn(
    "symbols",
    sprintf(
      "%s left out of %s: the place or the weight is missing.",
      count_words(length(rows), "point is", "points are"), what
    ), rows = rows
  )
}

density_fact <- function(value, layer, steps, locale) {
  ends <- c(0, max(value, na.rm = TRUE))
  said <- format_field(ends, NULL, own_format(layer$format, steps, ends), locale)
  sprintf(locale$alt_range, layer$legend, said[1], said[2])
}

density_cell <- function(frame, kernel) {
  max(
    max(frame[["x1"]] - frame[["x0"]], frame[["y1"]] - frame[["y0"]]) / density_side,
    kernel / density_reach
  )
}

# Sums of the kernel in the cells of a grid over the map.
density_grid <- function(x, y, weight, frame, kernel) {
  cell <- density_cell(frame, kernel)
  columns <- as.integer(ceiling((frame[["x1"]] - frame[["x0"]]) / cell))
  rows <- as.integer(ceiling((frame[["y1"]] - frame[["y0"]]) / cell))
  list(
    x0 = frame[["x0"]],
    y0 = frame[["y0"]],
    cell = cell,
    columns = columns,
    rows = rows,
    value = call_core(density_core(
      x, y, weight, frame[["x0"]], frame[["y0"]], cell, columns, rows, kernel
    ))
  )
}

# The grid as a plan keeps it: classes as runs; and back, a column of the matrix for each row of
# cells from below.
class_grid <- function(surface, class) {
  runs <- rle(class)
  c(
    surface[c("x0", "y0", "cell", "columns", "rows")],
    list(runs = runs$lengths, class = runs$values)
  )
}
grid_classes <- function(g) {
  if (!length(g$runs)) return(matrix(integer(), 0, 0))
  matrix(
    inverse.rle(structure(list(lengths = g$runs, values = g$class), class = "rle")),
    g$columns,
    g$rows
  )
}
