# Starting against Rscript that does nothing, in turn.
source("bench.R")
command <- system.file("bin", "ochre", package = "ochre")
run <- function(...) function() system2("Rscript", c(...), stdout = FALSE)
times <- by_turns(
  nothing = run("-e", "1"),
  library = run("-e", shQuote("library(ochre)")),
  help = run(command, "--help"),
  runs = 9
)
to <- "an empty Rscript"
report("library(ochre)", median_ratio(times, "library", "nothing"), to, 1.3)
report("ochre --help", median_ratio(times, "help", "nothing"), to, 1.3, seconds(times, "nothing"))
