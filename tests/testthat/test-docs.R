# What the documents say of the sources holds: every file that they name is there.

test_that("every file that README, articles and comments name is there", {
  root <- test_path("..", "..")
  skip_if_not(file.exists(file.path(root, "CONTRIBUTING.md")))
  folders <- c("R", "src", "viewer/src", "vignettes", "tools", "inst/schema")
  files <- c(
    file.path(root, c("README.md", "CONTRIBUTING.md", "ARCHITECTURE.md")),
    list.files(
      file.path(root, folders),
      "[.](R|Rmd|[ch]pp|ts|css|sh|mjs|json)$",
      full.names = TRUE,
      recursive = TRUE
    )
  )
  pattern <- paste0(
    "\\b(R|src|src/core|viewer/src|viewer/test|tests/[a-z]+|tools|inst/[a-z]+|vignettes)",
    "/[a-z0-9-]+([.-][a-z0-9]+)*[.](R|Rmd|cpp|hpp|ts|mjs|sh|json|yml|css)\\b"
  )
  for (file in files) {
    text <- readLines(file, encoding = "UTF-8", warn = FALSE)
    named <- unique(unlist(regmatches(text, gregexpr(pattern, text))))
    lost <- named[!file.exists(file.path(root, named))]
    expect_identical(lost, character(), info = basename(file))
  }
})
