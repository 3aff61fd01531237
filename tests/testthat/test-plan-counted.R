# Which rows the numbers of a map speak of: those that are hatched, repeated or off the map are not
# among them.

test_that("hatched areas count in no number of a map, its page or its report", {
  areas <- squares(sprintf("%02d", 1:12))
  areas$rate <- c(1:11, 900)
  areas$few <- c(rep(FALSE, 11), TRUE)
  sheet <- function(data, ...) {
    map_sheet("T", page = page_style(cards = c("sum", "mean", "highest"), bars = 5),
              figure = figure_style(bars = 5)) |>
      shade_areas(data, rate, steps = steps_equal(2), ...)
  }
  plan <- suppressWarnings(resolve_sheet(sheet(areas, hatch = few)))
  without <- suppressWarnings(resolve_sheet(sheet(areas[1:11, ])))
  layer <- plan$layers[[1]]
  expect_identical(layer$breaks, without$layers[[1]]$breaks)
  expect_identical(layer$counts, c(without$layers[[1]]$counts, 1L))
  expect_identical(layer$rank, c(11:1, 0L))
  expect_identical(layer$fit, without$layers[[1]]$fit)
  expect_identical(plan$page$cards, without$page$cards)
  expect_identical(plan$ranking, without$ranking)
  expect_no_match(plan$alt, "900")
  looked <- list(plan = plan, locale = read_locale("en"), audits = NULL, warnings = list(),
                 read = FALSE)
  words <- report_words(looked)
  expect_match(paste(words$method, collapse = " "), "2 (steps|classes)")
  expect_no_match(paste(words$ends, collapse = " "), "900")
})

test_that("the value of a whole that several areas share counts once", {
  areas <- squares(c("01", "02", "02", "02", "03"))
  table <- data.frame(code = c("01", "02", "03"), n = c(10, 500, 30), people = c(100, 2000, 300))
  joined <- suppressMessages(join_statistics(areas, table, by = "code", repeats = "share")) |>
    rate_per(n, people)
  once <- suppressMessages(join_statistics(squares(table$code), table, by = "code")) |>
    rate_per(n, people)
  plans <- lapply(list(joined, once), function(data) {
    sheet <- map_sheet("T", page = page_style(cards = c("sum", "mean", "highest"), bars = 3)) |>
      shade_areas(data, n, steps = steps_equal(2)) |>
      shade_areas(data, n_per_1000, steps = steps_natural(2))
    suppressWarnings(resolve_sheet(sheet))
  })
  expect_identical(plans[[1]]$page$cards, plans[[2]]$page$cards)
  for (k in 1:2) {
    parts <- plans[[1]]$layers[[k]]
    whole <- plans[[2]]$layers[[k]]
    for (field in c("breaks", "counts", "labels", "fit")) {
      expect_identical(parts[[field]], whole[[field]], info = field)
    }
    expect_identical(parts$rank, whole$rank[c(1, 2, 2, 2, 3)])
    expect_identical(parts$repeated, c(2L, 3L))
  }
})

test_that("symbols beyond the edge of web Mercator are named, not drawn at it", {
  points <- data.frame(name = c("a", "b"), longitude = c(0.5, 0.6), latitude = c(0.5, 89))
  sheet <- map_sheet("T", projection = "web Mercator") |>
    shade_areas(squares("01")) |>
    place_symbols(points)
  expect_warning(
    plan <- resolve_sheet(sheet), "outside the map.*b", class = "ochre_warning_off_map"
  )
  expect_length(plan$layers[[2]]$x, 1)
})
