# Areas, lines and surfaces of a figure; widths of pens are in CSS pixels. The coordinates of all
# shapes of a layer go to the device together.

# `data` has one row for each shape: its `feature` and its `fill`. `paths` are x, y, ring and
# feature of every vertex; `pen` is how edges are drawn.
shapes_piece <- function(data, paths, pen) {
  figure_piece(function(data, place, panel) shapes_grob(data, place(paths), paths, pen), data)
}

shapes_grob <- function(data, at, paths, pen) {
  if (nrow(data) < max(0L, paths$feature)) {
    keep <- paths$feature %in% data$feature
    at <- lapply(at[c("x", "y")], function(v) v[keep])
    paths <- lapply(paths[c("ring", "feature")], function(v) v[keep])
  }
  if (!length(paths$feature)) return(grid::nullGrob())
  if (isTRUE(pen$lines)) return(lines_grob(data, at, paths, pen))
  shape <- cumsum(changes(paths$feature))
  row <- match(paths$feature[changes(paths$feature)], data$feature)
  pick <- function(v) if (length(v) > 1) v[data$feature[row]] else v
  gp <- list(
    fill = data$fill[row],
    col = if (is.null(pen$colour)) data$fill[row] else pick(pen$colour),
    lwd = pick(pen$width)
  )
  fixed <- list(
    lty = pen$dash %||% 1, lineend = "butt", linejoin = "round", alpha = pen$opacity %||% 1
  )
  last <- cumsum(tabulate(shape))
  grobs <- lapply(shape_runs(paths$ring, shape, pen$simple), function(run) {
    corner <- (c(0L, last)[run$from] + 1L):last[run$to]
    own <- lapply(gp, function(v) if (length(v) > 1) v[run$from:run$to] else v)
    own <- do.call(grid::gpar, c(own, fixed))
    x <- at$x[corner]
    y <- at$y[corner]
    if (run$simple) return(grid::polygonGrob(x, y, id = shape[corner], gp = own))
    rings <- paths$ring[corner]
    grid::pathGrob(x, y, rings, pathId = shape[corner], rule = "evenodd", gp = own)
  })
  if (length(grobs) == 1) grobs[[1]] else grid::gTree(children = do.call(grid::gList, grobs))
}

# Shapes one after the other that are of one ring each go to the device as polygons, which it takes
# faster than paths. In an SVG only areas are paths, and get ids: `simple` says so beforehand.
shape_runs <- function(ring, shape, simple = NULL) {
  n <- shape[length(shape)]
  alone <- if (is.null(simple)) tabulate(shape[changes(ring)]) == 1 else rep(simple, n)
  from <- which(changes(alone))
  # Many short runs would be slower.
  if (length(from) > 1 + n / 20) return(list(list(from = 1L, to = n, simple = FALSE)))
  lapply(seq_along(from), function(k) {
    list(from = from[k], to = c(from[-1] - 1L, n)[k], simple = alone[from[k]])
  })
}

# Of lines each run has its feature's pen.
lines_grob <- function(data, at, paths, pen) {
  first <- !duplicated(paths$ring)
  of <- match(paths$feature[first], data$feature)
  width <- if (length(pen$width) > 1) pen$width[data$feature[of]] else pen$width
  arrow <- if (isTRUE(pen$arrow)) arrow_head(width)
  gp <- grid::gpar(
    col = data$fill[of],
    fill = data$fill[of],
    lwd = width,
    lty = pen$dash %||% 1,
    lineend = if (is.null(pen$dash)) "round" else "butt",
    linejoin = if (isTRUE(pen$arrow)) "mitre" else "round"
  )
  run <- match(paths$ring, paths$ring[first])
  grid::polylineGrob(at$x, at$y, id = run, arrow = arrow, gp = gp)
}

arrow_head <- function(width) {
  grid::arrow(angle = 24, type = "closed", length = grid::unit(3 + 1.8 * width, "bigpts"))
}

# Outer rings and holes of all parts of an area are one path, filled by the even-odd rule.
figure_areas <- function(layer, plan, at, paths) {
  panels <- seq_len(max(1L, length(layer$panels)))
  fills <- lapply(panels, function(p) area_fills(layer, p, plan))
  hatches <- lapply(panels, function(p) {
    now <- in_panel(layer, p)
    hatched <- if (!is.null(now$hatch)) which(now$class == now$hatch$class)
    if (length(hatched)) figure_hatch(now, paths, hatched, panel_of_layer(layer, p, plan), plan)
  })
  areas <- shapes_piece(do.call(rbind, fills), paths, area_pen(layer, plan, at))
  c(list(areas), unlist(hatches, recursive = FALSE))
}

# Without borders each area is drawn to its very edge in its own colour, so that no gaps show.
area_pen <- function(layer, plan, at) {
  scale <- 96 * at$panel / (at$frame[["x1"]] - at$frame[["x0"]])
  width <- border_width(layer, scale, blur = 0.5)
  opacity <- layer$opacity %||% 1
  pen <- list(opacity = opacity, simple = if (isTRUE(at$svg)) FALSE)
  if (width > 0) return(c(pen, list(colour = layer$outline, width = width)))
  c(pen, list(colour = if (opacity == 1) NULL else NA, width = 0.35))
}

area_fills <- function(layer, panel, plan) {
  now <- in_panel(layer, panel)
  colours <- c(now$no_data$colour, now$colours)
  data <- figure_data(list(feature = seq_along(now$class), fill = colours[now$class + 1L]))
  data$panel <- panel_of_layer(layer, panel, plan)
  data
}

panel_of_layer <- function(layer, panel, plan) {
  if (!is.null(layer$panels)) panel_factor(panel, plan)
}

# About two hundred and forty lines across the map, whatever its size on paper.
hatch_spacing <- function(frame) {
  sqrt((frame[["x1"]] - frame[["x0"]])^2 + (frame[["y1"]] - frame[["y0"]])^2) / 240
}

figure_hatch <- function(layer, paths, hatched, panel, plan) {
  keep <- paths$feature %in% hatched
  if (!any(keep)) return(NULL)
  rings <- lapply(paths, function(v) v[keep])
  lines <- hatch_lines(rings, hatch_spacing(plan$frame))
  # Each ring is a shape of its own, with an edge and no ground.
  rings$feature <- rings$ring
  data <- figure_data(list(feature = unique(rings$ring), fill = NA_character_))
  if (!is.null(panel)) lines$panel <- data$panel <- panel
  pen <- list(simple = TRUE, colour = layer$hatch$colour, width = 0.6)
  list(segments_piece(lines, layer$hatch$colour, 0.7), shapes_piece(data, rings, pen))
}

# Where rising diagonals, so far apart, lie inside the rings: each is cut wherever it crosses an
# edge, and every other piece is inside (the even-odd rule).
hatch_lines <- function(rings, spacing) {
  same <- c(rings$ring[-1] == rings$ring[-length(rings$ring)], FALSE)
  turn <- sqrt(0.5)
  u <- (rings$x + rings$y) * turn / spacing
  v <- (rings$y - rings$x) * turn / spacing
  # A ring ends in its first corner.
  first <- match(rings$ring, rings$ring)
  to <- ifelse(same, seq_along(same) + 1L, first)
  low <- pmin(v, v[to])
  high <- pmax(v, v[to])
  from <- ceiling(low)
  n <- pmax(0, ceiling(high) - from)
  edge <- rep(seq_along(n), n)
  line <- from[edge] + sequence(n) - 1
  at <- u[edge] + (line - v[edge]) * (u[to[edge]] - u[edge]) / (v[to[edge]] - v[edge])
  order <- order(line, at)
  odd <- order[c(TRUE, FALSE)]
  even <- order[c(FALSE, TRUE)]
  back <- function(u, v) list(x = (u - v) * turn * spacing, y = (u + v) * turn * spacing)
  a <- back(at[odd], line[odd])
  b <- back(at[even], line[even])
  data.frame(x = a$x, y = a$y, xend = b$x, yend = b$y)
}

figure_lines <- function(layer, plan, at, paths) {
  each <- length(layer$width) > 1
  n <- max(0L, paths$feature, length(layer$key$class), if (each) length(layer$width))
  if (n == 0) return(NULL)
  data <- figure_data(list(feature = seq_len(n), fill = keyed_colours(layer, n)))
  if (each) data <- data[layer$width > 0, ]
  dash <- line_type(layer$dash)
  pen <- list(lines = TRUE, width = layer$width, dash = dash, arrow = layer$arrow)
  casing <- if (!is.null(layer$casing)) {
    wide <- list(lines = TRUE, width = layer$width + casing_width)
    shapes_piece(transform(data, fill = layer$casing), paths, wide)
  }
  list(casing, shapes_piece(data, paths, pen))
}

# A pattern of dash and gap as R writes it.
line_type <- function(dash) if (!is.null(dash)) paste(format(as.hexmode(dash)), collapse = "")

casing_width <- 3  # CSS pixels that a casing is wider than its line

# The colour of each feature: that of its class in the key, or one for all.
keyed_colours <- function(layer, n) {
  if (is.null(layer$key)) return(rep(layer$colour, n))
  c(layer$key$no_data$colour, layer$key$colours)[layer$key$class + 1L]
}

# Cells of one class beside each other in a row are one rectangle of the picture; the picture is
# one.
figure_density <- function(layer, plan, at, paths) {
  g <- layer$grid
  colours <- c(NA, grDevices::adjustcolor(layer$colours, alpha.f = layer$opacity))[
    grid_classes(g) + 1L
  ]
  picture <- t(matrix(colours, g$columns, g$rows))[g$rows:1, , drop = FALSE]
  box <- c(g$x0, g$x0 + g$columns * g$cell, g$y0, g$y0 + g$rows * g$cell)
  list(picture_piece(picture, box, smooth = FALSE))
}
figure_heat <- figure_density
