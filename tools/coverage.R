# What share of the lines of each file in R/ and src/ the R tests run, the least covered first, and
# the lines that none runs of those files. Needs package covr; `make coverage` calls it.
tests <- paste(
  'Sys.setenv(NOT_CRAN = "true", TZ = "UTC")',
  "library(testthat)",
  sprintf('root <- "%s"', file.path(normalizePath("."), "tests", "testthat")),
  'test_dir(root, package = "ochre", load_package = "installed",',
  '  reporter = "silent", stop_on_failure = FALSE)',
  sep = "\n"
)
found <- covr::package_coverage(type = "none", code = tests, quiet = TRUE)
lines <- covr::tally_coverage(found)
share <- tapply(lines$value > 0, lines$filename, mean)
for (file in names(sort(share))) {
  open <- lines$line[lines$filename == file & lines$value == 0]
  cat(sprintf("%3.0f %%  %s", 100 * share[[file]], file))
  cat(if (length(open)) sprintf("  not run: %s", paste(open, collapse = " ")), "\n")
}
cat(sprintf("%.1f %% of all lines\n", 100 * mean(lines$value > 0)))
