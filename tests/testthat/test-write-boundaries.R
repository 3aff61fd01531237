# What is written reads back.

test_that("what is written reads back the same in every format; GeoJSON winds by its rule", {
  d <- districts()
  d$odd <- c("quote \" back \\ line \n tab \t", "<b>", NA, rep("é", 97))
  d$day <- as.Date("2031-05-01") + 0:99
  d$on <- rep(c(TRUE, NA, FALSE, TRUE), 25)
  d$fine <- c(1 / 3, NA, 1e-300, 2^53, seq_len(96) / 7)
  back <- function(ext, ...) {
    file <- temporary(ext)
    write_boundaries(d, file, ...)
    read_boundaries(file)
  }
  plain <- setdiff(names(d), c("geometry", "day"))
  for (ext in c(".geojson", ".topojson", ".gpkg")) {
    got <- back(ext)
    expect_identical(as.list(got[plain]), as.list(d[plain]))
    expect_identical(as.character(got$day), as.character(d$day))
    same_areas(got, d, 1e-7)
  }
  expect_identical(back(".geojson", digits = NULL)$geometry, d$geometry)
  expect_identical(back(".gpkg")$geometry, d$geometry)
  expect_identical(
    back(".csv", digits = NULL)[c("code", "population", "geometry")],
    d[c("code", "population", "geometry")], ignore_attr = TRUE
  )
  # A clockwise shell is turned; heights and every geometry type survive.
  wkt <- c(
    "POLYGON ((0 0, 0 4, 4 4, 0 0), (1 2, 2 3, 1 3, 1 2))", "POINT Z (1 2 3.5)",
    "MULTIPOINT ((1 1), (2 2))", "LINESTRING (0 0, 1 1.25)",
    "MULTILINESTRING ((0 0, 1 1), (2 2, 3 3))",
    "GEOMETRYCOLLECTION (POINT (1 2), LINESTRING (0 0, 1 1))",
    "MULTIPOLYGON (((0 0, 1 0, 1 1, 0 0)))", NA, "POLYGON EMPTY"
  )
  t <- tibble::tibble(n = seq_along(wkt), geometry = wk::wkt(wkt))
  file <- temporary(".geojson")
  write_boundaries(read_boundaries(t), file)
  expect_identical(
    wkt_of(read_boundaries(file)),
    c("POLYGON ((0 0, 4 4, 0 4, 0 0), (1 2, 1 3, 2 3, 1 2))", wkt[-1])
  )
  topo <- temporary(".topojson")
  write_boundaries(read_boundaries(t[c(1, 3:8), ]), topo)
  got <- wkt_of(read_boundaries(topo))
  expect_identical(got[-1], wkt[3:8])
  expect_error(write_boundaries(d, "x.shp"), "geojson", class = "ochre_error_file")
})
