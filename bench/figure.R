# A figure from the start of the process to the file on disk, against a script of bare polygon()
# calls that reads the same file, and against what a user would write with ggplot2; twelve small
# maps of a world.
source("bench.R")
ours <- script_of(
  "args <- commandArgs(TRUE)",
  "library(ochre)",
  "areas <- read_boundaries(args[1])",
  "sheet <- map_sheet(\"Rates\") |> shade_areas(areas, rate)",
  "publish(sheet, args[2], width = 8, height = 6, dpi = 200)"
)
args <- commandArgs(TRUE)
files <- utils::head(args, -1)
goals <- c(1, 0.8)
for (k in seq_along(files)) {
  into <- tempfile(fileext = ".png")
  scripts <- c(polygon = "figure-floor.R", publish = ours, ggplot2 = "figure-peer.R")
  runs <- lapply(seq_len(size(5, 1)), function(i) {
    vapply(scripts[1:2], run_script, c(seconds = 0, mb = 0), files[k], into)
  })
  times <- vapply(runs, function(r) r["seconds", ], c(polygon = 0, publish = 0))
  row <- sprintf("figure of %s areas", sub("\\D*(\\d+)\\D*", "\\1", basename(files[k])))
  report(
    row, median_ratio(times, "publish", "polygon"), "bare polygon()", goals[k],
    seconds(times, "publish")
  )
  # Once: it takes long.
  peer <- run_script(scripts[["ggplot2"]], files[k], into)[["seconds"]]
  report(
    paste0(row, ", ggplot2"), stats::median(times["publish", ]) / peer, "ggplot2's", 0.5,
    sprintf("%.1f s", peer)
  )
  mb <- stats::median(vapply(runs, function(r) r["mb", "publish"], 0))
  mb_floor <- stats::median(vapply(runs, function(r) r["mb", "polygon"], 0))
  report(paste0(row, ", peak"), mb / mb_floor, "bare polygon()", 1.5, sprintf("%.0f MB", mb))
}

# ---- twelve small maps of a world ----------------------------------------------------------------

suppressMessages(library(ochre))
options(ochre.quiet = c("counts", "symbols", "missing"))
world <- read_boundaries(utils::tail(args, 1))
set.seed(4)
rows <- expand.grid(code = world$code, year = 2001:2012)
rows$rate <- stats::rnorm(nrow(rows), rows$year - 2000, 3)
joined <- join_statistics(world, rows, by = "code", period = year)
sheet <- map_sheet("Rates") |> shade_areas(joined, rate, by = year)
times <- by_turns(
  resolve = function() resolve_sheet(sheet),
  figure = function() publish(sheet, tempfile(fileext = ".png"))
)
row <- "world of 240 countries in 12 periods"
report(paste0(row, ", resolved"), stats::median(times["resolve", ]), "a second", 0.5)
report(paste0(row, ", figure"), stats::median(times["figure", ]), "a second", 1.5)
