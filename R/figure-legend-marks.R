# Parts of a legend for symbols and lines: sizes, widths, strokes.

# Symbols of round values standing on one line, each with a leader to its label; then the colours.
legend_symbols <- function(layer, pen, per_unit, strip) {
  if (!is.null(layer$legend_note)) return(legend_title(layer$legend, pen, layer$legend_note))
  if (layer$plain && is.null(layer$key)) return(plain_mark(layer, pen, per_unit))
  title <- legend_title(layer$legend, pen)
  r <- layer$sizes$r * per_unit
  if (!length(r)) return(title)
  drawn <- if (layer$plain) {
    title
  } else if (is.null(layer$bar)) {
    nested_sizes(layer, pen, title$top, r)
  } else {
    bar_row(layer, pen, title$top, per_unit)
  }
  pen$top <- drawn$top
  halves <- if (!is.null(layer$second)) {
    list(
      legend = NULL, labels = layer$second$labels,
      colours = c(layer$colour, layer$second$colour), opacity = layer$opacity,
      no_data = list(count = 0)
    )
  }
  if (layer$plain) {
    drawn$grobs <- NULL
  } else {
    pen$top <- pen$top - 0.4 * pen$line
  }
  if (is.null(layer$key) && is.null(halves)) {
    return(list(grobs = c(title$grobs, drawn$grobs), top = pen$top))
  }
  key <- halves %||% c(layer$key, list(opacity = layer$opacity))
  # One title is enough for sizes and colours of one variable.
  if (identical(key$legend, layer$legend)) key$legend <- NULL
  key <- legend_swatches(key, pen)
  list(grobs = c(title$grobs, drawn$grobs, key$grobs), top = key$top)
}

# One symbol with the name of the layer, where all are alike.
plain_mark <- function(layer, pen, per_unit) {
  outline <- layer$outline %||% circle_outline(60L)
  r <- layer$sizes$r * per_unit
  if (!length(r) || is.null(layer$legend)) return(list(grobs = list(), top = pen$top))
  # No larger than a line of words has room for.
  r <- min(r, pen$line / diff(range(outline$y)))
  label <- pen_wrap(layer$legend, pen$width - 0.3 * pen$unit, pen)
  y <- pen$top - 0.5 * length(label) * pen$line
  middle <- pen$left + 0.12 * pen$unit
  list(
    grobs = list(
      grid::polygonGrob(
        inch(middle + r * outline$x),
        inch(y + r * (outline$y - mean(range(outline$y)))),
        gp = grid::gpar(fill = size_fill(layer, pen), col = layer$rim, lwd = 0.8)
      ),
      words_grob(paste(label, collapse = "\n"), pen$left + 0.3 * pen$unit, y, pen)
    ),
    top = pen$top - (0.2 + 0.8 * length(label)) * pen$line
  )
}

size_fill <- function(layer, pen) {
  if (is.null(layer$key) && is.null(layer$second)) {
    grDevices::adjustcolor(layer$colour, alpha.f = layer$opacity)
  } else {
    pen$ink$faint
  }
}

nested_sizes <- function(layer, pen, top, r) {
  outline <- layer$outline %||% circle_outline(60L)
  low <- min(outline$y)
  high <- max(outline$y)
  largest <- max(r)
  base <- top - (high - low) * largest - 0.2 * pen$line
  middle <- pen$left + largest * max(outline$x)
  tip <- base + (high - low) * r
  # Labels keep a line's distance where symbols are small.
  label_y <- tip
  for (i in rev(seq_along(r))[-1]) {
    label_y[i] <- max(label_y[i], label_y[i + 1] + 0.8 * pen$line)
  }
  up <- max(0, max(label_y) + 0.4 * pen$line - top)
  k <- length(outline$x)
  edge <- middle + largest * max(outline$x) + 0.12 * pen$unit
  list(
    grobs = list(
      grid::polygonGrob(
        inch(middle + rep(r, each = k) * outline$x),
        inch(base - up + rep(r, each = k) * (outline$y - low)),
        id = rep(seq_along(r), each = k),
        gp = grid::gpar(fill = size_fill(layer, pen), col = layer$rim, lwd = 0.8)
      ),
      grid::segmentsGrob(
        inch(middle),
        inch(tip - up),
        inch(edge),
        inch(label_y - up),
        gp = grid::gpar(col = pen$ink$faint, lwd = 0.6)
      ),
      words_grob(layer$sizes$labels, edge + 0.05 * pen$unit, label_y - up, pen)
    ),
    top = base - up - 0.2 * pen$line
  )
}

bar_row <- function(layer, pen, top, per_unit) {
  high <- layer$bar$marks * per_unit
  wide <- layer$bar$width * per_unit
  base <- top - max(high) - 0.2 * pen$line
  room <- max(nchar(layer$sizes$labels), 3) * 0.55 * pen$size / 72.27 + 0.1 * pen$unit
  x <- pen$left + (seq_along(high) - 0.5) * room
  list(
    grobs = list(
      grid::rectGrob(
        inch(x),
        inch(base),
        inch(wide),
        inch(high),
        vjust = 0,
        gp = grid::gpar(fill = size_fill(layer, pen), col = layer$rim, lwd = 0.8)
      ),
      words_grob(layer$sizes$labels, x, base - 0.5 * pen$line, pen, just = 0.5)
    ),
    top = base - pen$line
  )
}

# A stroke with its name; with widths by value a stroke for each mark; then the colours.
legend_lines <- function(layer, pen, per_unit, strip) {
  if (!is.null(layer$legend_note)) return(legend_title(layer$legend, pen, layer$legend_note))
  part <- if (is.null(layer$widths)) one_stroke(layer, pen) else width_strokes(layer, pen)
  if (is.null(layer$key)) return(part)
  key <- legend_swatches(layer$key, move_pen(pen, pen$left, part$top - 0.4 * pen$line))
  list(grobs = c(part$grobs, key$grobs), top = key$top)
}

one_stroke <- function(layer, pen) {
  label <- pen_wrap(layer$legend, pen$width - 0.44 * pen$unit, pen)
  y <- pen$top - 0.5 * length(label) * pen$line
  list(
    grobs = stroke_grobs(layer, max(layer$width), paste(label, collapse = "\n"), y, pen),
    top = pen$top - (0.7 + 0.8 * (length(label) - 1)) * pen$line
  )
}

# A stroke for each mark of widths by value.
width_strokes <- function(layer, pen) {
  title <- legend_title(layer$legend, pen)
  marks <- layer$widths
  tall <- pmax(pen$line, marks$width / 96 * 1.3)
  y <- title$top - cumsum(tall) + tall / 2
  strokes <- lapply(seq_along(y), function(i) {
    stroke_grobs(layer, marks$width[i], marks$labels[i], y[i], pen)
  })
  list(grobs = c(title$grobs, unlist(strokes, recursive = FALSE)), top = title$top - sum(tall))
}

# A stroke of so many CSS pixels with its label.
stroke_grobs <- function(layer, width, label, y, pen) {
  right <- pen$left + 0.32 * pen$unit
  stroke <- function(gp, arrow = NULL) {
    grid::segmentsGrob(inch(pen$left), inch(y), inch(right), inch(y), arrow = arrow, gp = gp)
  }
  casing <- if (is.null(layer$casing)) {
    grid::nullGrob()
  } else {
    stroke(grid::gpar(col = layer$casing, lwd = width + casing_width))
  }
  line <- grid::gpar(
    col = if (is.null(layer$key)) layer$colour else pen$ink$soft,
    fill = layer$colour,
    lwd = width,
    lty = line_type(layer$dash) %||% "solid",
    lineend = "butt"
  )
  list(
    casing,
    stroke(line, if (layer$arrow) arrow_head(width)),
    words_grob(label, pen$left + 0.44 * pen$unit, y, pen)
  )
}
