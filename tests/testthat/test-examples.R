# Every example job, run as a user runs it: in a folder of its own, by the command or by R.
jobs_folder <- local({
  folder <- NULL
  function() {
    if (is.null(folder)) {
      folder <<- temporary("")
      quietly(copy_examples(folder, FALSE))
    }
    file.path(folder, "examples")
  }
})

test_that("each sheet of the examples builds its page and its figure", {
  sheets <- list.files(jobs_folder(), "[.]ochre[.]yml$", full.names = TRUE)
  expect_gt(length(sheets), 12)
  for (file in sheets) {
    sheet <- quietly(read_sheet(file))
    plan <- quietly(resolve_sheet(sheet))
    for (target in attr(sheet, "publish")) {
      quietly(publish(plan, target))
      expect_gt(file.size(target), 5000)
    }
    # Nothing is drawn as if it had no data, and everything that has classes shows them.
    for (layer in plan$layers) {
      if (layer$kind != "areas" || is.null(layer$values)) next
      expect_lt(layer$no_data$count, 0.8 * length(layer$class))
      expect_gt(length(unique(layer$class[layer$class > 0])), 1)
    }
  }
})

test_that("each script of the examples runs in an empty folder", {
  scripts <- list.files(jobs_folder(), "[.]R$", full.names = TRUE)
  expect_gt(length(scripts), 2)
  empty <- temporary("")
  dir.create(empty)
  for (file in scripts) {
    r <- processx::run("Rscript", file, wd = empty, error_on_status = FALSE, timeout = 120)
    expect_identical(r$status, 0L, info = paste(basename(file), r$stderr))
  }
  made <- list.files(empty)
  expect_true(all(c("counties.topojson", "limits-after.png", "web-Mercator.png") %in% made))
})

test_that("the list of examples names each of them, and nothing else", {
  text <- readLines(file.path(jobs_folder(), "README.md"))
  named <- regmatches(text, regexpr("(?<=^\\| `)[^`]+", text, perl = TRUE))
  expect_setequal(named, list.files(jobs_folder(), "[.](R|ochre[.]yml)$"))
})
