# Reads a number as it is written in a locale back into one.
read_back <- function(text, locale = locales$en) {
  text <- gsub(locale$thousands, "", text, fixed = TRUE)
  text <- gsub("[^0-9,.\u2212]", "", text)
  as.numeric(sub("\u2212", "-", sub(locale$decimal, ".", text, fixed = TRUE), fixed = TRUE))
}

# Values of every kind that a column may hold: counts, shares, money, changes, ties, extremes.
random_values <- function(n) {
  kinds <- list(
    function() rpois(n, 3), function() round(rlnorm(n, 3), 1), function() rnorm(n), function() runif(n), function() round(runif(n), 2),
    function() rexp(n) * 10^sample(-15:15, 1), function() 1e15 + sample(20, n, TRUE), function() sample(c(0, 1, 5, 10), n, TRUE), function() -rlnorm(n, 5),
    function() 0.3 + sample(0:1, n, TRUE) * 2^-54 + sample(0:2, n, TRUE), function() sample(c(-1.7e308, 1.7e308, 1e200, 0, 1), n, TRUE),
    function() rnorm(n) * 1e-200, function() 1e9 + rnorm(n) * 1e-3, function() round(rnorm(n, 50, 20), sample(0:4, 1)) / 7, function() rcauchy(n)
  )
  kinds[[sample(length(kinds), 1)]]()
}

random_steps <- function(x) {
  n <- sample(1:12, 1)
  around <- sample(c(0, 0.1, signif(stats::median(x), 2)), 1)
  near <- sample(c("natural", "quantile", "equal"), 1)
  inner <- sort(unique(signif(stats::rnorm(sample(1:6, 1)) * (abs(stats::median(x)) + 1), 2)))
  inner <- inner[is.finite(inner)]
  switch(sample(10, 1),
    steps_equal(n), steps_quantile(n), steps_natural(n), steps_deviation(n), steps_headtail(n), steps_rounded(n, near),
    steps_around(around, max(2, n), near), steps_at(c(-Inf, inner, Inf), round = TRUE), steps_natural(n, digits = sample(-1:4, 1)),
    if (all(x > 0)) steps_geometric(n) else steps_at(c(-Inf, 0, 1, 10, Inf), round = TRUE)
  )
}

methods <- list(equal = steps_equal, quantile = steps_quantile, natural = steps_natural)
more_methods <- list(deviation = steps_deviation, headtail = steps_headtail, rounded = steps_rounded, around = function(k) steps_around(12, k), around_natural = function(k) steps_around(12, k, near = "natural"))

# Reads a label back into the range that it shows.
label_range <- function(label) {
  numbers <- regmatches(label, gregexpr("\u2212?[0-9][0-9,]*(\\.[0-9]+)?", label))[[1]]
  range(as.numeric(gsub(",", "", sub("\u2212", "-", numbers))))
}

test_that("every finite value falls in exactly one class, and labels are true of it as it is shown", {
  set.seed(1)
  make <- list(function(n) round(rlnorm(n, 3), 1), function(n) rnorm(n), function(n) sample(50, n, TRUE), function(n) runif(n) * 1e6, function(n) rexp(n) * 1e-4, function(n) -rpois(n, 40))
  all <- c(methods, more_methods)
  for (f in make) for (name in names(all)) for (n in c(5, 40, 300)) for (k in 2:7) {
    x <- f(n)
    steps <- suppressWarnings(fit_steps(x, all[[name]](k)))
    class <- class_of(steps, x)
    expect_false(anyNA(class))
    expect_identical(tabulate(class, length(steps$counts)), steps$counts)
    expect_true(all(diff(steps$breaks[-length(steps$breaks)]) > 0))
    b <- steps$breaks
    inside <- x >= b[class] & (x < b[class + 1] | class == length(steps$counts) & x <= b[class + 1])
    expect_true(all(inside))
    if (!any(grepl("<", steps$labels))) {
      ranges <- vapply(steps$labels, label_range, c(0, 0))
      shown <- round(x, steps$digits)
      expect_true(all(shown >= ranges[1, class] - 1e-9 & shown <= ranges[2, class] + 1e-9), info = paste(name, k, n))
      if (ncol(ranges) > 1) expect_true(all(ranges[1, -1] > ranges[2, -ncol(ranges)]))
    }
  }
})

test_that("any table makes classes with rising breaks and labels that all differ, or ends in a condition of Ochre's", {
  set.seed(31)
  raw <- list()
  for (round in 1:10000) {
    x <- random_values(sample(c(1:12, 30, 200), 1))
    steps <- random_steps(x)
    fit <- tryCatch(
      withCallingHandlers(fit_steps(x, steps), warning = function(w) if (inherits(w, "ochre_warning")) invokeRestart("muffleWarning")),
      ochre_error = function(e) NULL, condition = identity
    )
    if (is.null(fit)) next
    class <- if (inherits(fit, "ochre_steps")) class_of(fit, x)
    good <- inherits(fit, "ochre_steps") && all(diff(fit$breaks) > 0) && !anyDuplicated(fit$labels) && !anyNA(class) &&
      identical(tabulate(class, length(fit$counts)), fit$counts) && all(is.finite(fit$fit))
    if (!good) raw[[length(raw) + 1]] <- list(x = x, steps = steps, fit = fit)
  }
  expect_identical(length(raw), 0L, info = paste(utils::capture.output(utils::str(utils::head(raw, 2))), collapse = "\n"))
})

test_that("a value as it is shown, read back, falls into the class that is shown, in every locale and as a percentage", {
  set.seed(32)
  wrong <- list()
  for (round in 1:1500) {
    x <- random_values(sample(c(3, 20, 120), 1))
    if (max(abs(x)) > 1e15 || max(abs(x)) < 1e-100) next
    locale <- locales[[sample(length(locales), 1)]]
    format <- sample(list(NULL, number_format(percent = TRUE), number_format(unit = "km"), number_format(plus = TRUE)), 1)[[1]]
    steps <- random_steps(x)
    with_wording(locale, {
      fit <- suppressWarnings(tryCatch(fit_steps(x, steps), ochre_error = function(e) NULL))
      if (!is.null(fit)) shown <- format_field(x, NULL, own_format(format, fit, x))
      labels <- if (!is.null(fit)) class_labels(fit, format)
    })
    if (is.null(fit)) next
    factor <- if (isTRUE(format$percent)) 100 else 1
    back <- read_back(sub("\u00a0(km|%)$", "", shown), locale)
    inner <- if (factor == 100) in_percent(fit$breaks) else fit$breaks
    inner <- inner[-c(1, length(inner))]
    off <- sum(findInterval(back, inner) + 1 != class_of(fit, x)) + anyDuplicated(labels)
    # A label of two numbers holds what is shown of its class.
    ends <- suppressWarnings(lapply(strsplit(sub("\u00a0(km|%)$", "", labels), paste0(" ", locale$to, " <?|\u2013| \u2013 ")), read_back, locale = locale))
    for (k in which(lengths(ends) == 2 & is.finite(fit$breaks[-1]) & is.finite(fit$breaks[-length(fit$breaks)]))) {
      v <- back[class_of(fit, x) == k]
      off <- off + any(v < ends[[k]][1] | v > ends[[k]][2])
    }
    if (off) wrong[[length(wrong) + 1]] <- list(x = x, steps = steps, locale = locale$code, format = format, labels = labels, shown = shown)
  }
  expect_identical(length(wrong), 0L, info = paste(utils::capture.output(utils::str(utils::head(wrong, 2))), collapse = "\n"))
})

test_that("quantile classes are as even as ties allow", {
  expect_identical(fit_steps(1:20, steps_quantile(5))$counts, rep(4L, 5))
  set.seed(2)
  expect_true(all(abs(fit_steps(rnorm(103), steps_quantile(5))$counts - 20.6) < 1.1))
  steps <- suppressWarnings(fit_steps(c(rep(0, 60), 1:40), steps_quantile(5)))
  expect_identical(steps$counts, c(60L, 20L, 20L))
})

test_that("equal classes have equal widths to the decimals shown", {
  expect_identical(suppressWarnings(fit_steps(c(0, 3, 10, 55, 100), steps_equal(4)))$breaks, c(0, 25, 50, 75, 100))
  expect_identical(suppressWarnings(fit_steps(c(0, 1, 100), steps_equal(4)))$counts, c(2L, 0L, 0L, 1L))
})

test_that("natural breaks have the best fit of all methods and a known answer", {
  x <- c(1, 1.1, 1.2, 5, 5.1, 9.7, 9.8, 9.9)
  expect_identical(fit_steps(x, steps_natural(3))$counts, c(3L, 2L, 3L))
  set.seed(3)
  for (i in 1:10) {
    x <- rlnorm(60)
    fits <- vapply(methods, function(m) suppressWarnings(fit_steps(x, m(5)))$fit, 0)
    expect_identical(names(which.max(fits)), "natural")
  }
  # The fit by another way: squared correlation with the class means.
  steps <- fit_steps(x, steps_natural(4))
  expect_equal(steps$fit, stats::cor(x, steps$means[class_of(steps, x)])^2)
})

test_that("given breaks are kept, and a value beyond them is an error", {
  x <- c(0, 9.97, 10, 19, 30)
  steps <- fit_steps(x, steps_at(c(0, 10, 20, 30)))
  expect_identical(steps$breaks, c(0, 10, 20, 30))
  expect_identical(steps$counts, c(2L, 2L, 1L))
  expect_identical(steps$labels, c("0 to <10", "10 to <20", "20 to 30"))
  expect_identical(fit_steps(c(1, 12, 25), steps_at(c(0, 10, 20, 30)))$labels, c("0–9", "10–19", "20–30"))
  expect_identical(fit_steps(c(1, 12, 25), steps_at(c(-Inf, 10, 20, Inf)))$labels, c("under 10", "10 to 19", "20 and over"))
  e <- expect_error(fit_steps(c(x, 31), steps_at(c(0, 10, 20, 30))), class = "ochre_error_outside")
  expect_identical(e$rows, 6L)
  expect_error(steps_at(c(3, 1)), class = "ochre_error_argument")
})

test_that("ties, few distinct values, constants, nothing and infinity have outcomes", {
  expect_warning(expect_identical(fit_steps(c(1, 1, 2, 2, 3), steps_natural(5))$counts, c(2L, 2L, 1L)), class = "ochre_warning_classes")
  one <- suppressWarnings(fit_steps(c(5, 5, 5), steps_equal(4)))
  expect_identical(one[c("labels", "counts", "fit")], list(labels = "5", counts = 3L, fit = 1))
  expect_identical(class_of(one, c(5, 6, NA)), c(1L, NA, NA))
  none <- fit_steps(c(NA, NaN), steps_equal(4))
  expect_identical(none[c("breaks", "labels", "counts", "missing")], list(breaks = numeric(), labels = character(), counts = integer(), missing = 2L))
  expect_identical(class_of(none, 1), NA_integer_)
  expect_warning(steps <- fit_steps(c(1, 2, Inf, -Inf), steps_equal(2)), "2 infinite values", class = "ochre_warning_infinite")
  expect_identical(class_of(steps, c(Inf, -Inf, 1)), c(NA, NA, 1L))
  expect_error(fit_steps("a"), class = "ochre_error_argument")
  expect_error(steps_equal(0), class = "ochre_error_argument")
})

test_that("breaks rounded by request move values along", {
  steps <- fit_steps(c(1.2, 2.4, 2.6, 3.9), steps_at(c(1, 2.5, 4)))
  expect_identical(steps$counts, c(2L, 2L))
  steps <- fit_steps(c(1.2, 2.4, 2.6, 3.9), steps_equal(2, digits = 0))
  expect_identical(steps$breaks[2], 3)
  expect_identical(steps$counts, c(3L, 1L))
})

test_that("printed steps show the histogram and the classes", {
  set.seed(4)
  expect_snapshot(fit_steps(round(rlnorm(80, 3), 1), steps_natural(4)))
})

test_that("each method has the breaks that its source gives", {
  x <- c(1, 3, 4, 8, 9, 11, 13, 15, 20, 26)
  inner <- function(x, steps) { b <- suppressWarnings(fit_steps(x, steps))$breaks; b[-c(1, length(b))] }
  expect_equal(inner(x, steps_deviation(4)), mean(x) + c(-1, 0, 1) * stats::sd(x), tolerance = 0.05)
  expect_equal(inner(x, steps_deviation(5, width = 0.8)), mean(x) + c(-1.5, -0.5, 0.5, 1.5) * 0.8 * stats::sd(x), tolerance = 0.06)
  expect_equal(inner(c(1, 5, 60, 400, 2000, 10000), steps_geometric(4)), c(10, 100, 1000), tolerance = 0.03)
  expect_error(fit_steps(c(0, 1, 5), steps_geometric(3)), "above zero", class = "ochre_error_argument")
  # The mean of all, of those above it, and so on (Jiang 2013): 1 to 1/n as in the rank-size rule.
  v <- 1 / (1:100)
  m1 <- mean(v)
  m2 <- mean(v[v > m1])
  m3 <- mean(v[v > m2])
  steps <- fit_steps(v, steps_headtail(4))
  expect_identical(steps$counts, rev(c(sum(v > m3), sum(v > m2 & v <= m3), sum(v > m1 & v <= m2), sum(v <= m1))))
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
  digits <- function(b) nchar(sub("0+$", "", gsub("[.-]|^0+", "", sub("^0\\.0*", "", format(abs(b), scientific = FALSE, digits = 12, trim = TRUE)))))
  for (i in 1:40) {
    x <- switch(i %% 4 + 1, rlnorm(150, 4), runif(150, 1e5, 3e5), rnorm(150), rexp(150) / 1e4)
    plain <- suppressWarnings(fit_steps(x, steps_natural(5)))
    round <- suppressWarnings(fit_steps(x, steps_rounded(5)))
    expect_true(all(vapply(round$breaks[2:5], digits, 0L) <= 3), info = i)
    expect_equal(round$moved, sum(abs(cumsum(plain$counts)[1:4] - cumsum(round$counts)[1:4])), info = i)
    expect_lte(round$moved, 0.04 * 150 * 4 + 4)
  }
  steps <- fit_steps(c(12, 47, 48, 95, 97, 140, 180), steps_at(c(0, 47.3, 96.2, 141.1, 200), round = TRUE))
  expect_identical(steps$breaks, c(0, 50, 100, 150, 200))
  expect_identical(steps$moved, 2)
  expect_output(print(steps), "moved 2 values to another class")
})

test_that("steps around a midpoint never mix its sides, and colours are alike in distance from it", {
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
  colours <- layer_colours(list(ramp = "woad_madder", reverse = FALSE), suppressWarnings(fit_steps(c(-1, 0.5, 1, 3, 5, 9), steps_around(0, 6))))
  light <- farver::decode_colour(colours, to = "lab")[, 1]
  full <- farver::decode_colour(diverging_colours(ramp_paths$woad_madder, 2 * (length(colours) - 1)), to = "lab")[, 1]
  expect_equal(light, utils::tail(full, length(colours)))
  expect_warning(fit_steps(1:9, steps_around(0, 4)), "All values lie above", class = "ochre_warning_midpoint")
})

test_that("categories are classes by their number or by a factor's levels", {
  steps <- fit_steps(c("b", "a", "b", NA, "c", "b", "a"), steps_categories())
  expect_identical(steps[c("labels", "counts", "missing")], list(labels = c("b", "a", "c"), counts = c(3L, 2L, 1L), missing = 1L))
  expect_identical(class_of(steps, c("c", "x", NA)), c(3L, NA, NA))
  expect_identical(fit_steps(factor(c("lo", "hi"), c("lo", "mid", "hi")), steps_categories())$labels, c("lo", "hi"))
  expect_error(fit_steps(as.character(1:13), steps_categories()), "13 categories", class = "ochre_error_argument")
  areas <- demo_rates()
  plan <- quietly(resolve_sheet(shade_areas(map_sheet("T"), areas, region, steps = steps_categories(), hover = "{name}: {region}")))
  layer <- plan$layers[[1]]
  expect_identical(layer$labels[layer$class], areas$region)
  expect_identical(layer$hover, paste0(areas$name, ": ", areas$region))
  expect_error(shade_areas(map_sheet("T"), areas, region), "not numeric", class = "ochre_error_column")
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
  expect_error(compare_steps(areas, visits_per_1000, methods = "neutral"), "Did you mean `natural`", class = "ochre_error_argument")
})
