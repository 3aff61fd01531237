# The linters of .lintr over all R code, a folder on each processor; fails when they find something.
folders <- c("R", "tests", "bench", "tools", "data-raw")
found <- parallel::mclapply(
  folders, lintr::lint_dir, pattern = "[.]R$",
  mc.cores = parallel::detectCores(), mc.preschedule = FALSE
)
broken <- vapply(found, inherits, NA, "try-error")
if (any(broken)) stop(folders[broken][1], ": ", found[broken][[1]])
found <- do.call(c, found)
for (lint in found) {
  cat(sprintf("%s:%d: %s\n", lint$filename, lint$line_number, lint$message))
}
if (length(found)) quit(status = 1)
