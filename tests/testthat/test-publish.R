pixels <- function(file) round(255 * png::readPNG(file)[, , 1:3])
share_of_colour <- function(image, colour) {
  rgb <- grDevices::col2rgb(colour)
  mean(image[, , 1] == rgb[1] & image[, , 2] == rgb[2] & image[, , 3] == rgb[3])
}

test_that("a figure is drawn from the plan: its data, its colours and its words", {
  plan <- demo_plan()
  figure <- as_figure(plan)
  built <- ggplot2::ggplot_build(figure)
  layer <- plan$layers[[1]]
  drawn <- built$data[[1]]
  expect_setequal(unique(drawn$fill), c(layer$colours, layer$no_data$colour))
  # The area drawn in each colour is the land of that class.
  land <- area_sizes(plan$topology, 1, 100)
  by_class <- tapply(land, factor(layer$class, 0:5), sum)
  ring <- interaction(drawn$group, drawn$subgroup, drop = TRUE)
  hole <- tapply(drawn$subgroup, ring, min) > tapply(drawn$subgroup, drawn$group, min)[as.character(tapply(drawn$group, ring, min))]
  cross <- vapply(split(drawn, ring), function(r) { n <- nrow(r); i <- c(2:n, 1); abs(sum(r$x * r$y[i] - r$x[i] * r$y)) / 2 }, 0)
  fill <- vapply(split(drawn$fill, ring), `[`, "", 1)
  size <- tapply(ifelse(hole[names(cross)], -cross, cross), fill, sum)
  expect_equal(as.numeric(size[c(layer$no_data$colour, layer$colours)]), as.numeric(by_class), tolerance = 1e-6)
  expect_identical(figure$labels$title, plan$title)
})

test_that("holes are holes: an enclave shows its own colour", {
  ring <- function(lo, hi) sprintf("[[%1$g,%1$g],[%2$g,%1$g],[%2$g,%2$g],[%1$g,%2$g],[%1$g,%1$g]]", lo, hi)
  areas <- read_boundaries(geojson(c("{\"v\":1}", "{\"v\":9}"), sprintf("{\"type\":\"Polygon\",\"coordinates\":[%s]}", c(paste(ring(0, 4), ring(1, 3), sep = ","), ring(1.5, 2.5)))))
  file <- temporary(".png")
  publish(map_sheet("T") |> shade_areas(areas, v, steps = steps_at(c(0, 5, 10)), ramp = "woad"), file, width = 6, height = 4, dpi = 100)
  image <- pixels(file)
  colours <- unclass(ramp_colours("woad", 2))
  # The ring of 16 - 4 square degrees against the enclave of 1; legend swatches add a little to both.
  expect_equal(share_of_colour(image, colours[1]) / share_of_colour(image, colours[2]), 12, tolerance = 0.25)
})

test_that("every format is written, opens, and says the title", {
  plan <- demo_plan()
  files <- vapply(publish_kinds, function(k) { f <- temporary(paste0(".", k)); publish(plan, f, width = 7, dpi = 80); f }, "")
  image <- pixels(files[["png"]])
  expect_identical(dim(image)[2], 560L)
  expect_gt(share_of_colour(image, plan$layers[[1]]$colours[1]), 0.02)
  svg <- xml2::read_xml(files[["svg"]])
  expect_match(xml2::xml_text(svg), "Hay fever follows the wind", fixed = TRUE)
  expect_match(xml2::xml_text(svg), "13–53", fixed = TRUE)
  expect_identical(rawToChar(readBin(files[["pdf"]], "raw", 5)), "%PDF-")
  page <- xml2::read_html(files[["html"]])
  expect_identical(xml2::xml_text(xml2::xml_find_first(page, "//title")), plan$title)
})

test_that("the page holds the plan, all its parts hashed into its policy, and no address", {
  file <- temporary(".html")
  publish(demo_plan(), file)
  page <- xml2::read_html(file)
  policy <- xml2::xml_attr(xml2::xml_find_first(page, "//meta[@http-equiv='Content-Security-Policy']"), "content")
  hash <- function(node) jsonlite::base64_enc(digest::digest(xml2::xml_text(node), algo = "sha256", serialize = FALSE, raw = TRUE))
  expect_match(policy, paste0("script-src 'sha256-", hash(xml2::xml_find_first(page, "//script[not(@type)]"))), fixed = TRUE)
  expect_match(policy, paste0("style-src 'sha256-", hash(xml2::xml_find_first(page, "//style"))), fixed = TRUE)
  content <- jsonlite::fromJSON(xml2::xml_text(xml2::xml_find_first(page, "//script[@id='ochre-plan']")), simplifyVector = FALSE)
  layer <- demo_plan()$layers[[1]]
  expect_identical(unlist(content$layers[[1]]$labels), layer$labels)
  expect_identical(unlist(content$layers[[1]]$class), layer$class)
  expect_identical(length(content$topology$arcs), length(demo_plan()$topology$arc_end))
  text <- paste(readLines(file, warn = FALSE), collapse = "\n")
  expect_identical(unique(regmatches(text, gregexpr("https?://[^\"' <]+", text))[[1]]), "http://www.w3.org/2000/svg")
})

test_that("a file is replaced whole or not at all", {
  file <- temporary(".html")
  writeLines("before", file)
  expect_error(write_whole(file, function(path) { writeLines("half", path); stop("broken") }), "broken")
  expect_identical(readLines(file), "before")
  expect_identical(list.files(dirname(file), pattern = basename(file), all.files = TRUE), basename(file))
  expect_error(publish(demo_plan(), file.path(tempdir(), "nowhere", "map.png")), class = "ochre_error_file")
  expect_error(publish(demo_plan(), "map.gif"), "\\.svg", class = "ochre_error_file")
})

test_that("a map is a widget in a document", {
  widget <- as_page(demo_plan())
  expect_s3_class(widget, c("ochre", "htmlwidget"), exact = TRUE)
  file <- temporary(".html")
  htmlwidgets::saveWidget(widget, file, selfcontained = FALSE)
  expect_match(paste(readLines(file), collapse = ""), "ochre-view", fixed = TRUE)
  expect_identical(jsonlite::fromJSON(widget$x$plan)$title, demo_plan()$title)
})
