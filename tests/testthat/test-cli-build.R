# The daily run: named values, what has changed since the last time, and
# all that make and cron need.

test_that("values come from the sheet, the environment and the command, in that order", {
  folder <- island()
  title <- function(...) {
    unlink(list.files(folder, "[.]html$", full.names = TRUE))
    run <- build(folder, "--set", "region=\u00d6st", "--to", "one.html", ...)
    expect_identical(run$status, 0L)
    xml2::xml_text(xml2::xml_find_first(xml2::read_html(file.path(folder, "one.html")), "//title"))
  }
  expect_identical(title(), "Cases in \u00d6st, 2031")
  expect_identical(title(env = c(OCHRE_VALUE_YEAR = "2032")), "Cases in \u00d6st, 2032")
  expect_identical(
    title("--set", "year=2033", env = c(OCHRE_VALUE_YEAR = "2032")), "Cases in \u00d6st, 2033"
  )
  # What is there is another map's, whoever set the value.
  run <- build(folder, "--set", "region=\u00d6st", "--to", "one.html",
               env = c(OCHRE_VALUE_YEAR = "2034"))
  expect_no_match(run$stderr, "Nothing has changed")
  expect_match(paste(readLines(file.path(folder, "one.html"), 20), collapse = ""), ", 2034</title>")
  sheet <- file.path(folder, "map.ochre.yml")
  faults <- list(
    list(yaer = 1), list(year = "soon"), list(1), list(year = NA), list(region = "\u00d6st", x = 2)
  )
  for (values in faults) {
    expect_error(suppressMessages(read_sheet(sheet, values)), class = "ochre_error_argument")
  }
  expect_error(read_sheet(sheet), "not said which", class = "ochre_error_sheet")
  expect_named(suppressMessages(read_sheets(sheet)), c("North Bay", "\u00d6st", "South/West"))
  # What is no name, two maps of one file, and `each` that cannot be read.
  lines <- readLines(sheet, encoding = "UTF-8")
  wrong <- list(
    sub("$(year)", "$(yaer)", lines, fixed = TRUE),
    sub("^each: .*", "each: {region: [A b, a-b]}", lines),
    sub("^each: .*", "each: {region: [], year: [1]}", lines),
    sub("^each: .*", "each: region", lines),
    sub("^each: .*", "each: {region: {file: island.geojson, column: nothing}}", lines),
    sub("^values: .*", "values: [1, 2]", lines)
  )
  for (text in wrong) {
    writeLines(enc2utf8(text), sheet, useBytes = TRUE)
    expect_error(suppressMessages(read_sheets(sheet)), class = "ochre_error")
  }
  writeLines(enc2utf8(sub("^publish: .*", "publish: [one.html]", lines)), sheet, useBytes = TRUE)
  run <- build(folder)
  expect_identical(run$status, 1L)
  expect_match(run$stderr, "3 maps would all be written into `one.html`", fixed = TRUE)
})

test_that("what has not changed is kept, and what has is said", {
  folder <- island()
  first <- build(folder, "--set", "region=\u00d6st")
  before <- hashes(folder)
  modified <- file.mtime(file.path(folder, made(folder)))
  again <- build(folder, "--set", "region=\u00d6st")
  expect_identical(again$stdout, first$stdout)
  expect_match(again$stderr, "Nothing has changed")
  # Warnings are said again, though nothing is made.
  warnings <- function(run) grep("^warning", strsplit(run$stderr, "\n")[[1]], value = TRUE)
  expect_identical(warnings(again), warnings(first))
  expect_gt(length(warnings(first)), 0)
  expect_identical(file.mtime(file.path(folder, made(folder))), modified)
  # An output that was spoilt is made again.
  writeLines("spoilt", file.path(folder, "ost-2031.svg"))
  build(folder, "--set", "region=\u00d6st")
  expect_identical(hashes(folder), before)
  # Another number, a code that is gone, another that is new.
  write_counts(folder, c(10, 20, 30, 40, 50, 60, 7000, 80))
  run <- build(folder, "--set", "region=\u00d6st", "--json")
  expect_match(run$stderr, "Changed: New contents: `./counts.csv`.", fixed = TRUE)
  changed <- jsonlite::fromJSON(run$stdout, simplifyVector = FALSE)$maps[[1]]$changed
  kinds <- vapply(changed, function(c) c$kind, "")
  expect_setequal(kinds, c("inputs", "breaks", "total", "class", "warnings"))
  total <- changed[[match("total", kinds)]]
  expect_equal(c(total$before, total$after), c(260, 7190))
  record <- jsonlite::read_json(file.path(folder, "ost-2031.record.json"))
  expect_identical(
    vapply(record$outputs, function(o) o$sha256, ""),
    vapply(file.path(folder, c("ost-2031.html", "ost-2031.svg")), function(f) {
      digest::digest(f, "sha256", file = TRUE)
    }, "", USE.NAMES = FALSE)
  )
  # A broken or foreign record is none.
  for (text in c("{", "{\"record\": 1}")) {
    writeLines(text, file.path(folder, "ost-2031.record.json"))
    expect_identical(build(folder, "--set", "region=\u00d6st")$status, 0L)
  }
})

test_that("a limit that is broken leaves the files of before", {
  folder <- island("fail_if: {gone: 0, class_changed: 0.9, total_changed: 0.2, older: 0}")
  at <- c("--set", "region=North Bay")
  expect_identical(do.call(build, as.list(c(folder, at)))$status, 0L)
  before <- hashes(folder)
  counts <- seq(10, 120, by = 10)
  write_counts(folder, 3 * counts)
  run <- do.call(build, as.list(c(folder, at, "--json")))
  expect_identical(run$status, 1L)
  expect_match(run$stderr, "`total_changed` is 2, and 0.2 may be", fixed = TRUE)
  expect_identical(jsonlite::fromJSON(run$stdout)$error$kind, "limit")
  expect_identical(hashes(folder), before)
  # A file of yesterday that arrives late.
  write_counts(folder, counts + 1)
  Sys.setFileTime(file.path(folder, "counts.csv"), Sys.time() - 90000)
  run <- do.call(build, as.list(c(folder, at)))
  expect_match(run$stderr, "`older` is 1, and 0 may be", fixed = TRUE)
  Sys.setFileTime(file.path(folder, "counts.csv"), Sys.time())
  expect_identical(do.call(build, as.list(c(folder, at)))$status, 0L)
  expect_false(identical(hashes(folder), before))
})

test_that("a log holds what was said, also what went wrong, and a PDF has no date in it", {
  folder <- island()
  run <- build(folder, "--set", "region=\u00d6st", "--to", "a.pdf", "--quiet", "--log", "l.txt")
  expect_identical(c(run$status, nchar(run$stderr)), c(0L, 0L))
  one <- tools::md5sum(file.path(folder, "a.pdf"))
  Sys.sleep(1.1)
  build(folder, "--set", "region=\u00d6st", "--to", "a.pdf", "--fresh", "--log", "l.txt")
  expect_identical(tools::md5sum(file.path(folder, "a.pdf")), one)
  build(folder, "--set", "yaer=1", "--log", "l.txt")
  lines <- readLines(file.path(folder, "l.txt"), encoding = "UTF-8")
  expect_true(all(grepl("^20[0-9-]{8}T[0-9:]{8}[+-][0-9]{4} (INFO|WARN|ERROR) ", lines)))
  expect_match(lines[length(lines)], "ERROR .*no value `yaer`")
  run <- build(folder, "--set", "region=\u00d6st", "--log", "nowhere/l.txt")
  expect_identical(run$status, 1L)
  expect_match(run$stderr, "nowhere/l.txt")
  # Data and sheets are no logs.
  for (file in c("counts.csv", "map.ochre.yml")) {
    was <- readLines(file.path(folder, file))
    expect_match(build(folder, "--set", "region=\u00d6st", "--log", file)$stderr, "is no log")
    expect_identical(readLines(file.path(folder, file)), was)
  }
  # A value that names no file, or another folder.
  for (value in c("", "..", "../..", "/")) {
    run <- build(folder, "--set", paste0("region=", value), "--to", "$(region).html")
    expect_identical(run$status, 1L, info = value)
    expect_length(setdiff(list.files(dirname(folder), "^[.]?html$|^[.]+html$"), "."), 0)
  }
  # What is written into a file has no bars and no colours.
  expect_no_match(run$stderr, "\033|\r")
})

test_that("a spoilt record is said to be one, and the map is made", {
  folder <- island()
  at <- c("--set", "region=North Bay")
  expect_identical(do.call(build, as.list(c(folder, at)))$status, 0L)
  path <- list.files(folder, "record[.]json$", full.names = TRUE)[1]
  whole <- jsonlite::read_json(path)
  record <- function(change) replace(whole, names(change), change)
  spoilt <- list(
    "{", record(list(layers = list(list(keys = 1:3, class = list("a"))))),
    record(list(inputs = list(1, 2))), record(list(layers = "x")), record(list(warnings = list(3)))
  )
  for (one in spoilt) {
    text <- if (is.list(one)) jsonlite::toJSON(one, auto_unbox = TRUE, null = "null") else one
    writeLines(text, path)
    run <- do.call(build, as.list(c(folder, at, "--fresh")))
    expect_identical(run$status, 0L, info = substr(text, 1, 200))
    expect_match(run$stderr, "no record that can be read")
  }
})

test_that("two runs of one sheet do not meet", {
  folder <- island()
  start <- function() {
    processx::process$new(
      "Rscript", c(command_file(), "build", "map.ochre.yml", "--fresh"),
      wd = folder, stdout = "|", stderr = "|",
      env = c("current", R_LIBS = Sys.getenv("R_LIBS"), MAKEFLAGS = "")
    )
  }
  runs <- lapply(1:2, function(i) start())
  for (run in runs) run$wait(60000)
  expect_identical(vapply(runs, function(r) r$get_exit_status(), 0L), c(0L, 0L))
  said <- vapply(runs, function(r) r$read_all_error(), "")
  expect_length(grep("Waiting for another run", said), 1)
  # One that was killed holds nothing back.
  killed <- start()
  Sys.sleep(0.8)
  killed$kill()
  expect_identical(build(folder, "--fresh")$status, 0L)
})

test_that("a check says all faults of sheet and data at once, and writes nothing", {
  folder <- island()
  sheet <- file.path(folder, "map.ochre.yml")
  before <- list.files(folder)
  check <- function(...) {
    processx::run(
      "Rscript", c(command_file(), "check", "map.ochre.yml", ...), wd = folder,
      error_on_status = FALSE, encoding = "UTF-8",
      env = c("current", R_LIBS = Sys.getenv("R_LIBS"), MAKEFLAGS = "")
    )
  }
  fine <- check()
  expect_identical(fine$status, 0L)
  expect_match(fine$stdout, "map.ochre.yml: 0 errors, 2 warnings.", fixed = TRUE)
  expect_identical(check("--strict")$status, 1L)
  # What only one of the maps has names it.
  write_counts(folder, c(seq(10, 40, by = 10), rep(NA, 4), seq(90, 120, by = 10)))
  expect_match(check()$stdout, "warning: North Bay, South/West: The values allow", fixed = TRUE)
  write_counts(folder, seq(10, 120, by = 10))
  # Faults of three kinds, in two tables and a layer, and what stands on a table that failed.
  writeLines(c(
    "ochre: 1", "title: T", "tables:",
    "  lost:", "    - read_boundaries: {file: nowhere.geojson}",
    "  on_lost:", "    - merge_areas: {by: region}",
    "  areas:", "    - read_boundaries: {file: island.geojson}",
    "    - rate_per: {count: cases, population: people}",
    "  whole:", "    - read_boundaries: {file: island.geojson}",
    "layers:",
    "  - shade_areas: {data: lost, value: share}",
    "  - shade_areas: {data: whole, value: shaer}",
    "  - shade_areas: {data: whole, legend: Land}",
    "publish: [map.html]"
  ), sheet)
  text <- readLines(sheet)
  writeLines(text[!grepl("on_lost|merge_areas", text)], sheet)
  found <- sheet_findings(sheet)
  expect_identical(found$severity, rep("error", 3))
  expect_identical(found$kind, c("file", "column", "column"))
  expect_identical(found$line, c(5L, 8L, 13L))
  run <- check("--json")
  expect_identical(run$status, 1L)
  said <- jsonlite::fromJSON(run$stdout)
  expect_identical(said$findings[c("severity", "kind", "line")],
                   as.data.frame(found[c("severity", "kind", "line")]))
  # Faults of the file itself, each with its line.
  writeLines(c(text, "titel: x", "budgte: y"), sheet)
  found <- sheet_findings(sheet)
  expect_identical(nrow(found), 2L, info = paste(found$what, collapse = "\n"))
  expect_true(all(found$severity == "error" & !is.na(found$line)))
  expect_identical(list.files(folder), before)
  expect_error(sheet_findings(file.path(folder, "no.yml")), class = "ochre_error_file")
})

test_that("the doctor names every package that is wanted, and how to get what is missing", {
  run <- processx::run("Rscript", c(command_file(), "doctor"),
                       env = c("current", R_LIBS = Sys.getenv("R_LIBS"), MAKEFLAGS = ""))
  wanted <- utils::packageDescription("ochre")$Suggests
  wanted <- trimws(sub("[(].*", "", strsplit(gsub("\n", "", wanted), ",")[[1]]))
  for_tests <- c("codetools", "processx", "rmarkdown", "RClickhouse", "RPostgres", "testthat",
                 "webfakes", "withr", "writexl")
  for (package in setdiff(wanted, for_tests)) expect_match(run$stdout, package, fixed = TRUE)
  expect_match(run$stdout, "Nothing is missing|install.packages")
})

test_that("a week of mornings, run by make: late, twice, broken, older, renamed", {
  folder <- island("fail_if: {older: 0, gone: 0}")
  writeLines(c(
    "map.html: map.ochre.yml counts.csv island.geojson",
    paste0("\tRscript ", command_file(), " build $< --set region=\u00d6st --to $@ --quiet --json ",
           "> said.json")
  ), file.path(folder, "Makefile"), useBytes = TRUE)
  page <- file.path(folder, "map.html")
  counts <- file.path(folder, "counts.csv")
  morning <- function() {
    run <- processx::run(
      "make", "map.html", wd = folder, error_on_status = FALSE, encoding = "UTF-8",
      env = c("current", R_LIBS = Sys.getenv("R_LIBS"), MAKEFLAGS = "")
    )
    idle <- grepl("up to date", run$stdout)
    said <- if (!idle) jsonlite::read_json(file.path(folder, "said.json"))
    list(status = run$status, idle = idle, said = said, text = run$stderr,
         page = unname(tools::md5sum(page)))
  }
  arrive <- function(text, hours = 0) {
    writeLines(text, counts)
    Sys.setFileTime(counts, Sys.time() + 3600 * hours)
  }
  rows <- readLines(counts)
  monday <- morning()
  expect_identical(monday$status, 0L)
  # Nothing has come yet.
  expect_true(morning()$idle)
  arrive(sub("^0105,.*", "0105,55", rows))
  tuesday <- morning()
  expect_false(tuesday$page == monday$page)
  kinds <- vapply(tuesday$said$maps[[1]]$changed, function(c) c$kind, "")
  expect_true(all(c("inputs", "total") %in% kinds))
  # The same once more.
  arrive(sub("^0105,.*", "0105,55", rows))
  wednesday <- morning()
  expect_true(wednesday$said$maps[[1]]$kept)
  expect_identical(wednesday$page, tuesday$page)
  expect_true(morning()$idle)
  # A page of words in place of a table, half a table, a column of another name, an old file.
  broken <- list(
    c("<!DOCTYPE html><html><body>We are moving house</body></html>"),
    sub("cases", "count", rows),
    utils::head(rows, 2)
  )
  for (text in broken) {
    arrive(text)
    day <- morning()
    if (length(text) != 2) expect_true(day$status != 0L)
    expect_identical(day$page == tuesday$page, day$status != 0L)
    if (day$status != 0L) expect_match(day$said$error$what %||% day$said$maps[[1]]$error$what, ".")
  }
  arrive(rows)
  expect_identical(morning()$status, 0L)
  arrive(sub("^0106,.*", "0106,77", rows), hours = -48)
  Sys.setFileTime(page, Sys.time() - 3600 * 96)
  old <- morning()
  expect_true(old$status != 0L)
  arrive(sub("^0106,.*", "0106,77", rows))
  expect_identical(morning()$status, 0L)
})
