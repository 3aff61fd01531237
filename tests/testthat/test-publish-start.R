# A first sheet from files: it must build, and show what a careful person would.

started <- function(files, ..., to = temporary(".yml")) {
  said <- character()
  withCallingHandlers(start_sheet(files, to, ...), ochre_message = function(m) {
    said <<- conditionMessage(m)
    rlang::cnd_muffle(m)
  })
  findings <- sheet_findings(to)
  expect_identical(findings$what[findings$severity == "error"], character())
  sheet <- quietly(read_sheet(to))
  list(said = said, lines = readLines(to), plan = quietly(resolve_sheet(sheet)), sheet = sheet)
}
tarvossa <- function(name) system.file("tarvossa", name, package = "ochre")

test_that("counts become rates by the right key, points symbols, and every choice has its reason", {
  files <- c("districts.geojson", "visits.csv", "clinics.csv", "ferries.geojson")
  first <- started(ochre_demo(files))
  expect_identical(vapply(first$plan$layers, `[[`, "", "kind"), c("areas", "lines", "symbols"))
  # A second computation of the same rate.
  visits <- quietly(read_statistics(ochre_demo("visits.csv")))
  areas <- read_boundaries(ochre_demo("districts.geojson"))
  sums <- tapply(visits$visits, sub("^([0-9]{3})$", "0\\1", visits$district), sum, na.rm = TRUE)
  rate <- 1000 * as.numeric(sums[areas$code]) / areas$population
  expect_equal(first$plan$layers[[1]]$numbers, rate, tolerance = 1e-9)
  expect_match(first$said, "visits is a count: it is shown per 1,000 of population")
  expect_true(any(grepl("# .*visits is added up", first$lines)))
  counties <- started(tarvossa(c("counties.topojson.gz", "county-figures.csv")))
  expect_identical(counties$plan$layers[[1]]$no_data$count, 0L)
  expect_lt(max(counties$plan$layers[[1]]$counts), 0.6 * length(counties$plan$layers[[1]]$class))
})

test_that("a value may be named; a count without residents is no shade; signs have two colours", {
  areas <- read_boundaries(ochre_demo("districts.geojson"))
  folder <- temporary("")
  dir.create(folder)
  write <- function(data) {
    utils::write.csv(data, file.path(folder, "t.csv"), row.names = FALSE)
    file.path(folder, "t.csv")
  }
  write_boundaries(areas[c("code", "geometry")], file.path(folder, "a.geojson"))
  files <- c(file.path(folder, "a.geojson"), file.path(folder, "t.csv"))
  n <- nrow(areas)
  write(data.frame(code = areas$code, cases = 20:(n + 19), change = seq(-3, 5, length.out = n)))
  by_count <- started(files, value = "cases")
  expect_identical(by_count$plan$layers[[2]]$kind, "symbols")
  both <- started(files)
  expect_identical(both$plan$layers[[1]]$method, "around")
  expect_true(0 %in% both$plan$layers[[1]]$breaks)
  # Only one of several years, and the last row of each area.
  write(data.frame(code = rep(areas$code, 2), year = rep(c(2030, 2031), each = n),
                   rate = c(runif(n), 10 + runif(n))))
  long <- started(files)
  expect_gt(min(long$plan$layers[[1]]$numbers), 9)
  expect_error(started(files, value = "rat"), class = "ochre_error_column")
  # What cannot be joined is left out, and why is said.
  write(data.frame(code = rep(areas$code, 2), note = letters[seq_len(2 * n) %% 26 + 1]))
  lost <- started(files)
  expect_match(lost$said, "t.csv: left out")
  expect_length(lost$plan$layers, 1)
  write(data.frame(a = 1:3, b = 4:6))
  expect_error(start_sheet(files[2], temporary(".yml")), class = "ochre_error_file")
})

test_that("names of any letters make a sheet that can be read", {
  areas <- read_boundaries(ochre_demo("districts.geojson"))[1:9, ]
  names <- c(
    "a: b", "#x", "{y}", "[1]", "- z", "\u00e9t\u00e9 'q' \"d\"", "yes", "null", "12", "*a", "&a",
    "%p", "@at", "back\\slash", "$(v)", "{name}", "a|b", "tab\tx"
  )
  folder <- temporary("")
  dir.create(folder)
  for (name in names) {
    table <- data.frame(code = areas$code, share = seq(0.5, 9.2, length.out = 9))
    names(table)[2] <- name
    utils::write.csv(table, file.path(folder, "t.csv"), row.names = FALSE, fileEncoding = "UTF-8")
    write_boundaries(areas[c("code", "geometry")], file.path(folder, "a.geojson"))
    made <- started(c(file.path(folder, "a.geojson"), file.path(folder, "t.csv")))
    expect_identical(sum(made$plan$layers[[1]]$counts), 9L, info = name)
    # What a sheet would take for a named value is not shown.
    shown <- length(made$plan$layers[[1]]$labels) > 1
    expect_identical(shown, name != "$(v)", info = name)
  }
})

test_that("nothing is replaced that nobody asked to, and nothing is made of nothing", {
  to <- temporary(".yml")
  writeLines("mine", to)
  files <- ochre_demo("districts.geojson")
  expect_error(start_sheet(files, to), "there already", class = "ochre_error_file")
  expect_identical(readLines(to), "mine")
  expect_error(start_sheet(files, "map.txt"), "no name of a sheet", class = "ochre_error_file")
  quietly(start_sheet(files, to, force = TRUE))
  expect_match(readLines(to)[2], "ochre: 1")
})
