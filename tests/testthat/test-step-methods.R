# The methods against their sources, and comparisons of them.

test_that("each method has the breaks that its source gives", {
  x <- c(1, 3, 4, 8, 9, 11, 13, 15, 20, 26)
  inner <- function(x, steps) {
    b <- suppressWarnings(fit_steps(x, steps))$breaks
    b[-c(1, length(b))]
  }
  expect_equal(inner(x, steps_deviation(4)), mean(x) + c(-1, 0, 1) * stats::sd(x), tolerance = 0.05)
  expect_equal(
    inner(x, steps_deviation(5, width = 0.8)),
    mean(x) + c(-1.5, -0.5, 0.5, 1.5) * 0.8 * stats::sd(x), tolerance = 0.06
  )
  expect_equal(
    inner(c(1, 5, 60, 400, 2000, 10000), steps_geometric(4)), c(10, 100, 1000), tolerance = 0.03
  )
  expect_error(
    fit_steps(c(0, 1, 5), steps_geometric(3)), "above zero", class = "ochre_error_argument"
  )
  # The mean of all, of those above it, and so on (Jiang 2013): 1 to 1/n as in the rank-size rule.
  v <- 1 / (1:100)
  m1 <- mean(v)
  m2 <- mean(v[v > m1])
  m3 <- mean(v[v > m2])
  steps <- fit_steps(v, steps_headtail(4))
  expect_identical(
    steps$counts, rev(c(sum(v > m3), sum(v > m2 & v <= m3), sum(v > m1 & v <= m2), sum(v <= m1)))
  )
  # Halves of the people, not of the areas.
  steps <- fit_steps(1:10, steps_quantile(2), weights = c(rep(1, 9), 9))
  expect_identical(steps$counts, c(9L, 1L))
  w <- rexp(200)
  y <- rnorm(200)
  steps <- fit_steps(y, steps_quantile(4), weights = w)
  expect_lt(max(abs(tapply(w, class_of(steps, y), sum) / sum(w) - 0.25)), 0.03)
  # Tabular accuracy and evenness by another way.
  class <- class_of(steps, y)
  expect_equal(steps$tabular, 1 - sum(abs(y - stats::ave(y, class))) / sum(abs(y - mean(y))))
  share <- steps$counts / 200
  expect_equal(steps$evenness, sum(share * log(1 / share)) / log(4))
})

test_that("rounded breaks have few digits, stay near, and say how many values they move", {
  set.seed(10)
  digits <- function(b) {
    nchar(sub(
      "0+$",
      "",
      gsub(
        "[.-]|^0+",
        "",
        sub("^0\\.0*", "", format(abs(b), scientific = FALSE, digits = 12, trim = TRUE))
      )
    ))
  }
  for (i in 1:40) {
    x <- switch(i %% 4 + 1, rlnorm(150, 4), runif(150, 1e5, 3e5), rnorm(150), rexp(150) / 1e4)
    plain <- suppressWarnings(fit_steps(x, steps_natural(5)))
    round <- suppressWarnings(fit_steps(x, steps_rounded(5)))
    expect_true(all(vapply(round$breaks[2:5], digits, 0L) <= 3), info = i)
    expect_equal(
      round$moved, sum(abs(cumsum(plain$counts)[1:4] - cumsum(round$counts)[1:4])), info = i
    )
    expect_lte(round$moved, 0.04 * 150 * 4 + 4)
  }
  steps <- fit_steps(
    c(12, 47, 48, 95, 97, 140, 180),
    steps_at(c(0, 47.3, 96.2, 141.1, 200), round = TRUE)
  )
  expect_identical(steps$breaks, c(0, 50, 100, 150, 200))
  expect_identical(steps$moved, 2)
  expect_output(print(steps), "moved 2 values to another class")
})

test_that("steps around a midpoint never mix its sides; equal distance is equally dark", {
  set.seed(11)
  for (i in 1:30) {
    x <- round(rnorm(80, runif(1, -2, 2), 2), 2)
    middle <- round(runif(1, -1, 1), 1)
    for (near in c("equal", "natural", "quantile")) {
      steps <- suppressWarnings(fit_steps(x, steps_around(middle, 6, near = near)))
      class <- class_of(steps, x)
      expect_true(all((class > steps$below) == (x >= middle)), info = paste(i, near))
    }
  }
  colours <- layer_colours(
    list(ramp = "woad_madder", reverse = FALSE),
    suppressWarnings(fit_steps(c(-1, 0.5, 1, 3, 5, 9), steps_around(0, 6))),
    "light"
  )
  light <- farver::decode_colour(colours, to = "lab")[, 1]
  full <- farver::decode_colour(
    diverging_colours(ramp_paths$woad_madder, 2 * (length(colours) - 1)),
    to = "lab"
  )[, 1]
  expect_equal(light, utils::tail(full, length(colours)))
  expect_warning(
    fit_steps(1:9, steps_around(0, 4)), "All values lie above", class = "ochre_warning_midpoint"
  )
})

test_that("categories are classes by their number or by a factor's levels", {
  steps <- fit_steps(c("b", "a", "b", NA, "c", "b", "a"), steps_categories())
  expect_identical(
    steps[c("labels", "counts", "missing")],
    list(labels = c("b", "a", "c"), counts = c(3L, 2L, 1L), missing = 1L)
  )
  expect_identical(class_of(steps, c("c", "x", NA)), c(3L, NA, NA))
  expect_identical(
    fit_steps(factor(c("lo", "hi"), c("lo", "mid", "hi")), steps_categories())$labels, c("lo", "hi")
  )
  expect_error(
    fit_steps(as.character(1:13), steps_categories()), "13 categories",
    class = "ochre_error_argument"
  )
  areas <- demo_rates()
  plan <- quietly(resolve_sheet(shade_areas(
    map_sheet("T"), areas, region, steps = steps_categories(), hover = "{name}: {region}"
  )))
  layer <- plan$layers[[1]]
  expect_identical(layer$labels[layer$class], areas$region)
  expect_identical(layer$hover, paste0(areas$name, ": ", areas$region))
  expect_error(
    shade_areas(map_sheet("T"), areas, region), "not numeric", class = "ochre_error_column"
  )
})

test_that("a comparison has every method and number, and its figure draws each", {
  areas <- demo_rates()
  found <- compare_steps(areas, visits_per_1000, n = c(3, 5), weight = population)
  expect_identical(nrow(found), 13L)
  expect_identical(found$method[which.max(found$fit)], "natural")
  expect_true(all(found$evenness[found$method == "quantile"] > 0.9))
  expect_true(all(is.finite(found$evenness_km2)))
  expect_output(print(found), "natural +5 +0.936.*Best fit: natural with 5 classes")
  expect_message(few <- compare_steps(c(-1, 0, 4, 9), n = 2), "Left out geometric")
  expect_false("geometric" %in% few$method)
  built <- ggplot2::ggplot_build(as_figure(found))
  expect_identical(nrow(built$layout$layout), 14L)
  colours <- unique(built$data[[1]]$fill)
  expect_true(all(unclass(ramp_colours("woad", 5)) %in% colours))
  expect_error(compare_steps(areas, visits_per_1000, n = 1), class = "ochre_error_argument")
  expect_error(
    compare_steps(areas, visits_per_1000, methods = "neutral"), "Did you mean `natural`",
    class = "ochre_error_argument"
  )
})

test_that("limits closed on the right are those of cut(), and labels say so", {
  set.seed(33)
  for (round in 1:200) {
    x <- round(runif(60, 0, 100), sample(0:2, 1))
    breaks <- c(sample(c(0, -Inf), 1), sort(sample(unique(x[x > 0 & x < 100]), 3)), Inf)
    fit <- quietly(fit_steps(x, steps_at(breaks, closed = "right")))
    known <- cut(x, breaks, right = TRUE, include.lowest = TRUE, labels = FALSE)
    expect_identical(class_of(fit, x), known)
    expect_identical(fit$counts, tabulate(known, 4))
    expect_match(fit$labels[4], "^over ")
    if (is.infinite(breaks[1])) expect_match(fit$labels[1], " or less$")
    # A value reads as one of its class at the decimals shown.
    shown <- format_field(x, NULL, own_format(NULL, fit, x))
    read <- as.numeric(gsub(",", "", shown))
    expect_identical(cut(read, breaks, right = TRUE, include.lowest = TRUE, labels = FALSE), known)
  }
})

test_that("labels of one's own stand everywhere, one a class", {
  fit <- fit_steps(c(1, 2, 8, 9), steps_equal(2, labels = c("few", "many")))
  expect_identical(fit$labels, c("few", "many"))
  german <- class_labels(fit, number_format(unit = "km"), read_locale("de"))
  expect_identical(german, c("few", "many"))
  named <- steps_categories(labels = c(b = "Boats"))
  expect_identical(fit_steps(c("a", "b", "a"), named)$labels, c("a", "Boats"))
  expect_error(
    quietly(fit_steps(c(1, 1, 2), steps_quantile(3, labels = c("a", "b", "c")))),
    "3 texts, and there are 2 classes", class = "ochre_error_argument"
  )
  refused <- function(code) expect_error(code, class = "ochre_error_argument")
  refused(steps_at(c(0, 1, 2), labels = "one"))
  refused(steps_equal(2, labels = c("a", "a")))
  refused(steps_equal(2, labels = c(x = "a", y = "b")))
  expect_warning(
    fit_steps(c("a", "b"), steps_categories(labels = c(z = "Zoo"))), class = "ochre_warning_unused"
  )
})

test_that("quantiles of many values are short, and each class has its share within a hundredth", {
  set.seed(34)
  for (round in 1:30) {
    x <- rexp(3000) * 10^sample(-3:6, 1)
    fit <- quietly(fit_steps(x, steps_quantile(5)))
    expect_lte(max(abs(fit$counts - 600)), 12)
    inner <- fit$breaks[-c(1, 6)]
    expect_lte(max(nchar(format(signif(inner / 10^floor(log10(inner)), 12), trim = TRUE))), 7)
  }
})

test_that("a value that equals a break is above it, for breaks of any length and size", {
  for (size in c(1, 1e-12, 1e9, 1e17, 1e-200)) {
    breaks <- c(1, 10 / 3, 5) * size
    fit <- fit_steps(c(1, 2, 10 / 3, 4, 5) * size, steps_at(breaks))
    expect_identical(class_of(fit, c(10 / 3, 3.33333333333333) * size), c(2L, 2L))
    expect_identical(fit$counts, c(2L, 3L))
    right <- fit_steps(c(1, 2, 10 / 3, 4, 5) * size, steps_at(breaks, closed = "right"))
    expect_identical(class_of(right, 10 / 3 * size), 1L)
  }
  set.seed(21)
  for (i in 1:40) {
    rate <- rlnorm(sample(20:90, 1)) / sample(3:9, 1)
    middle <- stats::median(rate)
    fit <- suppressWarnings(fit_steps(rate, steps_around(middle)))
    expect_true(all((class_of(fit, rate) > fit$below) == (signif(rate, 14) >= signif(middle, 14))))
  }
  # From 1e15 on a double counts single units: all values have a class.
  x <- 1e15 + c(0.2, 3.4, 8.2, 9)
  for (steps in list(steps_equal(2), steps_quantile(2), steps_natural(2))) {
    fit <- fit_steps(x, steps)
    expect_false(anyNA(class_of(fit, x)))
    expect_identical(sum(fit$counts), 4L)
  }
})

test_that("what a reader sees with more decimals than a label has lies in one", {
  set.seed(5)
  areas <- squares(sprintf("%02d", 1:40))
  areas$rate <- rlnorm(40, 3, 1.2)
  areas$whole <- rpois(40, 30)
  labels <- function(column, ...) {
    sheet <- map_sheet("T") |> shade_areas(areas, {{ column }}, steps = steps_headtail(5), ...)
    suppressWarnings(resolve_sheet(sheet))$layers[[1]]$labels
  }
  expect_match(labels(rate, format = number_format(digits = 3)), " to ")
  expect_match(labels(rate, hover = "{rate|3}"), " to ")
  # Whole numbers with zeros lie in the labels that they have.
  expect_identical(labels(whole, format = number_format(digits = 3)), labels(whole))
  live <- map_sheet("T", page = page_style(live = live_values("v.json"))) |>
    shade_areas(areas, whole)
  expect_no_match(suppressWarnings(resolve_sheet(live))$layers[[1]]$labels, "\u2013")
})
