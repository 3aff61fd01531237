# The linters of .lintr over all R code; fails when they find something.
folders <- c("R", "tests", "bench", "tools", "data-raw")
found <- do.call(c, lapply(folders, lintr::lint_dir, pattern = "[.]R$"))
for (lint in found) {
  cat(sprintf("%s:%d: %s\n", lint$filename, lint$line_number, lint$message))
}
if (length(found)) quit(status = 1)
