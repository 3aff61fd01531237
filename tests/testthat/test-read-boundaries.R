test_that("columns have the types of their values and codes stay text", {
  file <- geojson(
    c(
      "{\"code\":\"01\",\"n\":1,\"x\":1.5,\"on\":true,\"deep\":{\"a\":\"u\"}}",
      "{\"code\":\"02\",\"n\":3000000000,\"x\":2,\"on\":null}"
    ),
    c(sprintf("{\"type\":\"Polygon\",\"coordinates\":%s}", square(0)), "null")
  )
  x <- read_boundaries(file)
  expect_identical(
    as.list(x[c("code", "n", "x", "on", "deep.a")]),
    list(code = c("01", "02"), n = c(1, 3e9), x = c(1.5, 2), on = c(TRUE, NA), deep.a = c("u", NA))
  )
  expect_s3_class(x$geometry, "wk_wkb")
  expect_identical(is.na(x$geometry), c(FALSE, TRUE))
  expect_identical(
    wk::as_wkt(x$geometry[1]),
    wk::wkt("POLYGON ((0 0, 1 0, 1 1, 0 1, 0 0))", crs = wk::wk_crs_longlat())
  )
})

test_that("what package wk writes in any form is read back the same", {
  wkt <- c(
    "POINT (1 2)", "LINESTRING (0 0, 1 1, 2 0)",
    "POLYGON ((0 0, 9 0, 9 9, 0 0), (4 1, 5 1, 5 2, 4 1))", "MULTIPOINT ((1 1), (2 2))",
    "MULTIPOLYGON (((0 0, 1 0, 1 1, 0 0)), ((5 5, 6 5, 6 6, 5 5)))",
    "GEOMETRYCOLLECTION (POINT (1 2), LINESTRING (0 0, 1 1))", "POINT Z (1 2 3)"
  )
  table <- data.frame(id = seq_along(wkt))
  table$shape <- wk::wkt(wkt)
  x <- read_boundaries(table)
  expect_identical(as.character(wk::as_wkt(x$geometry)), wkt)
})

test_that("a bare geometry is a row without columns, and ids are kept", {
  expect_identical(
    dim(read_boundaries(write_file("{\"type\":\"Point\",\"coordinates\":[1,2]}"))), c(1L, 1L)
  )
  x <- read_boundaries(write_file(
    "{\"type\":\"Feature\",\"id\":\"f1\",\"properties\":{\"id\":5},\"geometry\":null}"
  ))
  expect_identical(list(x$feature_id, x$id), list("f1", 5L))
})

test_that("a broken file is refused with its name, the place and a mend", {
  file <- write_file(
    paste0(
      "{\"type\":\"FeatureCollection\",\n\"features\":[{\"type\":\"Feature\",",
      "\"geometry\":{\"type\":\"Point\",\"coordinates\":[1]}}]}"
    ),
    ".geojson"
  )
  e <- expect_error(read_boundaries(file), class = "ochre_error_file")
  expect_identical(list(e$line, e$feature, e$file), list(2, 1, file))
  expect_match(
    conditionMessage(e),
    "feature 1: a position has fewer than two numbers.*\\[longitude, latitude\\]"
  )
  e <- expect_error(
    read_boundaries(file.path(dirname(file), sub("ochre", "ocher", basename(file)))),
    class = "ochre_error_file"
  )
  expect_match(conditionMessage(e), "Did you mean")
  expect_error(read_boundaries(1), class = "ochre_error_argument")
})

test_that("projected metres are refused, a few stray positions only warned of", {
  metres <- geojson(
    "{}",
    "{\"type\":\"LineString\",\"coordinates\":[[500000,5200000],[510000,5210000]]}"
  )
  expect_error(
    read_boundaries(metres), "not longitude and latitude.*x from 500000",
    class = "ochre_error_system"
  )
  stray <- geojson("{}", "{\"type\":\"LineString\",\"coordinates\":[[1,2],[3,4],[5,95]]}")
  expect_warning(read_boundaries(stray), "1 position lies beyond", class = "ochre_warning_degrees")
})

test_that("inspecting says geometry, extent, columns and likely keys", {
  x <- inspect_file(ochre_demo("districts.geojson"))
  expect_identical(x$kind, "boundaries")
  expect_identical(sum(x$shapes), 100L)
  expect_identical(x$keys, c("code", "name"))
  expect_output(print(x), "40\\.39°W to 35\\.98°W")
  expect_identical(inspect_file(ochre_demo("visits.csv"))$kind, "statistics")
  packed <- withr::local_tempfile(fileext = ".zip")
  utils::zip(packed, ochre_demo("districts.geojson"), flags = "-jq")
  before <- dir(tempdir())
  expect_identical(inspect_file(packed)$rows, 100L)
  expect_identical(dir(tempdir()), before)
})
