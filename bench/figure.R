# A figure from the start of the process to the file on disk, against a script of bare polygon()
# calls that reads the same file.
files <- commandArgs(TRUE)
script <- tempfile(fileext = ".R")
writeLines(
  c(
    "args <- commandArgs(TRUE)",
    "library(ochre)",
    "areas <- read_boundaries(args[1])",
    paste0(
      "publish(map_sheet(\"Rates\") |> shade_areas(areas, rate), args[2], width = 8, height ",
      "= 6, dpi = 200)"
    )
  ),
  script
)
time <- function(script, file) {
  system.time(stopifnot(
    system2(
      "Rscript",
      c(script, file, tempfile(fileext = ".png")),
      stdout = FALSE,
      stderr = FALSE
    ) == 0
  ))[["elapsed"]]
}
for (file in files) {
  pairs <- vapply(1:5, function(i) c(time("figure-floor.R", file), time(script, file)), c(0, 0))
  cat(sprintf(
    "%s: bare polygon() %.2f s; publish() ratio %.2f (median of 5, aim 1.5)\n",
    basename(file),
    stats::median(pairs[1, ]),
    stats::median(pairs[2, ] / pairs[1, ])
  ))
}
