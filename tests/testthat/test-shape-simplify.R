demo <- function() read_boundaries(ochre_demo("districts.geojson"))
vertices <- function(x) nrow(positions_core(unclass(x$geometry)))

# Segments of a table's rings; how many pairs cross, by comparing all (no index, no core).
crossings <- function(x) {
  rings <- unlist(
    lapply(unclass(x$geometry), function(g) {
      split.data.frame(
        as.data.frame(wk::wk_coords(wk::new_wk_wkb(list(g)))),
        wk::wk_coords(wk::new_wk_wkb(list(g)))$ring_id
      )
    }),
    recursive = FALSE
  )
  s <- do.call(
    rbind,
    lapply(rings, function(r) cbind(r$x[-nrow(r)], r$y[-nrow(r)], r$x[-1], r$y[-1]))
  )
  s <- unique(t(apply(s, 1, function(v) {
    if (v[1] < v[3] || (v[1] == v[3] && v[2] < v[4])) v else v[c(3, 4, 1, 2)]
  })))
  side <- function(a, b, c) {
    sign((b[, 1] - a[, 1]) * (c[, 2] - a[, 2]) - (b[, 2] - a[, 2]) * (c[, 1] - a[, 1]))
  }
  n <- 0
  for (i in seq_len(nrow(s) - 1)) {
    t <- s[(i + 1):nrow(s), , drop = FALSE]
    u <- matrix(s[i, ], nrow(t), 4, byrow = TRUE)
    n <- n + sum(
      side(u[, 1:2, drop = FALSE], u[, 3:4, drop = FALSE], t[, 1:2, drop = FALSE]) *
        side(u[, 1:2, drop = FALSE], u[, 3:4, drop = FALSE], t[, 3:4, drop = FALSE]) < 0 &
        side(t[, 1:2, drop = FALSE], t[, 3:4, drop = FALSE], u[, 1:2, drop = FALSE]) *
          side(t[, 1:2, drop = FALSE], t[, 3:4, drop = FALSE], u[, 3:4, drop = FALSE]) < 0
    )
  }
  n
}

test_that("borders stay shared, nothing crosses or vanishes, however few vertices stay", {
  d <- demo()
  pairs <- inner_borders(d)[c("left", "right")]
  for (keep in c(0.5, 0.1, 0)) {
    s <- quietly(simplify_boundaries(d, keep = keep))
    expect_identical(s$code, d$code)
    expect_identical(nrow(check_boundaries(s)), 0L)
    expect_identical(inner_borders(s)[c("left", "right")], pairs)
    expect_true(all(areas_km2(s) > 0))
    expect_identical(crossings(s), 0)
    expect_equal(sum(areas_km2(merge_areas(s, region))), sum(areas_km2(s)), tolerance = 1e-12)
  }
  expect_identical(quietly(simplify_boundaries(d, keep = 1))$geometry, d$geometry)
  expect_equal(
    vertices(quietly(simplify_boundaries(d, keep = 0.5))) / vertices(d), 0.5, tolerance = 0.1
  )
})

test_that("small islands go by choice, last parts when asked, shared parts never", {
  wkt <- c(
    "MULTIPOLYGON (((0 0, 1 0, 1 1, 0 1, 0 0)), ((3 0, 3.01 0, 3.01 0.01, 3 0)))",
    "POLYGON ((5 5, 5.01 5, 5.01 5.01, 5 5))",
    paste0(
      "MULTIPOLYGON (((1 0, 1.01 0, 1 1, 1 0)), ((7 7, 9 7, 9 9, 7 7), (8.5 7.5, 8.51 7.5, ",
      "8.51 7.51, 8.5 7.5)))"
    )
  )
  x <- read_boundaries(tibble::tibble(code = c("a", "b", "c"), geometry = wk::wkt(wkt)))
  s <- quietly(simplify_boundaries(x, keep = 1, drop_below = 1000))
  expect_identical(
    wkt_of(s),
    c(
      "MULTIPOLYGON (((0 0, 1 0, 1 1, 0 1, 0 0)))", wkt[2],
      "MULTIPOLYGON (((1 0, 1.01 0, 1 1, 1 0)), ((7 7, 9 7, 9 9, 7 7)))"
    )
  )
  expect_message(
    s <- simplify_boundaries(x, keep = 1, drop_below = 1000, vanish = TRUE), "1 area gone"
  )
  expect_identical(wkt_of(s)[2], "POLYGON EMPTY")
})

test_that("a budget is met by the file that is written, as full as it can be", {
  d <- demo()
  for (kind in c("geojson", "topojson")) {
    file <- temporary(paste0(".", kind))
    write_boundaries(quietly(simplify_boundaries(d, budget = "90 kB", for_file = kind)), file)
    expect_lte(file.size(file), 90000)
    expect_gt(file.size(file), 80000)
  }
  e <- expect_error(
    simplify_boundaries(d, budget = "1 kB"), "do not fit in 1 kB", class = "ochre_error_budget"
  )
  expect_gt(e$least, 1000)
  page <- temporary(".html")
  sheet <- map_sheet("People") |> shade_areas(d, population_65_plus)
  quietly(publish(sheet, page, budget = "205 kB"))
  expect_lte(file.size(page), 205000)
  expect_gt(file.size(page), 170000)
  expect_error(quietly(publish(sheet, page, budget = 1000)), class = "ochre_error_budget")
  expect_error(
    simplify_boundaries(d, budget = "5 parsecs"), "500 kB", class = "ochre_error_argument"
  )
  expect_error(
    simplify_boundaries(d, keep = 0.1, tolerance = 5), "one of", class = "ochre_error_argument"
  )
})

test_that("merging dissolves inner borders exactly, and borders come once a pair", {
  d <- demo()
  m <- merge_areas(d, region, sum = "population")
  expect_equal(sum(areas_km2(m)), sum(areas_km2(d)), tolerance = 1e-12)
  expect_equal(
    m$population, as.numeric(tapply(d$population, factor(d$region, unique(d$region)), sum))
  )
  expect_identical(nrow(check_boundaries(m)), 0L)
  # Every vertex is one of the original, and the outline is that of the districts.
  key <- function(x) {
    p <- positions_core(unclass(x$geometry))
    paste(p[, 1], p[, 2])
  }
  expect_true(all(key(m) %in% key(d)))
  expect_equal(lengths_km(outline(m)), lengths_km(outline(d)), tolerance = 1e-12)
  expect_equal(
    sum(lengths_km(inner_borders(d, region))), sum(lengths_km(inner_borders(m))), tolerance = 1e-12
  )
  one <- merge_areas(transform(d, all = "x"), all)
  expect_equal(areas_km2(one), sum(areas_km2(d)), tolerance = 1e-12)
  squares9 <- read_boundaries(tibble::tibble(
    g = rep(c("a", "b"), c(8, 1)),
    geometry = wk::wkt(vapply(
      c(0:3, 5:8, 4),
      function(i) {
        x <- i %% 3
        y <- i %/% 3
        sprintf(
          "POLYGON ((%1$d %2$d, %3$d %2$d, %3$d %4$d, %1$d %4$d, %1$d %2$d))", x, y,
          x + 1L, y + 1L
        )
      },
      ""
    ))
  ))
  ring <- merge_areas(squares9, g)
  expect_identical(lengths(regmatches(wkt_of(ring), gregexpr("\\(", wkt_of(ring)))), c(3L, 2L))
  expect_match(
    wkt_of(inner_borders(squares9, g)), "^MULTILINESTRING [(]{2}([0-9 ]+, ){4}[0-9 ]+[)]{2}$"
  )
  expect_equal(lengths_km(inner_borders(squares9, g)), lengths_km(outline(squares9[9, ])))
  # Squares that touch at a corner only stay two parts.
  touch <- squares9[c(1, 9), ]
  touch$g <- "t"
  expect_match(wkt_of(merge_areas(touch, g)), "^MULTIPOLYGON")
})

test_that("areas over 180 degrees and round a pole merge as exactly as others", {
  ring <- function(x, y) sprintf("(%s)", paste(sprintf("%.15g %.15g", x, y), collapse = ", "))
  whole <- function(...) {
    read_boundaries(tibble::tibble(g = "x", geometry = wk::wkt(sprintf("POLYGON (%s)", c(...)))))
  }
  # The border of both has longitudes whose last bits a turn forth and back would cost.
  set.seed(11)
  y <- 0:40 / 2
  x <- 31 + runif(41)
  far <- ring(c(-170, x, -170, -170), c(0, y, 20, 0))
  near <- ring(c(10, x, 10, 10), c(0, y, 20, 0))
  d <- suppressWarnings(whole(far, near))
  m <- suppressWarnings(merge_areas(d, g))
  seen <- positions_core(unclass(m$geometry))
  expect_false(any(seen[, 1] %in% x[2:40]))
  expect_equal(areas_km2(m), sum(areas_km2(d)), tolerance = 1e-12)

  # The land between two rings round the pole, from wherever each begins.
  turn <- seq(-180, 180, by = 5)
  for (from in c(1, 20)) {
    round <- function(lat, n) {
      i <- (n + seq_along(turn) - 2) %% 72 + 1
      ring(turn[i], lat + 2 * sin(3 * pi * turn[i] / 180))
    }
    band <- suppressWarnings(whole(paste(round(-70, from), round(-85, 37), sep = ", ")))
    cap <- suppressWarnings(whole(round(-85, 3)))
    both <- suppressWarnings(merge_areas(rbind(band, cap), g))
    expect_equal(areas_km2(both), areas_km2(band) + areas_km2(cap), tolerance = 1e-9)
    left <- positions_core(unclass(both$geometry))
    expect_false(any(abs(left[, 2] + 85) < 3 & abs(left[, 1]) < 180))
  }

  # A way there and back is no land, and leaves no ring.
  flat <- whole(ring(c(0, 4, 4, 0, 0), c(0, 0, 4, 4, 0)), ring(c(9, 9, 9), c(9, 8, 9)))
  expect_identical(wkt_of(merge_areas(flat, g)), wkt_of(merge_areas(flat[1, ], g)))
})
