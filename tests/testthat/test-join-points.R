test_that("each point is in exactly one area, on borders, corners and the outer coast too", {
  d <- read_boundaries(ochre_demo("districts.geojson"))
  # The districts' own vertices are the hardest points: each lies on a border of one to three of
  # them.
  at <- unique(positions_core(unclass(d$geometry)))
  points <- data.frame(longitude = at[, 1], latitude = at[, 2], n = 1)
  touching <- vapply(
    seq_len(100),
    function(i) !is.na(locate_core(unclass(d$geometry)[i], at[, 1], at[, 2])$row),
    logical(nrow(at))
  )
  found <- quietly(find_areas(points, d))
  row <- match(found$area, d$code)
  expect_false(anyNA(row))
  expect_true(all(touching[cbind(seq_along(row), row)]))
  expect_identical(sum(count_in_areas(points, d)$points), nrow(at))
  # And a step outside of the coast is in none.
  expect_warning(
    none <- count_in_areas(data.frame(longitude = -45, latitude = at[1, 2]), d),
    class = "ochre_warning_outside"
  )
  expect_identical(sum(none$points), 0L)
})

test_that("counting agrees with one by one; points outside are named with the nearest", {
  d <- read_boundaries(ochre_demo("districts.geojson"))
  set.seed(3)
  p <- data.frame(
    longitude = runif(4000, -40.5, -36),
    latitude = runif(4000, 45.8, 48),
    v = rnorm(4000)
  )
  found <- quietly(find_areas(p, d))
  ray <- function(i) {
    g <- wk::wk_coords(wk::new_wk_wkb(unclass(d$geometry)[i]))
    ok <- g$ring_id[-1] == g$ring_id[-nrow(g)]
    list(x1 = g$x[-nrow(g)][ok], y1 = g$y[-nrow(g)][ok], x2 = g$x[-1][ok], y2 = g$y[-1][ok])
  }
  for (i in c(5, 33, 81)) {
    e <- ray(i)
    inside <- vapply(
      seq_len(nrow(p)),
      function(k) {
        sum(
          (e$y1 > p$latitude[k]) != (e$y2 > p$latitude[k]) &
            p$longitude[k] < (e$x2 - e$x1) * (p$latitude[k] - e$y1) / (e$y2 - e$y1) + e$x1
        ) %% 2 == 1
      },
      NA
    )
    expect_identical(found$area %in% d$code[i], inside)
  }
  s <- quietly(summarise_in_areas(p, d, v, "mean"))
  by_hand <- tapply(p$v, factor(found$area, d$code), mean)
  expect_equal(s$v_mean, as.numeric(by_hand))
  expect_equal(
    quietly(summarise_in_areas(p, d, v, "max"))$v_max,
    as.numeric(tapply(p$v, factor(found$area, d$code), max))
  )
  # Distances against the nearest of all vertices and points along the borders.
  lost <- which(is.na(found$area))[1:20]
  border <- positions_core(unclass(d$geometry))
  for (k in lost) {
    near <- min(km_between(p$longitude[k], p$latitude[k], border[, 1], border[, 2]))
    expect_lte(found$distance_km[k], near * 1.005)
    expect_gt(found$distance_km[k], near - 2)
  }
  w <- tryCatch(
    count_in_areas(read_statistics(ochre_demo("clinics.csv")), d),
    ochre_warning_outside = identity
  )
  expect_match(
    w$what,
    "1 point lies in none of the areas: Tamack Health Centre \\([0-9,]+\\.[0-9] km from [0-9]+\\)"
  )
  nowhere <- data.frame(longitude = c(5e5, NA), latitude = c(5e6, 47))
  expect_warning(
    count_in_areas(nowhere, d),
    "row 1 \\(not in degrees\\) and row 2 \\(no coordinates\\)", class = "ochre_warning_outside"
  )
  expect_error(count_in_areas(d, d), class = "ochre_error_geometry")
})

test_that("areas are named by the key that joined them, where there is no code", {
  d <- read_boundaries(ochre_demo("districts.geojson"))
  clinics <- read_statistics(ochre_demo("clinics.csv"))
  d$GEOID <- paste0("G", d$code)
  keyed <- d[setdiff(names(d), "code")]
  keyed <- quietly(join_statistics(keyed, data.frame(GEOID = d$GEOID, v = 1), by = GEOID))
  expect_identical(find_areas(clinics, keyed)$area, find_areas(clinics, d, id = GEOID)$area)
})

test_that("areas that stand in several rows are refused, for points count once", {
  areas <- squares(c("a", "b"))
  long <- areas[c(1, 2, 1, 2), ]
  points <- data.frame(longitude = c(0.5, 1.5), latitude = 0.5, v = 1:2)
  for (code in list(
      quote(count_in_areas(points, long)),
      quote(find_areas(points, long)),
      quote(summarise_in_areas(points, long, v))
    )) {
    e <- expect_error(
      eval(code), "2 rows with the shape of another", class = "ochre_error_geometry"
    )
    expect_identical(e$rows, 3:4)
  }
})
