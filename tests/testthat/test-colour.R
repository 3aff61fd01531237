lab <- function(x) farver::decode_colour(unclass(x), to = "lab")
far <- function(a, b) {
  farver::compare_colour(lab(a), lab(b), from_space = "lab", method = "cie2000")
}
neighbours <- function(x) vapply(seq_along(x)[-1], function(i) far(x[i - 1], x[i])[1], 0)

test_that("sequential ramps darken step by step, evenly, and begin darker than paper", {
  for (name in ramp_names("sequential")) {
    for (n in 2:11) {
      x <- unclass(ramp_colours(name, n))
      expect_true(all(diff(lab(x)[, 1]) < 0), info = paste(name, n))
      d <- neighbours(x)
      expect_gt(min(d), 6)
      expect_lt(max(d) / min(d), 1.15)
      expect_gt(min(far(x, "#FFFFFF")), 12)
    }
  }
})

test_that("diverging ramps darken to both ends from a pale middle, in two hues", {
  for (name in ramp_names("diverging")) {
    for (n in 2:11) {
      x <- unclass(ramp_colours(name, n))
      light <- lab(x)[, 1]
      half <- n %/% 2
      expect_true(
        all(diff(light[seq_len(half)]) > 0) && all(diff(light[n + 1 - seq_len(half)]) > 0),
        info = paste(name, n)
      )
      expect_gt(min(neighbours(x)), 12)
      expect_gt(far(x[1], x[n])[1], 30)
      expect_gt(min(far(x, "#FFFFFF")), 5)
    }
  }
})

test_that("every ramp passes check_ramp() on both grounds, for all eyes and in grey", {
  each <- expand.grid(
    background = c("light", "dark"), kind = c("sequential", "diverging", "categories"),
    stringsAsFactors = FALSE
  )
  for (i in seq_len(nrow(each))) {
    background <- each$background[i]
    kind <- each$kind[i]
    for (name in ramp_names(kind)) {
      for (n in 2:(if (kind == "categories") ramp_paths[[name]]$most else 12)) {
        ramp <- ramp_colours(name, n, background = background)
        # Told what they are, and as plain codes of which nobody says it.
        told <- check_ramp(ramp, kind, background)
        untold <- check_ramp(as.character(ramp), background = background)
        lost <- c(told$what[!told$passed], untold$what[!untold$passed])
        expect_identical(lost, character(), info = paste(background, name, n))
      }
    }
  }
  expect_gte(length(ramp_names("sequential")), 8)
  expect_gte(length(ramp_names("diverging")), 5)
  # No two ramps are alike.
  ends <- t(vapply(
    ramp_names("sequential"),
    function(name) lab(ramp_colours(name, 5))[3, ],
    c(0, 0, 0)
  ))
  d <- farver::compare_colour(ends, ends, from_space = "lab", method = "cie2000")
  expect_gt(min(d[upper.tri(d)]), 8)
})

test_that("contrast and colour vision have known answers", {
  # WCAG's own: black on white is 21, #767676 on white the lightest grey of 4.5.
  expect_equal(contrast_ratio("#000000", "#FFFFFF"), 21)
  expect_equal(contrast_ratio("#767676", "#FFFFFF"), 4.54, tolerance = 0.002)
  # Grey stays grey to all; red and green of one luminance come near each other to protan and
  # deutan eyes only.
  for (vision in c("protan", "deutan", "tritan", "grey")) {
    expect_identical(seen_colours("#808080", vision), "#808080")
  }
  near <- function(vision) {
    x <- seen_lab(c("#C1533B", "#7A7A2E"), vision)
    farver::compare_colour(
      x[1, , drop = FALSE],
      x[2, , drop = FALSE],
      from_space = "lab",
      method = "cie2000"
    )[1]
  }
  expect_lt(near("deutan"), near("normal") / 3)
  expect_gt(near("tritan"), near("normal") / 2)
  grey <- farver::decode_colour(seen_colours(ramp_colours("madder", 6), "grey"))
  expect_true(all(grey[, 1] == grey[, 2] & grey[, 2] == grey[, 3]) && all(diff(grey[, 1]) < 0))
})

test_that("own colours are told what fails: a repeat, an exchange, too light a start", {
  good <- unclass(ramp_between("#E8D5C0", "#4A1A12", n = 5))
  expect_true(all(check_ramp(good)$passed))
  failing <- function(x, ...) {
    k <- check_ramp(x, ...)
    k$what[!k$passed]
  }
  expect_match(failing(good[c(1, 2, 2, 4, 5)]), "Step 3 repeats", all = FALSE)
  expect_match(
    failing(good[c(1, 3, 2, 4, 5)]), "Steps 2 and 3 are in the wrong order.*look exchanged",
    all = FALSE
  )
  expect_match(
    failing(c("#F9F9F9", good[-1])), "Step 1 \\(#F9F9F9\\) is too near the page", all = FALSE
  )
  right <- c("#DDE8F1", "#7495BC", "#5A7FA8", "#2F6F9A", "#1F4465")
  expect_true(all(check_ramp(right, "sequential")$passed))
  expect_match(
    failing(sub("#2F6F9A", "#F26F9A", right), "sequential"),
    "Steps 3 and 4.*two digits of #F26F9A look swapped, perhaps it is #2F6F9A", all = FALSE
  )
  expect_match(
    failing(c("#DDE8F1", "#A9C6DE", "#C6C6C6", "#36709B", "#1F4465"), "sequential"),
    "Step 3 \\(#C6C6C6\\) looks like the grey", all = FALSE
  )
  sheet <- function(...) {
    shade_areas(
      map_sheet("T"),
      demo_rates(),
      visits_per_1000,
      steps = steps_natural(5, digits = 0),
      ...
    )
  }
  options(ochre.quiet = "unmatched")
  on.exit(options(ochre.quiet = NULL))
  expect_warning(
    plan <- suppressMessages(resolve_sheet(sheet(ramp = c("#FDFDFD", good[-1])))),
    "fail 1 check: Step 1", class = "ochre_warning_ramp"
  )
  expect_identical(plan$layers[[1]]$colours, c("#FDFDFD", good[-1]))
  expect_identical(
    quietly(resolve_sheet(sheet(ramp = c("#E8D5C0", "#4A1A12"))))$layers[[1]]$colours, good
  )
  expect_error(
    quietly(resolve_sheet(sheet(ramp = good[1:4]))), "4 colours, and there are 5 classes",
    class = "ochre_error_argument"
  )
  expect_error(sheet(ramp = c("#12345", "red")), "is no colour", class = "ochre_error_argument")
})

test_that("square ramps darken along both sides, and both are told apart", {
  for (name in ramp_names("square")) {
    for (n in 2:3) {
      square <- ramp_square(name, n)
      expect_identical(dim(square), c(n, n))
      light <- matrix(lab(as.vector(square))[, 1], n)
      expect_true(all(apply(light, 1, diff) < 0) && all(apply(light, 2, diff) < 0), info = name)
      d <- far(as.vector(square), as.vector(square))
      expect_gt(min(d[upper.tri(d)]), 8)
      expect_gt(min(far(as.vector(square), "#FFFFFF")), 5)
    }
  }
})
