# Fitting steps: properties over random values, known answers, outcomes at the edges.

test_that("every finite value falls in one class, and labels are true of it as shown", {
  set.seed(1)
  make <- list(
    function(n) round(rlnorm(n, 3), 1),
    function(n) rnorm(n),
    function(n) sample(50, n, TRUE),
    function(n) runif(n) * 1e6,
    function(n) rexp(n) * 1e-4,
    function(n) -rpois(n, 40)
  )
  all <- c(methods, more_methods)
  for (f in make) {
    for (name in names(all)) {
      for (n in c(5, 40, 300)) {
        for (k in c(2, 3, 7)) {
          x <- f(n)
          steps <- suppressWarnings(fit_steps(x, all[[name]](k)))
          class <- class_of(steps, x)
          expect_false(anyNA(class))
          expect_identical(tabulate(class, length(steps$counts)), steps$counts)
          expect_true(all(diff(steps$breaks[-length(steps$breaks)]) > 0))
          b <- steps$breaks
          inside <- x >= b[class] & (x < b[class + 1] |
              class == length(steps$counts) & x <= b[class + 1])
          expect_true(all(inside))
          if (!any(grepl("<", steps$labels))) {
            ranges <- vapply(steps$labels, label_range, c(0, 0))
            shown <- round(x, steps$digits)
            expect_true(
              all(shown >= ranges[1, class] - 1e-9 & shown <= ranges[2, class] + 1e-9),
              info = paste(name, k, n)
            )
            if (ncol(ranges) > 1) expect_true(all(ranges[1, -1] > ranges[2, -ncol(ranges)]))
          }
        }
      }
    }
  }
})

test_that("any table makes rising breaks and differing labels, or a condition of Ochre's", {
  set.seed(31)
  raw <- list()
  for (round in 1:1200) {
    x <- random_values(sample(c(1:12, 30, 200), 1))
    steps <- random_steps(x)
    fit <- tryCatch(
      withCallingHandlers(fit_steps(x, steps), warning = function(w) {
        if (inherits(w, "ochre_warning")) invokeRestart("muffleWarning")
      }),
      ochre_error = function(e) NULL,
      condition = identity
    )
    if (is.null(fit)) next
    class <- if (inherits(fit, "ochre_steps")) class_of(fit, x)
    good <- inherits(fit, "ochre_steps") &&
      all(diff(fit$breaks) > 0) &&
      !anyDuplicated(fit$labels) &&
      !anyNA(class) &&
      identical(tabulate(class, length(fit$counts)), fit$counts) &&
      all(is.finite(fit$fit))
    if (!good) raw[[length(raw) + 1]] <- list(x = x, steps = steps, fit = fit)
  }
  expect_identical(
    length(raw), 0L,
    info = paste(utils::capture.output(utils::str(utils::head(raw, 2))), collapse = "\n")
  )
})

# Labels without "million" and the like, and what their numbers stand for.
large_words <- function(labels, locale) {
  for (power in rev(names(large_powers))) {
    word <- sub("%s", "", locale$large[[power]], fixed = TRUE)
    if (any(endsWith(labels, word))) {
      return(list(labels = sub(word, "", labels, fixed = TRUE), factor = 10^large_powers[[power]]))
    }
  }
  list(labels = labels, factor = 1)
}

# Fits of random values of which something shown would be read as of another class.
read_wrongly <- function(rounds, formats) {
  wrong <- list()
  for (round in seq_len(rounds)) {
    x <- random_values(sample(c(3, 20, 120), 1))
    if (max(abs(x)) > 1e15 || max(abs(x)) < 1e-100) next
    locale <- read_locale(sample(locale_codes, 1))
    format <- sample(formats, 1)[[1]]
    steps <- random_steps(x)
    fit <- suppressWarnings(tryCatch(fit_steps(x, steps), ochre_error = function(e) NULL))
    if (is.null(fit)) next
    shown <- format_field(x, NULL, own_format(format, fit, x), locale)
    labels <- class_labels(fit, format, locale)
    factor <- if (isTRUE(format$percent)) 100 else 1
    back <- read_back(sub("\u00a0(km|%)$", "", shown), locale)
    inner <- if (factor == 100) in_percent(fit$breaks) else fit$breaks
    inner <- inner[-c(1, length(inner))]
    off <- sum(findInterval(back, inner) + 1 != class_of(fit, x)) + anyDuplicated(labels)
    # A label of two numbers holds what is shown of its class, in millions where it says so.
    large <- large_words(sub("\u00a0(km|%)$", "", labels), locale)
    ends <- suppressWarnings(lapply(
      strsplit(large$labels, paste0(" ", locale$to, " <?|\u2013| \u2013 ")),
      function(label) large$factor * read_back(label, locale)
    ))
    for (k in which(
        lengths(ends) == 2 &
          is.finite(fit$breaks[-1]) &
          is.finite(fit$breaks[-length(fit$breaks)])
      )) {
      v <- back[class_of(fit, x) == k]
      off <- off + any(v < ends[[k]][1] | v > ends[[k]][2])
    }
    if (off) {
      wrong[[length(wrong) + 1]] <- list(
        x = x, steps = steps, locale = locale$code, format = format, labels = labels,
        shown = shown
      )
    }
  }
  wrong
}

test_that("a shown value, read back, falls into the shown class, in every locale", {
  plain <- list(
    NULL,
    number_format(percent = TRUE),
    number_format(unit = "km"),
    number_format(plus = TRUE)
  )
  set.seed(32)
  wrong <- c(read_wrongly(700, plain), read_wrongly(250, list(number_format(large = TRUE))))
  expect_identical(
    length(wrong), 0L,
    info = paste(utils::capture.output(utils::str(utils::head(wrong, 2))), collapse = "\n")
  )
})

test_that("quantile classes are as even as ties allow", {
  expect_identical(fit_steps(1:20, steps_quantile(5))$counts, rep(4L, 5))
  set.seed(2)
  expect_true(all(abs(fit_steps(rnorm(103), steps_quantile(5))$counts - 20.6) < 1.1))
  steps <- suppressWarnings(fit_steps(c(rep(0, 60), 1:40), steps_quantile(5)))
  expect_identical(steps$counts, c(60L, 20L, 20L))
})

test_that("equal classes have equal widths to the decimals shown", {
  expect_identical(
    suppressWarnings(fit_steps(c(0, 3, 10, 55, 100), steps_equal(4)))$breaks, c(0, 25, 50, 75, 100)
  )
  expect_identical(
    suppressWarnings(fit_steps(c(0, 1, 100), steps_equal(4)))$counts, c(2L, 0L, 0L, 1L)
  )
})

test_that("given breaks are kept, and a value beyond them is an error", {
  x <- c(0, 9.97, 10, 19, 30)
  steps <- fit_steps(x, steps_at(c(0, 10, 20, 30)))
  expect_identical(steps$breaks, c(0, 10, 20, 30))
  expect_identical(steps$counts, c(2L, 2L, 1L))
  expect_identical(steps$labels, c("0 to <10", "10 to <20", "20 to 30"))
  expect_identical(
    fit_steps(c(1, 12, 25), steps_at(c(0, 10, 20, 30)))$labels, c("0–9", "10–19", "20–30")
  )
  expect_identical(
    fit_steps(c(1, 12, 25), steps_at(c(-Inf, 10, 20, Inf)))$labels,
    c("under 10", "10 to 19", "20 and over")
  )
  e <- expect_error(fit_steps(c(x, 31), steps_at(c(0, 10, 20, 30))), class = "ochre_error_outside")
  expect_identical(e$rows, 6L)
  expect_error(steps_at(c(3, 1)), class = "ochre_error_argument")
})

test_that("ties, few distinct values, constants, nothing and infinity have outcomes", {
  expect_warning(
    expect_identical(fit_steps(c(1, 1, 2, 2, 3), steps_natural(5))$counts, c(2L, 2L, 1L)),
    class = "ochre_warning_classes"
  )
  one <- suppressWarnings(fit_steps(c(5, 5, 5), steps_equal(4)))
  expect_identical(one[c("labels", "counts", "fit")], list(labels = "5", counts = 3L, fit = 1))
  expect_identical(class_of(one, c(5, 6, NA)), c(1L, NA, NA))
  none <- fit_steps(c(NA, NaN), steps_equal(4))
  expect_identical(
    none[c("breaks", "labels", "counts", "missing")],
    list(breaks = numeric(), labels = character(), counts = integer(), missing = 2L)
  )
  expect_identical(class_of(none, 1), NA_integer_)
  expect_warning(
    steps <- fit_steps(c(1, 2, Inf, -Inf), steps_equal(2)), "2 infinite values",
    class = "ochre_warning_infinite"
  )
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
