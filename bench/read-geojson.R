# read_boundaries() on a large file against the floor of bench/walk-json.cpp, in turn.
args <- commandArgs(TRUE)
source("bench.R")
library(ochre)
runs <- if (file.size(args[2]) > 3e8) 3 else size(7, 1)
walk <- function() {
  as.numeric(strsplit(system2(args[1], c(args[2], "1"), stdout = TRUE), " ")[[1]])
}
invisible(read_boundaries(args[2]))
pairs <- vapply(seq_len(runs), function(i) {
  c(walk()[1], clock(read_boundaries(args[2])))
}, c(0, 0))
megabytes <- file.size(args[2]) / 1e6
row <- sprintf("GeoJSON of %.0f MB read", signif(megabytes, 1))
report(
  row,
  stats::median(pairs[2, ] / pairs[1, ]),
  "walking the file",
  1.5,
  sprintf("%.3f s, walking %.3f s", stats::median(pairs[2, ]), stats::median(pairs[1, ]))
)
# The peak of a process that reads the file once.
once <- script_of(
  "suppressMessages(library(ochre))",
  "invisible(read_boundaries(commandArgs(TRUE)))"
)
peak <- run_script(once, args[2])[["mb"]] * 1.048576 / megabytes
report(paste0(row, ", peak"), peak, "its size", 3)
