# What the benchmarks in R have in common: sizes, pairs by turns, what is printed and kept. Each
# result is a `row` with a ratio; smaller is better.

small <- identical(Sys.getenv("OCHRE_BENCH"), "small")

# A size for `make bench`, and one at which the same code runs in no time.
size <- function(whole, little) if (small) little else whole

clock <- function(code) system.time(code, gcFirst = TRUE)[["elapsed"]]

# Runs functions by turns, so that a busy moment of the machine meets all of them. Gives seconds, a
# row for each function.
by_turns <- function(..., runs = 5) {
  functions <- list(...)
  runs <- size(runs, 1)
  matrix(
    vapply(seq_len(runs), function(i) {
      vapply(functions, function(f) clock(f()), 0)
    }, numeric(length(functions))),
    nrow = length(functions),
    dimnames = list(names(functions), NULL)
  )
}

median_ratio <- function(times, of, to) stats::median(times[of, ] / times[to, ])

# Prints a result and puts it into the log that keep.R reads.
report <- function(row, ratio, floor, goal, detail = NULL) {
  cat(sprintf(
    "%s: %.2f of %s (goal %s)%s\n",
    row, ratio, floor, format(goal), if (is.null(detail)) "" else paste0("; ", detail)
  ))
  log <- Sys.getenv("OCHRE_BENCH_LOG")
  if (nzchar(log)) {
    cat(sprintf("%s\t%.4f\t%s\t%s\n", row, ratio, format(goal), floor), file = log, append = TRUE)
  }
}

seconds <- function(times, of) sprintf("%.3f s", stats::median(times[of, ]))

# Runs a script of R from the start of the process; gives its seconds and its peak in MB.
run_script <- function(script, ...) {
  notes <- tempfile()
  on.exit(unlink(notes))
  wrapped <- tempfile(fileext = ".R")
  on.exit(unlink(wrapped), add = TRUE)
  peak <- "grep('VmHWM', readLines('/proc/self/status'), value = TRUE)"
  writeLines(c(readLines(script), sprintf("writeLines(%s, '%s')", peak, notes)), wrapped)
  seconds <- system.time(
    status <- system2("Rscript", c(wrapped, ...), stdout = FALSE, stderr = FALSE)
  )[["elapsed"]]
  stopifnot(status == 0)
  c(seconds = seconds, mb = as.numeric(gsub("\\D", "", readLines(notes))) / 1024)
}

script_of <- function(...) {
  file <- tempfile(fileext = ".R")
  writeLines(c(...), file)
  file
}
