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
some <- size(20000, 500)
points <- data.frame(longitude = runif(some, 0, 8), latitude = runif(some, 44, 52), n = 1)
publish(
  shade(areas) |> place_symbols(points, n, hover = "{n}"),
  file.path(args[1], "points.html")
)
number <- size(200000, 2000)
lots <- data.frame(longitude = runif(number, 0, 8), latitude = runif(number, 44, 52), n = 1)
publish(
  map_sheet("Points", page = page_style(table = FALSE)) |>
    draw_lines(areas[seq(1, nrow(areas), 60), ]) |>
    place_symbols(lots, n, hover = "{n}"),
  file.path(args[1], "lots.html")
)
publish(
  map_sheet("Points", page = page_style(table = FALSE)) |>
    draw_lines(areas[seq(1, nrow(areas), 60), ]) |>
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
