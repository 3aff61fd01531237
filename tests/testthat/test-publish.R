test_that("a figure is drawn from the plan: its data, its colours and its words", {
  plan <- demo_plan()
  figure <- as_figure(plan)
  layer <- plan$layers[[1]]
  drawn <- ggplot2::layer_data(figure, 2)
  expect_identical(drawn$fill, c(layer$no_data$colour, layer$colours)[layer$class + 1L])
  # One path for the whole layer, each area a part of it; the area drawn in each colour is the
  # land of that class.
  path <- ggplot2::layer_grob(figure, 2)[[1]]
  expect_s3_class(path, "pathgrob")
  ring <- split(seq_along(path$id), path$id)
  signed <- vapply(
    ring,
    function(i) {
      x <- as.numeric(path$x)[i]
      y <- as.numeric(path$y)[i]
      k <- c(seq_along(i)[-1], 1)
      sum(x * y[k] - x[k] * y) / 2
    },
    0
  )
  size <- abs(tapply(signed, path$pathId[vapply(ring, `[`, 0L, 1)], sum))
  land <- area_sizes(plan$topology, 1, 100)
  share <- function(v) as.numeric(tapply(v, factor(layer$class, 0:5), sum) / sum(v))
  expect_equal(share(size), share(land), tolerance = 1e-6)
  expect_identical(path$gp$fill, drawn$fill)
  expect_identical(figure$labels$title, plan$title)
})

test_that("holes are holes: an enclave shows its own colour", {
  ring <- function(lo, hi) {
    sprintf("[[%1$g,%1$g],[%2$g,%1$g],[%2$g,%2$g],[%1$g,%2$g],[%1$g,%1$g]]", lo, hi)
  }
  areas <- read_boundaries(geojson(
    c("{\"v\":1}", "{\"v\":9}"),
    sprintf(
      "{\"type\":\"Polygon\",\"coordinates\":[%s]}",
      c(paste(ring(0, 4), ring(1, 3), sep = ","), ring(1.5, 2.5))
    )
  ))
  file <- temporary(".png")
  publish(
    map_sheet("T") |> shade_areas(areas, v, steps = steps_at(c(0, 5, 10)), ramp = "woad"),
    file,
    width = 6,
    height = 4,
    dpi = 100
  )
  image <- pixels(file)
  colours <- unclass(ramp_colours("woad", 2))
  # The ring of 16 - 4 square degrees against the enclave of 1; legend swatches add a little to
  # both.
  expect_equal(
    share_of_colour(image, colours[1]) / share_of_colour(image, colours[2]), 12, tolerance = 0.25
  )
})

test_that("every format is written, opens, and says the title", {
  plan <- demo_plan()
  files <- vapply(
    publish_kinds,
    function(k) {
      f <- temporary(paste0(".", k))
      publish(plan, f, width = 7, dpi = 80)
      f
    },
    ""
  )
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
  policy <- xml2::xml_attr(
    xml2::xml_find_first(page, "//meta[@http-equiv='Content-Security-Policy']"),
    "content"
  )
  hash <- function(node) {
    jsonlite::base64_enc(digest::digest(
      xml2::xml_text(node),
      algo = "sha256",
      serialize = FALSE,
      raw = TRUE
    ))
  }
  expect_match(
    policy, paste0("script-src 'sha256-", hash(xml2::xml_find_first(page, "//script[not(@type)]"))),
    fixed = TRUE
  )
  expect_match(
    policy, paste0("style-src 'sha256-", hash(xml2::xml_find_first(page, "//style"))), fixed = TRUE
  )
  content <- jsonlite::fromJSON(
    xml2::xml_text(xml2::xml_find_first(page, "//script[@id='ochre-plan']")),
    simplifyVector = FALSE
  )
  layer <- demo_plan()$layers[[1]]
  held <- content$plan$layers[[1]]
  expect_identical(unlist(held$labels), layer$labels)
  expect_identical(unlist(content$columns[[held$names$column + 1]]), layer$names)
  expect_named(content$plan$topology$layers, c("layer1", "layer2", "layer3"))
  text <- paste(readLines(file, warn = FALSE), collapse = "\n")
  expect_identical(
    unique(regmatches(text, gregexpr("https?://[^\"' <]+", text))[[1]]),
    "http://www.w3.org/2000/svg"
  )
})

test_that("a file is replaced whole or not at all", {
  file <- temporary(".html")
  writeLines("before", file)
  expect_error(
    write_whole(file, function(path) {
      writeLines("half", path)
      stop("broken")
    }),
    "broken"
  )
  expect_identical(readLines(file), "before")
  expect_identical(
    list.files(dirname(file), pattern = basename(file), all.files = TRUE), basename(file)
  )
  expect_error(
    publish(demo_plan(), file.path(tempdir(), "nowhere", "map.png")), class = "ochre_error_file"
  )
  expect_error(publish(demo_plan(), "map.gif"), "\\.svg", class = "ochre_error_file")
})

test_that("a map is a widget in a document", {
  widget <- as_page(demo_plan())
  expect_s3_class(widget, c("ochre", "htmlwidget"), exact = TRUE)
  file <- temporary(".html")
  htmlwidgets::saveWidget(widget, file, selfcontained = FALSE)
  expect_match(paste(readLines(file), collapse = ""), "ochre-view", fixed = TRUE)
  expect_identical(jsonlite::fromJSON(widget$x$plan)$plan$title, demo_plan()$title)
  # No text ends the script that it stands in, or opens one.
  cell <- "<!-- <script> </script>"
  areas <- squares(c("1", "2"))
  areas$name <- cell
  sheet <- map_sheet(cell) |> shade_areas(areas, hover = "{name}")
  for (one in list(sheet, link_maps(sheet, sheet, title = cell))) {
    htmlwidgets::saveWidget(as_page(one), file, selfcontained = FALSE)
    script <- sub("(?s).*<script type=\"application/json\" data-for[^>]*>(.*?)</script>.*", "\\1",
                  paste(readLines(file), collapse = "\n"), perl = TRUE)
    expect_no_match(script, "<", fixed = TRUE)
    expect_true(jsonlite::validate(script))
  }
  for (wrong in list(1:3, "a", list(1), -1)) {
    expect_error(as_page(demo_plan(), height = wrong), class = "ochre_error_argument")
  }
})
