# The legend of two variables: a square of colours with breaks along two sides.

# A field for each pair of classes with its count, breaks along the sides, the first variable
# upward.
legend_square <- function(layer, pen) {
  square <- layer$square
  n <- square$n
  side <- min(2.2 * pen$line, (pen$width - 0.57 * pen$unit) / 3)
  left <- pen$left + 0.55 * pen$unit
  base <- pen$top - n * side - 0.1 * pen$line
  titles <- wrap_labels(paste(square$titles, "\u2192"), 3 * side * 1.35, pen)
  bold <- grid::gpar(fontsize = pen$size, fontface = "bold", col = pen$ink$text, lineheight = 1)
  title <- function(label, x, y, turn) {
    grid::textGrob(label, inch(x), inch(y), hjust = 0, vjust = 1, rot = turn, gp = bold)
  }
  grobs <- c(
    square_fields(layer, side, left, base, pen),
    square_ticks(square, side, left, base, pen),
    list(title(titles[2], left, base - 0.95 * pen$line, 0), title(titles[1], pen$left, base, 90))
  )
  top <- base - (1.2 + 0.9 * (1 + line_breaks(titles[2]))) * pen$line
  if (!layer$no_data$count) return(list(grobs = grobs, top = top))
  lost <- legend_swatches(list(no_data = layer$no_data), move_pen(pen, pen$left, top))
  list(grobs = c(grobs, lost$grobs), top = lost$top)
}

# A field for each pair of classes, with its count.
square_fields <- function(layer, side, left, base, pen) {
  n <- layer$square$n
  at <- expand.grid(first = seq_len(n), second = seq_len(n))
  x <- left + (at$second - 0.5) * side
  y <- base + (at$first - 0.5) * side
  fields <- grid::rectGrob(
    inch(x),
    inch(y),
    inch(side),
    inch(side),
    gp = grid::gpar(fill = layer$colours, col = pen$ink$rim, lwd = 1)
  )
  if (!pen$style$counts) return(list(fields))
  dark <- contrast_ratio(layer$colours, "#FFFFFF") >= 4.5
  ink <- ifelse(dark, "white", "black")
  counts <- words_grob(layer$count_labels, x, y, small_pen(pen), just = 0.5, colour = ink)
  list(fields, counts)
}

# Breaks along both sides.
square_ticks <- function(square, side, left, base, pen) {
  ends <- (0:square$n) * side
  small <- small_pen(pen)
  list(
    words_grob(square$second, left + ends, base - 0.45 * pen$line, small, just = 0.5),
    words_grob(square$first, left - 0.06 * pen$unit, base + ends, small, just = 1)
  )
}
