# Drawn tiles of Orvane for the stand-in server: sea with lines along the coast, land tinted by
# region, borders, roads between towns, and names. All of it is made up, like Orvane.

tile_levels <- c(4, 12)
tile_side <- 256

# What is drawn, in web Mercator, made once.
tile_world <- function() {
  areas <- read_boundaries(ochre_demo("districts.geojson"))
  areas <- areas[!is.na(areas$code), ]
  plan <- resolve_sheet(draw_lines(map_sheet("Orvane", projection = "web Mercator"), areas))
  paths <- call_core(paths_core(plan$topology, 1))
  at <- call_core(label_points_core(geometry_of(areas, "areas")))
  town <- call_core(project_core(at$lon, at$lat, plan$projection))
  box <- function(v, of) vapply(split(v, of), range, c(0, 0))
  x <- box(paths$x, paths$feature)
  y <- box(paths$y, paths$feature)
  corner <- function(k, l) {
    list(
      lon = x[k, ] / mercator_edge * 180,
      lat = atan(sinh(y[l, ] / mercator_edge * pi)) * 180 / pi
    )
  }
  low <- corner(1, 1)
  high <- corner(2, 2)
  regions <- lapply(split(seq_len(nrow(areas)), areas$region), function(i) {
    data.frame(
      name = areas$region[i[1]], context = "Region", lon = mean(at$lon[i]),
      lat = mean(at$lat[i]), west = min(low$lon[i]), south = min(low$lat[i]),
      east = max(high$lon[i]), north = max(high$lat[i])
    )
  })
  districts <- data.frame(
    name = areas$name,
    context = paste("District,", areas$region),
    lon = at$lon,
    lat = at$lat,
    west = low$lon,
    south = low$lat,
    east = high$lon,
    north = high$lat
  )
  list(
    frame = plan$frame,
    codes = areas$code,
    paths = paths,
    x = x,
    y = y,
    region = as.integer(factor(areas$region)),
    name = areas$name,
    people = areas$population,
    town = town,
    roads = tile_roads(town, areas$region),
    places = rbind(districts, do.call(rbind, regions))
  )
}

# From each town to the nearest two of its region that are not far off.
tile_roads <- function(town, region) {
  pairs <- lapply(seq_along(region), function(i) {
    far <- (town$x - town$x[i])^2 + (town$y - town$y[i])^2
    near <- utils::head(setdiff(order(far), c(i, which(region != region[i] | far > 32000^2))), 2)
    if (length(near)) cbind(pmin(i, near), pmax(i, near))
  })
  unique(do.call(rbind, pairs))
}

tile_box <- function(z, x, y) {
  side <- 2 * mercator_edge / 2^z
  c(
    x0 = -mercator_edge + x * side,
    y0 = mercator_edge - (y + 1) * side,
    x1 = -mercator_edge + (x + 1) * side,
    y1 = mercator_edge - y * side
  )
}

# The server has tiles around Orvane only.
tile_exists <- function(world, z, x, y) {
  if (z < tile_levels[1] || z > tile_levels[2] || x >= 2^z || y >= 2^z) return(FALSE)
  at <- tile_box(z, x, y)
  room <- 0.5 * (world$frame[["x1"]] - world$frame[["x0"]])
  at[["x1"]] > world$frame[["x0"]] - room &&
    at[["x0"]] < world$frame[["x1"]] + room &&
    at[["y1"]] > world$frame[["y0"]] - room &&
    at[["y0"]] < world$frame[["y1"]] + room
}

tile_colour <- function(lightness, chroma, hue) lab_to_hex(in_gamut(lightness, chroma, hue))

draw_tile <- function(world, z, x, y) {
  box <- tile_box(z, x, y)
  unit <- (box[["x1"]] - box[["x0"]]) / tile_side
  path <- tempfile(fileext = ".png")
  on.exit(remove_path(path))
  ragg::agg_png(path, tile_side, tile_side, res = 72, background = tile_colour(88, 9, 225))
  device <- grDevices::dev.cur()
  tryCatch(draw_world(world, z, box, unit), finally = grDevices::dev.off(device))
  readBin(path, "raw", file.size(path))
}

draw_world <- function(world, z, box, unit) {
  grid::pushViewport(grid::viewport(
    xscale = unname(box[c("x0", "x1")]),
    yscale = unname(box[c("y0", "y1")])
  ))
  # What reaches into the tile, lines along the coast included.
  room <- 40 * unit
  near <- which(
    world$x[2, ] > box[["x0"]] - room &
      world$x[1, ] < box[["x1"]] + room &
      world$y[2, ] > box[["y0"]] - room &
      world$y[1, ] < box[["y1"]] + room
  )
  keep <- world$paths$feature %in% near
  if (any(keep)) {
    px <- world$paths$x[keep]
    py <- world$paths$y[keep]
    ring <- world$paths$ring[keep]
    shape <- function(fill, col, lwd) {
      grid::grid.draw(grid::pathGrob(
        px,
        py,
        id = match(ring, unique(ring)),
        pathId = match(world$paths$feature[keep], unique(world$paths$feature[keep])),
        default.units = "native",
        rule = "evenodd",
        gp = grid::gpar(fill = fill, col = col, lwd = lwd, linejoin = "round")
      ))
    }
    for (wide in c(26, 17, 9)) {
      shape(NA, grDevices::adjustcolor(tile_colour(82, 12, 225), 0.45), wide)
    }
    regions <- world$region[unique(world$paths$feature[keep])]
    tints <- vapply(1:7, function(k) tile_colour(93 - 1.2 * (k %% 3), 9, 70 + 12 * k), "")
    shape(
      tints[(regions - 1) %% 7 + 1],
      grDevices::adjustcolor(tile_colour(62, 10, 80), 0.55),
      if (z < 7) 0.5 else 1
    )
  }
  if (z >= 7) draw_roads(world, z)
  if (z >= 6) draw_towns(world, z, box, unit)
  grid::popViewport()
}

draw_roads <- function(world, z) {
  from <- world$roads[, 1]
  to <- world$roads[, 2]
  line <- function(col, lwd) {
    grid::grid.segments(
      world$town$x[from],
      world$town$y[from],
      world$town$x[to],
      world$town$y[to],
      default.units = "native",
      gp = grid::gpar(col = col, lwd = lwd, lineend = "round")
    )
  }
  line(tile_colour(70, 18, 60), z - 4.5)
  line(tile_colour(96, 6, 80), z - 6)
}

# Towns with the most people come first.
draw_towns <- function(world, z, box, unit) {
  shown <- rank(-world$people, ties.method = "first") <= c(7, 11, 18, 50, 100)[min(5, z - 5)]
  room <- 120 * unit
  at <- which(
    shown &
      world$town$x > box[["x0"]] - room &
      world$town$x < box[["x1"]] + room &
      world$town$y > box[["y0"]] - room &
      world$town$y < box[["y1"]] + room
  )
  if (!length(at)) return(invisible())
  x <- world$town$x[at]
  y <- world$town$y[at]
  grid::grid.points(
    x,
    y,
    default.units = "native",
    pch = 21,
    size = grid::unit(5, "pt"),
    gp = grid::gpar(fill = "white", col = tile_colour(35, 8, 60), lwd = 1.2)
  )
  size <- if (z < 8) 10 else 12
  words <- function(col, dx, dy) {
    grid::grid.text(
      world$name[at],
      grid::unit(x, "native") + grid::unit(dx, "pt"),
      grid::unit(y, "native") + grid::unit(8 + dy, "pt"),
      gp = grid::gpar(col = col, fontsize = size)
    )
  }
  for (turn in seq(0, 315, 45)) {
    words(grDevices::adjustcolor("white", 0.8), cospi(turn / 180), sinpi(turn / 180))
  }
  words(tile_colour(28, 8, 60), 0, 0)
}
