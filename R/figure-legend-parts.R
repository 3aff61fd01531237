# The parts of a figure's legend: one function a kind. Each draws below `pen$top` and says where the next one may begin.

# The entries of a layer or key: its classes, and what has no value, if there is any.
legend_entries <- function(layer) {
  lost <- if (isTRUE(layer$no_data$count > 0)) layer$no_data
  # What shines through on the map does so here.
  colours <- c(layer$colours, lost$colour)
  if (!is.null(layer$opacity) && length(colours)) colours <- grDevices::adjustcolor(colours, alpha.f = layer$opacity)
  list(colours = colours, labels = c(layer$labels, lost$label), counts = c(layer$count_labels %||% rep("", length(layer$colours)), lost$count_label))
}

# Swatch, label, count: one row a class, as the page has it.
legend_areas <- function(layer, pen) {
  title <- legend_title(layer$legend, pen, layer$legend_note)
  pen$top <- title$top
  bars <- if (pen$style$histogram && !is.null(layer$histogram)) legend_histogram(layer, pen)
  top <- bars$top %||% title$top
  e <- legend_entries(layer)
  if (!length(e$colours)) return(list(grobs = c(title$grobs, bars$grobs), top = top))
  # A long label takes two lines or more.
  labels <- vapply(e$labels, function(label) paste(pen_wrap(label, pen$width - 0.72 * pen$unit, pen), collapse = "\n"), "", USE.NAMES = FALSE)
  tall <- 1 + 0.72 * lengths(regmatches(labels, gregexpr("\n", labels)))
  y <- top - (cumsum(tall) - tall / 2) * pen$line
  box <- 0.26 * pen$unit
  hatched <- if (!is.null(layer$hatch)) hatch_swatch(pen$left, y[layer$hatch$class], box, 0.86 * pen$line, layer$hatch$colour)
  grobs <- c(
    list(grid::rectGrob(inch(pen$left), inch(y), inch(box), inch(0.86 * pen$line), hjust = 0, gp = grid::gpar(fill = e$colours, col = NA))), hatched,
    list(words_grob(labels, pen$left + box + 0.09 * pen$unit, y, pen)), if (pen$style$counts) list(words_grob(e$counts, pen$left + pen$width, y, pen, hjust = 1, colour = pen$ink$soft))
  )
  list(grobs = c(title$grobs, bars$grobs, grobs), top = top - sum(tall) * pen$line)
}

# Bars of the values in the colours of their classes, with the ends of the axis.
legend_histogram <- function(layer, pen) {
  h <- layer$histogram
  n <- length(h$counts)
  base <- pen$top - 2.6 * pen$line
  colours <- c(layer$no_data$colour %||% pen$ink$faint, layer$colours)[h$class + 1L]
  cell <- pen$width / n
  drawn <- which(h$counts > 0)
  small <- pen
  small$size <- 0.85 * pen$size
  breaks <- h$breaks[h$breaks >= 0 & h$breaks <= 1]
  list(grobs = list(
    grid::rectGrob(inch(pen$left + (drawn - 1) * cell), inch(base), inch(cell * 0.94), inch(pmax(0.01, h$counts[drawn] * 2.3 * pen$line)), hjust = 0, vjust = 0, gp = grid::gpar(fill = colours[drawn], col = NA)),
    grid::segmentsGrob(inch(pen$left), inch(base), inch(pen$left + pen$width), inch(base), gp = grid::gpar(col = pen$ink$soft, lwd = 0.6)),
    if (length(breaks)) grid::segmentsGrob(inch(pen$left + breaks * pen$width), inch(base), inch(pen$left + breaks * pen$width), inch(base - 0.25 * pen$line), gp = grid::gpar(col = pen$ink$text, lwd = 0.8)) else grid::nullGrob(),
    words_grob(h$ends, pen$left + c(0, pen$width), base - 0.62 * pen$line, small, hjust = c(0, 1), colour = pen$ink$soft)
  ), top = base - 1.3 * pen$line)
}

# Classes beside each other in one strip, label and count below each; those without a colour of the ramp stand apart.
legend_strip <- function(layer, pen) {
  title <- legend_title(layer$legend, pen, layer$legend_note)
  pen$top <- title$top
  e <- legend_entries(layer)
  cell <- strip_cell(layer, pen)
  if (!length(e$colours)) return(title)
  if (length(e$colours) * cell > pen$width + 0.01) return(legend_areas(layer, pen))
  stepped <- length(layer$colours) - if (is.null(layer$hatch)) 0 else 1
  # The entries that are no step of the ramp keep a little distance.
  x <- pen$left + (seq_along(e$colours) - 1) * cell + ifelse(seq_along(e$colours) > stepped, 0.1 * pen$unit, 0)
  full <- pen
  full$width <- stepped * cell
  bars <- if (pen$style$histogram && !is.null(layer$histogram)) legend_histogram(layer, full)
  top <- bars$top %||% title$top
  high <- 0.8 * pen$line
  hatched <- if (!is.null(layer$hatch)) hatch_swatch(x[layer$hatch$class], top - high / 2, cell, high, layer$hatch$colour)
  labels <- vapply(e$labels, function(label) paste(pen_wrap(label, cell * 0.98, pen), collapse = "\n"), "", USE.NAMES = FALSE)
  lines <- 1 + max(lengths(regmatches(labels, gregexpr("\n", labels))))
  y <- top - high - 0.12 * pen$line
  grobs <- c(list(grid::rectGrob(inch(x), inch(top), inch(cell), inch(high), hjust = 0, vjust = 1, gp = grid::gpar(fill = e$colours, col = NA))), hatched,
             list(words_grob(labels, x + cell / 2, y, pen, hjust = 0.5, vjust = 1)), if (pen$style$counts) list(words_grob(e$counts, x + cell / 2, y - lines * 0.72 * pen$line, pen, hjust = 0.5, vjust = 1, colour = pen$ink$soft)))
  list(grobs = c(title$grobs, bars$grobs, grobs), top = y - (lines + if (pen$style$counts) 1 else 0) * 0.75 * pen$line)
}

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
  box <- data.frame(x = left + c(0, width, width, 0), y = middle + c(-1, -1, 1, 1) * height / 2, ring = 1)
  lines <- hatch_lines(box, 0.05)
  pen <- grid::gpar(col = colour, lwd = 0.8)
  list(grid::segmentsGrob(inch(lines$x), inch(lines$y), inch(lines$xend), inch(lines$yend), gp = pen),
       grid::rectGrob(inch(left), inch(middle), inch(width), inch(height), hjust = 0, gp = grid::gpar(fill = NA, col = colour, lwd = 0.5)))
}

# A field for each pair of classes with its count, breaks along the sides, the first variable upward.
legend_square <- function(layer, pen) {
  square <- layer$square
  n <- square$n
  side <- min(2.2 * pen$line, (pen$width - 0.57 * pen$unit) / 3)
  wrapped <- function(text) paste(pen_wrap(paste(text, "\u2192"), 3 * side * 1.35, pen), collapse = "\n")
  left <- pen$left + 0.55 * pen$unit
  base <- pen$top - n * side - 0.1 * pen$line
  at <- expand.grid(first = seq_len(n), second = seq_len(n))
  x <- left + (at$second - 0.5) * side
  y <- base + (at$first - 0.5) * side
  dark <- contrast_ratio(layer$colours, "#FFFFFF") >= 4.5
  small <- pen
  small$size <- 0.85 * pen$size
  ends <- (0:n) * side
  bold <- grid::gpar(fontsize = pen$size, fontface = "bold", col = pen$ink$text, lineheight = 1)
  grobs <- list(
    grid::rectGrob(inch(x), inch(y), inch(side), inch(side), gp = grid::gpar(fill = layer$colours, col = pen$ink$rim, lwd = 1)),
    if (pen$style$counts) words_grob(layer$count_labels, x, y, small, hjust = 0.5, colour = ifelse(dark, "white", "black")) else grid::nullGrob(),
    words_grob(square$second, left + ends, base - 0.45 * pen$line, small, hjust = 0.5),
    words_grob(square$first, left - 0.06 * pen$unit, base + ends, small, hjust = 1),
    grid::textGrob(wrapped(square$titles[2]), inch(left), inch(base - 0.95 * pen$line), hjust = 0, vjust = 1, gp = bold),
    grid::textGrob(wrapped(square$titles[1]), inch(pen$left), inch(base), hjust = 0, vjust = 1, rot = 90, gp = bold)
  )
  top <- base - (1.2 + 0.9 * (1 + lengths(regmatches(wrapped(square$titles[2]), gregexpr("\n", wrapped(square$titles[2])))))) * pen$line
  if (!layer$no_data$count) return(list(grobs = grobs, top = top))
  lost <- legend_areas(list(legend = NULL, colours = character(), labels = character(), count_labels = character(), no_data = layer$no_data), move_pen(pen, pen$left, top))
  list(grobs = c(grobs, lost$grobs), top = lost$top)
}

# Symbols of round values standing on one line, each with a leader to its label; then the colours.
legend_symbols <- function(layer, pen, per_unit) {
  title <- legend_title(layer$legend, pen)
  r <- layer$sizes$r * per_unit
  if (!length(r)) return(title)
  drawn <- if (is.null(layer$bar)) nested_sizes(layer, pen, title$top, r) else bar_row(layer, pen, title$top, per_unit)
  pen$top <- drawn$top
  halves <- if (!is.null(layer$second)) list(legend = NULL, labels = layer$second$labels, colours = c(layer$colour, layer$second$colour), opacity = layer$opacity, no_data = list(count = 0))
  if (is.null(layer$key) && is.null(halves)) return(list(grobs = c(title$grobs, drawn$grobs), top = pen$top))
  pen$top <- pen$top - 0.4 * pen$line
  key <- halves %||% c(layer$key, list(opacity = layer$opacity))
  # One title is enough for sizes and colours of one variable.
  if (identical(key$legend, layer$legend)) key$legend <- NULL
  key <- legend_areas(key, pen)
  list(grobs = c(title$grobs, drawn$grobs, key$grobs), top = key$top)
}

size_fill <- function(layer, pen) if (is.null(layer$key) && is.null(layer$second)) grDevices::adjustcolor(layer$colour, alpha.f = layer$opacity) else pen$ink$faint

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
  for (i in rev(seq_along(r))[-1]) label_y[i] <- max(label_y[i], label_y[i + 1] + 0.8 * pen$line)
  up <- max(0, max(label_y) + 0.4 * pen$line - top)
  k <- length(outline$x)
  edge <- middle + largest * max(outline$x) + 0.12 * pen$unit
  list(grobs = list(
    grid::polygonGrob(inch(middle + rep(r, each = k) * outline$x), inch(base - up + rep(r, each = k) * (outline$y - low)), id = rep(seq_along(r), each = k), gp = grid::gpar(fill = size_fill(layer, pen), col = layer$rim, lwd = 0.8)),
    grid::segmentsGrob(inch(middle), inch(tip - up), inch(edge), inch(label_y - up), gp = grid::gpar(col = pen$ink$faint, lwd = 0.6)),
    words_grob(layer$sizes$labels, edge + 0.05 * pen$unit, label_y - up, pen)
  ), top = base - up - 0.2 * pen$line)
}

bar_row <- function(layer, pen, top, per_unit) {
  high <- layer$bar$marks * per_unit
  wide <- layer$bar$width * per_unit
  base <- top - max(high) - 0.2 * pen$line
  room <- max(nchar(layer$sizes$labels), 3) * 0.55 * pen$size / 72.27 + 0.1 * pen$unit
  x <- pen$left + (seq_along(high) - 0.5) * room
  list(grobs = list(
    grid::rectGrob(inch(x), inch(base), inch(wide), inch(high), vjust = 0, gp = grid::gpar(fill = size_fill(layer, pen), col = layer$rim, lwd = 0.8)),
    words_grob(layer$sizes$labels, x, base - 0.5 * pen$line, pen, hjust = 0.5)
  ), top = base - pen$line)
}

# A stroke with its name; with widths by value a stroke for each mark; then the colours.
legend_lines <- function(layer, pen) {
  strokes <- function(width, label, y) list(
    if (!is.null(layer$casing)) grid::segmentsGrob(inch(pen$left), inch(y), inch(pen$left + 0.32 * pen$unit), inch(y), gp = grid::gpar(col = layer$casing, lwd = (width + 2.5) * 96 / 72.27)) else grid::nullGrob(),
    grid::segmentsGrob(inch(pen$left), inch(y), inch(pen$left + 0.32 * pen$unit), inch(y), arrow = if (layer$arrow) grid::arrow(angle = 24, type = "closed", length = grid::unit(3 + 1.8 * width, "bigpts")),
                       gp = grid::gpar(col = if (is.null(layer$key)) layer$colour else pen$ink$soft, fill = layer$colour, lwd = width * 96 / 72.27, lty = if (layer$dash) "33" else "solid", lineend = "butt")),
    words_grob(label, pen$left + 0.44 * pen$unit, y, pen))
  if (is.null(layer$widths)) {
    label <- pen_wrap(layer$legend, pen$width - 0.44 * pen$unit, pen)
    part <- list(grobs = strokes(max(layer$width), paste(label, collapse = "\n"), pen$top - 0.5 * length(label) * pen$line), top = pen$top - (0.7 + 0.8 * (length(label) - 1)) * pen$line)
  } else {
    title <- legend_title(layer$legend, pen)
    tall <- pmax(pen$line, layer$widths$width / 72.27 * 1.3)
    y <- title$top - cumsum(tall) + tall / 2
    part <- list(grobs = c(title$grobs, unlist(lapply(seq_along(y), function(i) strokes(layer$widths$width[i], layer$widths$labels[i], y[i])), recursive = FALSE)), top = title$top - sum(tall))
  }
  if (is.null(layer$key)) return(part)
  key <- legend_areas(layer$key, move_pen(pen, pen$left, part$top - 0.4 * pen$line))
  list(grobs = c(part$grobs, key$grobs), top = key$top)
}
