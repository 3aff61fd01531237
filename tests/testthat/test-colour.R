lab <- function(x) farver::decode_colour(unclass(x), to = "lab")
far <- function(a, b) farver::compare_colour(lab(a), lab(b), from_space = "lab", method = "cie2000")
neighbours <- function(x) vapply(seq_along(x)[-1], function(i) far(x[i - 1], x[i])[1], 0)

test_that("sequential ramps darken step by step, evenly, and begin darker than paper", {
  for (name in ramp_names("sequential")) for (n in 2:11) {
    x <- unclass(ramp_colours(name, n))
    expect_true(all(diff(lab(x)[, 1]) < 0), info = paste(name, n))
    d <- neighbours(x)
    expect_gt(min(d), 6)
    expect_lt(max(d) / min(d), 1.15)
    expect_gt(min(far(x, "#FFFFFF")), 12)
  }
})

test_that("diverging ramps darken to both ends from a pale middle, in two hues", {
  for (name in ramp_names("diverging")) for (n in 2:11) {
    x <- unclass(ramp_colours(name, n))
    light <- lab(x)[, 1]
    half <- n %/% 2
    expect_true(all(diff(light[seq_len(half)]) > 0) && all(diff(light[n + 1 - seq_len(half)]) > 0), info = paste(name, n))
    expect_gt(min(neighbours(x)), 12)
    expect_gt(far(x[1], x[n])[1], 30)
    expect_gt(min(far(x, "#FFFFFF")), 5)
  }
})

test_that("no ramp has the colour of no data, and reversing is only that", {
  for (name in ramp_names()) for (n in 2:11) expect_gt(min(far(ramp_colours(name, n), no_data_colour())), 7)
  expect_identical(unclass(ramp_colours("woad", 4, reverse = TRUE)), rev(unclass(ramp_colours("woad", 4))))
  expect_error(ramp_colours("mader"), "Did you mean `madder`", class = "ochre_error_argument")
  expect_error(ramp_colours("madder", 12), class = "ochre_error_argument")
})
