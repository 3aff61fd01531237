# Very many areas read, joined and published in sections, each size in a process of its own:
# `Rscript sections.R FOLDER MAKE-LARGE`. How time grows over four sizes, and what a million areas
# with fifty million vertices take.
source("bench.R")
args <- commandArgs(TRUE)
made <- function(areas) {
  stem <- file.path(args[1], sprintf("country-%d", as.integer(areas)))
  if (!file.exists(paste0(stem, ".geojson"))) {
    stopifnot(system2(args[2], c(stem, format(c(areas, 50 * areas), scientific = FALSE))) == 0)
  }
  stem
}
read <- c(
  "args <- commandArgs(TRUE)", "library(ochre)",
  "areas <- read_boundaries(paste0(args[1], \".geojson\"))",
  "counts <- read_statistics(paste0(args[1], \".csv\"))"
)
reading <- script_of(read)
publishing <- script_of(
  read,
  "joined <- rate_per(join_statistics(areas, counts, by = \"code\"), cases, people)",
  "rm(areas, counts)",
  "sheet <- map_sheet(\"Cases per 1,000 people\") |>",
  "  shade_areas(joined, cases_per_1000, popup = c(Cases = cases, People = people))",
  "rm(joined)",
  "publish_folder(sheet, args[2], sections = TRUE)"
)
into <- file.path(args[1], "sections")
publish_one <- function(stem) {
  unlink(into, recursive = TRUE)
  run_script(publishing, stem, into)
}

sizes <- size(40000, 500) * c(1, 2, 4, 8)
times <- vapply(sizes, function(n) publish_one(made(n))[["seconds"]], 0)
power <- stats::coef(stats::lm(log(times) ~ log(sizes)))[[2]]
report(
  "growth of publishing in sections", power, "power of the size", 1.1,
  paste(sprintf("%.1f", times), collapse = ", ")
)
most <- made(size(1e6, 4000))
floor <- run_script(reading, most)[["seconds"]]
ours <- publish_one(most)
files <- list.files(file.path(into, "index-sections"), full.names = TRUE)
report(
  "a million areas in sections", ours[["seconds"]] / floor, "reading their files", 20,
  sprintf("%.0f s, %d sections, the largest %.0f kB", ours[["seconds"]], length(files),
          max(file.size(files)) / 1000)
)
report("a million areas in sections, peak", ours[["mb"]] * 1.048576 / 4000, "4 GB", 1)
unlink(into, recursive = TRUE)
