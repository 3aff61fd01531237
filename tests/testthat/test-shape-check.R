table_of <- function(wkt, ...) {
  read_boundaries(tibble::tibble(code = as.character(seq_along(wkt)), ..., geometry = wk::wkt(wkt)))
}
whats <- function(x) sort(unique(x$what))

# Each fault, and the area in square degrees that the mended geometry has (NA: none).
faults <- list(
  open_ring = list("POLYGON ((0 0, 4 0, 4 4, 0 4))", 16),
  backward_ring = list("POLYGON ((0 0, 0 4, 4 4, 4 0, 0 0))", 16),
  repeated_point = list("POLYGON ((0 0, 4 0, 4 0, 4 4, 0 4, 0 0))", 16),
  bow_tie = list("POLYGON ((0 0, 4 4, 4 0, 0 4, 0 0))", 8),
  flat_ring = list("MULTIPOLYGON (((0 0, 1 1, 2 2, 0 0)), ((0 0, 4 0, 4 4, 0 4, 0 0)))", 16),
  hole_outside = list("POLYGON ((0 0, 4 0, 4 4, 0 4, 0 0), (6 0, 6 1, 7 1, 7 0, 6 0))", 17),
  height = list("POLYGON Z ((0 0 1, 4 0 1, 4 4 1, 0 4 1, 0 0 1))", 16),
  antimeridian = list("POLYGON ((178 0, -178 0, -178 4, 178 4, 178 0))", 16)
)

test_that("each fault is found under its own name, and mending repairs it and keeps the land", {
  plane <- function(x) {
    p <- positions_core(unclass(x$geometry))
    sum(areas_km2(x))
  }
  square <- areas_km2(table_of("POLYGON ((0 0, 1 0, 1 1, 0 1, 0 0))"))
  for (what in names(faults)) {
    x <- table_of(faults[[what]][[1]])
    found <- check_boundaries(x)
    expect_identical(whats(found), what)
    mended <- quietly(mend_boundaries(x))
    expect_identical(nrow(check_boundaries(mended)), 0L, label = what)
    # A square degree shrinks a little with latitude; up to 4 degrees by less than half a percent.
    expect_equal(plane(mended) / square, faults[[what]][[2]], tolerance = 0.005, label = what)
  }
  odd <- quietly(table_of(c("POLYGON EMPTY", NA, "POINT (200 5)", "LINESTRING (170 0, -170 0)")))
  found <- check_boundaries(odd)
  expect_identical(
    found$what[match(1:4, found$row)],
    c("empty_geometry", "no_geometry", "beyond_degrees", "antimeridian")
  )
  expect_identical(
    wkt_of(quietly(mend_boundaries(odd)))[4], "MULTILINESTRING ((170 0, 180 0), (-180 0, -170 0))"
  )
})

test_that("areas across 180 degrees are cut there, holes and poles included", {
  ring <- paste0(
    "POLYGON ((170 -10, -170 -10, -170 10, 170 10, 170 -10), (178 -2, 178 2, -178 2, -178 ",
    "-2, 178 -2))"
  )
  x <- table_of(c(ring, "POLYGON ((-170 -80, -90 -78, 0 -79, 90 -77, 170 -80, -170 -80))"))
  mended <- quietly(mend_boundaries(x))
  expect_equal(areas_km2(mended), areas_km2(x), tolerance = 1e-6)
  expect_true(all(abs(positions_core(unclass(mended$geometry))[, 1]) <= 180))
  expect_match(wkt_of(mended)[1], "^MULTIPOLYGON")
  expect_match(wkt_of(mended)[2], "-90")
  expect_identical(nrow(check_boundaries(mended)), 0L)
})

test_that("a ring that crosses itself any which way becomes simple rings of the odd parts", {
  set.seed(4)
  for (i in 1:60) {
    p <- matrix(sample(0:9, 2 * sample(4:12, 1), replace = TRUE), ncol = 2)
    p <- rbind(p, p[1, ])
    wkt <- sprintf("POLYGON ((%s))", paste(p[, 1], p[, 2], collapse = ", "))
    mended <- quietly(mend_boundaries(table_of(wkt), tolerance = 0))
    expect_identical(
      setdiff(whats(check_boundaries(mended, tolerance = 0)), "empty_geometry"), character()
    )
    # By counting: places that a ray from them crosses the original ring an odd number of times
    # from are inside.
    at <- cbind(runif(200, -1, 10), runif(200, -1, 10)) + 1e-4
    a <- p[-nrow(p), , drop = FALSE]
    b <- p[-1, , drop = FALSE]
    odd <- apply(at, 1, function(q) {
      sum(
        (a[, 2] > q[2]) != (b[, 2] > q[2]) &
          q[1] < (b[, 1] - a[, 1]) * (q[2] - a[, 2]) / (b[, 2] - a[, 2]) + a[, 1],
        na.rm = TRUE
      ) %% 2 == 1
    })
    expect_identical(!is.na(locate_core(unclass(mended$geometry), at[, 1], at[, 2])$row), odd)
  }
})

# A tiling whose second column is drawn again with an error of a few metres.
tiling <- function(error = 0) {
  set.seed(2)
  wiggle <- function(n) cumsum(rnorm(n)) / 300
  y <- seq(0, 1, length.out = 41)
  border <- cbind(1 + wiggle(41), y)
  left <- rbind(c(0, 0), border, c(0, 1))
  moved <- border + error * matrix(runif(82, -1, 1), ncol = 2)
  # The neighbour has vertices of its own in the middle of some edges.
  if (error > 0) {
    for (i in c(33, 20, 7)) {
      moved <- rbind(moved[1:i, ], (moved[i, ] + moved[i + 1, ]) / 2, moved[(i + 1):nrow(moved), ])
    }
  }
  right <- rbind(c(2, 0), c(2, 1), moved[rev(seq_len(nrow(moved))), ])
  text <- function(p) {
    sprintf(
      "POLYGON ((%s))",
      paste(
        format(c(p[, 1], p[1, 1]), digits = 17, trim = TRUE),
        format(c(p[, 2], p[1, 2]), digits = 17, trim = TRUE),
        collapse = ", "
      )
    )
  }
  table_of(c(text(left), text(right)))
}

test_that("slivers and overlaps along one border are found, and mended to one border", {
  expect_identical(nrow(check_boundaries(tiling())), 0L)
  rough <- tiling(2e-6)  # about 0.2 metres
  found <- check_boundaries(rough)
  expect_true(all(found$what %in% c("overlap", "sliver")))
  expect_identical(unlist(found[1, c("row", "other")]), c(row = 1L, other = 2L))
  expect_identical(nrow(inner_borders(rough)), 0L)
  mended <- quietly(mend_boundaries(rough))
  expect_identical(nrow(check_boundaries(mended)), 0L)
  expect_identical(nrow(inner_borders(mended)), 1L)
  expect_equal(areas_km2(mended), areas_km2(tiling()), tolerance = 1e-5)
  expect_equal(
    lengths_km(inner_borders(mended)), lengths_km(inner_borders(tiling())), tolerance = 1e-4
  )
  at <- function(x) {
    p <- positions_core(unclass(x$geometry)[1])
    paste(p[, 1], p[, 2])
  }
  expect_true(all(at(rough) %in% at(mended)))  # the first keeps its place
})

test_that("findings name rows, ids and reasons, print as a summary, and come as data", {
  d <- read_boundaries(ochre_demo("districts.geojson"))
  expect_identical(nrow(check_boundaries(d)), 0L)
  p <- tibble::tibble(
    code = c("in", "swap", "zero", "far"),
    geometry = wk::xy(c(-38.9642, 46.8565, 0, 10), c(46.8565, -38.9642, 0, 10))
  )
  found <- check_boundaries(read_boundaries(p), inside = d)
  expect_identical(found$id, c("swap", "zero", "far"))
  expect_match(found$why[1:2], "^swapped|^zero island")
  expect_output(
    print(found),
    paste0(
      "3 findings in 4 rows:\n  fault  3 rows outside of the areas: swap, zero and far ",
      "\\(swapped\\?, zero island\\?\\)"
    )
  )
  twice <- rbind(d[1:3, ], d[3, ], d[4, ])
  twice$code[5] <- twice$code[1]
  expect_identical(
    unique(check_boundaries(twice)$id[check_boundaries(twice)$what == "duplicate_id"]),
    c("0101", "0103")
  )
  expect_message(m <- mend_boundaries(twice), "1 row that repeated another.*Left: duplicate id")
  expect_identical(nrow(m), 4L)
  expect_message(mend_boundaries(d), "Nothing to mend")
})

test_that("a long table, in which each shape stands many times, is looked at once a shape", {
  areas <- squares(sprintf("%02d", 1:40))
  areas$geometry[3] <- wk::as_wkb(wk::wkt(
    "POLYGON ((2 0, 3 1, 3 0, 2 1, 2 0))",
    crs = wk::wk_crs_longlat()
  ))
  areas$region <- rep(c("n", "s"), 20)
  long <- areas[rep(1:40, 500), ]
  long$month <- rep(1:500, each = 40)
  taken <- system.time({
    found <- check_boundaries(long, id = "month")
    mended <- quietly(mend_boundaries(long))
    borders <- inner_borders(areas, by = region)
    again <- inner_borders(long, by = region)
  })[["elapsed"]]
  expect_lt(taken, 10)
  # What is found at one is told of each.
  expect_identical(found$row[found$what == "bow_tie"], seq(3L, by = 40L, length.out = 500))
  once <- quietly(mend_boundaries(areas))
  expect_identical(mended$geometry[41:80], mended$geometry[1:40])
  expect_equal(areas_km2(mended)[1:40], areas_km2(once))
  expect_identical(again, borders)
  e <- expect_error(
    merge_areas(long, region), "19960 rows have the shape of another row|19,960",
    class = "ochre_error_geometry"
  )
  expect_identical(e$rows[1], 41L)
})
