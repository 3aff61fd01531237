# How large symbols are: in proportion to their values, the largest as large as they can be told
# apart, with round marks for the legend.

# `amount` has `whole`, the values, and `half`, of split circles those of the other half. Gives
# `r`, the radii, `half`, those of the other half, and `marks` with `labels`, for the legend.
symbol_sizes <- function(layer, amount, place, panel, map, setting) {
  n <- length(amount$whole)
  if (!n) return(list(r = numeric(), marks = numeric(), labels = character()))
  if (is.null(layer$size)) return(plain_sizes(layer, place, panel, map))
  grow <- if (layer$shape == "bar") 0.5 else symbol_scales[[layer$scale]]
  split <- !is.null(layer$second)
  value <- c(amount$whole, if (split) ifelse(is.na(amount$half), 0, amount$half))
  followed <- if (is.null(layer$sizes) && is.null(layer$span)) {
    sizes_of(value, layer, layer$size_steps, setting$locale)
  } else {
    spanned_sizes(value, layer, setting$locale)
  }
  least <- (followed$least %||% 0)^(1 / grow)
  shrunk <- function(v) (least + (1 - least) * v / followed$top)^grow
  relative <- shrunk(followed$value)
  relative[value == 0] <- 0
  first <- relative[seq_len(n)]
  other <- if (split) relative[n + seq_len(n)]
  largest <- if (is.null(layer$sizes)) {
    largest_radius(pmax(first, other %||% 0), place, panel, layer$overlap, map$frame)
  } else {
    radius_of(layer$sizes[2], map$frame)
  }
  list(
    r = first * largest,
    half = if (split) other * largest,
    marks = largest * shrunk(followed$marks),
    labels = followed$labels
  )
}

# Half a diameter in CSS pixels on a map of so many by so many pixels, in map units.
map_pixels <- 720
radius_of <- function(diameter, frame) diameter / 2 * frame_side(frame) / map_pixels

# The side of a square as large as the map.
frame_side <- function(frame) {
  sqrt((frame[["x1"]] - frame[["x0"]]) * (frame[["y1"]] - frame[["y0"]]))
}

# Symbols that are all alike: as large as asked for, or smaller where there are many.
plain_sizes <- function(layer, place, panel, map) {
  n <- length(place$x)
  side <- frame_side(map$frame)
  most <- if (layer$shape == "pin") 10 else 5
  r <- if (is.null(layer$sizes)) {
    fullest_radius(rep(1, n), place, panel, side * c(1.8, most) / map_pixels, 0.12)
  } else {
    radius_of(layer$sizes, map$frame)
  }
  list(r = rep(r, n), marks = r, labels = layer$legend %||% "")
}

# Values within the span, from zero on, with marks at its ends that say what lies beyond them.
spanned_sizes <- function(value, layer, locale) {
  seen <- range(value[value > 0])
  span <- layer$span %||% c(0, seen[2])
  least <- if (is.null(layer$sizes)) 0 else layer$sizes[1] / layer$sizes[2]
  if (least > 0 || span[1] > 0) warn_sizes(layer$size)
  marks <- round_sizes(seen[2])
  marks <- marks[marks > max(span[1], seen[1] * 0.999) & marks < span[2]]
  ends <- c(if (seen[2] > span[2]) span[2], if (seen[1] < span[1]) span[1])
  marks <- sort(unique(c(marks, ends)), decreasing = TRUE)
  if (!length(marks)) marks <- min(seen[2], span[2])
  labels <- mark_labels(marks, layer$format, locale)
  over <- marks == span[2] & seen[2] > span[2]
  labels[over] <- sprintf(locale$over, labels[over])
  under <- marks == span[1] & seen[1] < span[1]
  labels[under] <- sprintf(locale$up_to, labels[under])
  within <- function(v) pmin(pmax(v, span[1]), span[2]) - span[1]
  list(
    value = within(value), top = span[2] - span[1], marks = within(marks), labels = labels,
    least = least
  )
}

warn_sizes <- function(size) {
  ochre_warn("sizes",
             "Symbols are not in proportion to `{size}`: the smallest is larger than its value.",
             "Begin `sizes` and `span` with 0 for sizes that can be compared.")
}

# The largest radius at which symbols are told apart. Those of different panels do not meet; the
# fullest panel decides.
largest_radius <- function(relative, place, panel, overlap, frame) {
  share <- if (overlap == "order") 0.06 else 0.12
  fullest_radius(relative, place, panel, frame_side(frame) * c(0.015, 0.045), share)
}

# Between two radii the largest with at most so large a share of overlap.
fullest_radius <- function(relative, place, panel, between, share) {
  groups <- if (is.null(panel)) list(seq_along(relative)) else split(seq_along(relative), panel)
  most <- function(i) {
    call_core(largest_radius_core(
      place$x[i], place$y[i], relative[i], between[1], between[2], share
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
