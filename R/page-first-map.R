# The map as a still picture within the page: few corners, in whole units, one path for each class.

first_width <- 1000
first_corners <- 2400
most_first_symbols <- 1500

first_map <- function(plan) {
  frame <- plan$frame
  # Of many small areas the outlines need not be as exact.
  width <- if (length(plan$topology$arc_end) > 2000) 560 else first_width
  unit <- width / (frame[["x1"]] - frame[["x0"]])
  height <- round((frame[["y1"]] - frame[["y0"]]) * unit, 1)
  scale <- list(
    unit = unit,
    # Pixels of a map unit on a common screen.
    seen = min(unit * 980 / width, 620 / (frame[["y1"]] - frame[["y0"]])),
    x = function(x) as.integer(round((x - frame[["x0"]]) * unit)),
    y = function(y) as.integer(round((frame[["y1"]] - y) * unit))
  )
  light <- plan$topology
  share <- still_share(plan)
  if (share < 1) light <- call_core(lighter_topology_core(light, share))
  layers <- lapply(plan$layers, with_opacity)
  drawn <- which(layers_are(layers, "outlines"))
  shapes <- lapply(seq_along(layers), function(i) {
    layer <- layers[[i]]
    if (!shown_at_first(layer)) return(NULL)
    on <- list(plan = plan, layer = i, light = light, at = match(i, drawn), scale = scale)
    for_kind("first", layer$kind)(layer, on)
  })
  alt <- htmltools::htmlEscape(plan$alt, attribute = TRUE)
  size <- sprintf("viewBox=\"0 0 %d %s\"", width, format(height))
  c(
    sprintf("<svg class=\"ochre-first\" %s role=\"img\" aria-label=\"%s\">", size, alt),
    unlist(shapes),
    first_insets(plan$insets, scale),
    "</svg>"
  )
}

# A frame around each inset, its label above.
first_insets <- function(insets, scale) {
  vapply(insets, function(inset) {
    x <- scale$x(inset$frame[c(1, 3)])
    y <- scale$y(inset$frame[c(4, 2)])
    sprintf(
      paste0(
        "<rect x=\"%s\" y=\"%s\" width=\"%s\" height=\"%s\" class=\"ochre-inset\"/>",
        "<text x=\"%s\" y=\"%s\" class=\"ochre-inset-label\">%s</text>"
      ),
      x[1], y[1], diff(x), diff(y), x[1], y[1] - 4, htmltools::htmlEscape(inset$label)
    )
  }, "")
}

# What a page shows before a reader does anything.
shown_at_first <- function(layer) on_whole_map(layer) && !isTRUE(layer$show$off)

# What draws a kind of layer is given the `plan`, the number of the `layer`, the `light` topology,
# where the layer is `at` in that, and the `scale`. Of areas one path for each class: of its areas
# where they have borders, else of its outline.
first_areas <- function(layer, on) {
  if (identical(on$plan$sections$layer, on$layer - 1L)) return(first_sections(layer, on))
  now <- in_panel(layer, length(layer$panels))
  border <- border_width(now, on$scale$seen, blur = 1)
  if (border > 0) {
    p <- call_core(paths_core(on$light, on$at))
    of <- now$class[p$feature[changes(p$ring)]]
  } else {
    p <- call_core(class_paths_core(on$light, on$at, now$class))
    of <- p$ring_class
  }
  if (!length(p$x)) return(NULL)
  classes <- sort(unique(of))
  paths <- run_paths(p, on$scale, match(of, classes), TRUE)
  area_paths(paths, classes, now, on$layer, border)
}

first_lines <- function(layer, on) {
  p <- call_core(paths_core(on$light, on$at))
  # Lines without a value have no width, and are not drawn.
  if (length(layer$width) > 1) p <- lapply(p, function(v) v[layer$width[p$feature] > 0])
  if (!length(p$x)) return(NULL)
  line_paths(run_paths(p, on$scale, rep(1L, sum(changes(p$ring))), FALSE), layer, on$layer)
}

# Strokes keep their width however large the picture is shown.
thin_stroke <- " vector-effect=\"non-scaling-stroke\""

line_paths <- function(paths, layer, i) {
  dash <- if (!is.null(layer$dash)) {
    sprintf(" stroke-dasharray=\"%s\"", paste(layer$dash, collapse = " "))
  }
  sprintf(
    "<path class=\"l%d\" d=\"%s\" fill=\"none\" stroke=\"%s\" stroke-width=\"%s\"%s%s/>",
    i,
    paths,
    layer$colour,
    round(max(layer$width), 2),
    dash %||% "",
    thin_stroke
  )
}

area_paths <- function(paths, classes, layer, i, width) {
  fill <- c(layer$no_data$colour, layer$colours)[classes + 1]
  rule <- sprintf("fill-rule=\"evenodd\" stroke-width=\"%s\"", if (width > 0) width else 0.5)
  sprintf(
    "<path class=\"f%dk%d%s\" d=\"%s\" fill=\"%s\" stroke=\"%s\" opacity=\"%s\" %s%s/>",
    i,
    classes,
    if (width > 0) sprintf(" o%d", i) else "",
    paths,
    fill,
    if (width > 0) layer$outline else fill,
    layer$opacity %||% 1,
    rule,
    thin_stroke
  )
}

# The `d` of a path for each group of runs; `group` counts from 1.
run_paths <- function(p, scale, group, closed) {
  x <- scale$x(p$x)
  y <- scale$y(p$y)
  call_core(path_texts_core(x, y, p$ring, group, max(group), closed))$paths
}

first_symbols <- function(layer, on) {
  scale <- on$scale
  keep <- seq_along(layer$x)
  if (!is.null(layer$panel)) keep <- keep[layer$panel[keep] == length(on$plan$panels)]
  keep <- utils::head(keep, most_first_symbols)
  if (!length(keep)) return(NULL)
  colour <- keyed_colours(layer, length(layer$x))
  x <- scale$x(layer$x[keep])
  y <- scale$y(layer$y[keep])
  r <- round(layer$r[keep] * scale$unit, 1)
  sprintf(
    "%s fill=\"%s\" fill-opacity=\"%s\" stroke=\"%s\"%s/>",
    symbol_shapes(layer, x, y, r, keep, scale$unit),
    colour[keep],
    layer$opacity,
    layer$rim,
    thin_stroke
  )
}

# The beginnings of elements of SVG, to which colours come: bars, shapes with corners, else circles.
symbol_shapes <- function(layer, x, y, r, keep, unit) {
  if (!is.null(layer$bar)) {
    wide <- round(layer$bar$width * unit, 1)
    high <- round(layer$bar$height[keep] * unit, 1)
    size <- "<rect x=\"%s\" y=\"%s\" width=\"%s\" height=\"%s\""
    return(sprintf(size, x - wide / 2, y - high, wide, high))
  }
  if (is.null(layer$outline)) return(sprintf("<circle cx=\"%s\" cy=\"%s\" r=\"%s\"", x, y, r))
  corners <- vapply(seq_along(x), function(i) {
    paste(
      round(x[i] + r[i] * layer$outline$x, 1),
      round(y[i] - r[i] * layer$outline$y, 1),
      collapse = " "
    )
  }, "")
  sprintf("<polygon points=\"%s\"", corners)
}

# A surface as a small picture, a pixel for a few of its cells.
first_density <- function(layer, on) {
  g <- layer$grid
  class <- grid_classes(g)
  each <- max(1, round(max(g$columns, g$rows) / 180))
  class <- class[seq(1, g$columns, each), seq(g$rows, 1, -each), drop = FALSE]
  pixels <- t(matrix(c(NA, layer$colours)[class + 1L], nrow(class)))
  box <- c(g$x0, g$y0, g$x0 + g$columns * g$cell, g$y0 + g$rows * g$cell)
  picture_element(pixels, box, layer$opacity, on$scale)
}
first_heat <- first_density

# Labels come with the script, which finds room for them.
first_labels <- function(layer, on) NULL

# Areas that come in sections as the picture of all of them.
first_sections <- function(layer, on) {
  layer <- in_panel(layer, length(layer$panels))
  sections <- on$plan$sections
  picture <- sections$picture[length(sections$picture)]
  found <- call_core(section_cells_core(picture, sections$classes))$cells
  colours <- c(NA, layer$no_data$colour, layer$colours)[found + 1L]
  pixels <- matrix(colours, sections$cells, byrow = TRUE)
  picture_element(pixels, sections$box, layer$opacity %||% 1, on$scale)
}

# Colours, row by row from the north, in a box of the map: left, lower, right and upper edge.
picture_element <- function(pixels, box, opacity, scale) {
  sprintf(
    paste0(
      "<image href=\"%s\" x=\"%d\" y=\"%d\" width=\"%.0f\" height=\"%.0f\" opacity=\"%s\" ",
      "preserveAspectRatio=\"none\"/>"
    ),
    data_address(small_picture(pixels)),
    scale$x(box[1]),
    scale$y(box[4]),
    (box[3] - box[1]) * scale$unit,
    (box[4] - box[2]) * scale$unit,
    opacity
  )
}

# A matrix of colours as a PNG.
small_picture <- function(pixels) {
  path <- tempfile(fileext = ".png")
  on.exit(remove_path(path))
  ragg::agg_png(path, ncol(pixels), nrow(pixels), units = "px", background = "transparent")
  device <- grDevices::dev.cur()
  tryCatch(
    grid::grid.raster(pixels, width = 1, height = 1, interpolate = FALSE),
    finally = grDevices::dev.off(device)
  )
  list(type = "png", bytes = readBin(path, "raw", file.size(path)))
}

# The share of a map's corners that its still picture has: some for each area, so that many small
# ones keep their colour.
still_share <- function(plan) {
  t <- plan$topology
  min(1, (first_corners + length(t$arc_end)) / max(1, length(t$x)))
}
