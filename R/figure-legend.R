# Where the legend of a figure stands, and the order of its parts. It is laid out with grid when
# it is drawn, because only then the size of the map on paper is known, and symbols must have its
# scale; figure-layout.R keeps the room for it.

has_legend <- function(layer) {
  !is.null(layer$legend) && !layer_is(layer, "words") && on_whole_map(layer)
}

# A figure shows what a page shows before a reader comes nearer.
on_whole_map <- function(layer) is.null(layer$show$zooms) || layer$show$zooms[1] <= 1

# The legend and the ranked bars beside it.
figure_legends <- function(plan, at) {
  in_panel <- function(p) if (is.null(plan$panels)) NULL else p
  grob <- function(part, panel = NULL) {
    grid::gTree(plan = plan, at = at, part = part, panel = panel, cl = "ochre_legend")
  }
  last_row <- (at$rows - 1L) * at$columns + 1L
  legend <- if (at$place %in% c("beside", "below", "inside")) {
    note_piece(grob(at$place), in_panel(if (at$place == "below") last_row else at$columns), plan)
  }
  bars <- if (!is.null(plan$ranking)) note_piece(grob("bars"), in_panel(at$columns), plan)
  under <- if (at$under_each > 0) {
    lapply(seq_along(plan$panels), function(p) note_piece(grob("under", p), p, plan))
  }
  c(list(legend, bars), under)
}

#' @exportS3Method grid::makeContent
makeContent.ochre_legend <- function(x) {  # nolint: object_name_linter.
  width <- grid::convertWidth(grid::unit(1, "npc"), "inches", valueOnly = TRUE)
  height <- grid::convertHeight(grid::unit(1, "npc"), "inches", valueOnly = TRUE)
  at <- x$at
  per_unit <- width / (at$frame[["x1"]] - at$frame[["x0"]])
  pen <- legend_pen(x$plan, at)
  pen$left <- width + 0.022 * at$text
  pen$top <- height
  part <- switch(x$part,
    beside = legend_column(x$plan, pen, per_unit),
    inside = legend_column(
      x$plan,
      move_pen(
        pen,
        at$corner$x * (width - at$corner$width),
        if (at$corner$y > 0) height else at$corner$height
      ),
      per_unit
    ),
    below = legend_rows(
      x$plan,
      move_pen(pen, 0, -at$under_each - (at$furniture$under %||% 0) - 0.5 * pen$line),
      per_unit,
      legend_room(at, width)
    ),
    under = legend_column(x$plan, move_pen(pen, 0, -0.3 * pen$line), per_unit, x$panel),
    bars = {
      if (at$place == "beside") pen$top <- legend_column(x$plan, pen, per_unit)$top
      ranking_part(x$plan$ranking, x$plan, pen)
    }
  )
  grid::setChildren(x, do.call(grid::gList, part$grobs))
}

# A map that is less wide than was reckoned stands in the middle, so that there is room on its
# right.
legend_room <- function(at, width) {
  maps <- at$columns * width + (at$columns - 1) * at$text / 72.27
  maps + max(0, at$map - maps) / 2
}

# What all parts are drawn with: a place that moves down, lines and letters in inches and points,
# inks.
legend_pen <- function(plan, at) {
  list(
    left = 0,
    top = 0,
    line = at$text * 1.55 / 72.27,
    size = 0.88 * at$text,
    width = at$column - 0.04 * at$text,
    unit = at$text / 10,
    ink = plan$inks,
    style = plan$style$legend
  )
}
move_pen <- function(pen, left, top) {
  pen$left <- left
  pen$top <- top
  pen
}

# The layers as the legend sees them: with panels that have classes of their own, those of one
# panel, or none.
legend_layers <- function(plan, panel = NULL) {
  layers <- Filter(has_legend, plan$layers)
  if (!is.null(panel)) {
    return(lapply(Filter(function(l) !is.null(l$panels[[1]]$labels), layers), function(l) {
      l <- in_panel(l, panel)
      l$legend <- l$legend_note <- NULL
      l
    }))
  }
  lapply(layers, function(l) {
    if (!is.null(l$panels[[1]]$labels)) {
      l[c("labels", "colours", "count_labels", "no_data")] <- list(
        character(),
        character(),
        character(),
        list(count = 0)
      )
    }
    l
  })
}

legend_column <- function(plan, pen, per_unit, panel = NULL) {
  grobs <- list()
  for (layer in legend_layers(plan, panel)) {
    part <- legend_part(layer, pen, per_unit)
    grobs <- c(grobs, part$grobs)
    pen$top <- part$top - 0.7 * pen$line
  }
  list(grobs = grobs, top = pen$top)
}

legend_part <- function(layer, pen, per_unit, strip = FALSE) {
  for_kind("legend", layer$kind)(layer, pen, per_unit, strip)
}

legend_areas <- function(layer, pen, per_unit, strip) {
  if (!is.null(layer$square)) return(legend_square(layer, pen))
  if (strip) legend_strip(layer, pen) else legend_swatches(layer, pen)
}
legend_density <- legend_heat <- legend_areas

# Below the map: classes in a strip as wide as they need, other parts beside each other in columns.
legend_rows <- function(plan, pen, per_unit, width) {
  grobs <- list()
  left <- pen$left
  lowest <- pen$top
  for (layer in legend_layers(plan)) {
    one <- pen
    wide <- layer_is(layer, "strip") && is.null(layer$square)
    one$width <- if (wide) strip_width(layer, pen, width) else min(pen$width, width)
    if (one$left > left && one$left + one$width > left + width) {
      pen$left <- left
      pen$top <- lowest
      one[c("left", "top")] <- list(left, lowest)
    }
    part <- legend_part(layer, one, per_unit, strip = wide)
    grobs <- c(grobs, part$grobs)
    lowest <- min(lowest, part$top - 0.5 * pen$line)
    pen$left <- one$left + one$width + 0.2 * pen$unit
  }
  list(grobs = grobs, top = lowest)
}

# Height of a legend before it is drawn, in inches. A `width` that is infinite means a column.
legend_height <- function(plan, at, width, panel = NULL) {
  pen <- legend_pen(plan, at)
  per_unit <- (at$panel %||% max(1, at$width - at$column)) /
    (plan$frame[["x1"]] - plan$frame[["x0"]])
  part <- if (is.finite(width) && is.null(panel)) {
    legend_rows(plan, pen, per_unit, width)
  } else {
    legend_column(plan, pen, per_unit, panel)
  }
  max(0, -part$top)
}

inch <- function(v) grid::unit(v, "inches")

# Words at a place in inches: `just` is where they begin, 0 at the left; a pen may be `bold`, and
# write below the place (`vjust` 1) instead of around it.
words_grob <- function(label, x, y, pen, just = 0, colour = pen$ink$text) {
  grid::textGrob(
    label,
    inch(x),
    inch(y),
    hjust = just,
    vjust = pen$vjust %||% 0.5,
    gp = grid::gpar(
      fontsize = pen$size,
      fontface = if (isTRUE(pen$bold)) "bold" else "plain",
      col = colour,
      lineheight = 1.05
    )
  )
}

# As many letters as a width has room for, on lines of their own.
pen_wrap <- function(text, width, pen) {
  strwrap(text, max(8, floor(width * 72.27 / (0.54 * pen$size)) + 1))
}

legend_title <- function(text, pen, note = NULL) {
  if (is.null(text)) return(list(grobs = list(), top = pen$top))
  titles <- pen_wrap(text, pen$width * 0.96, pen)
  lines <- c(titles, if (!is.null(note)) pen_wrap(note, pen$width, pen))
  y <- pen$top - (seq_along(lines) - 0.5) * 0.85 * pen$line
  bold <- pen
  bold$bold <- TRUE
  grobs <- lapply(seq_along(lines), function(i) {
    if (i <= length(titles)) return(words_grob(lines[i], pen$left, y[i], bold))
    words_grob(lines[i], pen$left, y[i], pen, colour = pen$ink$soft)
  })
  list(grobs = grobs, top = pen$top - length(y) * 0.85 * pen$line - 0.25 * pen$line)
}
