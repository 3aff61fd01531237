# read_boundaries() on a large file against the floor of bench/walk-json.cpp, in turn.
args <- commandArgs(TRUE)
library(ochre)
runs <- if (file.size(args[2]) > 3e8) 3 else 7
floor_run <- function() {
  as.numeric(strsplit(system2(args[1], c(args[2], "1"), stdout = TRUE), " ")[[1]])
}
ours <- floor <- numeric(runs)
invisible(read_boundaries(args[2]))
for (i in seq_len(runs)) {
  floor[i] <- (f <- floor_run())[1]
  gc(full = TRUE)
  ours[i] <- system.time(read_boundaries(args[2]), gcFirst = FALSE)[["elapsed"]]
}
# The peak of a process that reads the file once.
once <- paste0(
  "suppressMessages(library(ochre)); invisible(read_boundaries(commandArgs(TRUE))); ",
  "cat(grep('VmHWM', readLines('/proc/self/status'), value = TRUE))"
)
peak <- as.numeric(sub(
  "\\D+(\\d+).*",
  "\\1",
  system2("Rscript", c("-e", shQuote(once), args[2]), stdout = TRUE)
)) / 1024
cat(sprintf(
  paste0(
    "file %.0f MB; floor %.3f s (peak %.0f MB); read_boundaries() %.3f s (peak of the R ",
    "process %.0f MB)\n"
  ),
  file.size(args[2]) / 1e6,
  stats::median(floor),
  f[2],
  stats::median(ours),
  peak
))
cat(sprintf(
  "ratio, median of %d pairs: %.2f (aim 1.2, at most 1.5); peak %.1f times the file (at most 3)\n",
  runs,
  stats::median(ours / floor),
  peak * 1.048576 / (file.size(args[2]) / 1e6)
))
