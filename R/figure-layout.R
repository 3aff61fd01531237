# Where the parts of a figure stand, worked out before it is drawn: how wide the map is, how many
# small maps there are in a row, which margins are kept for legends, and how high the whole will
# be.

# Widths in inches; `text` in points.
figure_layout <- function(plan, width = NULL, base_size = NULL, say = TRUE) {
  style <- plan$style$figure
  text <- base_size %||% style$text
  width <- width %||% (style$mm[1] / 25.4)
  column <- legend_column_width(plan, text, width)
  place <- plan$style$legend$place %||% if (width < 4.4) "below" else "beside"
  legends <- place != "none" && any(vapply(plan$layers, has_legend, NA))
  right <- function(place) {
    if ((legends && place == "beside") || !is.null(plan$ranking)) column else 0
  }
  at <- list(
    width = width,
    text = text,
    column = column,
    place = if (legends) place else "none",
    words = width - 2 * text / 72.27,
    frame = plan$frame,
    below = 0,
    under_each = 0
  )
  if (at$place == "inside") {
    height <- legend_height(plan, at, Inf)
    map <- width - right("inside") - 2 * text / 72.27
    at$corner <- if (is.null(plan$panels)) free_corner_of(plan, column, height, map)
    if (is.null(at$corner)) {
      if (say) ochre_tell("The legend stands beside the map: no corner of the map is free for it.")
      at$place <- "beside"
    }
  }
  at$right <- right(at$place)
  at$map <- width - at$right - 2 * text / 72.27
  at <- c(at, panel_grid(plan, at))
  if (at$place == "below") at$below <- legend_height(plan, at, at$map)
  if (own_steps(plan)) {
    at$under_each <- max(vapply(
      seq_along(plan$panels),
      function(p) legend_height(plan, at, at$panel, panel = p),
      0
    ))
  }
  with_furniture(plan, room_beside(plan, at))
}

# Of a legend beside the map: wider where its labels are long.
legend_column_width <- function(plan, text, width) {
  labels <- unlist(lapply(plan$layers, function(l) {
    c(l$labels, l$key$labels, unlist(lapply(l$panels, function(p) p$labels)))
  }))
  letters <- max(0, nchar(labels)) + 1
  wanted <- 0.112 * text + letters * 0.54 * 0.88 * text / 72.27
  least <- 0.21 * text
  min(max(least, wanted), 0.27 * text, max(least, 0.34 * width))
}

# A map that is lower than what stands beside it gets room below, so that both begin at the top. A
# legend below the map fills that room.
room_beside <- function(plan, at) {
  if (at$right == 0 || at$rows > 1) return(at)
  beside <- (if (at$place == "beside") legend_height(plan, at, Inf) else 0) +
    ranking_height(plan, at) - at$below
  unit <- (plan$frame[["x1"]] - plan$frame[["x0"]]) / at$panel
  at$frame[["y0"]] <- min(at$frame[["y0"]], at$frame[["y1"]] - beside * unit)
  at
}

own_steps <- function(plan) {
  any(vapply(plan$layers, function(l) length(l$panels) > 0 && !is.null(l$panels[[1]]$labels), NA))
}

# Small maps in rows that are about as wide as a page is.
panel_grid <- function(plan, at) {
  n <- max(1L, length(plan$panels))
  shape <- (plan$frame[["y1"]] - plan$frame[["y0"]]) / (plan$frame[["x1"]] - plan$frame[["x0"]])
  columns <- if (n == 1) {
    1L
  } else {
    min(n, plan$style$figure$columns %||% max(1L, round(sqrt(n * shape / 0.62))))
  }
  list(
    columns = as.integer(columns),
    rows = as.integer(ceiling(n / columns)),
    panel = (at$map - (columns - 1) * at$text / 72.27) / columns
  )
}

# Height that fits the map's shape, in inches, and that the legend beside it needs.
figure_height <- function(plan, width, base_size = NULL) {
  at <- figure_layout(plan, width, base_size, say = FALSE)
  lines <- function(text, size) {
    if (is.null(text)) {
      0
    } else {
      size / 72.27 * 1.2 *
        (1 + lengths(regmatches(w <- wrap_words(text, at$words, size), gregexpr("\n", w))))
    }
  }
  words <- lines(plan$title, title_size(at)) + lines(plan$subtitle, 1.1 * at$text) +
    lines(plan$note, 0.8 * at$text) + lines(plan$source, 0.8 * at$text) +
    lines(figure_picture(plan)$attribution, 0.8 * at$text) + 4.4 * at$text / 72.27
  strips <- if (!is.null(plan$panels)) at$rows * 1.6 * at$text / 72.27 else 0
  maps <- at$rows * at$panel * (at$frame[["y1"]] - at$frame[["y0"]]) /
    (at$frame[["x1"]] - at$frame[["x0"]]) + (at$rows - 1) * at$text / 72.27 + strips
  beside <- (if (at$place == "beside") legend_height(plan, at, Inf) else 0) +
    ranking_height(plan, at)
  # A narrow, high map does not become a poster.
  min(
    max(1.25 * width, words + beside),
    max(1.8, max(maps + at$below + at$rows * at$under_each, beside) + words)
  )
}

# Bold letters are wider.
title_size <- function(at) 1.5 * at$text * 1.25

# Room for a scale bar and a north mark: a free corner, or a strip below the map.
with_furniture <- function(plan, at) {
  style <- plan$style$figure
  if (!style$scale_bar && !style$north) return(at)
  wide <- plan$frame[["x1"]] - plan$frame[["x0"]]
  inch <- wide / at$panel
  line <- 1.3 * at$text / 72.27
  size <- c(
    max(if (style$scale_bar) plan$scale_bar$length / inch + 0.1, if (style$north) 2 * line),
    (if (style$scale_bar) 1.7 else 0) * line + (if (style$north) 2.6 else 0) * line
  )
  at$furniture <- free_corner_of(plan, size[1], size[2], at$panel, taken = at$corner)
  if (is.null(at$furniture) && !is.null(plan$panels)) {
    # Under small maps, so that all keep one height.
    at$furniture <- list(x = 0, y = 0, width = size[1], height = size[2], under = size[2] + 0.08)
    at$below <- at$below + at$furniture$under
  } else if (is.null(at$furniture)) {
    at$frame[["y0"]] <- at$frame[["y0"]] - (size[2] + 0.08) * inch
    at$furniture <- list(x = 0, y = 0, width = size[1], height = size[2])
  }
  at
}

# The first corner of the map where a box of so many inches covers nothing that is drawn, on a map
# so many inches wide: lower left, lower right, upper right, upper left. NULL when there is none.
free_corner_of <- function(plan, width, height, map, taken = NULL) {
  frame <- plan$frame
  unit <- (frame[["x1"]] - frame[["x0"]]) / map
  size <- c(width, height) * unit
  if (size[1] > 0.6 * (frame[["x1"]] - frame[["x0"]]) ||
      size[2] > 0.9 * (frame[["y1"]] - frame[["y0"]])) {
    return(NULL)
  }
  points <- drawn_points(plan)
  for (at in list(c(0, 0), c(1, 0), c(1, 1), c(0, 1))) {
    if (!is.null(taken) && identical(c(taken$x, taken$y), at)) next
    x0 <- frame[["x0"]] + at[1] * (frame[["x1"]] - frame[["x0"]] - size[1])
    y0 <- frame[["y0"]] + at[2] * (frame[["y1"]] - frame[["y0"]] - size[2])
    inside <- points$x > x0 & points$x < x0 + size[1] & points$y > y0 & points$y < y0 + size[2]
    if (!any(inside) && !any(covered(
        plan,
        x0 + size[1] * c(0, 0.5, 1, 0, 1, 0, 0.5, 1),
        y0 + size[2] * c(0, 0, 0, 0.5, 0.5, 1, 1, 1)
      ))) {
      return(list(x = at[1], y = at[2], width = width, height = height))
    }
  }
  NULL
}

# Where something is drawn: vertices, rims of symbols, frames of insets.
drawn_points <- function(plan) {
  t <- plan$topology
  out <- list(x = t$x0 + t$step * t$x, y = t$y0 + t$step * t$y)
  turn <- seq(0, 2 * pi, length.out = 13)[-1]
  for (l in plan$layers) {
    if (layer_is(l, "marks") && length(l$x)) {
      out$x <- c(out$x, outer(l$r, cos(turn)) + l$x)
      out$y <- c(out$y, outer(l$r, sin(turn)) + l$y)
    }
  }
  for (i in plan$insets) {
    along <- seq(0, 1, 0.1)
    out$x <- c(
      out$x,
      outer(1 - along, i$frame[["x0"]]) + outer(along, i$frame[["x1"]]),
      outer(1 - along, i$frame[["x0"]]) + outer(along, i$frame[["x1"]])
    )
    out$y <- c(out$y, rep(i$frame[["y0"]], 11), rep(i$frame[["y1"]], 11))
  }
  out
}

# Do places lie inside of an area? A ray to the right, over all rings of the layers of areas.
covered <- function(plan, x, y) {
  at <- which(layers_are(plan$layers[layers_are(plan$layers, "outlines")], "shaded"))
  inside <- rep(FALSE, length(x))
  for (k in at) {
    p <- call_core(paths_core(plan$topology, k))
    n <- length(p$x)
    if (n < 2) next
    same <- p$ring[-1] == p$ring[-n]
    for (i in seq_along(x)) {
      cross <- same & (p$y[-n] > y[i]) != (p$y[-1] > y[i])
      e <- which(cross)
      inside[i] <- inside[i] ||
        sum(x[i] < p$x[e] + (y[i] - p$y[e]) / (p$y[e + 1] - p$y[e]) * (p$x[e + 1] - p$x[e])) %%
          2 == 1
    }
  }
  inside
}

# Title, subtitle and what stands below the map, in lines as wide as the figure; NULL for what
# there is none of.
figure_texts <- function(plan, at) {
  words <- function(text, size) if (!is.null(text)) wrap_words(text, at$words, size)
  below <- c(plan$note, plan$source, figure_picture(plan)$attribution)
  list(
    title = words(plan$title, title_size(at)),
    subtitle = words(plan$subtitle, 1.1 * at$text),
    caption = paste(vapply(below, words, "", 0.8 * at$text), collapse = "\n")
  )
}

# Lines of at most so many inches, by the mean width of a letter.
wrap_words <- function(text, inches, size) {
  paste(strwrap(text, max(12, floor(inches * 72.27 / (0.5 * size)) + 1)), collapse = "\n")
}
