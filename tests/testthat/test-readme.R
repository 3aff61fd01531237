# What the README shows runs as it stands, in order, in an empty folder.

code_blocks <- function(file) {
  lines <- readLines(file, encoding = "UTF-8", warn = FALSE)
  marks <- grep("^```", lines)
  open <- marks[c(TRUE, FALSE)]
  close <- marks[c(FALSE, TRUE)]
  blocks <- Map(function(from, to) lines[seq(from + 1, length.out = to - from - 1)], open, close)
  unname(blocks[startsWith(lines[open], "```r")])
}

test_that("the code of the README runs as it stands", {
  readme <- test_path("..", "..", "README.md")
  skip_if_not(file.exists(readme))
  blocks <- code_blocks(readme)
  blocks <- Filter(function(b) !any(grepl("install.packages", b, fixed = TRUE)), blocks)
  expect_gt(length(blocks), 0)
  folder <- tempfile("readme-")
  dir.create(folder)
  script <- file.path(folder, "readme.R")
  writeLines(unlist(blocks), script, useBytes = TRUE)
  ran <- processx::run("Rscript", script, wd = folder, error_on_status = FALSE)
  expect_identical(ran$status, 0L, info = ran$stderr)
  expect_gt(file.size(file.path(folder, "map.html")), 50000)
  expect_match(ran$stderr, "leading zeros")
})
