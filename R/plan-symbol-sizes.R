# How large symbols are: in proportion to their values, the largest as large as they can be told
# apart, with round marks for the legend.

# `amount` has `whole`, the values, and `half`, of split circles those of the other half. Gives
# `r`, the radii, `half`, those of the other half, and `marks` with `labels`, for the legend.
symbol_sizes <- function(layer, amount, place, panel, map, setting) {
  n <- length(amount$whole)
  if (!n) return(list(r = numeric(), marks = numeric(), labels = character()))
  grow <- if (layer$shape == "bar") 0.5 else symbol_scales[[layer$scale]]
  split <- !is.null(layer$second)
  value <- c(amount$whole, if (split) ifelse(is.na(amount$half), 0, amount$half))
  followed <- sizes_of(value, layer$size_steps, layer$format, setting$locale)
  relative <- (followed$value / followed$top)^grow
  first <- relative[seq_len(n)]
  other <- if (split) relative[n + seq_len(n)]
  largest <- largest_radius(pmax(first, other %||% 0), place, panel, layer$overlap, map$frame)
  list(
    r = first * largest,
    half = if (split) other * largest,
    marks = largest * (followed$marks / followed$top)^grow,
    labels = followed$labels
  )
}

# The largest radius at which symbols are told apart. Those of different panels do not meet; the
# fullest panel decides.
largest_radius <- function(relative, place, panel, overlap, frame) {
  side <- sqrt((frame[["x1"]] - frame[["x0"]]) * (frame[["y1"]] - frame[["y0"]]))
  groups <- if (is.null(panel)) list(seq_along(relative)) else split(seq_along(relative), panel)
  share <- if (overlap == "order") 0.03 else 0.12
  most <- function(i) {
    call_core(largest_radius_core(
      place$x[i], place$y[i], relative[i], 0.01 * side, 0.045 * side, share
    ))
  }
  min(vapply(groups, most, 0))
}

# The sizes as the plan has them.
size_fields <- function(sizes, layer, setting) {
  out <- list(
    r = sizes$r,
    sizes = list(labels = sizes$labels, r = sizes$marks),
    outline = symbol_outlines[[layer$shape]]
  )
  if (layer$shape == "bar" && length(sizes$r)) out$bar <- bar_sizes(sizes$r, sizes$marks)
  if (!is.null(sizes$half)) {
    out$second <- list(
      r = sizes$half,
      colour = ink_colour("second", setting$ground),
      labels = words_of(c(layer$size, layer$second))
    )
  }
  out
}

# Bars of one width, as large as the circles would be, so that the height is in proportion to the
# value; the tallest is nine times as high as wide.
bar_sizes <- function(r, marks) {
  width <- max(r) * sqrt(pi / 9)
  list(width = width, height = pi * r^2 / width, marks = pi * marks^2 / width)
}

# Round values for the legend's circles: the largest 1, 2 or 5 times a power of ten that occurs,
# then about a third and a tenth of it.
round_sizes <- function(top) {
  round_down <- function(v) {
    unit <- 10^floor(log10(v))
    unit * max(c(1, 2, 5)[c(1, 2, 5) * unit <= v * (1 + 1e-12)])
  }
  unique(c(round_down(top), round_down(top / 3.5), round_down(top / 12)))
}
