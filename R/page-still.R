# The page for readers whose browser runs no scripts: a small picture of the map as SVG, and the
# table of its values. Both are plain markup within the page; every text from data is escaped.

still_width <- 640
still_corners <- 1500

page_still <- function(plan) {
  escape <- htmltools::htmlEscape
  c(
    "<noscript>",
    "<div class=\"ochre-still\">",
    sprintf("<h1>%s</h1>", escape(plan$title)),
    if (!is.null(plan$subtitle)) sprintf("<p>%s</p>", escape(plan$subtitle)),
    sprintf("<p>%s</p>", escape(plan$alt)),
    still_map(plan),
    still_legend(plan),
    if (plan$page$table) still_table(plan),
    if (!is.null(plan$note)) sprintf("<p>%s</p>", escape(plan$note)),
    if (!is.null(plan$source)) sprintf("<p>%s</p>", still_source(plan, escape)),
    "</div>",
    "</noscript>"
  )
}

still_source <- function(plan, escape) {
  if (is.null(plan$source_link)) return(escape(plan$source))
  address <- htmltools::htmlEscape(plan$source_link, attribute = TRUE)
  sprintf("<a href=\"%s\" rel=\"noopener noreferrer\">%s</a>", address, escape(plan$source))
}

# The map with few corners, in whole pixels, one path for each class.
still_map <- function(plan) {
  frame <- plan$frame
  unit <- still_width / (frame[["x1"]] - frame[["x0"]])
  height <- ceiling((frame[["y1"]] - frame[["y0"]]) * unit)
  scale <- list(
    unit = unit,
    x = function(x) round((x - frame[["x0"]]) * unit),
    y = function(y) round((frame[["y1"]] - y) * unit)
  )
  light <- plan$topology
  if (length(light$x) > still_corners) {
    light <- call_core(lighter_topology_core(light, still_corners / length(light$x)))
  }
  layers <- lapply(plan$layers, with_opacity)
  drawn <- which(vapply(layers, function(l) l$kind %in% c("areas", "lines"), NA))
  shapes <- lapply(seq_along(layers), function(i) {
    layer <- layers[[i]]
    if (!shown_at_first(layer)) return(NULL)
    switch(layer$kind,
      density = ,
      heat = still_surface(layer, scale),
      symbols = still_symbols(layer, scale, length(plan$panels)),
      areas = ,
      lines = still_paths(layer, call_core(paths_core(light, match(i, drawn))), scale)
    )
  })
  alt <- htmltools::htmlEscape(plan$alt, attribute = TRUE)
  size <- sprintf("viewBox=\"0 0 %d %d\" width=\"%d\"", still_width, height, still_width)
  c(
    sprintf("<svg %s role=\"img\" aria-label=\"%s\">", size, alt),
    sprintf("<rect width=\"100%%\" height=\"100%%\" fill=\"%s\"/>", plan$inks$ground),
    unlist(shapes),
    "</svg>"
  )
}

# What a page shows before a reader does anything.
shown_at_first <- function(layer) on_whole_map(layer) && !isTRUE(layer$show$off)

# Areas and lines: one path for each class.
still_paths <- function(layer, p, scale) {
  areas <- layer$kind == "areas"
  # Lines without a value have no width, and are not drawn.
  if (length(layer$width) > 1) p <- lapply(p, function(v) v[layer$width[p$feature] > 0])
  if (!length(p$x)) return(NULL)
  now <- in_panel(layer, length(layer$panels))
  class <- if (areas) now$class[p$feature] else rep(0L, length(p$x))
  rings <- ring_paths(scale$x(p$x), scale$y(p$y), p$ring, if (areas) "z" else "")
  of <- class[!duplicated(p$ring)]
  classes <- sort(unique(of))
  paths <- vapply(classes, function(k) paste(rings[of == k], collapse = ""), "")
  if (areas) area_paths(paths, classes, now, scale$unit) else line_paths(paths, layer)
}

line_paths <- function(paths, layer) {
  dash <- if (!is.null(layer$dash)) {
    sprintf(" stroke-dasharray=\"%s\"", paste(layer$dash, collapse = " "))
  }
  sprintf(
    "<path d=\"%s\" fill=\"none\" stroke=\"%s\" stroke-width=\"%s\"%s/>",
    paths,
    layer$colour,
    round(max(layer$width), 2),
    dash %||% ""
  )
}

area_paths <- function(paths, classes, layer, unit) {
  fill <- c(layer$no_data$colour, layer$colours)[classes + 1]
  width <- border_width(layer, unit, blur = 1)
  rule <- sprintf("fill-rule=\"evenodd\" stroke-width=\"%s\"", if (width > 0) width else 0.5)
  sprintf(
    "<path d=\"%s\" fill=\"%s\" stroke=\"%s\" opacity=\"%s\" %s/>",
    paths,
    fill,
    if (width > 0) layer$outline else fill,
    layer$opacity %||% 1,
    rule
  )
}

# One text for each ring: where it begins, then steps.
ring_paths <- function(x, y, ring, end) {
  first <- !duplicated(ring)
  dx <- ifelse(first, x, c(0, diff(x)))
  dy <- ifelse(first, y, c(0, diff(y)))
  keep <- first | dx != 0 | dy != 0
  at <- paste0(ifelse(first, "M", "l"), dx, ifelse(dy < 0, "", " "), dy)[keep]
  paste0(vapply(split(at, factor(ring[keep], unique(ring))), paste, "", collapse = ""), end)
}

still_symbols <- function(layer, scale, panels) {
  keep <- seq_along(layer$x)
  if (!is.null(layer$panel)) keep <- keep[layer$panel == panels]
  keep <- utils::head(keep, 500)
  if (!length(keep)) return(NULL)
  colour <- keyed_colours(layer, length(layer$x))
  sprintf(
    "<circle cx=\"%s\" cy=\"%s\" r=\"%s\" fill=\"%s\" fill-opacity=\"%s\" stroke=\"%s\"/>",
    scale$x(layer$x[keep]),
    scale$y(layer$y[keep]),
    round(layer$r[keep] * scale$unit, 1),
    colour[keep],
    layer$opacity,
    layer$rim
  )
}

# A surface as a small picture, a pixel for a few of its cells.
still_surface <- function(layer, scale) {
  g <- layer$grid
  class <- grid_classes(g)
  each <- max(1, round(max(g$columns, g$rows) / 180))
  class <- class[seq(1, g$columns, each), seq(g$rows, 1, -each), drop = FALSE]
  pixels <- t(matrix(c(NA, layer$colours)[class + 1L], nrow(class)))
  sprintf(
    paste0(
      "<image href=\"%s\" x=\"%d\" y=\"%d\" width=\"%.0f\" height=\"%.0f\" opacity=\"%s\" ",
      "preserveAspectRatio=\"none\"/>"
    ),
    data_address(small_picture(pixels)),
    scale$x(g$x0),
    scale$y(g$y0 + g$rows * g$cell),
    g$columns * g$cell * scale$unit,
    g$rows * g$cell * scale$unit,
    layer$opacity
  )
}

# A matrix of colours as a PNG.
small_picture <- function(pixels) {
  path <- tempfile(fileext = ".png")
  on.exit(unlink(path))
  ragg::agg_png(path, ncol(pixels), nrow(pixels), units = "px", background = "transparent")
  device <- grDevices::dev.cur()
  tryCatch(
    grid::grid.raster(pixels, width = 1, height = 1, interpolate = FALSE),
    finally = grDevices::dev.off(device)
  )
  list(type = "png", bytes = readBin(path, "raw", file.size(path)))
}

still_legend <- function(plan) {
  layers <- Filter(function(l) has_legend(l) && shown_at_first(l), plan$layers)
  unlist(lapply(layers, function(layer) {
    entries <- still_entries(layer, length(plan$panels))
    if (!length(entries$colours)) return(NULL)
    rows <- sprintf(
      paste0(
        "<li><svg width=\"24\" height=\"14\"><rect width=\"24\" height=\"14\" ",
        "opacity=\"%s\" fill=\"%s\"/></svg> %s</li>"
      ),
      with_opacity(layer)$opacity %||% 1,
      entries$colours,
      htmltools::htmlEscape(entries$labels)
    )
    # One entry of the same name needs no title.
    title <- if (!identical(as.character(entries$labels), layer$legend)) {
      sprintf("<p>%s</p>", htmltools::htmlEscape(layer$legend))
    }
    c(title, "<ul>", rows, "</ul>")
  }))
}

# The colours of a layer and what they stand for: its classes, or its name.
still_entries <- function(layer, panel) {
  # The swatch itself is as solid as the layer.
  layer["opacity"] <- list(NULL)
  if (layer$kind %in% c("areas", "density", "heat")) return(legend_entries(in_panel(layer, panel)))
  if (!is.null(layer$key)) return(legend_entries(layer$key))
  list(colours = layer$colour, labels = layer$legend)
}

# Names and values of the areas of each shaded layer; with panels those of the last.
still_table <- function(plan) {
  unlist(lapply(
    Filter(function(l) l$kind == "areas" && !is.null(l$names), plan$layers),
    function(layer) {
      values <- in_panel(layer, length(layer$panels))$values
      if (is.null(values)) return(NULL)
      cells <- sprintf(
        "<tr><th scope=\"row\">%s</th><td>%s</td></tr>",
        htmltools::htmlEscape(layer$names),
        htmltools::htmlEscape(ifelse(is.na(values), layer$no_data$label, values))
      )
      c(
        sprintf(
          "<table><caption>%s</caption>",
          htmltools::htmlEscape(paste(
            c(layer$legend, utils::tail(plan$panels, 1)),
            collapse = ", "
          ))
        ),
        cells,
        "</table>"
      )
    }
  ))
}
