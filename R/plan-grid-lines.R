# Lines of longitude and latitude, and the outline of the globe: layers of lines that lie under all
# others and that nobody points at.

# These lines as a layer, in the map's projection and as far as its data reach; NULL for none.
grid_layer <- function(sheet, map, setting) {
  extent <- map$extent
  world <- extent[["east"]] - extent[["west"]] > 300
  if (sheet$outline && !world) {
    ochre_tell("The outline of the globe is left out: the map does not show all of it.")
  }
  lines <- c(
    if (!is.null(sheet$graticule)) grid_lines(sheet$graticule, map$projection, extent, world),
    if (sheet$outline && world) globe_lines(map$projection, extent)
  )
  if (!length(lines)) return(NULL)
  new_layer("lines", list(
    data = tibble::tibble(line = seq_along(lines), geometry = wk::as_wkb(wk::wkt(lines))),
    colour = ink_colour("grid", setting$ground),
    width = 0.4, widest = 8, dash = FALSE, casing = FALSE, arrow = FALSE, unlisted = TRUE
  ))
}

# Meridians and parallels through whole multiples of so many degrees.
grid_lines <- function(every, projection, extent, world) {
  west <- if (world) projection$lon0 - 180 else extent[["west"]]
  east <- if (world) projection$lon0 + 180 else extent[["east"]]
  ends <- if (world) world_ends(extent) else extent[c("south", "north")]
  south <- ends[[1]]
  north <- ends[[2]]
  among <- function(from, to) {
    at <- seq(ceiling(from / every), floor(to / every)) * every
    at[at > from + 1e-6 & at < to - 1e-6]
  }
  along <- function(from, to) seq(from, to, length.out = max(2, ceiling(to - from) + 1))
  # Round a pole meridians end before they run into each other.
  low <- max(south, -90 + every / 2)
  high <- min(north, 90 - every / 2)
  meridians <- vapply(among(west, east), function(lon) line_text(lon, along(low, high)), "")
  just <- if (world) 1e-6 else 0
  parallels <- vapply(among(south, north), function(lat) {
    line_text(along(west + just, east - just), lat)
  }, "")
  c(meridians, parallels)
}

# The latitudes at which a map of the whole world ends: the poles, or a little beyond the land where
# none is near one.
world_ends <- function(extent) {
  c(
    if (extent[["south"]] < -66) -90 else extent[["south"]] - 3,
    if (extent[["north"]] > 66) 90 else extent[["north"]] + 3
  )
}

# The edge of a map of the whole world.
globe_lines <- function(projection, extent) {
  ends <- world_ends(extent)
  inside <- 1e-6
  lat <- seq(max(ends[1], -90 + inside), min(ends[2], 90 - inside), length.out = 181)
  lon <- projection$lon0 + seq(-180 + inside, 180 - inside, length.out = 361)
  c(
    line_text(lon[1], lat),
    line_text(lon[361], lat),
    line_text(lon, lat[1]),
    line_text(lon, lat[181])
  )
}

line_text <- function(lon, lat) {
  turned <- (lon + 180) %% 360 - 180
  sprintf("LINESTRING (%s)", paste(sprintf("%.7f %.7f", turned, lat), collapse = ", "))
}
