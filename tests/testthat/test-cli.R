ochre <- function(..., wd = tempdir(), env = character()) {
  processx::run(
    "Rscript", c(system.file("bin", "ochre", package = "ochre"), ...), wd = wd,
    error_on_status = FALSE, env = c("current", R_LIBS = Sys.getenv("R_LIBS"), env)
  )
}

test_that("help stands everywhere, with examples, and fast", {
  top <- ochre("--help")
  expect_identical(top$status, 0L)
  for (command in names(commands)) {
    expect_match(top$stdout, command)
    help <- ochre(command, "--help")
    expect_identical(help$status, 0L)
    expect_match(help$stdout, sprintf("Examples:\n  ochre %s", command))
  }
})

test_that("a command line that cannot be understood ends with 2 and says what to try", {
  for (args in list(
      "buidl", c("build", "--tto", "x"), "build", c("inspect"), c("demo", "a", "b"),
      "serve", c("serve-demo", "x"), c("serve-demo", "--port", "x")
    )) {
    r <- do.call(ochre, as.list(args))
    expect_identical(r$status, 2L)
    expect_match(r$stderr, "^error: .*\n  Try: ochre.* --help\n$")
  }
  expect_match(ochre("buidl")$stderr, "Did you mean `build`")
})

test_that("the demo is copied and built, audited and inspected", {
  folder <- tempfile("ochre-demo-")
  made <- ochre("demo", folder)
  expect_identical(made$status, 0L)
  expect_identical(
    basename(strsplit(made$stdout, "\n")[[1]]),
    c(
      "map.html", "map.png", "map.svg", "map.pdf", "regions.html", "regions.png",
      "ages.html", "ages.png", "pairs.html", "pairs.png", "months.html", "months.png",
      "places.html", "places.png", "tiles.html", "live.html"
    )
  )
  expect_lte(file.size(file.path(folder, "regions.html")), 210000)
  expect_true(all(
    file.size(file.path(folder, c("map.html", "map.png", "map.svg", "map.pdf"))) > 10000
  ))
  expect_match(
    made$stderr, "warning: 1 symbol is outside the map.*\n  Longitude and latitude look swapped"
  )
  expect_match(ochre("demo", folder)$stderr, "is there already.*\n  Say --force")

  audit <- ochre("audit", file.path(folder, "map.ochre.yml"))
  expect_match(audit$stdout, "99 of 100 areas matched, 3 of them only after tidying.*0717.*112 +=")
  exact <- file.path(folder, "exact.ochre.yml")
  lines <- sub(
    "match: tidied.*",
    "unmatched: 3",
    readLines(file.path(folder, "map.ochre.yml"), encoding = "UTF-8")
  )
  writeLines(enc2utf8(lines), exact, useBytes = TRUE)
  audit <- ochre("audit", exact)
  expect_identical(audit$status, 1L)
  expect_match(audit$stdout, "96 of 100 areas matched.*112 +perhaps 0112")
  expect_match(audit$stderr, "The join of `rates` leaves more unmatched")
  expect_match(ochre("build", exact)$stderr, "4 areas and 3 keys have no partner; at most 3 may")
  suggested <- ochre("suggest", exact, "--to", "aliases.csv", wd = folder)
  expect_match(suggested$stderr, "3 keys of `rates` without a partner; 3 with a suggestion")
  # Confirmed by hand, read by the sheet, and the build goes through.
  aliases <- readLines(file.path(folder, "aliases.csv"))
  expect_identical(aliases[2], "112,0112,,1,leading zeros,1,TRUE")
  writeLines(sub(",,", ",yes,", aliases), file.path(folder, "aliases.csv"))
  at <- grep("^  rates:", lines)
  lines <- append(
    sub("unmatched: 3", "aliases: spellings\n        unmatched: 1", lines),
    c("  spellings:", "    - read_statistics: {file: aliases.csv, text: [statistics, boundaries]}"),
    at - 1
  )
  writeLines(enc2utf8(lines), exact, useBytes = TRUE)
  expect_identical(ochre("build", exact, "--to", "aliased.html", wd = folder)$status, 0L)

  inspect <- ochre("inspect", "visits.csv", "districts.geojson", wd = folder)
  expect_match(inspect$stdout, "1,782 rows.*Likely keys: code, name")

  built <- ochre("build", "map.ochre.yml", "--to", "one.html", "--to=two.svg", wd = folder)
  expect_identical(built$stdout, "one.html\ntwo.svg\n")
  expect_true(all(file.exists(file.path(folder, c("one.html", "two.svg")))))
})

test_that("an interrupt stops long work at once, says so, and leaves nothing behind", {
  skip_on_os("windows")
  folder <- tempfile("ochre-test-")
  dir.create(folder)
  line <- charToRaw(paste0(
    grep("\"Feature\"", readLines(ochre_demo("districts.geojson")), value = TRUE)[2],
    "\n"
  ))
  line <- line[seq_len(max(which(line == charToRaw("}"))))]
  con <- gzfile(file.path(folder, "big.geojsonl.gz"), "wb", compression = 1)
  for (i in 1:40) writeBin(rep(c(line, charToRaw("\n")), 2000), con)
  close(con)
  p <- processx::process$new(
    "Rscript",
    c(system.file("bin", "ochre", package = "ochre"), "inspect", "big.geojsonl.gz"),
    wd = folder, stderr = "|", env = c("current", TMPDIR = folder)
  )
  # What is being unpacked lies in the temporary folder: from then on there is something to leave
  # behind.
  for (i in 1:150) {
    if (length(list.files(folder, recursive = TRUE)) > 1) break else Sys.sleep(0.1)
  }
  Sys.sleep(0.3)
  expect_true(p$is_alive())
  p$interrupt()
  p$wait(5000)
  expect_identical(p$get_exit_status(), 130L)
  expect_match(p$read_all_error(), "error: stopped")
  expect_identical(list.files(folder, recursive = TRUE), "big.geojsonl.gz")
})

test_that("faults in data or sheet are two lines on standard error at most, with status 1", {
  r <- ochre("inspect", "nowhere.csv", env = c(NO_COLOR = "1", LC_ALL = "C"))
  expect_identical(r[c("status", "stdout")], list(status = 1L, stdout = ""))
  expect_match(r$stderr, "^error: There is no file `nowhere.csv`\n  Looked in `[^`]+`.\n$")
  sheet <- write_file(
    paste0(
      "ochre: 1\ntitle: T\ntables: {a: [{read_boundaries: {file: x.json}}]}\nlayers: ",
      "[{shade_area: {data: a, value: v}}]\n"
    ),
    ".yml"
  )
  r <- ochre("build", sheet)
  expect_identical(r$status, 1L)
  expect_match(
    r$stderr,
    paste0(
      "^error: `[^`]+`, line 4, layers\\[1\\]\\.shade_area: `shade_area` is not a key ",
      "here\n  Did you mean `shade_areas`\\?\n$"
    )
  )
  expect_false(grepl("\033", r$stderr, fixed = TRUE))
})

test_that("in a bare C locale the map is the same to the byte; a reader may stop early", {
  folder <- tempfile("ochre-demo-")
  dir.create(folder)
  file.copy(list.files(system.file("orvane", package = "ochre"), full.names = TRUE), folder)
  sheet <- file.path(folder, "map.ochre.yml")
  # Labels that are not the last layer, with a bar for progress that has come to its end before.
  writeLines(
    sub(
      "^layers:",
      "layers:\n  - write_labels: {data: districts, text: name}",
      readLines(sheet, encoding = "UTF-8")
    ),
    sheet,
    useBytes = TRUE
  )
  made <- lapply(c("C", "C.UTF-8"), function(locale) {
    to <- file.path(folder, paste0(locale, c(".html", ".svg")))
    r <- ochre("build", sheet, "--to", to[1], "--to", to[2], env = c(LC_ALL = locale))
    expect_identical(
      list(r$status, grepl("fault in Ochre|NAs introduced", r$stderr)), list(0L, FALSE)
    )
    lapply(to, function(file) readBin(file, "raw", 1e7))
  })
  expect_identical(made[[1]], made[[2]])
  piped <- processx::run(
    "bash",
    c(
      "-c",
      sprintf(
        "Rscript %s inspect %s | true; echo ${PIPESTATUS[0]}",
        system.file("bin", "ochre", package = "ochre"),
        ochre_demo("districts.geojson")
      )
    )
  )
  expect_false(grepl("fault", piped$stderr))
})

test_that("names and cells whose bytes are no text end in classed words, never in R's own", {
  folder <- withr::local_tempdir()
  code <- c(
    "library(ochre)",
    paste0(
      "said <- function(code) tryCatch({code; 'done'}, ochre_error = function(e) ",
      "class(e)[1], error = function(e) paste('UNCLASSED', conditionMessage(e)))"
    ),
    sprintf("setwd('%s')", folder),
    paste0(
      "writeLines('{\"type\":\"Feature\",\"properties\":{\"n\\xff\":1},\"geometry\":null}', ",
      "'a.geojson', useBytes = TRUE)"
    ),
    "writeLines(c('a,b', '\"x\\xff,1'), 'a.csv', useBytes = TRUE)",
    "writeLines('ochre: \\xff', 'a.yml', useBytes = TRUE)",
    paste0(
      "writeLines(c(said(read_boundaries('a.geojson')), said(read_statistics('a.csv')), ",
      "said(read_sheet('a.yml')), said(read_statistics('nix\\xff.csv')), ",
      "said(inspect_file('\\xff'))))"
    )
  )
  for (locale in c("C", "C.UTF-8")) {
    expect_identical(
      withr::with_envvar(c(LC_ALL = locale), printed_by(code)),
      c(rep("ochre_error_file", 2), "ochre_error_sheet", rep("ochre_error_argument", 2))
    )
  }
})

test_that("verbs says what a sheet may hold, inspect by which columns files join", {
  r <- ochre("verbs")
  expect_identical(r$status, 0L)
  for (verb in c("shade_areas", "cut_code", "steps_at", "legend_style")) {
    expect_match(r$stdout, paste0("\n  ", verb, " "), fixed = TRUE)
  }
  r <- ochre("verbs", "steps_at")
  expect_match(r$stdout, "breaks (list of numbers, needed)", fixed = TRUE)
  expect_match(r$stdout, "closed (left, right, default left)", fixed = TRUE)
  r <- ochre("verbs", "shade_area")
  expect_identical(r$status, 1L)
  expect_match(r$stderr, "Did you mean `shade_areas`?", fixed = TRUE)
  r <- ochre("inspect", ochre_demo("counties.topojson.gz"), ochre_demo("county-figures.csv"))
  expect_match(r$stdout, "by = c(code = \"county\")  2,994 of 2,994 rows", fixed = TRUE)
})
