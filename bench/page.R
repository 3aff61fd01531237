# Pages of synthetic areas for bench/page.mjs: `Rscript page.R FOLDER GRID MANY`. One of
# 3,000 areas, one with 20,000 points on them, two of 200,000 points (drawn each, and as a heat
# surface), one of 50,000 small areas; and the first as GeoJSON with five digits.
args <- commandArgs(TRUE)
source("bench.R")
suppressMessages(library(ochre))
options(ochre.quiet = c("counts", "symbols"))
areas <- read_boundaries(args[2])
shade <- function(x) {
  map_sheet("Rates", page = page_style(table = FALSE)) |>
    shade_areas(x, rate, hover = "{name}: {rate}")
}
publish(shade(areas), file.path(args[1], "areas.html"))
set.seed(1)
points <- data.frame(longitude = runif(20000, 0, 8), latitude = runif(20000, 44, 52), n = 1)
publish(
  shade(areas) |> place_symbols(points, n, hover = "{n}"),
  file.path(args[1], "points.html")
)
lots <- data.frame(longitude = runif(200000, 0, 8), latitude = runif(200000, 44, 52), n = 1)
publish(
  map_sheet("Points", page = page_style(table = FALSE)) |>
    draw_lines(areas[seq(1, 3000, 60), ]) |>
    place_symbols(lots, n, hover = "{n}"),
  file.path(args[1], "lots.html")
)
publish(
  map_sheet("Points", page = page_style(table = FALSE)) |>
    draw_lines(areas[seq(1, 3000, 60), ]) |>
    shade_heat(lots),
  file.path(args[1], "heat.html")
)
many <- read_boundaries(args[3])
publish(shade(many), file.path(args[1], "many.html"))
write_boundaries(
  areas[, c("code", "name", "rate", "geometry")],
  file.path(args[1], "areas.geojson"),
  digits = 5
)
