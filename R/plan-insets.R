# Insets: far-off parts drawn in a frame of their own beside the map. What lies whole in an inset's
# box is projected for itself, scaled, and moved to a free place; after that it is part of the map
# like everything else, so figure and page need to know of it only that a frame stands around it.

# The sheet's wish as a list of `label`, `box` (west, south, east, north). TRUE looks for far-off
# parts by itself.
check_insets <- function(inset, call = rlang::caller_env()) {
  if (is.null(inset) || isFALSE(inset)) return(NULL)
  if (isTRUE(inset)) return(TRUE)
  given <- inset
  if (is.numeric(inset)) inset <- list(inset)
  good <- is.list(inset) && length(inset) > 0 && all(vapply(inset, function(b) length(b) == 4 && all(vapply(b, is.numeric, NA)), NA))
  if (!good) {
    ochre_abort("argument", sprintf("`inset` must be TRUE or a list of boxes, not %s.", describe(given)),
                "A box is c(west, south, east, north) in degrees, and its name is the inset's label.", arg = "inset", call = call)
  }
  inset <- lapply(inset, function(b) as.numeric(unlist(b)))
  bad <- vapply(inset, function(b) anyNA(b) || b[2] >= b[4] || any(abs(b[c(2, 4)]) > 90) || any(abs(b[c(1, 3)]) > 360) || b[1] == b[3], NA)
  if (any(bad)) {
    ochre_abort("argument", sprintf("The box of inset %d is not west, south, east, north: %s.", which(bad)[1], paste(inset[[which(bad)[1]]], collapse = ", ")), arg = "inset", call = call)
  }
  labels <- names(inset) %||% rep("", length(inset))
  Map(function(box, label) list(label = if (nzchar(label)) label else NULL, box = box), unname(inset), labels)
}

# Far-off parts: boxes of features are joined while they lie nearer than a third of the whole;
# small far groups that make the map more than half as wide again become insets.
find_insets <- function(layers) {
  boxes <- do.call(rbind, lapply(layers, function(wkb) {
    box <- unclass(wk::wk_envelope(wk::new_wk_wkb(wkb[lengths(wkb) > 0])))
    cbind(box$xmin, box$ymin, box$xmax, box$ymax)
  }))
  boxes <- boxes[is.finite(rowSums(boxes)) & boxes[, 3] - boxes[, 1] < 180, , drop = FALSE]
  if (nrow(boxes) < 2) return(list())
  squeeze <- cos(mean(range(boxes[, c(2, 4)])) * pi / 180)
  middle <- cbind((boxes[, 1] + boxes[, 3]) / 2 * squeeze, (boxes[, 2] + boxes[, 4]) / 2)
  span <- function(rows) max(diff(range(boxes[rows, c(1, 3)])) * squeeze, diff(range(boxes[rows, c(2, 4)])))
  land <- (boxes[, 3] - boxes[, 1]) * squeeze * (boxes[, 4] - boxes[, 2]) + 1e-9
  all <- seq_len(nrow(boxes))
  # Single linkage on at most a few hundred places; more features than that are thinned.
  kept <- if (length(all) > 800) all[round(seq(1, length(all), length.out = 800))] else all
  group <- stats::cutree(stats::hclust(stats::dist(middle[kept, , drop = FALSE]), "single"), h = 0.2 * span(all))
  nearest <- kept[apply(middle, 1, function(p) which.min((middle[kept, 1] - p[1])^2 + (middle[kept, 2] - p[2])^2))]
  group <- group[match(nearest, kept)]
  main <- as.integer(names(which.max(tapply(land, group, sum))))
  far <- setdiff(unique(group), main)
  far <- far[vapply(far, function(g) sum(land[group == g]) <= 0.2 * sum(land), NA)]
  if (!length(far) || span(all) < 1.5 * span(which(!group %in% far))) return(list())
  lapply(far, function(g) {
    rows <- which(group == g)
    room <- max(0.02, 0.02 * span(rows))
    list(label = NULL, box = c(min(boxes[rows, 1]) - room, max(-90, min(boxes[rows, 2]) - room), max(boxes[rows, 3]) + room, min(90, max(boxes[rows, 4]) + room)))
  })
}

# Places insets over free corners of the map, or below it. Gives for each what the core needs
# (`box`, `projection`, `scale`, `dx`, `dy`) and what is drawn (`frame`, `label`).
place_insets <- function(insets, places, layers) {
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
    scale <- min(scale, max(1, 0.13 * max(wide, high) / max(w, h)))
    room <- 0.6 * gap
    size <- c(w, h) * scale + 2 * room
    at <- free_corner(taken, size / c(wide, high))
    if (is.null(at)) {
      x0 <- below
      y0 <- main$y0 - gap - size[2]
      below <<- below + size[1] + gap
    } else {
      x0 <- main$x0 + at$x * (wide - size[1])
      y0 <- main$y0 + at$y * (high - size[2])
      taken[at$columns, at$rows] <<- TRUE
    }
    list(box = insets[[k]]$box, projection = places[[k + 1]]$projection, scale = scale, dx = x0 + room - scale * own$x0, dy = y0 + room - scale * own$y0,
         frame = c(x0 = x0, y0 = y0, x1 = x0 + size[1], y1 = y0 + size[2]), label = inset_label(insets[[k]]$label, scale))
  })
}

# A reader must know when an inset has another scale.
inset_label <- function(label, scale) {
  factor <- signif(max(scale, 1 / scale), 2)
  digits <- max(0, 1 - floor(log10(factor)))
  if (factor == round(factor)) digits <- 0
  words <- wording$now$page[[if (scale > 1) "larger" else "smaller"]]
  times <- if (abs(scale - 1) > 0.05) gsub(
    "{0}", format_number(factor, digits), words, fixed = TRUE
  )
  paste(c(label, if (!is.null(label) && !is.null(times)) paste0("(", times, ")") else times), collapse = " ")
}

# The first corner whose cells are free: upper right, lower left, lower right, upper left.
free_corner <- function(taken, share) {
  if (any(share > 0.45)) return(NULL)
  n <- nrow(taken)
  cells <- pmin(n, ceiling(share * n) + 1)
  for (at in list(c(1, 1), c(0, 0), c(1, 0), c(0, 1))) {
    columns <- if (at[1]) seq(n - cells[1] + 1, n) else seq_len(cells[1])
    rows <- if (at[2]) seq(n - cells[2] + 1, n) else seq_len(cells[2])
    if (!any(taken[columns, rows])) return(list(x = at[1], y = at[2], columns = columns, rows = rows))
  }
  NULL
}

# Positions in map units, those in an inset at their place there.
project_points <- function(lon, lat, projection, insets) {
  out <- call_core(project_core(lon, lat, projection))
  if (!length(insets)) return(out)
  known <- is.finite(lon) & is.finite(lat)
  which_one <- integer(length(lon))
  which_one[known] <- call_core(
    inset_of_core(lon[known], lat[known], lapply(insets, function(i) i$box))
  )
  for (k in seq_along(insets)) {
    at <- which(which_one == k)
    p <- call_core(project_core(lon[at], lat[at], insets[[k]]$projection))
    out$x[at] <- insets[[k]]$dx + insets[[k]]$scale * p$x
    out$y[at] <- insets[[k]]$dy + insets[[k]]$scale * p$y
  }
  out
}
