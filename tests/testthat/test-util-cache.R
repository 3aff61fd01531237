# What is kept from one build to the next: it must never be seen, but for the time.

kept_folder <- function() {
  folder <- temporary("")
  dir.create(folder)
  folder
}
# The plan of a sheet file and all that is said on the way.
told <- function(file, cache = NULL) {
  said <- character()
  note <- function(one) {
    said <<- c(said, conditionMessage(one))
    rlang::cnd_muffle(one)
  }
  plan <- withCallingHandlers(
    resolve_with(sheet_of(load_sheet(file), cache), cache),
    ochre_warning = note, ochre_message = note
  )
  list(plan = unclass(plan), said = said)
}
copied_demo <- function() {
  folder <- kept_folder()
  file.copy(list.files(system.file("orvane", package = "ochre"), full.names = TRUE), folder)
  folder
}

test_that("with a cache, full or empty, a sheet makes the same plan and says the same", {
  folder <- kept_folder()
  sheets <- file.path(copied_demo(), c("map.ochre.yml", "months.ochre.yml", "places.ochre.yml"))
  for (sheet in sheets) {
    plain <- told(sheet)
    cache <- new_cache(folder)
    expect_identical(told(sheet, cache), plain)
    expect_identical(told(sheet, cache), plain)
    # Another process has the folder only.
    expect_identical(told(sheet, new_cache(folder)), plain)
  }
  expect_gt(length(list.files(folder)), 6)
})

test_that("whatever changes in a sheet or its files makes another plan, as it would without", {
  cache <- new_cache(kept_folder())
  folder <- copied_demo()
  sheet <- file.path(folder, "map.ochre.yml")
  told(sheet, cache)
  lines <- readLines(sheet)
  rows <- readLines(file.path(folder, "visits.csv"))
  instead <- function(was, is) function() writeLines(sub(was, is, lines), sheet)
  changes <- list(
    instead("population: population, per", "population: area_km2, per"),
    instead("match: tidied", "match: exact"),
    instead("title:.*", "title: Other"),
    function() writeLines(c(lines, "locale: de"), sheet),
    function() {
      other <- sub("^(0102,.*,)[0-9]+$", "\\199", rows)
      writeLines(other, file.path(folder, "visits.csv"))
    },
    function() {
      ferries <- file.path(folder, "ferries.geojson")
      writeLines(sub("\"minutes\": *[0-9]+", "\"minutes\":777", readLines(ferries)), ferries)
    }
  )
  seen <- list()
  for (change in changes) {
    change()
    now <- told(sheet, cache)
    expect_identical(now, told(sheet))
    expect_false(any(vapply(seen, identical, NA, now)))
    seen <- c(seen, list(now))
    writeLines(lines, sheet)
  }
})

test_that("a folder, or nothing, where a file should be ends in words", {
  folder <- copied_demo()
  sheet <- file.path(folder, "map.ochre.yml")
  lines <- readLines(sheet)
  for (instead in c("'.'", "no.csv")) {
    writeLines(sub("visits.csv", instead, lines, fixed = TRUE), sheet)
    expect_error(quietly(told(sheet, new_cache(kept_folder()))), class = "ochre_error_file")
  }
})

test_that("what is spoilt or gone is made anew, and the folder keeps within its size", {
  folder <- kept_folder()
  sheet <- file.path(copied_demo(), "map.ochre.yml")
  plain <- told(sheet)
  told(sheet, new_cache(folder))
  files <- list.files(folder, full.names = TRUE)
  spoil <- list(
    function(f) writeBin(utils::head(readBin(f, "raw", 1e7), 200), f),
    function(f) writeLines("not a cache", f),
    function(f) saveRDS(list(value = 1), f),
    function(f) unlink(f)
  )
  for (one in spoil) {
    for (f in files) one(f)
    expect_identical(told(sheet, new_cache(folder)), plain)
  }
  for (most in c(1e4, 4e5, 2e6)) {
    small <- new_cache(kept_folder(), most = most)
    expect_identical(told(sheet, small), plain)
    expect_lte(sum(file.size(list.files(small$folder, full.names = TRUE))), most)
  }
  # A folder that cannot be made keeps nothing.
  nowhere <- new_cache(file.path(files[1], "below"))
  expect_identical(told(sheet, nowhere), plain)
})

test_that("several processes may keep in one folder at once", {
  folder <- kept_folder()
  sheet <- file.path(copied_demo(), "map.ochre.yml")
  code <- sprintf(
    paste(
      "suppressMessages(suppressWarnings({c <- ochre:::new_cache('%s', most = 3e5)",
      "for (i in 1:4) { c$memory$entries <- list()",
      "p <- ochre:::resolve_with(ochre:::sheet_of(ochre:::load_sheet('%s'), c), c) }",
      "cat(rlang::hash(unclass(p)))}))",
      sep = "\n"
    ),
    folder, sheet
  )
  runs <- lapply(1:3, function(i) {
    processx::process$new("Rscript", c("-e", code), stdout = "|", stderr = "|")
  })
  lapply(runs, function(r) r$wait())
  expect_identical(vapply(runs, function(r) r$get_exit_status(), 0L), rep(0L, 3))
  said <- vapply(runs, function(r) r$read_all_output(), "")
  expect_identical(said, rep(rlang::hash(told(sheet)$plan), 3))
})
