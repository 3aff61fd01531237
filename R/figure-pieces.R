# The pieces of a figure in the order of drawing. A piece knows what it draws and in which of the
# small maps, and nothing of what it is drawn on: figure.R makes a ggplot2 object of the pieces,
# figure-paper.R puts them on a page.

# `data` has a row for each shape, or one for all; a factor `panel` in it says in which map a row
# stands, and without one it stands in each. `draw` is called with the rows of one map, `place`,
# which turns x and y of the map into shares of its width and height, and the number of the map.
figure_piece <- function(draw, data = figure_data(list(one = 1))) list(draw = draw, data = data)

# Something that is drawn within a map, or within one of several.
note_piece <- function(grob, panel = NULL, plan = NULL) {
  data <- figure_data(list(one = 1))
  if (!is.null(panel)) data$panel <- panel_factor(panel, plan)
  figure_piece(function(data, place, panel) grob, data)
}

plan_pieces <- function(plan, at) {
  plan$layers <- lapply(plan$layers, with_opacity)
  drawn <- layers_are(plan$layers, "outlines")
  paths <- function(i) call_core(paths_core(plan$topology, match(i, which(drawn))))
  layers <- lapply(seq_along(plan$layers), function(i) {
    layer <- plan$layers[[i]]
    if (!on_whole_map(layer)) return(NULL)
    for_kind("figure", layer$kind)(layer, plan, at, paths(i))
  })
  pieces <- c(
    figure_backdrop(plan),
    figure_insets(plan$insets, at$text, plan$inks),
    unlist(layers, recursive = FALSE),
    figure_furniture(plan, at),
    figure_legends(plan, at)
  )
  Filter(Negate(is.null), pieces)
}

# Lines from x and y to xend and yend; widths are in CSS pixels.
segments_piece <- function(data, colour, width) {
  figure_piece(function(data, place, panel) {
    from <- place(data)
    to <- place(list(x = data$xend, y = data$yend))
    gp <- grid::gpar(col = colour, lwd = width, lineend = "butt")
    grid::segmentsGrob(from$x, from$y, to$x, to$y, gp = gp)
  }, data)
}

dots_piece <- function(data, colour, width) {
  figure_piece(function(data, place, panel) {
    at <- place(data)
    gp <- grid::gpar(fill = colour, col = NA)
    grid::circleGrob(at$x, at$y, r = grid::unit(width / 192, "inches"), gp = gp)
  }, data)
}

# `box` is x0, x1, y0 and y1 of the picture's outer edges.
picture_piece <- function(picture, box, smooth) {
  figure_piece(function(data, place, panel) {
    at <- place(list(x = box[1:2], y = box[3:4]))
    grid::rasterGrob(
      picture, at$x[1], at$y[1], diff(at$x), diff(at$y), just = c("left", "bottom"),
      interpolate = smooth
    )
  })
}

# A frame around each inset, with its label above it.
figure_insets <- function(insets, base_size, ink) {
  if (!length(insets)) return(NULL)
  frame <- as.list(as.data.frame(do.call(rbind, lapply(insets, function(i) i$frame))))
  label <- vapply(insets, function(i) i$label, "")
  list(figure_piece(function(data, place, panel) {
    low <- place(list(x = frame$x0, y = frame$y0))
    high <- place(list(x = frame$x1, y = frame$y1))
    grid::grobTree(
      grid::rectGrob(
        low$x, low$y, high$x - low$x, high$y - low$y, just = c("left", "bottom"),
        gp = grid::gpar(fill = NA, col = ink$faint, lwd = 0.85, linejoin = "mitre")
      ),
      grid::textGrob(
        label, low$x, high$y, hjust = 0, vjust = -0.5,
        gp = grid::gpar(col = ink$soft, fontsize = 0.75 * base_size)
      )
    )
  }))
}

# A layer with the opacity that show_layer() says, in the map and its legend.
with_opacity <- function(layer) {
  share <- layer$show$opacity %||% 1
  if (share == 1) return(layer)
  if (!layer_is(layer, "inked")) {
    layer$opacity <- (layer$opacity %||% 1) * share
    return(layer)
  }
  clear <- function(colour) {
    if (!is.null(colour)) grDevices::adjustcolor(colour, alpha.f = share)
  }
  for (field in c("colour", "casing", "halo", "inks", "halos")) {
    layer[[field]] <- clear(layer[[field]])
  }
  if (!is.null(layer$key)) {
    layer$key[c("colours", "no_data")] <- list(
      clear(layer$key$colours),
      utils::modifyList(layer$key$no_data, list(colour = clear(layer$key$no_data$colour)))
    )
  }
  layer
}

figure_data <- function(columns) as.data.frame(columns, stringsAsFactors = FALSE)

# A factor of panels: a row is drawn in its own map only.
panel_factor <- function(at, plan) factor(plan$panels[at], plan$panels)
