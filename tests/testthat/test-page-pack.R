# Columns of a page: each once, and what is not given exactly by a recipe stands as it is.

pool_of <- function(marks = list(decimal = ".", thousands = ",")) new_column_pool(marks)

test_that("numbers are packed only where the very same come back", {
  expect_null(as_packed(c(pi, 1)))
  expect_null(as_packed(2^60))
  packed <- as_packed(c(0.1, NA, -12345.6))
  expect_identical(packed$decimals, 1L)
  expect_false(grepl("[<\"\\\\ ]", packed$packed))
})

test_that("texts that are numbers in words are written from the numbers, with few exceptions", {
  set.seed(2)
  value <- round(stats::rlnorm(300, 8), 1)
  words <- paste0(format_number(value, 1), " %")
  words[c(5, 9)] <- "no data"
  words[7] <- "odd"
  pool <- pool_of()
  recipe <- as_written_numbers(words, pool)
  expect_identical(recipe[c("decimals", "grouped", "after", "missing")], list(
    decimals = 1L, grouped = TRUE, after = " %", missing = "no data"
  ))
  expect_identical(unclass(recipe$but$rows), 6L)
  # Codes keep their zeros; names are no numbers; two ways to write one are not mixed.
  codes <- sprintf("%05d", sample(99999, 200))
  expect_identical(as_written_numbers(codes, pool_of())$width, 5L)
  # A map may have no mark between thousands.
  marks <- list(decimal = ".", thousands = "")
  bare <- as_written_numbers(sprintf("%.1f %%", value), pool_of(marks))
  expect_false(bare$grouped)
  expect_null(as_written_numbers(rep(c("A", "B"), 50), pool_of()))
  expect_null(as_written_numbers(rep(c("1000", "1,000", "01,000"), 50), pool_of()))
})

test_that("what is taken for a written number is written so again, and all such are taken", {
  set.seed(8)
  ways <- expand.grid(
    before = c("", "n = ", "(\u00e9 "), after = c("", " %", "1)"), decimals = c(0, 2),
    grouped = c(TRUE, FALSE), thousands = c(",", "\u202f"), stringsAsFactors = FALSE
  )
  for (i in seq_len(nrow(ways))) {
    way <- as.list(ways[i, ])
    marks <- list(decimal = if (way$thousands == ",") "." else ",", thousands = way$thousands)
    how <- c(way, list(minus = "\u2212", point = marks$decimal, width = 0L))
    write <- function(x) {
      paste0(way$before, format_number(x, way$decimals, way$grouped, marks), way$after)
    }
    value <- round(c(0, 999, 1000, -1234567, stats::rnorm(40, 0, 10^(0:7))), way$decimals)
    words <- write(value)
    minus_zero <- value == 0 & grepl("\u2212", words, fixed = TRUE)
    expect_identical(written_numbers_core(words, how)$value[!minus_zero], value[!minus_zero] + 0)
    # Spoilt by one letter that is dropped, doubled or put for another.
    at <- pmin(sample(30, length(words), TRUE), nchar(words))
    put <- sample(c("", "0", "7", ",", ".", "\u2212", " ", "x"), length(words), TRUE)
    spoilt <- paste0(substr(words, 1, at - 1), put, substring(words, at + 1))
    found <- written_numbers_core(enc2utf8(spoilt), how)$value
    fits <- !is.na(found)
    expect_identical(write(found)[fits], spoilt[fits])
    expect_lt(mean(fits), 1)
  }
})

test_that("labels are put together from names and values; equal columns are one", {
  names <- sprintf("Area %s", sample(letters, 200, TRUE))
  values <- sprintf("%.1f", stats::runif(200, 0, 90))
  values[3] <- NA
  hover <- paste0(names, ": ", ifelse(is.na(values), "no data", values))
  pool <- pool_of()
  part <- pack_part(list(names = names, values = values, hover = hover, again = hover), pool,
                    integer())
  expect_identical(part$hover, part$again)
  recipe <- pool$columns[[part$hover$column + 1]]
  expect_identical(unclass(recipe$pieces), c("", ": ", ""))
  expect_identical(recipe$missing, "no data")
  expect_lt(length(pool$columns), 5)
})
