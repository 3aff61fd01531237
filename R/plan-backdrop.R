# Backdrops of a plan: of tiles the address and the levels in map units, of a picture its address
# and a net of map positions that it is bent by.

# Pi times the equatorial radius of WGS 84, where web Mercator ends.
mercator_edge <- 20037508.342789244

# A sheet with tiles is in their projection.
backdrop_projection <- function(sheet, call = rlang::caller_env()) {
  tiled <- vapply(c(sheet$backdrops, sheet$overlays), function(b) b$kind == "tiles", NA)
  if (!any(tiled)) return(sheet$projection)
  if (!sheet$projection %in% c("fitted", "web Mercator")) {
    ochre_abort(
      "projection",
      "Tiles are in web Mercator, and the sheet asks for the projection {sheet$projection}.",
      "Leave out `projection`, or the tiles."
    )
  }
  if (!is.null(sheet$inset) && !isFALSE(sheet$inset)) {
    ochre_abort("projection", "Insets move parts of the map, and tiles cannot follow them.",
                "Leave out `inset`, or the tiles.")
  }
  "web Mercator"
}

plan_backdrops <- function(backdrops, map, setting) {
  lapply(backdrops, plan_backdrop, map = map, setting = setting)
}

plan_backdrop <- function(b, map, setting) {
  what <- switch(b$kind,
    plain = NULL,
    tiles = plan_tiles(b, map$projection, setting),
    picture = plan_picture(b, map$projection, map$frame)
  )
  part <- c(plain = "plain_backdrop", tiles = "tile_backdrop", picture = "picture_backdrop")
  shown <- c("name", if (b$kind != "plain") c("attribution", "link", "opacity"))
  new_part(setting, part[[b$kind]], c(b[intersect(shown, names(b))], what))
}

plan_tiles <- function(b, projection, setting) {
  tiles <- if (is.null(b$capabilities)) {
    list(url = b$url, levels = common_levels(b))
  } else {
    read_wmts(b$capabilities, b$layer, b$style)
  }
  # The map's own x begins at its central meridian.
  shift <- projection$lon0 * mercator_edge / 180
  tiles$levels <- lapply(tiles$levels, function(l) {
    l$x <- l$x - shift
    l$up <- isTRUE(l$up)
    l$around <- isTRUE(l$around)
    new_part(setting, "level", l)
  })
  tiles
}

# Level z of the common scheme: the square world in 2^z by 2^z tiles.
common_levels <- function(b) {
  lapply(b$levels[1]:b$levels[2], function(z) {
    n <- 2^z
    list(
      id = as.character(z),
      metres = 2 * mercator_edge / n / b$tile,
      x = -mercator_edge,
      y = mercator_edge,
      width = b$tile,
      height = b$tile,
      columns = n,
      rows = n,
      up = b$rows == "bottom",
      around = TRUE
    )
  })
}

plan_picture <- function(b, projection, frame) {
  web <- is_address(b$file)
  if (web) b$file <- check_tile_address(b$file, "file", character())
  picture <- if (!web) read_picture(b$file)
  place <- if (!is.null(b$corners)) corner_place(b$corners) else world_place(b, picture)
  c(
    list(address = if (web) b$file else data_address(picture)),
    picture_net(place, projection, frame, b$file)
  )
}

# From shares of the picture's width and height (0 at the left and the top) to degrees.
corner_place <- function(corners) {
  function(u, v) {
    (1 - u) * (1 - v) * corners[rep(1, length(u)), , drop = FALSE] +
      u * (1 - v) * corners[rep(2, length(u)), , drop = FALSE] +
      u * v * corners[rep(3, length(u)), , drop = FALSE] +
      (1 - u) * v * corners[rep(4, length(u)), , drop = FALSE]
  }
}

world_place <- function(b, picture) {
  if (is.na(picture$width)) {
    ochre_abort("picture", "The size of `{b$file}` cannot be read.", "Save it as PNG or JPEG anew.",
                file = b$file)
  }
  at <- read_world(b$file, b$world)
  function(u, v) {
    place <- at(u * picture$width - 0.5, v * picture$height - 0.5)
    if (is_degrees(b$system)) return(place)
    wkb <- to_degrees(unclass(wk::as_wkb(wk::xy(place[, 1], place[, 2]))), b$system, b$file)
    call_core(positions_core(wkb))[, 1:2, drop = FALSE]
  }
}

# Map positions of a net over the picture, row by row from the top, as fine as it must be for the
# places between to be right to a pixel of a wide screen.
picture_net <- function(place, projection, frame, file) {
  project <- function(u, v) {
    at <- place(u, v)
    if (any(abs(at[, 2]) > 90) || any(abs(at[, 1]) > 540)) {
      ochre_abort("picture", "`{file}` has a place that is not on the globe.",
                  "Is the world file in another reference system? Say `system`.")
    }
    p <- call_core(project_core(at[, 1], at[, 2], projection))
    cbind(p$x, p$y)
  }
  most <- max(frame[["x1"]] - frame[["x0"]], frame[["y1"]] - frame[["y0"]]) / 2000
  for (n in c(1, 2, 4, 8, 16, 32)) {
    grid <- expand.grid(u = (0:n) / n, v = (0:n) / n)
    net <- project(grid$u, grid$v)
    at <- function(i, j) net[1 + i + (n + 1) * j, , drop = FALSE]
    cell <- expand.grid(i = seq_len(n) - 1, j = seq_len(n) - 1)
    # The middle of a cell as its two triangles have it, and as it is.
    error <- project((cell$i + 0.5) / n, (cell$j + 0.5) / n) -
      (at(cell$i, cell$j) + at(cell$i + 1, cell$j + 1)) / 2
    if (max(abs(error), na.rm = TRUE) <= most) break
  }
  if (any(!is.finite(net))) {
    ochre_abort("picture", "A part of `{file}` has no place in the map's projection.",
                "Cut it to the map, or lay it under a map of the same extent.")
  }
  list(cells = n, x = signif(net[, 1], 9), y = signif(net[, 2], 9))
}
