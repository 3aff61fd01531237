test_that("a label's place is inside, also of an area with a hole; a point has none", {
  d <- read_boundaries(ochre_demo("districts.geojson"))
  p <- label_points(d)
  at <- positions_core(unclass(p$geometry))
  expect_identical(locate_core(unclass(d$geometry), at[, 1], at[, 2])$row, seq_len(100))
  ring <- read_boundaries(tibble::tibble(
    geometry = wk::wkt("POLYGON ((0 0, 10 0, 10 10, 0 10, 0 0), (1 1, 9 1, 9 9, 1 9, 1 1))")
  ))
  q <- positions_core(unclass(label_points(ring)$geometry))
  expect_identical(locate_core(unclass(ring$geometry), q[, 1], q[, 2])$row, 1L)
  expect_true(is.na(
    label_points(read_boundaries(tibble::tibble(geometry = wk::wkt("POINT (1 1)"))))$geometry
  ))
})
