# Linked maps, maps in documents, and pages that take new values: what R makes of them. What readers
# do with them is tested in browsers.

areas <- read_boundaries(ochre_demo("districts.geojson"))
areas <- areas[!is.na(areas$code), ]
shaded <- function(title = "Map", ...) {
  map_sheet(title, ...) |> shade_areas(areas, population, legend = "Residents")
}
quietly <- function(code) suppressMessages(suppressWarnings(code))
text_of <- function(path) {
  paste(suppressWarnings(readLines(path, encoding = "UTF-8")), collapse = "\n")
}

test_that("linked maps share a frame, stay within a budget, and are a page only", {
  wide <- shaded("<b>One</b>")
  narrow <- map_sheet("Two") |> shade_areas(areas[1:40, ], population)
  expect_error(
    quietly(link_maps(wide, narrow, "Both")), "differ in projection", class = "ochre_error_sheet"
  )
  expect_error(quietly(link_maps(wide, shaded(locale = "de"), "Both")), "differ in language")
  pair <- quietly(link_maps(wide, shaded("Two"), title = "Both & more"))
  # The same colours for other values mislead.
  other <- map_sheet("Two") |> shade_areas(areas, population_65_plus, legend = "Old")
  expect_warning(suppressMessages(link_maps(wide, other, "Both")), class = "ochre_warning_linked")
  other <- map_sheet("Two") |> shade_areas(areas, population_65_plus, ramp = "verdigris")
  expect_no_warning(
    suppressMessages(link_maps(wide, other, "Both")), class = "ochre_warning_linked"
  )
  expect_identical(pair$plans[[1]]$frame, pair$plans[[2]]$frame)
  expect_output(print(pair), "Both & more")
  file <- temporary(".html")
  publish(pair, file)
  whole <- file.size(file)
  html <- text_of(file)
  expect_match(html, "<title>Both &amp; more</title>", fixed = TRUE)
  expect_no_match(html, "<b>One", fixed = TRUE)
  page <- xml2::read_html(html)
  expect_length(xml2::xml_find_all(page, "//h1"), 1)
  expect_length(xml2::xml_find_all(page, "//h2[@class='ochre-title']"), 2)
  # Both have their still picture, and two plans.
  expect_length(xml2::xml_find_all(page, "//*[contains(@class, 'ochre-first')]"), 2)
  expect_length(xml2::xml_find_all(page, "//script[@data-map]"), 2)
  expect_message(publish(pair, file, budget = 0.9 * whole), "of the vertices")
  expect_lte(file.size(file), 0.9 * whole)
  for (kind in c("png", "svg", "pdf")) {
    expect_error(publish(pair, paste0("pair.", kind)), "no figure", class = "ochre_error_argument")
  }
})

test_that("a page asks for new values only where it was told to", {
  policy <- function(live, ...) {
    file <- temporary(".html")
    quietly(publish(shaded(page = page_style(live = live, ...)), file))
    html <- xml2::read_html(text_of(file))
    xml2::xml_attr(xml2::xml_find_first(html, "//meta[@http-equiv]"), "content")
  }
  expect_no_match(policy(NULL), "connect-src")
  expect_no_match(policy(live_values()), "connect-src")
  web <- policy(live_values("https://data.example/v.json"))
  expect_match(web, " connect-src https://data.example;", fixed = TRUE)
  expect_match(policy(live_values("new/values.json")), " connect-src 'self';", fixed = TRUE)
  both <- policy(live_values("https://data.example/v.json"), places = "https://places.example/q")
  expect_match(both, " connect-src https://data.example https://places.example;", fixed = TRUE)
})

test_that("what a page cannot make anew it does not have, and what cannot be live is refused", {
  live <- page_style(live = live_values(), cards = "sum")
  expect_message(plan <- suppressWarnings(resolve_sheet(shaded(page = live))), "cards are left out")
  layer <- plan$layers[[1]]
  expect_null(plan$page$cards)
  expect_null(layer$histogram)
  expect_match(layer$labels[1], "^under ")
  expect_match(layer$labels[length(layer$labels)], " and over$")
  expect_no_match(plan$alt, "runs from")
  # A file says the same.
  folder <- temporary("")
  dir.create(folder)
  file.copy(ochre_demo("districts.geojson"), folder)
  writeLines(c(
    "ochre: 1", "title: Live", "page:", "  live: {address: values.json, every: 5}",
    "tables:", "  d:", "    - read_boundaries: {file: districts.geojson}",
    "layers:", "  - shade_areas: {data: d, value: population}"
  ), file.path(folder, "live.ochre.yml"))
  from_file <- quietly(resolve_sheet(read_sheet(file.path(folder, "live.ochre.yml"))))
  expect_equal(from_file$page$live, list(address = "values.json", every = 5))
  refused <- list(
    map_sheet("T", page = live) |> shade_areas(areas, legend = "Land"),
    map_sheet("T", page = live) |> shade_areas(areas, region, steps = steps_categories()),
    map_sheet("T", page = live) |> shade_areas(areas, population, hover = "{population|1}")
  )
  for (sheet in refused) expect_error(quietly(resolve_sheet(sheet)), class = "ochre_error_sheet")
  for (address in c("", "ftp://x.example/v", "javascript:alert(1)", "//x.example/v", "a b", "#x")) {
    expect_error(live_values(address), class = "ochre_error_argument")
  }
  for (every in list(0, NA, "5", Inf, c(1, 2))) {
    expect_error(live_values("v.json", every), class = "ochre_error_argument")
  }
  expect_error(page_style(live = "values.json"), class = "ochre_error_argument")
})

test_that("a sheet that is printed in a document is its map", {
  skip_if_not_installed("rmarkdown")
  folder <- temporary("")
  dir.create(folder)
  source <- file.path(folder, "map.Rmd")
  writeLines(c(
    "---", "title: A report", "---", "",
    "```{r, echo = FALSE, message = FALSE, warning = FALSE, fig.cap = 'People'}",
    "library(ochre)",
    "areas <- read_boundaries(ochre_demo('districts.geojson'))",
    "map_sheet('Residents') |> shade_areas(areas, population)",
    "```"
  ), source)
  render <- function(format) {
    rmarkdown::render(source, format, quiet = TRUE, envir = new.env(), clean = FALSE)
  }
  html <- text_of(render(rmarkdown::html_document(self_contained = FALSE)))
  expect_match(html, "class=\"ochre html-widget", fixed = TRUE)
  expect_match(html, "\"fits\":true", fixed = TRUE)
  expect_no_match(html, "<img", fixed = TRUE)
  word <- render(rmarkdown::word_document())
  parts <- utils::unzip(word, exdir = file.path(folder, "word"))
  picture <- grep("media/.*png$", parts, value = TRUE)
  expect_length(picture, 1)
  # As high as the map's shape asks for, not as the chunk would have it.
  size <- dim(png::readPNG(picture))
  plan <- quietly(resolve_sheet(map_sheet("Residents") |> shade_areas(areas, population)))
  natural <- file.path(folder, "natural.png")
  publish(plan, natural, width = size[2] / 200, dpi = 200)
  wanted <- dim(png::readPNG(natural))
  expect_equal(size[1] / size[2], wanted[1] / wanted[2], tolerance = 0.06)
  said <- text_of(grep("word/document.xml$", parts, value = TRUE))
  expect_match(said, "People", fixed = TRUE)
  skip_if_not(nzchar(Sys.which("xelatex")))
  pdf <- render(rmarkdown::pdf_document(latex_engine = "xelatex"))
  words <- processx::run("pdftotext", c(pdf, "-"))$stdout
  expect_match(words, "Figure 1: People", fixed = TRUE)
  # The figure is drawn, its legend in letters.
  expect_match(words, plan$layers[[1]]$labels[1], fixed = TRUE)
})
