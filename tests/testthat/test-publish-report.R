# What an editor signs: the numbers of the map, the words of its language, and nothing that data
# could turn into something else.

skip_if_not(rmarkdown::pandoc_available("2.0"))

reported <- function(sheet, ending = ".html", ...) {
  file <- temporary(ending)
  quietly(write_report(sheet, file, ...))
  file
}
words_in <- function(file) {
  switch(tools::file_ext(file),
    html = {
      page <- xml2::read_html(file)
      xml2::xml_remove(xml2::xml_find_all(page, "//script"))
      xml2::xml_text(xml2::xml_find_first(page, "//body"))
    },
    docx = {
      folder <- temporary("")
      utils::unzip(file, "word/document.xml", exdir = folder)
      xml2::xml_text(xml2::read_xml(file.path(folder, "word", "document.xml")))
    },
    pdf = paste(processx::run("pdftotext", c("-layout", file, "-"))$stdout)
  )
}
cells <- function(file) {
  lapply(xml2::xml_find_all(xml2::read_html(file), "//table"), function(table) {
    lapply(xml2::xml_find_all(table, ".//tr"), function(row) {
      xml2::xml_text(xml2::xml_find_all(row, "./th|./td"))
    })
  })
}

test_that("a report says what the map says, what was joined, and what has changed", {
  folder <- temporary("")
  dir.create(folder)
  file.copy(list.files(system.file("orvane", package = "ochre"), full.names = TRUE), folder)
  sheet <- file.path(folder, "map.ochre.yml")
  build <- function() {
    processx::run("Rscript", c(system.file("bin", "ochre", package = "ochre"), "build", sheet))
  }
  build()
  rows <- readLines(file.path(folder, "visits.csv"))
  writeLines(sub("^(0105,.*,)[0-9]+$", "\\14000", rows), file.path(folder, "visits.csv"))
  build()
  file <- reported(sheet)
  layer <- quietly(resolve_sheet(read_sheet(sheet)))$layers[[1]]
  tables <- cells(file)
  classes <- tables[[1]][-1]
  expect_identical(vapply(classes, `[`, "", 1), c(layer$labels, layer$no_data$label))
  expect_identical(vapply(classes, `[`, "", 2), c(layer$count_labels, layer$no_data$count_label))
  # The highest, by an order of its own.
  order <- order(-layer$numbers, na.last = NA)[1:10]
  top <- Filter(function(t) identical(t[[2]][1], layer$names[order[1]]), tables)
  expect_identical(vapply(top[[1]][-1], `[`, "", 2), layer$values[order])
  text <- gsub("\\s+", " ", words_in(file))
  expect_match(text, "New contents: .*visits.csv")
  expect_match(text, substr(digest::digest(file.path(folder, "visits.csv"), "sha256", file = TRUE),
                            1, 16))
  expect_match(text, "Tamack Health Centre")
  expect_match(text, "rate_per: {count: visits", fixed = TRUE)
  # The page is the map's own.
  expect_gt(length(xml2::xml_find_all(xml2::read_html(file), "//script[@data-for]")), 0)
})

test_that("only what was looked at has passed, and changes are those since the build", {
  areas <- read_boundaries(ochre_demo("districts.geojson"))
  check <- function(sheet) {
    rows <- Filter(function(t) t[[1]][1] == "What was looked at", cells(reported(sheet)))[[1]][-1]
    stats::setNames(vapply(rows, `[`, "", 2), vapply(rows, `[`, "", 1))
  }
  plain <- check(map_sheet("T") |> shade_areas(areas))
  expect_identical(sum(plain == "passed"), 1L)
  old <- options(ochre.quiet = "counts")
  on.exit(options(old))
  # What is silenced is seen all the same.
  counted <- map_sheet("T") |>
    shade_areas(areas, population, steps = steps_quantile(3), ramp = c("tan", "red", "tan"))
  found <- check(counted)
  expect_match(found[["No count is shaded on areas of unequal size"]], "below")
  expect_match(found[[grep("^Colours", names(found), value = TRUE)]], "below")
  expect_identical(found[["Nothing lies off the map"]], "not looked at")
  folder <- temporary("")
  dir.create(folder)
  file.copy(list.files(system.file("orvane", package = "ochre"), full.names = TRUE), folder)
  sheet <- file.path(folder, "map.ochre.yml")
  command <- system.file("bin", "ochre", package = "ochre")
  processx::run("Rscript", c(command, "build", sheet))
  said <- function() gsub("\\s+", " ", words_in(reported(sheet)))
  expect_match(said(), "Nothing has changed")
  rows <- readLines(file.path(folder, "visits.csv"))
  writeLines(sub("^(0105,.*,)[0-9]+$", "\\14000", rows), file.path(folder, "visits.csv"))
  expect_match(said(), "New contents")
})

test_that("texts of data stay texts in every format, in the map's language", {
  areas <- read_boundaries(ochre_demo("districts.geojson"))
  hostile <- c(
    "<script>alert(1)</script>", "`r stop(1)`", "$x^2$", "\\input{/etc/passwd}",
    "[a](javascript:b)",
    "**bold** _it_", "| pipe | cell |", "# head", "&amp; <b>", "`{=latex}`", "~~~", "@cite"
  )
  areas$name <- rep(hostile, length.out = nrow(areas))
  areas$share <- seq_len(nrow(areas)) / 7
  sheet <- map_sheet(hostile[1], subtitle = hostile[2], note = hostile[3], source = hostile[4],
                     locale = "de") |>
    shade_areas(areas, share, legend = hostile[7])
  for (ending in c(".html", ".docx", if (nzchar(Sys.which("xelatex"))) ".pdf")) {
    file <- reported(sheet, ending)
    text <- gsub("\\s+", " ", words_in(file))
    plain <- chartr("\u2010\u2018", "-`", text)
    for (word in hostile[c(1:4, 7)]) expect_true(grepl(word, plain, fixed = TRUE), info = word)
    expect_match(text, "Erkl\u00e4rte Varianz")
    expect_match(text, "Keine Daten", info = ending)
  }
  html <- xml2::read_html(reported(sheet))
  scripts <- xml2::xml_text(xml2::xml_find_all(html, "//script[not(@type='application/json')]"))
  expect_false(any(scripts == "alert(1)"))
  links <- xml2::xml_attr(xml2::xml_find_all(html, "//body//a"), "href")
  expect_false(any(grepl("javascript", links)))
})

test_that("a report has the words of every language, and refuses what it cannot write", {
  words <- lapply(locale_codes, function(code) unlist(read_locale(code)$report))
  for (other in words) {
    expect_named(other, names(words[[1]]))
    marks <- function(w) vapply(regmatches(w, gregexpr("\\{[0-9]\\}", w)), paste, "", collapse = "")
    expect_identical(marks(other), marks(words[[1]]))
  }
  sheet <- ochre_demo("map.ochre.yml")
  expect_error(write_report(sheet, "report.txt"), class = "ochre_error_file")
  template <- temporary(".Rmd")
  writeLines(c("---", "params:", "  report: NULL", "---", "```{r}", "stop('no')", "```"), template)
  expect_error(reported(sheet, ".html", template = template), class = "ochre_error_report")
})
