test_that("a label's place is inside, as far from the border as a fine grid finds", {
  d <- read_boundaries(ochre_demo("districts.geojson"))
  p <- label_points(d)
  at <- positions_core(unclass(p$geometry))
  expect_identical(locate_core(unclass(d$geometry), at[, 1], at[, 2])$row, seq_len(100))
  # Against a grid of places, by the distance to sampled borders, for three districts.
  for (i in c(1, 40, 77)) {
    border <- positions_core(unclass(d$geometry)[i])
    near <- function(lon, lat) {
      min(sqrt(((border[, 1] - lon) * cos(lat * pi / 180))^2 + (border[, 2] - lat)^2)) * 111.195
    }
    grid <- expand.grid(
      lon = seq(min(border[, 1]), max(border[, 1]), length.out = 40),
      lat = seq(min(border[, 2]), max(border[, 2]), length.out = 40)
    )
    inside <- !is.na(locate_core(unclass(d$geometry)[i], grid$lon, grid$lat)$row)
    best <- max(mapply(near, grid$lon[inside], grid$lat[inside]))
    expect_gt(p$room_km[i], 0.85 * best)
  }
  ring <- read_boundaries(tibble::tibble(
    geometry = wk::wkt("POLYGON ((0 0, 10 0, 10 10, 0 10, 0 0), (1 1, 9 1, 9 9, 1 9, 1 1))")
  ))
  q <- positions_core(unclass(label_points(ring)$geometry))
  expect_identical(locate_core(unclass(ring$geometry), q[, 1], q[, 2])$row, 1L)
  expect_true(is.na(
    label_points(read_boundaries(tibble::tibble(geometry = wk::wkt("POINT (1 1)"))))$geometry
  ))
})
