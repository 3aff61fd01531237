# The ground plan: how the globe is laid flat, where insets stand, which borders are shared, where
# points lie, and how far the map reaches. Classes and words come later.

# A list of `kinds` and `ids` of the layers, `shapes` (what each layer draws, in degrees), `panels`,
# `projection`, `insets`, `levels` (lines of the grid), `topology`, `points` (places in map units of
# layers that have them), `framed` (whether areas or lines say how far the map reaches), `frame`.
lay_out_map <- function(map, setting) {
  kinds <- map$kinds
  drawn <- kinds_are(kinds, "outlines")
  wkb <- stats::setNames(lapply(map$shapes, function(s) s$wkb)[drawn], map$ids[drawn])
  map$levels <- levels <- levels_for(sum(lengths(wkb)))
  # This takes most memory: what reading and joining left behind goes before.
  if (levels > grid_levels) gc(FALSE)
  map$topology <- from_cache(
    setting$cache,
    "topology",
    list(wkb, map$projection, levels, map$insets),
    call_core(topology_core(wkb, map$projection, levels, map$insets %||% list()))
  )
  map$points <- lapply(seq_along(kinds), function(i) {
    if (!drawn[i]) place_points(map$shapes[[i]], map)
  })
  map$frame <- plan_frame(map)
  map
}

# Lines of the plan's grid one way: where there are very many areas, enough that each of them keeps
# its shape.
levels_for <- function(areas) max(grid_levels, as.integer(2^ceiling(log2(128 * sqrt(areas)))))

# The map before anything is projected: what is drawn, in which projection, with which insets.
place_on_globe <- function(sheet, setting) {
  panels <- panel_labels(sheet$layers)
  kinds <- vapply(sheet$layers, function(l) l$kind, "")
  map <- list(
    kinds = kinds,
    ids = paste0("layer", seq_along(kinds)),
    panels = panels,
    framed = any(kinds_are(kinds, "outlines")),
    shapes = lapply(sheet$layers, layer_geometry, panels = panels)
  )
  map <- leave_out_parts(map, sheet$leave_out)
  map <- mark_strays(map)
  project_map(map, sheet, setting)
}

# The map with one more layer of lines, below all others.
with_lines_below <- function(map, layer) {
  map$kinds <- c("lines", map$kinds)
  map$ids <- paste0("layer", seq_along(map$kinds))
  map$shapes <- c(list(layer_geometry(layer)), map$shapes)
  map
}

# Adds the projection and the insets. They suit what is drawn as areas and lines; stray points must
# not pull at them.
project_map <- function(map, sheet, setting) {
  seen <- c("inset", "projection", "centre", "backdrops", "overlays")
  about <- list(map[c("shapes", "kinds", "near")], sheet[seen], setting$locale$code)
  found <- from_cache(
    setting$cache, "projection", about, find_projection(map, sheet, setting$locale)
  )
  map[names(found)] <- found
  map
}

find_projection <- function(map, sheet, locale) {
  wkb <- lapply(map$shapes, function(s) s$wkb)
  drawn <- wkb[kinds_are(map$kinds, "outlines")]
  leading <- if (any(lengths(unlist(drawn, recursive = FALSE)) > 0)) drawn else wkb
  if (!is.null(map$near)) leading <- list(map$near)
  wanted <- wanted_insets(sheet, leading)
  boxes <- lapply(wanted, function(i) i$box)
  centre <- sheet$centre %||% NA_real_
  world <- call_core(extent_core(leading, boxes, backdrop_projection(sheet), centre))
  if (world$empty) {
    ochre_abort("sheet", "None of the layers has a geometry to draw.",
                "Look at the `geometry` column, and at the boxes of `inset`.")
  }
  found <- world$places[[1]][c("projection", "extent")]
  warn_projection(found$projection, found$extent, map$kinds)
  full <- !vapply(world$places[-1], is.null, NA)
  warn_empty_insets(sum(!full))
  if (any(full)) {
    places <- world$places[c(TRUE, full)]
    found$insets <- place_insets(wanted[full], places, leading, locale)
  }
  found
}

warn_empty_insets <- function(count) {
  if (!count) return(invisible())
  ochre_warn("inset", "Nothing lies whole in the box of {count_words(count, 'inset')}.",
             "A box is west, south, east, north, in degrees.")
}

# Places of a layer in map units, and whether they are those of areas.
place_points <- function(shape, map) {
  at <- project_points(shape$lon, shape$lat, map$projection, map$insets)
  c(at, list(areas = shape$areas, stray = shape$stray))
}

# On a map of points alone a few that lie far from all others do not say how far it reaches: they
# are marked as `stray`, `near` are the rest, and the layers name them like all that lies off a map.
mark_strays <- function(map) {
  if (map$framed) return(map)
  lon <- unlist(lapply(map$shapes, function(s) s$lon))
  lat <- unlist(lapply(map$shapes, function(s) s$lat))
  known <- is.finite(lon) & is.finite(lat)
  if (sum(known) < 8) return(map)
  stray <- known & (far_from_most(lon, known) | far_from_most(lat, known))
  if (!any(stray) || sum(stray) > max(1, 0.02 * sum(known))) return(map)
  near <- known & !stray
  map$near <- point_wkb(lon[near], lat[near])
  map$framed <- TRUE
  layer <- rep(seq_along(map$shapes), vapply(map$shapes, function(s) length(s$lon), 0L))
  for (i in unique(layer)) map$shapes[[i]]$stray <- stray[layer == i]
  map
}

# Beyond the reach of all but a few by more than twice that reach.
far_from_most <- function(x, known) {
  x[!known] <- NA
  off <- abs(x - stats::median(x, na.rm = TRUE))
  few <- max(1, floor(0.02 * sum(known)))
  reach <- range(x[order(off)[seq_len(sum(known) - few)]])
  room <- 2 * max(diff(reach), 0.02)
  (x < reach[1] - room | x > reach[2] + room) %in% TRUE
}

# What a layer draws: `wkb`, and of points `lon` and `lat`.
layer_geometry <- function(layer, panels = NULL) {
  if (layer_is(layer, "shaded") && !is.null(layer$by)) return(panel_areas(layer, panels))
  if (layer_is(layer, "outlines")) return(list(wkb = geometry_of(layer$data, "data")))
  if (is.null(layer$at)) return(geometry_places(geometry_of(layer$data, "data")))
  lon <- as.numeric(layer$data[[layer$at[1]]])
  lat <- as.numeric(layer$data[[layer$at[2]]])
  keep <- is.finite(lon) & is.finite(lat)
  list(lon = lon, lat = lat, wkb = unclass(wk::as_wkb(wk::xy(lon[keep], lat[keep]))))
}

# One place for each row: of points the first; a symbol of an area stands where its label would.
geometry_places <- function(wkb) {
  if (call_core(extent_core(list(wkb), list(), ""))$shapes == "areas") {
    p <- call_core(label_points_core(wkb))
    return(list(lon = p$lon, lat = p$lat, wkb = point_wkb(p$lon, p$lat), areas = TRUE))
  }
  p <- call_core(points_core(wkb))
  first <- match(seq_along(wkb), p$feature)
  list(lon = p$lon[first], lat = p$lat[first], wkb = wkb)
}

# How far the map reaches.
plan_frame <- function(map) {
  t <- map$topology
  reach <- function(steps, start, axis) {
    if (length(steps)) return(start + t$step * range(steps))
    range(unlist(lapply(map$points, function(p) p[[axis]][!(p$stray %||% FALSE)])), na.rm = TRUE)
  }
  x <- reach(t$x, t$x0, "x")
  y <- reach(t$y, t$y0, "y")
  for (i in map$insets) {
    x <- range(x, i$frame[c("x0", "x1")])
    # Room for the label.
    y <- range(y, i$frame[["y0"]], i$frame[["y1"]] + 0.03 * diff(y))
  }
  # A single point or a straight line still needs room on both sides.
  least <- max(diff(x), diff(y), 1000) / 2
  if (diff(x) <= 0) x <- x + c(-1, 1) * least
  if (diff(y) <= 0) y <- y + c(-1, 1) * max(diff(x), diff(y), 1000) / 2
  c(x0 = x[1], y0 = y[1], x1 = x[2], y1 = y[2])
}

# Surfaces reach beyond the outermost points by their kernel or radius.
reach_density <- function(layer, frame, projection) layer$kernel * map_scale(frame, projection)
reach_heat <- function(layer, frame, projection) 2 * radius_of(layer$radius, frame)

widen_for_surfaces <- function(map, layers) {
  frame <- map$frame
  for (i in which(kinds_are(map$kinds, "surface"))) {
    room <- for_kind("reach", map$kinds[i])(layers[[i]], frame, map$projection)
    x <- map$points[[i]]$x
    y <- map$points[[i]]$y
    here <- which(x >= frame[["x0"]] & x <= frame[["x1"]] & y >= frame[["y0"]] & y <= frame[["y1"]])
    if (!length(here)) next
    # A surface that is wider than the map stays within it.
    room <- min(room, frame_side(frame) / 4)
    frame <- c(
      x0 = min(frame[["x0"]], x[here] - room), y0 = min(frame[["y0"]], y[here] - room),
      x1 = max(frame[["x1"]], x[here] + room), y1 = max(frame[["y1"]], y[here] + room)
    )
  }
  frame
}

widen_for_symbols <- function(frame, layers) {
  holds <- vapply(layers, function(l) layer_is(l, "marks") && length(l$x) > 0, NA)
  for (l in layers[holds]) {
    r <- pmax(l$r, l$second$r %||% 0)
    frame <- c(
      x0 = min(frame[["x0"]], l$x - r),
      y0 = min(frame[["y0"]], l$y - r),
      x1 = max(frame[["x1"]], l$x + r),
      y1 = max(frame[["y1"]], l$y + (l$bar$height %||% r))
    )
  }
  frame
}
