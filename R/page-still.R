# The page for readers whose browser runs no scripts: a small picture of the map as SVG, and the table of its values. Both are
# plain markup within the page; every text from data is escaped.

still_width <- 640
still_corners <- 1500

page_still <- function(plan) {
  escape <- htmltools::htmlEscape
  c("<noscript>", "<div class=\"ochre-still\">", sprintf("<h1>%s</h1>", escape(plan$title)), if (!is.null(plan$subtitle)) sprintf("<p>%s</p>", escape(plan$subtitle)),
    sprintf("<p>%s</p>", escape(plan$alt)), still_map(plan), still_legend(plan), if (plan$page$table) still_table(plan),
    sprintf("<p>%s</p>", escape(paste(c(plan$note, plan$source), collapse = " "))), "</div>", "</noscript>")
}

# The map with few corners, in whole pixels, one path for each class.
still_map <- function(plan) {
  frame <- plan$frame
  unit <- still_width / (frame[["x1"]] - frame[["x0"]])
  height <- ceiling((frame[["y1"]] - frame[["y0"]]) * unit)
  px <- function(x) round((x - frame[["x0"]]) * unit)
  py <- function(y) round((frame[["y1"]] - y) * unit)
  plan$layers <- lapply(plan$layers, faint_layer)
  light <- plan$topology
  if (length(light$x) > still_corners) light <- call_core(lighter_topology_core(light, still_corners / length(light$x)))
  drawn <- vapply(plan$layers, function(l) l$kind %in% c("areas", "lines"), NA)
  shapes <- lapply(seq_along(plan$layers), function(i) {
    layer <- plan$layers[[i]]
    if (layer$kind %in% c("density", "heat")) return(still_surface(layer, px, py, unit))
    if (layer$kind == "symbols") return(still_symbols(layer, px, py, unit, length(plan$panels)))
    if (!drawn[i]) return(NULL)
    p <- call_core(paths_core(light, match(i, which(drawn))))
    # Lines without a value have no width, and are not drawn.
    if (length(layer$width) > 1) p <- lapply(p, function(v) v[layer$width[p$feature] > 0])
    if (!length(p$x)) return(NULL)
    now <- if (is.null(layer$panels)) layer else utils::modifyList(layer, layer$panels[[length(layer$panels)]])
    key <- if (layer$kind == "areas") now$class[p$feature] else rep(0L, length(p$x))
    rings <- ring_paths(px(p$x), py(p$y), p$ring, if (layer$kind == "areas") "z" else "")
    of <- key[!duplicated(p$ring)]
    vapply(sort(unique(of)), function(k) {
      d <- paste(rings[of == k], collapse = "")
      if (layer$kind == "lines") sprintf("<path d=\"%s\" fill=\"none\" stroke=\"%s\"%s/>", d, layer$colour, if (layer$dash) " stroke-dasharray=\"4 3\"" else "")
      else sprintf("<path d=\"%s\" fill=\"%s\" fill-rule=\"evenodd\" stroke=\"%s\" stroke-width=\"0.6\" opacity=\"%s\"/>", d, c(now$no_data$colour, now$colours)[k + 1], layer$outline, layer$opacity %||% 1)
    }, "")
  })
  c(sprintf("<svg viewBox=\"0 0 %d %d\" width=\"%d\" role=\"img\" aria-label=\"%s\">", still_width, height, still_width, htmltools::htmlEscape(plan$alt, attribute = TRUE)), sprintf("<rect width=\"100%%\" height=\"100%%\" fill=\"%s\"/>", plan$inks$ground), unlist(shapes), "</svg>")
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

still_symbols <- function(layer, px, py, unit, panels) {
  keep <- seq_along(layer$x)
  if (!is.null(layer$panel)) keep <- keep[layer$panel == panels]
  keep <- utils::head(keep, 500)
  if (!length(keep)) return(NULL)
  colour <- if (is.null(layer$key)) rep(layer$colour, length(layer$x)) else c(layer$key$no_data$colour, layer$key$colours)[layer$key$class + 1L]
  sprintf("<circle cx=\"%s\" cy=\"%s\" r=\"%s\" fill=\"%s\" fill-opacity=\"%s\" stroke=\"%s\"/>", px(layer$x[keep]), py(layer$y[keep]), round(layer$r[keep] * unit, 1), colour[keep], layer$opacity, layer$rim)
}

# A surface as a small picture, a pixel for a few of its cells.
still_surface <- function(layer, px, py, unit) {
  g <- layer$grid
  class <- grid_classes(g)
  each <- max(1, round(max(g$columns, g$rows) / 180))
  class <- class[seq(1, g$columns, each), seq(g$rows, 1, -each), drop = FALSE]
  path <- tempfile(fileext = ".png")
  on.exit(unlink(path))
  ragg::agg_png(path, nrow(class), ncol(class), units = "px", background = "transparent")
  device <- grDevices::dev.cur()
  tryCatch(grid::grid.raster(t(matrix(c(NA, layer$colours)[class + 1L], nrow(class))), width = 1, height = 1, interpolate = FALSE), finally = grDevices::dev.off(device))
  picture <- list(type = "png", bytes = readBin(path, "raw", file.size(path)))
  sprintf("<image href=\"%s\" x=\"%d\" y=\"%d\" width=\"%.0f\" height=\"%.0f\" opacity=\"%s\" preserveAspectRatio=\"none\"/>", data_address(picture), px(g$x0), py(g$y0 + g$rows * g$cell), g$columns * g$cell * unit, g$rows * g$cell * unit, layer$opacity)
}

still_legend <- function(plan) {
  unlist(lapply(Filter(function(l) l$kind %in% c("areas", "density", "heat"), plan$layers), function(layer) {
    now <- if (is.null(layer$panels)) layer else utils::modifyList(layer, layer$panels[[length(layer$panels)]])
    rows <- sprintf("<li><svg width=\"24\" height=\"14\"><rect width=\"24\" height=\"14\" opacity=\"%s\" fill=\"%s\"/></svg> %s</li>", faint_layer(layer)$opacity %||% 1, c(now$colours, if (isTRUE(now$no_data$count > 0)) now$no_data$colour), htmltools::htmlEscape(c(now$labels, if (isTRUE(now$no_data$count > 0)) now$no_data$label)))
    c(sprintf("<p>%s</p>", htmltools::htmlEscape(layer$legend)), "<ul>", rows, "</ul>")
  }))
}

# Names and values of the areas of each shaded layer; with panels those of the last.
still_table <- function(plan) {
  unlist(lapply(Filter(function(l) l$kind == "areas" && !is.null(l$names), plan$layers), function(layer) {
    values <- layer$values %||% layer$panels[[length(layer$panels)]]$values
    if (is.null(values)) return(NULL)
    cells <- sprintf("<tr><th scope=\"row\">%s</th><td>%s</td></tr>", htmltools::htmlEscape(layer$names), htmltools::htmlEscape(ifelse(is.na(values), layer$no_data$label, values)))
    c(sprintf("<table><caption>%s</caption>", htmltools::htmlEscape(paste(c(layer$legend, utils::tail(plan$panels, 1)), collapse = ", "))), cells, "</table>")
  }))
}
