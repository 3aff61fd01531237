shade <- function(areas, ...) map_sheet("T") |> shade_areas(areas, v, ...)
with_values <- function(v) {
  x <- squares(sprintf("%02d", seq_along(v)))
  x$v <- v
  x
}

test_that("the plan says class, colour, label and text of each area once", {
  plan <- resolve_sheet(shade(
    with_values(c(1, 2, 30, NA, 40)),
    steps = steps_at(c(0, 10, 50)),
    ramp = "woad",
    legend = "Cases",
    hover = "{name}: {v|1}"
  ))
  layer <- plan$layers[[1]]
  expect_identical(layer$class, c(1L, 1L, 2L, 0L, 2L))
  expect_identical(layer$labels, c("0–9", "10–50"))
  expect_identical(layer$counts, c(2L, 2L))
  expect_identical(layer$no_data$count, 1L)
  expect_identical(layer$colours, as.character(unclass(ramp_colours("woad", 2))))
  expect_identical(
    layer$hover,
    c("Area 01: 1.0", "Area 02: 2.0", "Area 03: 30.0", "Area 04: no data", "Area 05: 40.0")
  )
})

test_that("templates format, escape braces, and refuse what they cannot read", {
  data <- data.frame(a = c(0.1234, -2, NA), b = c("x", NA, "y"), n = c(1234567L, 5L, NA))
  fill <- function(t, ...) fill_template(t, data, list(), read_locale("en"), ...)
  expect_identical(fill("{a|1%}"), c("12.3 %", "−200.0 %", "no data"))
  expect_identical(fill("{a|+1} {{{b}}}"), c("+0.1 {x}", "−2.0 {no data", "no data"))
  expect_identical(fill("{n}"), c("1,234,567", "5", "no data"))
  expect_identical(fill("{a} of {n}", blank = TRUE), c("0.12 of 1,234,567", "−2.00 of 5", NA))
  for (bad in c("{a", "a}", "{}", "{a|x}", "{a|1|2}")) {
    expect_error(check_template(bad, data, "hover"), class = "ochre_error_template")
  }
  expect_error(check_template("{bb}", data, "hover"), class = "ochre_error_column")
  expect_error(check_template("{b|1}", data, "hover"), "not numeric", class = "ochre_error_column")
})

test_that("popups take bare columns, names and templates, and drop blank fields", {
  x <- with_values(c(1, NA))
  layer <- suppressWarnings(resolve_sheet(shade(
    x,
    popup = c("Cases" = v, "Who" = "{name}!", code)
  )))$layers[[1]]
  expect_identical(layer$popup$labels, c("Cases", "Who", "Code"))
  expect_identical(layer$popup$fields, list(c("1", NA), c("Area 01!", "Area 02!"), c("01", "02")))
})

test_that("areas keep their share of ink wherever they lie", {
  # Four squares of one degree at 60 north have half the land of those at the equator.
  at <- function(y) {
    sprintf(
      "{\"type\":\"Polygon\",\"coordinates\":[[[0,%1$d],[1,%1$d],[1,%2$d],[0,%2$d],[0,%1$d]]]}",
      y,
      y + 1
    )
  }
  areas <- read_boundaries(geojson(sprintf("{\"v\":%d}", 1:2), c(at(0), at(60))))
  size <- area_sizes(suppressWarnings(resolve_sheet(shade(areas)))$topology, 1, 2)
  q <- function(lat) {
    e <- sqrt(0.0066943799901413165)
    s <- sin(lat * pi / 180)
    (1 - e^2) * (s / (1 - e^2 * s^2) + atanh(e * s) / e)
  }
  expect_equal(size[2] / size[1], (q(61) - q(60)) / (q(1) - q(0)), tolerance = 0.01)
})

test_that("symbols have areas proportional to values, large ones first, and round legend sizes", {
  set.seed(5)
  points <- data.frame(
    longitude = runif(50, 0, 3),
    latitude = runif(50, 0, 1),
    n = rexp(50) * 1000,
    name = paste("P", 1:50)
  )
  plan <- resolve_sheet(
    map_sheet("T") |> draw_lines(squares(c("1", "2", "3"))) |> place_symbols(points, n)
  )
  layer <- plan$layers[[2]]
  expect_false(is.unsorted(-layer$r))
  expect_equal(layer$r^2 / layer$r[1]^2, points$n[layer$row] / max(points$n))
  marks <- as.numeric(gsub(",", "", layer$sizes$labels))
  expect_true(all(marks <= max(points$n)) && all((marks / 10^floor(log10(marks))) %in% c(1, 2, 5)))
  expect_equal((layer$sizes$r / layer$r[1])^2, marks / max(points$n))
})

test_that("what would mislead a reader is warned of, and each warning can be silenced", {
  wide <- read_boundaries(geojson(
    sprintf("{\"v\":%d}", c(10, 200, 33, 47, 59)),
    sprintf(
      "{\"type\":\"Polygon\",\"coordinates\":%s}",
      vapply(1:5, function(i) square(10 * i, if (i == 3) 9 else 1), "")
    )
  ))
  expect_warning(resolve_sheet(shade(wide)), class = "ochre_warning_counts")
  old <- options(ochre.quiet = "counts")
  on.exit(options(old))
  expect_warning(resolve_sheet(shade(wide)), NA)
  options(old)
  near <- with_values(c(9.96, 10.2, 3, 25))
  expect_warning(
    resolve_sheet(shade(near, steps = steps_at(c(0, 10, 30)), hover = "{v|0}")),
    "Rounded to 0 decimals, 1 value of `v`", class = "ochre_warning_rounding"
  )
  joined <- suppressMessages(join_statistics(
    squares(c("1", "2")),
    data.frame(k = "1", v = 3),
    by = c(code = "k")
  ))
  expect_warning(
    suppressWarnings(resolve_sheet(shade(joined)), classes = "ochre_warning_classes"),
    "1 area without statistics", class = "ochre_warning_unmatched"
  )
})

test_that("points off the map are left out by name, with swapped coordinates recognised", {
  areas <- squares(c("1", "2", "3"))
  points <- data.frame(
    name = c("in", "swapped", "far", "none", "zero"),
    lon = c(1, 0.5, 90, NA, 2),
    lat = c(0.5, 2.5, 40, 1, 0.5),
    n = c(3, 2, 2, 5, 0)
  )
  w <- testthat::capture_warnings(
    plan <- resolve_sheet(map_sheet("T") |> draw_lines(areas) |> place_symbols(points, n))
  )
  expect_match(w, "2 rows get no symbol", all = FALSE)
  expect_match(w, "swapped \\(row 2\\) and far \\(row 3\\).*look swapped in swapped", all = FALSE)
  expect_identical(plan$layers[[2]]$row, 1L)
})

test_that("a map without a single value still says so, and warns of nothing else", {
  expect_warning(
    plan <- resolve_sheet(shade(with_values(c(NA_real_, NA)), hover = "{name}: {v|1}")), NA
  )
  layer <- plan$layers[[1]]
  expect_identical(
    layer[c("class", "labels", "colours", "hover")],
    list(
      class = c(0L, 0L), labels = character(), colours = character(),
      hover = c("Area 01: no data", "Area 02: no data")
    )
  )
  file <- temporary(".png")
  publish(plan, file)
  expect_gt(file.size(file), 5000)
})

test_that("sheets without layers or geometry are refused", {
  expect_error(resolve_sheet(map_sheet("T")), "has no layers", class = "ochre_error_sheet")
  empty <- read_boundaries(geojson("{\"v\":1}", "null"))
  expect_error(resolve_sheet(shade(empty)), "geometry to draw", class = "ochre_error_sheet")
  expect_error(
    shade(with_values(1), ramp = "maddr"), "Did you mean `madder`", class = "ochre_error_argument"
  )
  expect_error(
    map_sheet("T") |> shade_areas(with_values(1), weight), "Its columns",
    class = "ochre_error_column"
  )
  expect_error(
    map_sheet("T") |>
      place_symbols(data.frame(longitude = 1, latitude = 1, n = -1, k = "a"), n, colour = k),
    class = "ochre_error_column"
  )
})

test_that("the core runs with no drawing, web or terminal package loaded", {
  code <- "library(ochre); options(ochre.quiet = c('unmatched', 'missing', 'reading', 'off_map'));
    p <- resolve_sheet(read_sheet(ochre_demo('map.ochre.yml')))
    loaded <- c('ggplot2', 'htmlwidgets', 'htmltools', 'shiny', 'ragg', 'svglite', 'optparse')
    cat(length(p$layers), intersect(loadedNamespaces(), loaded))"
  expect_identical(processx::run("Rscript", c("-e", code))$stdout, "4 ")
})

test_that("two variables make a square with the colours and counts of their classes", {
  areas <- rate_per(demo_rates(), population_65_plus, population, 100, name = "old")
  for (n in 2:3) {
    plan <- quietly(resolve_sheet(shade_pairs(
      map_sheet("T"), areas, visits_per_1000, old, steps = steps_quantile(n),
      second_steps = steps_equal(n)
    )))
    layer <- plan$layers[[1]]
    first <- quietly(fit_steps(areas$visits_per_1000, steps_quantile(n)))
    second <- quietly(fit_steps(areas$old, steps_equal(n)))
    a <- class_of(first, areas$visits_per_1000)
    b <- class_of(second, areas$old)
    square <- ramp_square("woad_and_madder", n)
    expect_identical(
      ifelse(layer$class == 0, NA, layer$colours[pmax(layer$class, 1)]),
      ifelse(is.na(a) | is.na(b), NA, square[cbind(a, b)])
    )
    expect_identical(
      matrix(layer$counts, n), unname(unclass(table(factor(a, 1:n), factor(b, 1:n)))),
      ignore_attr = TRUE
    )
    expect_identical(sum(layer$counts) + layer$no_data$count, 100L)
    expect_identical(layer$square$first, format_number(first$breaks, first$digits))
    expect_identical(layer$labels[n], paste(first$labels[n], "and", second$labels[1]))
  }
  expect_error(
    quietly(resolve_sheet(shade_pairs(
      map_sheet("T"), areas, visits_per_1000, old, steps = steps_quantile(4)
    ))),
    "2 or 3 classes",
    class = "ochre_error_argument"
  )
  expect_error(
    shade_pairs(map_sheet("T"), areas, visits_per_1000, name), "not numeric",
    class = "ochre_error_column"
  )
  expect_error(
    shade_pairs(map_sheet("T"), areas, visits_per_1000, old, legend = "one"), "two texts",
    class = "ochre_error_argument"
  )
})

test_that("hatched areas are a class of their own, and hatch lines lie in them only", {
  areas <- demo_rates()
  areas$why <- ifelse(areas$visits < 300, "few", NA)
  sheet <- function(..., data = areas) {
    shade_areas(map_sheet("T"), data, visits_per_1000, steps = steps_natural(4), ...)
  }
  layer <- quietly(resolve_sheet(sheet(hatch = why, hatch_label = "Few visits")))$layers[[1]]
  hatched <- which(areas$visits < 300)
  # The classes are those of the others.
  plain <- quietly(resolve_sheet(sheet(data = areas[-hatched, ])))$layers[[1]]
  expect_identical(layer$class[-hatched], plain$class)
  expect_identical(unique(layer$class[hatched]), 5L)
  expect_identical(layer$labels, c(plain$labels, "Few visits"))
  expect_identical(layer$counts[5], length(hatched))
  expect_identical(sum(layer$counts) + layer$no_data$count, 100L)
  expect_error(sheet(hatch = "whi"), class = "ochre_error_column")
  expect_error(sheet(hatch = visits), "numeric", class = "ochre_error_column")
  # A square with a square hole, as two rings: the lines' length is the area over the spacing.
  ring <- function(a, b, id) data.frame(x = c(a, b, b, a), y = c(a, a, b, b), ring = id)
  lines <- hatch_lines(rbind(ring(0, 10, 1), ring(3, 5, 2)), 0.01)
  expect_equal(
    sum(sqrt((lines$xend - lines$x)^2 + (lines$yend - lines$y)^2)) * 0.01, 100 - 4, tolerance = 1e-3
  )
  middle <- data.frame(x = (lines$x + lines$xend) / 2, y = (lines$y + lines$yend) / 2)
  expect_false(any(middle$x > 3.01 & middle$x < 4.99 & middle$y > 3.01 & middle$y < 4.99))
  set.seed(4)
  for (i in 1:20) {
    turn <- sort(runif(30, 0, 2 * pi))
    radius <- runif(30, 2, 6)
    star <- data.frame(x = 7 + radius * cos(turn), y = -3 + radius * sin(turn), ring = 1)
    next_one <- c(2:30, 1)
    size <- abs(sum(star$x * star$y[next_one] - star$x[next_one] * star$y)) / 2
    lines <- hatch_lines(star, 0.02)
    expect_equal(
      sum(sqrt((lines$xend - lines$x)^2 + (lines$yend - lines$y)^2)) * 0.02, size, tolerance = 0.01
    )
  }
})

test_that("symbols are coloured by a column and sized as their scale says", {
  clinics <- quietly(read_statistics(ochre_demo("clinics.csv")))
  areas <- read_boundaries(ochre_demo("districts.geojson"))
  plan_of <- function(...) {
    quietly(resolve_sheet(place_symbols(
      draw_lines(map_sheet("T"), areas),
      clinics,
      patients,
      ...
    )))$layers[[2]]
  }
  layer <- plan_of(colour = kind, legend = "P")
  key <- layer$key
  expect_identical(key$labels[key$class], clinics$kind[layer$row])
  expect_identical(key$colours, as.character(unclass(ramp_colours("meadow", 3))))
  expect_identical(key$legend, "Kind")
  expect_identical(
    as.integer(key$count_labels), as.integer(table(factor(clinics$kind[layer$row], key$labels)))
  )
  stepped <- plan_of(colour = "patients", steps = steps_natural(4), ramp = "woad")$key
  expect_identical(
    stepped$class,
    class_of(fit_steps(clinics$patients[layer$row], steps_natural(4)), clinics$patients[layer$row])
  )
  expect_null(plan_of(colour = "red")$key)
  expect_identical(plan_of(colour = "red")$colour, "#FF0000")
  ratio <- function(layer) layer$r / layer$r[1]
  share <- clinics$patients[layer$row] / max(clinics$patients[layer$row])
  expect_equal(ratio(layer), sqrt(share))
  expect_equal(ratio(plan_of(scale = "perceptual")), share^0.5716)
  expect_warning(
    sheet <- place_symbols(map_sheet("T"), clinics, patients, scale = "radius"),
    "four times as large", class = "ochre_warning_radius"
  )
  expect_equal(ratio(plan_of(scale = "radius")), share)
  # The legend's circles have the scale of the map's.
  exact <- plan_of(scale = "perceptual", format = number_format(marks = FALSE))
  expect_equal(
    exact$sizes$r / exact$r[1],
    (as.numeric(exact$sizes$labels) / max(clinics$patients[layer$row]))^0.5716
  )
  expect_error(
    place_symbols(map_sheet("T"), clinics, patients, colour = knd), class = "ochre_error_column"
  )
  expect_error(
    place_symbols(map_sheet("T"), clinics, patients, colour = "no colour"), "is no colour",
    class = "ochre_error_argument"
  )
})

test_that("a map that follows the reader's page says what is wrong on the dark one too, once", {
  areas <- squares(letters[1:6])
  areas$rate <- c(1, 2, 3, 4, 5, 6) / 10
  said <- function(ramp) {
    out <- character()
    withCallingHandlers(
      resolve_sheet(
        map_sheet("T", ground = "follow") |>
          shade_areas(areas, rate, ramp = ramp, steps = steps_quantile(3))
      ),
      ochre_warning = function(w) {
        out <<- c(out, stats::setNames(w$what, class(w)[1]))
        rlang::cnd_muffle(w)
      }
    )
    out
  }
  dark <- said(c("#FFF5E0", "#888888", "#1A1A1A"))
  expect_identical(names(dark), "ochre_warning_ramp")
  expect_match(dark, "^On the dark page: .*#1A1A1A\\) is too near the page")
  both <- said(c("#1D2021", "#555555", "#FFFFFF"))
  expect_identical(grepl("^On the dark page", both), c(FALSE, TRUE))
})
