# Starting against Rscript that does nothing, in turn.
time <- function(...) system.time(system2("Rscript", c(...), stdout = FALSE))[["elapsed"]]
command <- system.file("bin", "ochre", package = "ochre")
pairs <- vapply(
  1:7,
  function(i) {
    c(time("-e", "1"), time("-e", shQuote("library(ochre)")), time(command, "--help"))
  },
  c(0, 0, 0)
)
cat(sprintf(
  "nothing %.2f s; library(ochre) ratio %.2f; ochre --help ratio %.2f (medians of 7)\n",
  stats::median(pairs[1, ]),
  stats::median(pairs[2, ] / pairs[1, ]),
  stats::median(pairs[3, ] / pairs[1, ])
))
