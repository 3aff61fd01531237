# Insets: distant parts drawn beside the map. What lies whole in an inset's
# box is projected for itself, scaled, and moved to a free place; after that it is part of the map
# like everything else, so figure and page need to know of it only that a frame stands around it.

# Insets of a sheet: those that it names, or far-off parts that are found (src/core/far-parts.cpp).
# Unasked they are taken out where the land would fill little of the map with them, and much more
# without, and a message says so. A backdrop lies under one map, so nothing is taken out of it.
wanted_insets <- function(sheet, layers) {
  if (is.list(sheet$inset)) return(sheet$inset)
  asked <- isTRUE(sheet$inset)
  if (isFALSE(sheet$inset) || (!asked && length(c(sheet$backdrops, sheet$overlays)))) return(NULL)
  found <- call_core(far_parts_core(layers))
  empty <- found$share_all < least_land && found$share_main > 1.5 * found$share_all
  if (!length(found$far) || !(asked || empty)) return(NULL)
  if (!asked) {
    parts <- sum(vapply(found$far, function(f) f$parts, 0))
    ochre_tell(sprintf(
      "%s drawn in %s; `inset = FALSE` keeps all in one map.",
      count_words(parts, "distant part is", "distant parts are"),
      count_words(length(found$far), "inset")
    ))
  }
  lapply(found$far, function(f) list(label = NULL, box = f$box))
}

# Of the box around a map at least this share should be land.
least_land <- 0.35

# More than so many times larger would be another map.
most_enlarged <- 10

# Places insets over free corners of the map, or below it. Gives for each what the core needs
# (`box`, `projection`, `scale`, `dx`, `dy`) and what is drawn (`frame`, `label`).
place_insets <- function(insets, places, layers, locale) {
  boxes <- lapply(insets, function(i) i$box)
  projections <- lapply(places, function(p) p$projection)
  found <- call_core(frames_core(layers, boxes, projections))
  main <- as.list(found$frames[[1]])
  wide <- main$x1 - main$x0
  high <- main$y1 - main$y0
  gap <- 0.02 * max(wide, high)
  taken <- found$taken
  below <- main$x0
  lapply(seq_along(insets), function(k) {
    own <- as.list(found$frames[[k + 1]])
    w <- own$x1 - own$x0
    h <- own$y1 - own$y0
    # A quarter of the map at most, an eighth at least: small islands are drawn larger.
    scale <- 0.26 * max(wide, high) / max(w, h)
    scale <- min(scale, max(1, 0.13 * max(wide, high) / max(w, h)), most_enlarged)
    # Near the map's own scale it is the map's own scale.
    if (abs(log(scale)) < log(1.3)) scale <- 1
    room <- 0.6 * gap
    size <- c(w, h) * scale + 2 * room
    at <- free_corner(taken, size / c(wide, high))
    if (is.null(at)) {
      x0 <- below
      # With room for the label above it.
      y0 <- main$y0 - 2 * gap - size[2]
      below <<- below + size[1] + gap
    } else {
      x0 <- main$x0 + at$x * (wide - size[1])
      y0 <- main$y0 + at$y * (high - size[2])
      taken[at$columns, at$rows] <<- TRUE
    }
    list(
      box = insets[[k]]$box,
      projection = places[[k + 1]]$projection,
      scale = scale,
      dx = x0 + room - scale * own$x0,
      dy = y0 + room - scale * own$y0,
      frame = c(x0 = x0, y0 = y0, x1 = x0 + size[1], y1 = y0 + size[2]),
      label = inset_label(insets[[k]]$label, scale, locale)
    )
  })
}

# A reader must know when an inset has another scale.
inset_label <- function(label, scale, locale) {
  factor <- signif(max(scale, 1 / scale), 2)
  digits <- max(0, 1 - floor(log10(factor)))
  if (factor == round(factor)) digits <- 0
  words <- locale$page[[if (scale > 1) "larger" else "smaller"]]
  times <- if (abs(scale - 1) > 0.05) {
    fill_word(words, format_number(factor, digits, locale = locale))
  }
  paste(
    c(label, if (!is.null(label) && !is.null(times)) paste0("(", times, ")") else times),
    collapse = " "
  )
}

# The first corner whose cells are free: upper right, lower left, lower right, upper left.
free_corner <- function(taken, share) {
  if (any(share > 0.45)) return(NULL)
  n <- nrow(taken)
  cells <- pmin(n, ceiling(share * n) + 1)
  for (at in list(c(1, 1), c(0, 0), c(1, 0), c(0, 1))) {
    columns <- if (at[1]) seq(n - cells[1] + 1, n) else seq_len(cells[1])
    rows <- if (at[2]) seq(n - cells[2] + 1, n) else seq_len(cells[2])
    if (!any(taken[columns, rows])) {
      return(list(x = at[1], y = at[2], columns = columns, rows = rows))
    }
  }
  NULL
}

# Positions in map units, those in an inset at their place there.
project_points <- function(lon, lat, projection, insets) {
  out <- call_core(project_core(lon, lat, projection))
  if (!length(insets)) return(out)
  known <- is.finite(lon) & is.finite(lat)
  which_one <- integer(length(lon))
  which_one[known] <- call_core(inset_of_core(
    lon[known],
    lat[known],
    lapply(insets, function(i) i$box)
  ))
  for (k in seq_along(insets)) {
    at <- which(which_one == k)
    p <- call_core(project_core(lon[at], lat[at], insets[[k]]$projection))
    out$x[at] <- insets[[k]]$dx + insets[[k]]$scale * p$x
    out$y[at] <- insets[[k]]$dy + insets[[k]]$scale * p$y
  }
  out
}
