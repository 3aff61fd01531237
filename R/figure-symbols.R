# Symbols and labels of a figure.

# Shapes are drawn in map units, so that the legend's and the map's keep one scale at any size of
# the figure.
figure_symbols <- function(layer, plan, at, paths) {
  n <- length(layer$x)
  if (!n) return(NULL)
  fills <- keyed_colours(layer, n)
  pixels <- 96 * at$panel / (at$frame[["x1"]] - at$frame[["x0"]])
  # A rim does not eat up a small symbol.
  rim <- pmin(0.95, 0.3 * layer$r * pixels)
  pen <- list(simple = TRUE, colour = layer$rim, width = rim, opacity = layer$opacity)
  part <- function(paths, fills) {
    data <- figure_data(list(feature = seq_len(n), fill = fills))
    if (!is.null(layer$panel)) data$panel <- panel_factor(layer$panel[seq_len(n)], plan)
    shapes_piece(data, paths, pen)
  }
  if (!is.null(layer$second)) {
    halves <- list(
      part(half_paths(layer, layer$r, 1), fills),
      part(half_paths(layer, layer$second$r, -1), rep(layer$second$colour, n))
    )
    return(c(leaders(layer, plan), halves))
  }
  c(leaders(layer, plan), list(part(symbol_paths(layer), fills)))
}

symbol_paths <- function(layer) {
  n <- length(layer$x)
  if (!is.null(layer$bar)) {
    half <- layer$bar$width / 2
    return(list(
      x = rep(layer$x, each = 4) + half * c(-1, 1, 1, -1),
      y = rep(layer$y, each = 4) + rep(layer$bar$height, each = 4) * c(0, 0, 1, 1),
      ring = rep(seq_len(n), each = 4),
      feature = rep(seq_len(n), each = 4)
    ))
  }
  outline <- layer$outline %||% circle_outline(if (n > 2000) 16L else 60L)
  k <- length(outline$x)
  list(
    x = rep(layer$x, each = k) + rep(layer$r, each = k) * outline$x,
    y = rep(layer$y, each = k) + rep(layer$r, each = k) * outline$y,
    ring = rep(seq_len(n), each = k),
    feature = rep(seq_len(n), each = k)
  )
}

circle_outline <- function(corners) {
  turn <- seq(0, 2 * pi, length.out = corners + 1L)[-1]
  list(x = cos(turn), y = sin(turn))
}

# The left half (side 1) or the right one (side -1) of circles.
half_paths <- function(layer, r, side) {
  turn <- seq(pi / 2, 3 * pi / 2, length.out = 31)
  n <- length(r)
  list(
    x = rep(layer$x, each = 31) + rep(r, each = 31) * cos(turn) * side,
    y = rep(layer$y, each = 31) + rep(r, each = 31) * sin(turn),
    ring = rep(seq_len(n), each = 31),
    feature = rep(seq_len(n), each = 31)
  )
}

# A line from each moved symbol to its place, where a dot stands, when the symbol no longer covers
# it.
leaders <- function(layer, plan) {
  if (is.null(layer$from)) return(NULL)
  r <- pmax(layer$r, layer$second$r %||% 0)
  far <- sqrt((layer$x - layer$from$x)^2 + (layer$y - layer$from$y)^2) > 0.7 * r
  if (!any(far)) return(NULL)
  data <- figure_data(list(
    x = layer$x[far],
    y = layer$y[far],
    xend = layer$from$x[far],
    yend = layer$from$y[far]
  ))
  if (!is.null(layer$panel)) data$panel <- panel_factor(layer$panel[which(far)], plan)
  ends <- transform(data, x = data$xend, y = data$yend)
  list(segments_piece(data, plan$inks$text, 0.7), dots_piece(ends, plan$inks$text, 3.3))
}

# Labels are placed when they are drawn, because only then the size of the map on paper is known.
figure_labels <- function(layer, plan, at, paths) {
  if (!length(layer$text)) return(NULL)
  symbols <- Filter(function(l) layer_is(l, "marks") && is.null(l$panel), plan$layers)
  discs <- list(
    x = unlist(lapply(symbols, function(l) l$x)),
    y = unlist(lapply(symbols, function(l) l$y)),
    r = unlist(lapply(symbols, function(l) pmax(l$r, l$second$r %||% 0)))
  )
  list(figure_piece(function(data, place, panel) {
    grid::gTree(
      layer = inked_labels(layer, panel),
      at = place(layer),
      discs = if (length(discs$x)) place(discs),
      r = discs$r,
      unit = diff(place(list(x = 0:1, y = 0:1))$x),
      size = at$text * layer$scale,
      cl = "ochre_labels"
    )
  }))
}

# A colour for each label, and for its halo, in one panel.
inked_labels <- function(layer, panel) {
  if (is.null(layer$ink)) return(layer)
  ink <- layer$ink[[min(panel, length(layer$ink))]] + 1L
  layer$colour <- layer$inks[ink]
  if (!is.null(layer$halos)) layer$halo <- layer$halos[ink]
  layer
}

#' @exportS3Method grid::makeContent
makeContent.ochre_labels <- function(x) {  # nolint: object_name_linter.
  l <- x$layer
  face <- if (l$bold) "bold" else "plain"
  found <- labels_placed(x, face)
  shown <- which(found$placed)
  if (!length(shown)) return(x)
  text <- function(colour, dx = 0, dy = 0, name) {
    if (length(colour) > 1) colour <- colour[shown]
    grid::textGrob(
      l$text[shown],
      inch(found$x[shown] + dx),
      inch(found$y[shown] + dy),
      gp = grid::gpar(fontsize = x$size, fontface = face, col = colour),
      name = name
    )
  }
  turn <- seq(0, 2 * pi, length.out = 9)[-1]
  far <- 0.07 * x$size / 72.27
  rim <- if (!is.null(l$halo)) {
    lapply(seq_along(turn), function(i) {
      text(l$halo, cos(turn[i]) * far, sin(turn[i]) * far, paste0("halo", i))
    })
  }
  grid::setChildren(x, do.call(grid::gList, c(rim, list(text(l$colour, name = "labels")))))
}

# Which labels find room on a map of the size that it has now, and where, in inches.
labels_placed <- function(x, face) {
  l <- x$layer
  width <- grid::convertWidth(grid::unit(1, "npc"), "inches", valueOnly = TRUE)
  height <- grid::convertHeight(grid::unit(1, "npc"), "inches", valueOnly = TRUE)
  wide <- text_widths(l$text, grid::gpar(fontsize = x$size, fontface = face)) + 0.03
  tall <- rep(1.15 * x$size / 72.27, length(wide))
  per_unit <- x$unit * width
  gap <- if (l$centred) 0 * l$r else pmax(l$r * per_unit, 0.02) + 0.03
  # Beside its own symbol a text needs no more than the gap; other symbols count as they are drawn.
  discs <- x$discs
  call_core(place_labels_core(
    x$at$x * width, x$at$y * height, wide, tall, gap, as.numeric(discs$x) * width,
    as.numeric(discs$y) * height, as.numeric(x$r) * per_unit * 0.96, width, height
  ))
}

text_widths <- function(text, gp) {
  one <- function(t) {
    wide <- grid::grobWidth(grid::textGrob(t, gp = gp))
    grid::convertWidth(wide, "inches", valueOnly = TRUE)
  }
  vapply(text, one, 0, USE.NAMES = FALSE)
}
