# A published figure: the pieces of a plan drawn with grid, laid out as as_figure() has ggplot2 lay
# them out, which need not be loaded for it.

draw_paper <- function(plan, at, family) {
  pieces <- plan_pieces(plan, at)
  texts <- paper_texts(plan, at, family)
  grid::pushViewport(grid::viewport(
    layout = paper_layout(plan, at, texts),
    gp = grid::gpar(fontfamily = family, lineheight = 1.2)
  ))
  across <- c(2L, 2L * at$columns)
  for (text in texts[c("title", "subtitle", "caption")]) {
    if (!is.null(text)) draw_row(c(text, list(columns = across)))
  }
  for (panel in seq_len(max(1L, length(plan$panels)))) {
    if (!is.null(plan$panels)) draw_row(strip_text(plan, at, texts, panel))
    draw_panel(pieces, plan, at, panel)
  }
  grid::popViewport()
}

# Points of margins, heights of words in inches.
paper_texts <- function(plan, at, family) {
  size <- at$text
  said <- figure_texts(plan, at)
  ink <- plan$inks
  text <- function(label, row, above, below, face = "plain", ...) {
    if (is.null(label)) return(NULL)
    gp <- grid::gpar(fontface = face, fontfamily = family, ...)
    list(label = label, row = row, above = above, below = below, gp = gp)
  }
  title <- text(
    said$title, 2, 0, 0.35 * size, "bold", fontsize = 1.5 * size, col = ink$text, lineheight = 1.05
  )
  subtitle <- text(
    said$subtitle, 3, 0, 0.8 * size, fontsize = 1.1 * size, col = ink$text, lineheight = 1.05
  )
  # Below the maps, each of which has up to three rows: its strip, itself, the gap after it.
  caption <- text(
    said$caption, 3 + 3 * at$rows + 1, size + (at$below + at$under_each) * 72.27, 0,
    fontsize = 0.8 * size, col = ink$soft, lineheight = 1.1
  )
  strip <- text("", NA, 0, 0.3 * size, "bold", fontsize = size, col = ink$text, lineheight = 1.2)
  list(title = title, subtitle = subtitle, caption = caption, strip = strip)
}

# Inches that a text takes with its margins: what hangs below its last line counts.
text_height <- function(text) {
  if (is.null(text)) return(0)
  measure <- function(label, of) {
    grid::convertHeight(of(grid::textGrob(label, gp = text$gp)), "inches", valueOnly = TRUE)
  }
  measure(text$label, grid::grobHeight) + measure("gjpqyQ", grid::grobDescent) +
    (text$above + text$below) / 72.27
}

# Margins and words have their size, and the maps what is left, in their shape.
paper_layout <- function(plan, at, texts) {
  points <- function(v) v / 72.27
  size <- at$text
  strip <- if (is.null(plan$panels)) 0 else max(vapply(plan$panels, function(label) {
    text_height(utils::modifyList(texts$strip, list(label = label)))
  }, 0))
  gap <- points(size + at$under_each * 72.27)
  shape <- (at$frame[["y1"]] - at$frame[["y0"]]) / (at$frame[["x1"]] - at$frame[["x0"]])
  last <- c(rep(gap, at$rows - 1L), 0)
  maps <- as.vector(rbind(strip, shape, last))
  heights <- c(
    points(size), text_height(texts$title), text_height(texts$subtitle), maps,
    text_height(texts$caption), points(size)
  )
  rows <- c(rep("inches", 3), rep(c("inches", "null", "inches"), at$rows), rep("inches", 2))
  columns <- as.vector(rbind(1, c(rep(points(size), at$columns - 1L), 0)))
  widths <- c(points(size), columns, at$right + points(size))
  units <- c("inches", rep(c("null", "inches"), at$columns), "inches")
  grid::grid.layout(
    length(heights), length(widths), grid::unit(widths, units), grid::unit(heights, rows),
    respect = TRUE
  )
}

# A text at the top left of its row, across all maps or above one.
draw_row <- function(text) {
  grid::pushViewport(grid::viewport(
    layout.pos.row = text$row, layout.pos.col = text$columns, clip = "off"
  ))
  grid::grid.text(
    text$label, grid::unit(0, "npc"), grid::unit(1, "npc") - inch(text$above / 72.27),
    hjust = 0, vjust = 1, gp = text$gp
  )
  grid::popViewport()
}

strip_text <- function(plan, at, texts, panel) {
  cell <- panel_cell(at, panel)
  own <- list(label = plan$panels[panel], row = cell$row - 1L, columns = cell$column)
  utils::modifyList(texts$strip, own)
}

# Row and column of a map in the layout.
panel_cell <- function(at, panel) {
  list(
    row = 3L + 3L * ((panel - 1L) %/% at$columns) + 2L,
    column = 2L + 2L * ((panel - 1L) %% at$columns)
  )
}

draw_panel <- function(pieces, plan, at, panel) {
  cell <- panel_cell(at, panel)
  frame <- at$frame
  wide <- frame[["x1"]] - frame[["x0"]]
  tall <- frame[["y1"]] - frame[["y0"]]
  place <- function(p) list(x = (p$x - frame[["x0"]]) / wide, y = (p$y - frame[["y0"]]) / tall)
  grid::pushViewport(grid::viewport(
    layout.pos.row = cell$row, layout.pos.col = cell$column, clip = "off"
  ))
  for (piece in pieces) {
    data <- piece$data
    if (!is.null(data$panel)) data <- data[as.integer(data$panel) == panel, , drop = FALSE]
    if (nrow(data)) grid::grid.draw(piece$draw(data, place, panel))
  }
  grid::popViewport()
}
