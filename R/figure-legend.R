# The legend of a figure, drawn with grid in the right margin. It is laid out when it is drawn,
# because only then the size of the map on paper is known, and the circles must have its scale.

legend_inches <- 2.1

legend_grob <- function(plan, base_size) {
  grid::gTree(layers = plan$layers, frame = plan$frame, base_size = base_size, cl = "ochre_legend")
}

#' @exportS3Method grid::makeContent
makeContent.ochre_legend <- function(x) {
  width <- grid::convertWidth(grid::unit(1, "npc"), "inches", valueOnly = TRUE)
  height <- grid::convertHeight(grid::unit(1, "npc"), "inches", valueOnly = TRUE)
  per_unit <- width / (x$frame[["x1"]] - x$frame[["x0"]])
  pen <- list(left = width + 0.22, top = height, line = x$base_size * 1.55 / 72.27, size = 0.88 * x$base_size)
  grobs <- list()
  for (layer in x$layers) {
    if (is.null(layer$legend)) next
    part <- switch(layer$kind,
      areas = if (is.null(layer$square)) legend_areas(layer, pen) else legend_square(layer, pen), symbols = legend_symbols(layer, pen, per_unit), lines = legend_line(layer, pen))
    grobs <- c(grobs, part$grobs)
    pen$top <- part$top - 0.7 * pen$line
  }
  grid::setChildren(x, do.call(grid::gList, grobs))
}

inch <- function(v) grid::unit(v, "inches")

words_grob <- function(label, x, y, pen, bold = FALSE, hjust = 0, colour = ink_colour("line")) {
  grid::textGrob(label, inch(x), inch(y), hjust = hjust, vjust = 0.5,
                 gp = grid::gpar(fontsize = pen$size, fontface = if (bold) "bold" else "plain", col = colour, lineheight = 1.05))
}

legend_title <- function(text, pen) {
  lines <- strwrap(text, width = 26)
  list(grobs = lapply(seq_along(lines), function(i) words_grob(lines[i], pen$left, pen$top - (i - 0.5) * 0.85 * pen$line, pen, bold = TRUE)),
       top = pen$top - length(lines) * 0.85 * pen$line - 0.25 * pen$line)
}

# Swatch, label, count: one row a class, as the page has it.
legend_areas <- function(layer, pen) {
  title <- legend_title(layer$legend, pen)
  lost <- if (layer$no_data$count) layer$no_data
  colours <- c(layer$colours, lost$colour)
  labels <- c(layer$labels, lost$label)
  counts <- c(layer$count_labels, lost$count_label)
  # A long label takes two lines or more.
  labels <- vapply(labels, function(label) paste(strwrap(label, 21), collapse = "\n"), "", USE.NAMES = FALSE)
  tall <- 1 + 0.72 * lengths(regmatches(labels, gregexpr("\n", labels)))
  y <- title$top - (cumsum(tall) - tall / 2) * pen$line
  hatched <- if (!is.null(layer$hatch)) hatch_swatch(pen$left, y[layer$hatch$class], 0.26, 0.86 * pen$line, layer$hatch$colour)
  grobs <- c(
    list(grid::rectGrob(inch(pen$left), inch(y), inch(0.26), inch(0.86 * pen$line), hjust = 0, gp = grid::gpar(fill = colours, col = NA))), hatched,
    list(words_grob(labels, pen$left + 0.35, y, pen), words_grob(counts, pen$left + legend_inches - 0.4, y, pen, hjust = 1, colour = "grey45"))
  )
  list(grobs = c(title$grobs, grobs), top = title$top - sum(tall) * pen$line)
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
  side <- min(2.2 * pen$line, (legend_inches - 0.97) / 3)
  wrapped <- function(text) paste(strwrap(paste(text, "\u2192"), width = 24), collapse = "\n")
  left <- pen$left + 0.55
  base <- pen$top - n * side - 0.1 * pen$line
  at <- expand.grid(first = seq_len(n), second = seq_len(n))
  x <- left + (at$second - 0.5) * side
  y <- base + (at$first - 0.5) * side
  dark <- contrast_ratio(layer$colours, "#FFFFFF") >= 4.5
  small <- pen
  small$size <- 0.85 * pen$size
  ends <- (0:n) * side
  grobs <- list(
    grid::rectGrob(inch(x), inch(y), inch(side), inch(side), gp = grid::gpar(fill = layer$colours, col = "white", lwd = 1)),
    words_grob(layer$count_labels, x, y, small, hjust = 0.5, colour = ifelse(dark, "white", "black")),
    words_grob(square$second, left + ends, base - 0.45 * pen$line, small, hjust = 0.5),
    words_grob(square$first, left - 0.06, base + ends, small, hjust = 1),
    grid::textGrob(wrapped(square$titles[2]), inch(left), inch(base - 0.95 * pen$line), hjust = 0, vjust = 1, gp = grid::gpar(fontsize = pen$size, fontface = "bold", col = ink_colour("line"), lineheight = 1)),
    grid::textGrob(wrapped(square$titles[1]), inch(pen$left), inch(base), hjust = 0, vjust = 1, rot = 90, gp = grid::gpar(fontsize = pen$size, fontface = "bold", col = ink_colour("line"), lineheight = 1))
  )
  top <- base - (1.2 + 0.9 * (1 + nchar(square$titles[2]) %/% 24)) * pen$line
  if (layer$no_data$count) {
    y <- top - 0.5 * pen$line
    grobs <- c(grobs, list(
      grid::rectGrob(inch(pen$left), inch(y), inch(0.26), inch(0.86 * pen$line), hjust = 0, gp = grid::gpar(fill = layer$no_data$colour, col = NA)),
      words_grob(layer$no_data$label, pen$left + 0.35, y, pen), words_grob(layer$no_data$count_label, pen$left + legend_inches - 0.4, y, pen, hjust = 1, colour = "grey45")))
    top <- top - pen$line
  }
  list(grobs = grobs, top = top)
}

# Nested circles standing on one line, each with a leader to its label.
legend_symbols <- function(layer, pen, per_unit) {
  title <- legend_title(layer$legend, pen)
  r <- layer$sizes$r * per_unit
  if (!length(r)) return(title)
  middle <- pen$left + max(r)
  base <- title$top - 2 * max(r) - 0.2 * pen$line
  top <- base + 2 * r
  # Labels keep a line's distance where circles are small.
  label_y <- top
  for (i in rev(seq_along(r))[-1]) label_y[i] <- max(label_y[i], label_y[i + 1] + 0.8 * pen$line)
  gp <- grid::gpar(fill = if (is.null(layer$key)) symbol_fill(layer$colour, layer) else "grey85", col = "white", lwd = 0.8)
  edge <- pen$left + 2 * max(r) + 0.12
  grobs <- list(
    grid::circleGrob(inch(middle), inch(base + r), inch(r), gp = gp),
    grid::segmentsGrob(inch(middle), inch(top), inch(edge), inch(label_y), gp = grid::gpar(col = "grey55", lwd = 0.6)),
    words_grob(layer$sizes$labels, edge + 0.05, label_y, pen)
  )
  top <- base - 0.2 * pen$line
  if (is.null(layer$key)) return(list(grobs = c(title$grobs, grobs), top = top))
  pen$top <- top - 0.4 * pen$line
  key <- legend_areas(layer$key, pen)
  list(grobs = c(title$grobs, grobs, key$grobs), top = key$top)
}

legend_line <- function(layer, pen) {
  y <- pen$top - 0.5 * pen$line
  grobs <- list(
    grid::segmentsGrob(inch(pen$left), inch(y), inch(pen$left + 0.3), inch(y),
                       gp = grid::gpar(col = layer$colour, lwd = layer$width * 96 / 72.27, lty = if (layer$dash) "33" else "solid", lineend = "butt")),
    words_grob(layer$legend, pen$left + 0.38, y, pen)
  )
  list(grobs = grobs, top = pen$top - 0.7 * pen$line)
}
