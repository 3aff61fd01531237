test_that("exact Poisson limits are the published ones, and Byar's are close to them", {
  # Garwood (1936), table 1; also Ulm, K. (1990) American Journal of Epidemiology 131, 373-375.
  known <- data.frame(
    n = c(0, 1, 5, 10, 20),
    low = c(0, 0.0253, 1.6235, 4.7954, 12.2165),
    high = c(3.6889, 5.5716, 11.6683, 18.3904, 30.8884),
    people = 1000
  )
  r <- rate_per(known, n, people, limits = "garwood")
  expect_equal(r$n_per_1000_low, known$low, tolerance = 1e-4)
  expect_equal(r$n_per_1000_high, known$high, tolerance = 1e-5)
  # The limits are those at which the count is just as unlikely as it may be: a second computation.
  expect_equal(stats::ppois(known$n, r$n_per_1000_high), rep(0.025, 5), tolerance = 1e-9)
  expect_equal(
    1 - stats::ppois(known$n[-1] - 1, r$n_per_1000_low[-1]), rep(0.025, 4), tolerance = 1e-9
  )
  b <- rate_per(known, n, people, limits = "byar")
  expect_equal(b$n_per_1000_low[4:5], r$n_per_1000_low[4:5], tolerance = 2e-3)
  expect_equal(b$n_per_1000_high[3:5], r$n_per_1000_high[3:5], tolerance = 2e-3)
  expect_error(
    rate_per(data.frame(a = 1.5, b = 2), a, b, limits = "byar"), "not a whole number",
    class = "ochre_error_column"
  )
  expect_identical(
    rate_per(data.frame(a = c(1, NA, 2), b = c(0, 5, NA)), a, b, limits = "garwood")[3:5],
    data.frame(a_per_1000 = rep(NA_real_, 3), a_per_1000_low = NA_real_, a_per_1000_high = NA_real_)
  )
})

test_that("Wilson's limits are those of a published comparison", {
  # Newcombe, R.G. (1998) Statistics in Medicine 17, 857-872, table I, method 3.
  x <- share_of(data.frame(a = c(81, 15, 0, 1), n = c(263, 148, 20, 29)), a, n, limits = "wilson")
  expect_equal(round(x$a_share_low, 4), c(0.2553, 0.0624, 0, 0.0061))
  expect_equal(round(x$a_share_high, 4), c(0.3662, 0.1605, 0.1611, 0.1718))
  expect_identical(share_of(data.frame(a = 0, n = 0), a, n)$a_share, NA_real_)
  e <- expect_error(
    share_of(data.frame(a = c(1, 5), n = c(2, 4)), a, n), "row 2: 5 of 4",
    class = "ochre_error_column"
  )
  expect_identical(e$rows, 2L)
})

test_that("density, change and index keep signs and missing values", {
  d <- read_boundaries(ochre_demo("districts.geojson"))
  x <- density_per_km2(d, population)
  expect_equal(x$population_per_km2 * areas_km2(d), as.numeric(d$population))
  expect_identical(names(x)[ncol(x)], "geometry")
  t <- data.frame(a = c("x", "y", "z"), b = c(10, 0, -4), c = c(8, 5, NA))
  expect_identical(change_between(t, b, c)$c_change, c(-2, 5, NA))
  expect_identical(change_between(t, b, c, kind = "relative")$c_change, c(-0.2, NA, NA))
  expect_identical(index_to(t, b, a, "x")$b_index, c(100, 0, -40))
  expect_error(index_to(t, b, a, "w"), class = "ochre_error_argument")
  expect_error(index_to(t, b, a, "y"), "is 0 in `b`", class = "ochre_error_argument")
})

test_that("areas in periods are standardised as each period by itself, rows in any order", {
  set.seed(6)
  d <- expand.grid(
    area = sprintf("%02d", 1:8),
    year = 2030:2032,
    age = c("0-14", "15-64", "65+"),
    stringsAsFactors = FALSE
  )
  d$people <- rpois(nrow(d), 800) + 1
  d$cases <- rpois(nrow(d), 12)
  standard <- data.frame(age = c("65+", "15-64", "0-14"), population = c(2, 5, 3))
  all <- standardise_rate(d[sample(nrow(d)), ], cases, people, age, c(area, year), standard)
  for (year in 2030:2032) {
    one <- standardise_rate(d[d$year == year, ], cases, people, age, area, standard)
    part <- all[all$year == year, ]
    expect_equal(part[match(one$area, part$area), names(one)], one)
  }
  expect_warning(
    standardise_rate(
      rbind(d, data.frame(area = NA, year = 2030, age = "65+", people = 5, cases = 1)), cases,
      people, age, c(area, year), standard
    ),
    "1 row without", class = "ochre_warning_missing"
  )
  expect_error(
    standardise_rate(d, cases, people, age, area, standard), "area = c\\(area, period\\)",
    class = "ochre_error_duplicates"
  )
  expect_error(
    standardise_rate(transform(d, cases = cases + 0.5), cases, people, age, c(area, year)),
    "not a whole number in 72 rows", class = "ochre_error_column"
  )
  demo <- quietly(read_statistics(ochre_demo("standard.csv")))
  expect_identical(demo$age_group, c("0-14", "15-64", "65+"))
})

test_that("standardised rates agree with a computation by hand and with identities", {
  set.seed(1)
  t <- expand.grid(age = c("0", "40", "65"), area = sprintf("%02d", 1:30), stringsAsFactors = FALSE)
  t$people <- rpois(90, 4000)
  t$cases <- rpois(90, t$people * c(0.001, 0.005, 0.03))
  standard <- data.frame(
    age = c("65", "40", "0"),
    population = c(200, 300, 500),
    count = c(6, 2, 1)
  )
  direct <- standardise_rate(t, cases, people, age, area, standard)
  w <- c(`0` = 0.5, `40` = 0.3, `65` = 0.2)
  by_hand <- vapply(split(t, t$area), function(g) sum(w[g$age] * g$cases / g$people), 0)
  expect_equal(direct$rate, unname(1000 * by_hand))
  g <- t[t$area == "07", ]
  o <- sum(g$cases)
  byar <- c(
    o * (1 - 1 / (9 * o) - 1.959964 / (3 * sqrt(o)))^3,
    (o + 1) * (1 - 1 / (9 * (o + 1)) + 1.959964 / (3 * sqrt(o + 1)))^3
  )
  limits <- 1000 * (by_hand[["07"]] + sqrt(sum(w[g$age]^2 * g$cases / g$people^2) / o) * (byar - o))
  expect_equal(
    unlist(direct[7, c("rate_low", "rate_high")], use.names = FALSE), limits, tolerance = 1e-6
  )
  # An area that is its own standard has its crude rate, with Byar's limits for the count.
  own <- standardise_rate(g, cases, people, age, area)
  expect_equal(own$rate, 1000 * o / sum(g$people))
  expect_equal(c(own$rate_low, own$rate_high), 1000 * byar / sum(g$people), tolerance = 1e-6)
  ratio <- standardise_rate(t, cases, people, age, area, standard, "indirect")
  expect_equal(ratio$expected[7], sum(g$people * c(1 / 500, 2 / 300, 6 / 200)))
  expect_equal(ratio$ratio, ratio$count / ratio$expected)
  # All areas together against their own rates: as many as expected.
  all <- standardise_rate(t, cases, people, age, area, method = "indirect")
  expect_equal(sum(all$expected), sum(t$cases))
  gap <- t
  gap$people[1] <- 0
  gap$cases[1] <- 0
  expect_identical(
    is.na(standardise_rate(gap, cases, people, age, area, standard)$rate), c(TRUE, rep(FALSE, 29))
  )
  gap$cases[1] <- 2
  expect_error(
    standardise_rate(gap, cases, people, age, area), "people` is zero \\(row 1\\)",
    class = "ochre_error_column"
  )
  expect_error(
    standardise_rate(rbind(t, t[1, ]), cases, people, age, area), class = "ochre_error_duplicates"
  )
  expect_error(
    standardise_rate(t, cases, people, age, area, standard[-1, ]), "no age group `65`",
    class = "ochre_error_argument"
  )
})

test_that("limits never leave what a count or share can be, and are its ends exactly at the ends", {
  for (level in c(0.5, 0.95, 0.9999)) {
    for (method in c("garwood", "byar")) {
      expect_true(all(count_limits(0:30, method, level)$low >= 0))
    }
    total <- c(1, 3, 7, 1e4, 123457)
    none <- share_limits(rep(0, 5), total, level)
    all <- share_limits(total, total, level)
    expect_identical(none$low, rep(0, 5))
    expect_identical(all$high, rep(1, 5))
    expect_true(all(none$high > 0 & none$high < 1 & all$low > 0 & all$low < 1))
  }
  # Few counts in age groups of unequal weight: a straight line from the count's limits would lead
  # below zero.
  few <- data.frame(area = "a", age = 1:3, count = c(1, 0, 0), population = c(10, 5000, 8000))
  standard <- data.frame(age = 1:3, population = c(900, 50, 50))
  expect_gte(standardise_rate(few, count, population, age, area, standard)$rate_low, 0)
})
