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

test_that("help is found by the words that people search", {
  pages <- list(
    shade_areas = "choropleth, tooltip, hover, small multiples",
    steps = paste(
      "classification, breaks, class intervals, natural breaks, Jenks, equal interval, quantile,",
      "standard deviation, head/tail"
    ),
    ramp_names = "palette, colour ramp, sequential, diverging",
    shade_pairs = "bivariate", legend_style = "legend", popup_link = "popup",
    write_labels = "label", map_sheet = "projection, inset, alt text",
    read_boundaries = "CRS, EPSG, reproject, shapefile, GeoJSON, TopoJSON, GeoPackage",
    simplify_boundaries = "simplify", merge_areas = "dissolve", label_points = "centroid",
    find_areas = "point in polygon", lay_tiles = "basemap, tiles",
    place_symbols = "proportional symbol", shade_heat = "heatmap", no_data_colour = "missing data",
    hide_small = "suppression", seen_colours = "colour blind"
  )
  for (page in names(pages)) {
    for (word in strsplit(pages[[page]], ", *")[[1]]) {
      found <- utils::help.search(word, package = "ochre")$matches$Topic
      expect_true(page %in% found, label = paste(word, "leads to", page))
    }
  }
})
