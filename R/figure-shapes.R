# Areas, lines, symbols and surfaces of a figure. Shapes are drawn by a geom of our own: its data are one row for each shape
# with its fill, and the coordinates of all of them go to the device as one grid path.

the_geom <- new.env()

# `paths` are x, y, ring and feature of every vertex; `pen` is how edges are drawn.
shapes_geom <- function() {
  if (is.null(the_geom$shapes)) the_geom$shapes <- ggplot2::ggproto("GeomOchreShapes", ggplot2::Geom,
    required_aes = c("feature", "fill"),
    draw_panel = function(data, panel_params, coord, paths, pen) shapes_grob(data, coord$transform(figure_data(list(x = paths$x, y = paths$y)), panel_params), paths, pen),
    draw_key = ggplot2::draw_key_blank
  )
  the_geom$shapes
}

shapes_layer <- function(data, paths, pen) {
  aes <- columns_as(feature = "feature", fill = "fill")
  if (!is.null(pen$width)) pen$width <- pen$width / 25.4 * 96
  ggplot2::layer(geom = shapes_geom(), stat = "identity", position = "identity", data = data, mapping = aes, inherit.aes = FALSE, show.legend = FALSE, check.aes = FALSE,
                 params = list(paths = paths, pen = pen, na.rm = TRUE))
}

shapes_grob <- function(data, at, paths, pen) {
  keep <- paths$feature %in% data$feature
  if (!any(keep)) return(ggplot2::zeroGrob())
  if (!all(keep)) {
    at <- at[keep, ]
    paths <- lapply(paths[c("ring", "feature")], function(v) v[keep])
  }
  row <- match(unique(paths$feature), data$feature)
  pick <- function(v) if (length(v) > 1) v[data$feature[row]] else v
  fill <- data$fill[row]
  gp <- grid::gpar(fill = fill, col = pick(pen$colour), lwd = pick(pen$width), lty = pen$dash %||% 1, lineend = "butt", linejoin = "round", alpha = pen$opacity %||% 1)
  # Shapes of one ring are polygons: in an SVG only areas are paths, and get ids.
  if (isTRUE(pen$simple)) return(grid::polygonGrob(at$x, at$y, id = match(paths$feature, unique(paths$feature)), gp = gp))
  if (!isTRUE(pen$lines)) return(grid::pathGrob(at$x, at$y, id = paths$ring, pathId = paths$feature, rule = "evenodd", gp = gp))
  # Of lines each run has its feature's pen.
  first <- !duplicated(paths$ring)
  of <- match(paths$feature[first], data$feature)
  pick <- function(v) if (length(v) > 1) v[data$feature[of]] else v
  arrow <- if (isTRUE(pen$arrow)) grid::arrow(angle = 24, type = "closed", length = grid::unit(3 + 1.8 * pick(pen$width), "bigpts"))
  grid::polylineGrob(at$x, at$y, id = match(paths$ring, paths$ring[first]), arrow = arrow,
                     gp = grid::gpar(col = data$fill[of], fill = data$fill[of], lwd = pick(pen$width), lty = pen$dash %||% 1, lineend = if (is.null(pen$dash)) "round" else "butt", linejoin = if (isTRUE(pen$arrow)) "mitre" else "round"))
}

# Outer rings and holes of all parts of an area are one path, filled by the even-odd rule.
figure_areas <- function(layer, paths, plan) {
  drawn <- function(one, panel) {
    layer[names(one)] <- one
    data <- figure_data(list(feature = seq_along(layer$class), fill = c(layer$no_data$colour, layer$colours)[layer$class + 1L]))
    if (!is.null(panel)) data$panel <- panel_factor(panel, plan)
    list(data = data, hatched = if (!is.null(layer$hatch)) which(layer$class == layer$hatch$class))
  }
  parts <- if (is.null(layer$panels)) list(drawn(list(), NULL)) else lapply(seq_along(layer$panels), function(p) drawn(layer$panels[[p]], p))
  list(
    shapes_layer(do.call(rbind, lapply(parts, function(p) p$data)), paths, list(colour = layer$outline, width = 0.2, opacity = layer$opacity)),
    lapply(seq_along(parts), function(p) if (length(parts[[p]]$hatched)) figure_hatch(layer, paths, parts[[p]]$hatched, if (!is.null(layer$panels)) panel_factor(p, plan), plan))
  )
}

# About two hundred and forty lines across the map, whatever its size on paper.
hatch_spacing <- function(frame) sqrt((frame[["x1"]] - frame[["x0"]])^2 + (frame[["y1"]] - frame[["y0"]])^2) / 240

figure_hatch <- function(layer, paths, hatched, panel, plan) {
  paths <- figure_data(paths)
  rings <- paths[paths$feature %in% hatched, ]
  if (!nrow(rings)) return(NULL)
  lines <- hatch_lines(rings, hatch_spacing(plan$frame))
  if (!is.null(panel)) lines$panel <- rings$panel <- panel
  list(
    ggplot2::geom_segment(columns_as(x = "x", y = "y", xend = "xend", yend = "yend"), data = lines, colour = layer$hatch$colour, linewidth = 0.25),
    ggplot2::geom_polygon(columns_as(x = "x", y = "y", group = "ring"), data = rings, fill = NA, colour = layer$hatch$colour, linewidth = 0.2)
  )
}

# Where rising diagonals, so far apart, lie inside the rings: each is cut wherever it crosses an edge,
# and every other piece is inside (the even-odd rule).
hatch_lines <- function(rings, spacing) {
  same <- c(rings$ring[-1] == rings$ring[-nrow(rings)], FALSE)
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

figure_lines <- function(layer, paths) {
  n <- max(0L, paths$feature, length(layer$key$class), length(layer$width)[length(layer$width) > 1])
  if (n == 0) return(NULL)
  colours <- if (is.null(layer$key)) rep(layer$colour, n) else c(layer$key$no_data$colour, layer$key$colours)[layer$key$class + 1L]
  mm <- layer$width / 72.27 * 25.4
  data <- figure_data(list(feature = seq_len(n), fill = colours))
  if (length(mm) > 1) data <- data[mm > 0, ]
  pen <- list(lines = TRUE, width = mm, dash = if (layer$dash) "33", arrow = layer$arrow)
  casing <- if (!is.null(layer$casing)) shapes_layer(transform(data, fill = layer$casing), paths, list(lines = TRUE, width = mm + 0.9))
  list(casing, shapes_layer(data, paths, pen))
}

# Cells of one class beside each other in a row are one rectangle of the picture; the picture is one.
figure_density <- function(layer) {
  g <- layer$grid
  colours <- c(NA, grDevices::adjustcolor(layer$colours, alpha.f = layer$opacity))[grid_classes(g) + 1L]
  picture <- t(matrix(colours, g$columns, g$rows))[g$rows:1, , drop = FALSE]
  ggplot2::annotation_raster(picture, g$x0, g$x0 + g$columns * g$cell, g$y0, g$y0 + g$rows * g$cell, interpolate = FALSE)
}
