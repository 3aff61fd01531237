test_that("steadied rates follow the published formula and err less", {
  set.seed(5)
  people <- round(exp(runif(400, 4, 11)))
  true <- stats::rgamma(400, 20, 4000)
  t <- data.frame(
    cases = stats::rpois(400, people * true),
    people = people,
    region = rep(c("a", "b"), 200)
  )
  s <- steady_rate(t, cases, people, per = 1)
  # Marshall (1991), equations 2 and 3, written out.
  m <- sum(t$cases) / sum(t$people)
  r <- t$cases / t$people
  a <- sum(t$people * (r - m)^2) / sum(t$people) - m / mean(t$people)
  expect_equal(s$cases_steady, m + a / (a + m / t$people) * (r - m))
  expect_true(all(s$cases_steady >= pmin(r, m) - 1e-12 & s$cases_steady <= pmax(r, m) + 1e-12))
  expect_lt(mean((s$cases_steady - true)^2), 0.5 * mean((r - true)^2))
  b <- steady_rate(t, cases, people, per = 1, within = region)
  expect_equal(
    b$cases_steady[t$region == "b"],
    steady_rate(t[t$region == "b", ], cases, people, per = 1)$cases_steady
  )
  # No more difference than chance: one rate for all. No people, no rate.
  expect_equal(
    steady_rate(data.frame(c = c(10, 20), n = c(100, 200)), c, n, per = 1)$c_steady, c(0.1, 0.1)
  )
  expect_identical(
    is.na(steady_rate(data.frame(c = c(0, 20, NA), n = c(0, 200, 5)), c, n)$c_steady),
    c(TRUE, FALSE, TRUE)
  )
})

test_that("unsteady rates are those with too large an error", {
  expect_identical(
    flag_unsteady(data.frame(n = c(0, 18, 19, NA)), n)$n_unsteady, c(TRUE, TRUE, FALSE, NA)
  )
})

test_that("the latest period of each area is kept, and stragglers are said", {
  t <- data.frame(
    area = c("b", "a", "a", "b", "c"),
    year = c(2031, 2030, 2031, 2030, 2029),
    n = c(1, 2, NA, 4, 5)
  )
  expect_message(x <- keep_latest(t, year, area), "2031 in 2 areas, 2029 in 1 area")
  expect_identical(
    as.list(x), list(area = c("b", "a", "c"), year = c(2031, 2031, 2029), n = c(1, NA, 5))
  )
  expect_identical(quietly(keep_latest(t, year, area, value = n))$n, c(1, 2, 5))
  expect_error(keep_latest(rbind(t, t[1, ]), year, area), "`b`", class = "ochre_error_duplicates")
  text <- data.frame(area = "a", month = c("2031-09", "2031-10"), n = 1:2)
  expect_identical(keep_latest(text, month, area)$n, 2L)
})
