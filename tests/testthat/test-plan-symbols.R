# Symbols, lines, densities and labels of a plan.
base <- function() map_sheet("T") |> draw_lines(squares(c("1", "2", "3", "4")))
points <- data.frame(
  longitude = c(0.5, 1.5, 2.5, 3.5), latitude = c(0.2, 0.8, 0.2, 0.8),
  n = c(100, 400, 0, 900), m = c(50, NA, 200, 100), name = letters[1:4]
)
layer_of <- function(sheet, at = 2) quietly(resolve_sheet(sheet))$layers[[at]]
area_of <- function(p) {
  k <- c(seq_along(p$x)[-1], 1)
  abs(sum(p$x * p$y[k] - p$x[k] * p$y)) / 2
}

test_that("every shape has the area of its value's circle, and stands where it should", {
  for (shape in c("square", "triangle")) {
    s <- layer_of(base() |> place_symbols(points, n, shape = shape))
    expect_equal(area_of(s$outline), pi, tolerance = 1e-12)
    expect_equal(mean(s$outline$x), 0)
  }
  bars <- layer_of(base() |> place_symbols(points, n, shape = "bar"))
  expect_equal(bars$bar$height * bars$bar$width, pi * bars$r^2)
  expect_equal(bars$bar$height, bars$bar$height[1] * c(900, 400, 100) / 900)
  expect_equal(bars$bar$marks / bars$bar$height[1], c(500, 200) / 900)
})

test_that("split circles have each half by its own column; a missing half is none", {
  s <- layer_of(base() |> place_symbols(points, n, second = m))
  expect_identical(s$row, c(4L, 2L, 3L, 1L))
  expect_equal(s$r / s$r[1], sqrt(c(900, 400, 0, 100) / 900))
  expect_equal(s$second$r / s$r[1], sqrt(c(100, 0, 200, 50) / 900))
  expect_identical(s$hover[2], "b: 400, no data")
  expect_error(
    place_symbols(base(), points, n, second = m, shape = "square"), "Only circles",
    class = "ochre_error_argument"
  )
  expect_error(
    place_symbols(base(), points, n, second = m, size_steps = steps_equal(2)),
    "colours and sizes of their own", class = "ochre_error_argument"
  )
})

test_that("sizes in steps are those of class means, and the legend's marks are the classes", {
  values <- c(1, 2, 3, 40, 50, 400)
  many <- data.frame(longitude = seq(0.2, 3.8, length.out = 6), latitude = 0.5, n = values)
  s <- layer_of(base() |> place_symbols(many, n, size_steps = steps_natural(3)))
  steps <- fit_steps(values, steps_natural(3))
  expect_equal(
    (s$r / s$r[1])^2, sort(steps$means[class_of(steps, values)], decreasing = TRUE) / 400
  )
  expect_identical(s$sizes$labels, rev(steps$labels))
  expect_equal((s$sizes$r / s$r[1])^2, rev(steps$means) / 400)
})

test_that("values below zero are sized by their distance from it and coloured apart", {
  signed <- transform(points, n = c(-100, 400, 0, -900))
  s <- layer_of(base() |> place_symbols(signed, n, format = number_format(plus = TRUE)))
  expect_identical(s$row, c(4L, 2L, 1L))
  expect_equal(s$r / s$r[1], sqrt(c(900, 400, 100) / 900))
  expect_identical(s$key$class, c(1L, 2L, 1L))
  expect_identical(s$key$labels, c("under 0", "0 and over"))
  expect_identical(s$hover[1], "d: \u2212900")
})

test_that("symbols that overlap are moved apart, with their places kept", {
  set.seed(2)
  crowd <- data.frame(
    longitude = 2 + rnorm(30) / 20,
    latitude = 0.5 + rnorm(30) / 20,
    n = runif(30, 10, 100)
  )
  still <- layer_of(base() |> place_symbols(crowd, n))
  moved <- layer_of(base() |> place_symbols(crowd, n, overlap = "move"))
  expect_null(still$from)
  expect_equal(c(moved$from$x, moved$from$y), c(still$x, still$y))
  away <- sqrt((moved$x - moved$from$x)^2 + (moved$y - moved$from$y)^2)
  expect_gt(max(away), 0)
  expect_lte(max(away), 2.5 * max(moved$r) * (1 + 1e-9))
})

test_that("line widths follow values or classes; lines without a value are said and not drawn", {
  lines <- squares(c("1", "2", "3", "4"))
  lines$flow <- c(10, 20, NA, 5)
  lines$kind <- c("a", "b", "a", NA)
  expect_warning(
    plan <- resolve_sheet(draw_lines(
      map_sheet("T"), lines, width = flow, widest = 6, colour = kind, casing = TRUE,
      arrow = TRUE
    )),
    "1 line is not drawn", class = "ochre_warning_symbols"
  )
  l <- plan$layers[[1]]
  # Points are given, CSS pixels are drawn.
  expect_equal(l$width, c(3, 6, 0, 1.5) * 96 / 72)
  expect_equal(l$widths$width, 6 * c(20, 5) / 20 * 96 / 72)
  expect_identical(l$widths$labels, c("20", "5"))
  expect_identical(l$key$class, c(1L, 2L, 1L, 0L))
  expect_identical(l$legend, "Flow")
  stepped <- layer_of(
    draw_lines(map_sheet("T"), lines, width = "flow", width_steps = steps_equal(2)),
    1
  )
  expect_equal(stepped$width, 8 * 96 / 72 * c(7.5, 20, 0, 7.5) / 20, tolerance = 1e-3)
  expect_error(
    draw_lines(map_sheet("T"), lines, width = 0), "from 0.1", class = "ochre_error_argument"
  )
  expect_error(
    draw_lines(map_sheet("T"), transform(lines, flow = -1), width = flow), "negative",
    class = "ochre_error_column"
  )
})

test_that("a density is per square kilometre of ground, and its runs are its grid", {
  sheet <- map_sheet("T") |>
    draw_lines(squares(as.character(1:4))) |>
    shade_density(points, kernel = 30000, weight = n, steps = steps_at(c(0, 0.1, 1)))
  d <- layer_of(sheet)
  # The highest lies around the largest weight: 3 w / (pi h^2), in km.
  expect_identical(length(d$labels), 2L)
  expect_identical(sum(d$grid$runs), d$grid$columns * d$grid$rows)
  class <- rep(d$grid$class, d$grid$runs)
  expect_setequal(class, 0:2)
  # By hand: the density at the middle of each cell, over the weights.
  plan <- quietly(resolve_sheet(sheet))
  at <- project_core(points$longitude, points$latitude, plan$projection)
  x <- d$grid$x0 + (rep(seq_len(d$grid$columns), d$grid$rows) - 0.5) * d$grid$cell
  y <- d$grid$y0 + (rep(seq_len(d$grid$rows), each = d$grid$columns) - 0.5) * d$grid$cell
  value <- Reduce(
    `+`,
    lapply(c(1, 2, 4), function(i) {
      far <- ((x - at$x[i])^2 + (y - at$y[i])^2) / 30000^2
      points$n[i] * 3 / (pi * 30^2) * pmax(0, 1 - far)^2
    })
  )
  clear <- abs(value - 0.1) > 0.02 & value > max(value) / 40 & value < 1
  expect_gt(mean(clear), 0.05)
  expect_identical(class[clear], ifelse(value[clear] < 0.1, 1L, 2L))
  expect_identical(unique(class[value < max(value) / 60]), 0L)
  expect_error(
    resolve_sheet(
      map_sheet("T") |> draw_lines(squares(as.character(1:4))) |> shade_density(points, kernel = 10)
    ),
    "too small for this map", class = "ochre_error_argument"
  )
  expect_warning(
    resolve_sheet(
      map_sheet("T") |>
        draw_lines(squares("1")) |>
        shade_density(points, kernel = 30000, weight = m)
    ),
    "1 point is left out", class = "ochre_warning_symbols"
  )
})

test_that("labels come by importance, in areas or beside symbols, and only with text", {
  areas <- squares(c("1", "2", "3"))
  areas$people <- c(5, NA, 9)
  l <- layer_of(
    map_sheet("T") |>
      shade_areas(areas, people, steps = steps_equal(2)) |>
      write_labels(
        areas,
        "{name}: {people}",
        priority = people,
        field_formats = list(people = number_format(unit = "k"))
      )
  )
  expect_identical(l$text, c("Area 3: 9\u00a0k", "Area 1: 5\u00a0k", "Area 2: no data"))
  expect_true(l$centred)
  named <- transform(points, name = c("a", NA, "", "d"))
  both <- quietly(resolve_sheet(base() |> write_labels(named) |> place_symbols(named, n)))
  expect_identical(both$layers[[2]]$text, c("a", "d"))
  expect_false(both$layers[[2]]$centred)
  expect_equal(both$layers[[2]]$r, both$layers[[3]]$r[match(c(1, 4), both$layers[[3]]$row)])
  expect_error(
    write_labels(map_sheet("T"), areas, c(name, code)), "one column or template",
    class = "ochre_error_argument"
  )
})

test_that("a label that says percent beside a legend of fractions is refused, with the mend", {
  areas <- squares(c("1", "2", "3"))
  areas$share <- c(0.1, 0.345, 0.5)
  e <- expect_error(
    resolve_sheet(shade_areas(
      map_sheet("T"), areas, share, steps = steps_equal(2), hover = "{name}: {share|1%}"
    )),
    "percent = TRUE",
    class = "ochre_error_template"
  )
  expect_identical(e$column, "share")
  l <- layer_of(
    shade_areas(
      map_sheet("T", locale = "de"),
      areas,
      share,
      steps = steps_equal(2),
      format = number_format(percent = TRUE, open_ends = TRUE),
      hover = "{name}: {share|1}"
    ),
    1
  )
  expect_identical(l$hover[2], "Area 2: 34,5\u00a0%")
  expect_identical(l$labels, c("unter 30\u00a0%", "30\u00a0% und mehr"))
})

test_that("symbols without a size are all alike, and the legend names them once", {
  for (shape in c("circle", "pin")) {
    s <- layer_of(base() |> place_symbols(points, shape = shape, legend = "Wells"))
    expect_true(s$plain)
    expect_length(s$x, 4)
    expect_identical(length(unique(s$r)), 1L)
    expect_identical(s$sizes, list(labels = "Wells", r = s$r[1]))
    expect_identical(s$hover, letters[1:4])
  }
  # The tip of a pin is on its place.
  expect_equal(min(s$outline$y), 0)
  expect_equal(s$outline$x[which.min(s$outline$y)], 0)
  expect_equal(area_of(s$outline), pi, tolerance = 1e-9)
  coloured <- layer_of(base() |> place_symbols(points, colour = name))
  expect_identical(coloured$key$labels, sort(letters[1:4]))
  for (arg in list(list(second = "m"), list(size_steps = steps_equal(2)), list(span = c(0, 9)))) {
    expect_error(
      do.call(place_symbols, c(list(base(), points), arg)), "needs a `size`",
      class = "ochre_error_argument"
    )
  }
})

test_that("sizes and a span are kept, and the marks of the legend follow the same rule", {
  plan <- quietly(resolve_sheet(
    base() |> place_symbols(points, n, sizes = c(0, 72), span = c(0, 400))
  ))
  s <- plan$layers[[2]]
  side <- sqrt(diff(plan$frame[c("x0", "x1")]) * diff(plan$frame[c("y0", "y1")]))
  # The frame grows by the symbols after their sizes are set.
  expect_equal(s$r / s$r[1], sqrt(pmin(c(900, 400, 100), 400) / 400))
  expect_lte(s$r[1], 36 * side / 720)
  expect_identical(s$sizes$labels[1], "400 and over")
  values <- as.numeric(sub(" and over", "", s$sizes$labels))
  expect_equal(s$sizes$r, s$r[1] * sqrt(values / 400))
  expect_warning(
    quietly_but("ochre_warning_sizes", resolve_sheet(
      base() |> place_symbols(points, n, sizes = c(6, 60), span = c(100, 900))
    )),
    class = "ochre_warning_sizes"
  )
  s <- layer_of(base() |> place_symbols(points, n, sizes = c(6, 60)))
  expect_equal((s$r / s$r[1])^2, 0.01 + 0.99 * c(900, 400, 100) / 900)
  for (bad in list(list(sizes = 5), list(sizes = c(9, 3)), list(span = c(5, 5)))) {
    expect_error(
      do.call(place_symbols, c(list(base(), points, "n"), bad)), class = "ochre_error_argument"
    )
  }
})

test_that("a few points far from all others do not spoil a map of points alone; they are named", {
  set.seed(5)
  near <- data.frame(longitude = rnorm(60, 10), latitude = rnorm(60, 50), name = as.character(1:60))
  near[61, ] <- list(50, 10, "swapped")
  expect_warning(
    plan <- quietly_but("ochre_warning_off_map", resolve_sheet(map_sheet("T") |>
      place_symbols(near))),
    "swapped", class = "ochre_warning_off_map"
  )
  expect_false(61L %in% plan$layers[[1]]$row)
  expect_lt(plan$frame[["x1"]] - plan$frame[["x0"]], 1.2e6)
})
