# The parts of a figure's legend: one function a kind. Each draws below `pen$top` and says where
# the next one may begin.

# The entries of a layer or key: its classes, and what has no value, if there is any.
legend_entries <- function(layer) {
  lost <- if (isTRUE(layer$no_data$count > 0)) layer$no_data
  # What shines through on the map does so here.
  colours <- c(layer$colours, lost$colour)
  if (!is.null(layer$opacity) && length(colours)) {
    colours <- grDevices::adjustcolor(colours, alpha.f = layer$opacity)
  }
  list(
    colours = colours,
    labels = c(layer$labels, lost$label),
    counts = c(layer$count_labels %||% rep("", length(layer$colours)), lost$count_label)
  )
}

# Swatch, label, count: one row a class, as the page has it.
legend_swatches <- function(layer, pen) {
  # One class of the same name needs no title.
  if (identical(as.character(layer$labels), layer$legend)) layer["legend"] <- list(NULL)
  title <- legend_title(layer$legend, pen, layer$legend_note)
  pen$top <- title$top
  bars <- if (pen$style$histogram && !is.null(layer$histogram)) legend_histogram(layer, pen)
  top <- bars$top %||% title$top
  e <- legend_entries(layer)
  if (!length(e$colours)) return(list(grobs = c(title$grobs, bars$grobs), top = top))
  # A long label takes two lines or more.
  labels <- vapply(
    e$labels,
    function(label) paste(pen_wrap(label, pen$width - 0.72 * pen$unit, pen), collapse = "\n"),
    "",
    USE.NAMES = FALSE
  )
  tall <- 1 + 0.72 * lengths(regmatches(labels, gregexpr("\n", labels)))
  y <- top - (cumsum(tall) - tall / 2) * pen$line
  box <- 0.26 * pen$unit
  hatched <- if (!is.null(layer$hatch)) {
    hatch_swatch(pen$left, y[layer$hatch$class], box, 0.86 * pen$line, layer$hatch$colour)
  }
  grobs <- c(
    list(grid::rectGrob(
      inch(pen$left),
      inch(y),
      inch(box),
      inch(0.86 * pen$line),
      hjust = 0,
      gp = grid::gpar(fill = e$colours, col = NA)
    )),
    hatched,
    list(words_grob(labels, pen$left + box + 0.09 * pen$unit, y, pen)),
    if (pen$style$counts) {
      list(words_grob(e$counts, pen$left + pen$width, y, pen, just = 1, colour = pen$ink$soft))
    }
  )
  list(grobs = c(title$grobs, bars$grobs, grobs), top = top - sum(tall) * pen$line)
}

# Bars of the values in the colours of their classes, with the ends of the axis.
legend_histogram <- function(layer, pen) {
  h <- layer$histogram
  base <- pen$top - 2.6 * pen$line
  colours <- c(layer$no_data$colour %||% pen$ink$faint, layer$colours)[h$class + 1L]
  cell <- pen$width / length(h$counts)
  drawn <- which(h$counts > 0)
  bars <- grid::rectGrob(
    inch(pen$left + (drawn - 1) * cell),
    inch(base),
    inch(cell * 0.94),
    inch(pmax(0.01, h$counts[drawn] * 2.3 * pen$line)),
    hjust = 0,
    vjust = 0,
    gp = grid::gpar(fill = colours[drawn], col = NA)
  )
  list(grobs = c(list(bars), histogram_axis(h, pen, base)), top = base - 1.3 * pen$line)
}

# The line under the bars, the breaks, and what stands at both ends.
histogram_axis <- function(h, pen, base) {
  breaks <- pen$left + h$breaks[h$breaks >= 0 & h$breaks <= 1] * pen$width
  small <- pen
  small$size <- 0.85 * pen$size
  stroke <- function(x0, y0, x1, y1, colour, width) {
    grid::segmentsGrob(
      inch(x0),
      inch(y0),
      inch(x1),
      inch(y1),
      gp = grid::gpar(col = colour, lwd = width)
    )
  }
  list(
    stroke(pen$left, base, pen$left + pen$width, base, pen$ink$soft, 0.6),
    if (length(breaks)) {
      stroke(breaks, base, breaks, base - 0.25 * pen$line, pen$ink$text, 0.8)
    } else {
      grid::nullGrob()
    },
    words_grob(
      h$ends,
      pen$left + c(0, pen$width),
      base - 0.62 * pen$line,
      small,
      just = c(0, 1),
      colour = pen$ink$soft
    )
  )
}

# Classes beside each other in one strip, label and count below each; those without a colour of
# the ramp stand apart.
legend_strip <- function(layer, pen) {
  title <- legend_title(layer$legend, pen, layer$legend_note)
  pen$top <- title$top
  e <- legend_entries(layer)
  cell <- strip_cell(layer, pen)
  if (!length(e$colours)) return(title)
  if (length(e$colours) * cell > pen$width + 0.01) return(legend_swatches(layer, pen))
  stepped <- length(layer$colours) - if (is.null(layer$hatch)) 0 else 1
  # The entries that are no step of the ramp keep a little distance.
  apart <- ifelse(seq_along(e$colours) > stepped, 0.1 * pen$unit, 0)
  x <- pen$left + (seq_along(e$colours) - 1) * cell + apart
  full <- pen
  full$width <- stepped * cell
  bars <- if (pen$style$histogram && !is.null(layer$histogram)) legend_histogram(layer, full)
  strip <- strip_grobs(layer, e, x, cell, bars$top %||% title$top, pen)
  list(grobs = c(title$grobs, bars$grobs, strip$grobs), top = strip$top)
}

# The fields of a strip at `x`, with label and count below each.
strip_grobs <- function(layer, entries, x, cell, top, pen) {
  high <- 0.8 * pen$line
  fields <- grid::rectGrob(
    inch(x),
    inch(top),
    inch(cell),
    inch(high),
    hjust = 0,
    vjust = 1,
    gp = grid::gpar(fill = entries$colours, col = NA)
  )
  hatched <- if (!is.null(layer$hatch)) {
    hatch_swatch(x[layer$hatch$class], top - high / 2, cell, high, layer$hatch$colour)
  }
  labels <- wrap_labels(entries$labels, cell * 0.98, pen)
  lines <- 1 + max(line_breaks(labels))
  y <- top - high - 0.12 * pen$line
  hanging <- pen
  hanging$vjust <- 1
  below <- function(label, y, colour) {
    words_grob(label, x + cell / 2, y, hanging, just = 0.5, colour = colour)
  }
  counts <- if (pen$style$counts) {
    list(below(entries$counts, y - lines * 0.72 * pen$line, pen$ink$soft))
  }
  list(
    grobs = c(list(fields), hatched, list(below(labels, y, pen$ink$text)), counts),
    top = y - (lines + length(counts)) * 0.75 * pen$line
  )
}

# Each label on as many lines as it needs, and how many breaks it has.
wrap_labels <- function(labels, width, pen) {
  one <- function(label) paste(pen_wrap(label, width, pen), collapse = "\n")
  vapply(labels, one, "", USE.NAMES = FALSE)
}
line_breaks <- function(text) lengths(regmatches(text, gregexpr("\n", text)))

# Wide enough for the labels; those of words take two lines.
strip_cell <- function(layer, pen) {
  longest <- max(nchar(legend_entries(layer)$labels), 4)
  if (longest > 14) longest <- max(12, longest / 2)
  (longest + 1.5) * 0.58 * pen$size / 72.27
}
strip_width <- function(layer, pen, most) {
  wanted <- length(legend_entries(layer)$labels) * strip_cell(layer, pen) + 0.1 * pen$unit
  if (wanted <= most) max(wanted, min(most, pen$width)) else min(most, pen$width * 1.3)
}

hatch_swatch <- function(left, middle, width, height, colour) {
  box <- data.frame(
    x = left + c(0, width, width, 0),
    y = middle + c(-1, -1, 1, 1) * height / 2,
    ring = 1
  )
  lines <- hatch_lines(box, 0.05)
  pen <- grid::gpar(col = colour, lwd = 0.8)
  list(
    grid::segmentsGrob(inch(lines$x), inch(lines$y), inch(lines$xend), inch(lines$yend), gp = pen),
    grid::rectGrob(
      inch(left),
      inch(middle),
      inch(width),
      inch(height),
      hjust = 0,
      gp = grid::gpar(fill = NA, col = colour, lwd = 0.5)
    )
  )
}

small_pen <- function(pen) {
  pen$size <- 0.85 * pen$size
  pen
}
