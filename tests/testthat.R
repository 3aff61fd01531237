# Runs the R tests against the installed package and closes with one plain line of counts.
Sys.setenv(NOT_CRAN = "true", TZ = "UTC", TESTTHAT_MAX_FAILS = "Inf")
library(testthat)
library(ochre)
options(cli.num_colors = 1L, crayon.enabled = FALSE, width = 80)
results <- as.data.frame(test_dir("tests/testthat", package = "ochre", load_package = "installed", reporter = "summary", stop_on_failure = FALSE))
failed <- sum(results$failed) + sum(results$error)
cat(sprintf("R: %d passed, %d failed\n", sum(results$nb) - sum(results$failed), failed))
if (failed > 0) quit(status = 1)
