# Runs the R tests against the installed package, a file at a time on every processor, and closes
# with one plain line of counts. `Rscript tests/testthat.R join figure` runs those files alone.
Sys.setenv(NOT_CRAN = "true", TZ = "UTC", TESTTHAT_MAX_FAILS = "Inf")

files <- list.files("tests/testthat", "^test-.*[.]R$", full.names = TRUE)
wanted <- commandArgs(trailingOnly = TRUE)
if (length(wanted)) files <- file.path("tests/testthat", sprintf("test-%s.R", wanted))
# What takes longest first, so that no processor waits for another at the end.
slow <- grepl("test-(cli|serve|read-hostile|figure|colour|arguments|prepare-awkward)", files)
files <- files[order(!slow, -file.size(files))]

run_file <- function(file) {
  options(cli.num_colors = 1L, crayon.enabled = FALSE, width = 80)
  Sys.setlocale("LC_ALL", "C.UTF-8")
  library(testthat)
  library(ochre)
  began <- proc.time()[["elapsed"]]
  said <- utils::capture.output(
    result <- test_file(
      file,
      package = "ochre", load_package = "installed", reporter = "summary", stop_on_failure = FALSE
    )
  )
  result <- as.data.frame(result)
  list(
    said = said,
    passed = sum(result$nb) - sum(result$failed),
    failed = sum(result$failed) + sum(result$error),
    seconds = proc.time()[["elapsed"]] - began
  )
}

workers <- parallel::makePSOCKcluster(min(length(files), parallel::detectCores()))
results <- parallel::clusterApplyLB(workers, files, run_file)
parallel::stopCluster(workers)

for (i in seq_along(files)) {
  result <- results[[i]]
  cat(sprintf("%s: %d passed, %.0f s\n", basename(files[i]), result$passed, result$seconds))
  if (result$failed > 0) writeLines(result$said)
}
failed <- sum(vapply(results, `[[`, 0, "failed"))
cat(sprintf("R: %d passed, %d failed\n", sum(vapply(results, `[[`, 0, "passed")), failed))
if (failed > 0) quit(status = 1)
