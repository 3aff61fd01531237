# Large files to a map, each in a process of its own, against reading them and no more:
# `Rscript large.R FOLDER WALK GRID20000 BIG`. Five million rows of CSV, 300,000 points, a GeoJSON
# of 500 MB.
source("bench.R")
args <- commandArgs(TRUE)
folder <- args[1]
set.seed(5)
rows <- file.path(folder, "rows.csv")
areas <- size(20000, 200)
if (!file.exists(rows)) {
  n <- size(5e6, 5e4)
  data.table::fwrite(
    data.frame(
      code = sprintf("%05d", sample.int(areas, n, TRUE) - 1L), age = sample.int(18, n, TRUE),
      cases = stats::rpois(n, 3), people = stats::rpois(n, 400)
    ),
    rows
  )
}
points <- file.path(folder, "points.csv")
if (!file.exists(points)) {
  n <- size(3e5, 3e3)
  data.table::fwrite(
    data.frame(
      name = sprintf("Place %d", seq_len(n)), longitude = round(stats::runif(n, 0, 8), 5),
      latitude = round(stats::runif(n, 44, 52), 5), beds = stats::rpois(n, 40)
    ),
    points
  )
}

scripts <- list(
  rows = script_of(
    "args <- commandArgs(TRUE)", "library(ochre)",
    "areas <- read_boundaries(args[2])",
    "rows <- read_statistics(args[1])",
    "sums <- sum_areas(rows, cases, by = code)",
    "joined <- join_statistics(areas, sums, by = \"code\")",
    "joined <- density_per_km2(joined, cases)",
    "publish(map_sheet(\"Cases\") |> shade_areas(joined, cases_per_km2), args[3])"
  ),
  points = script_of(
    "args <- commandArgs(TRUE)", "library(ochre)",
    "points <- read_statistics(args[1])",
    "publish(map_sheet(\"Beds\") |> place_symbols(points, beds), args[2])"
  ),
  areas = script_of(
    "args <- commandArgs(TRUE)", "library(ochre)",
    "areas <- read_boundaries(args[1])",
    "publish(map_sheet(\"Share\") |> shade_areas(areas, share), args[2], budget = \"12 MB\")"
  )
)
fread <- script_of("rows <- data.table::fread(commandArgs(TRUE)[1])")
walk <- function(file) as.numeric(strsplit(system2(args[2], c(file, "1"), stdout = TRUE), " ")[[1]])
into <- tempfile(fileext = ".html")
told <- function(row, ours, floor, file, name) {
  report(row, ours[["seconds"]] / floor, name, 3, sprintf("%.1f s", ours[["seconds"]]))
  megabytes <- file.size(file) / 1e6
  report(paste0(row, ", peak"), ours[["mb"]] * 1.048576 / megabytes, "the file", 3)
}
read <- run_script(fread, rows)[["seconds"]]
ours <- run_script(scripts$rows, rows, args[3], sub("html", "png", into))
told("5M rows of CSV to a map", ours, read, rows, "fread()")
read <- run_script(fread, points)[["seconds"]]
told("300,000 points to a page", run_script(scripts$points, points, into), read, points, "fread()")
read <- system.time(walk(args[4]))[["elapsed"]]
ours <- run_script(scripts$areas, args[4], into)
told("500 MB of GeoJSON to a page", ours, read, args[4], "a walk")
