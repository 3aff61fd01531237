# Maps for periods or groups, and what they share.
long_table <- function(months = c("2031-01", "2031-02", "2031-03")) {
  areas <- squares(c("1", "2", "3", "4"))
  set.seed(4)
  long <- data.frame(
    k = rep(areas$code, length(months)),
    month = rep(months, each = 4),
    v = round(rnorm(4 * length(months), 50, 20), 1)
  )
  list(areas = areas, long = long)
}

test_that("each panel shows its own rows in the classes of all; a gap is no data", {
  t <- long_table()
  t$long <- t$long[-6, ]  # area 2 in February
  joined <- quietly(join_statistics(t$areas, t$long, by = c(code = "k"), period = "month"))
  plan <- quietly(resolve_sheet(
    map_sheet("T") |>
      shade_areas(
        joined[sample(nrow(joined)), ],
        v,
        steps = steps_equal(3),
        by = month,
        popup = c("Name" = name, "V" = v)
      )
  ))
  months <- sort(unique(t$long$month))
  expect_identical(plan$panels, paste(month.name[1:3], "2031", sep = "\u00a0"))
  layer <- plan$layers[[1]]
  steps <- fit_steps(t$long$v, steps_equal(3))
  for (p in 1:3) {
    panel <- layer$panels[[p]]
    for (a in 1:4) {
      at <- match(layer$names[a], t$areas$name)
      v <- t$long$v[t$long$k == t$areas$code[at] & t$long$month == months[p]]
      expect_identical(panel$class[a], if (length(v)) class_of(steps, v) else 0L)
      expect_match(
        panel$hover[a],
        if (length(v)) {
          paste0(layer$names[a], ": ", format_number(v, steps$digits))
        } else {
          "no data"
        },
        fixed = TRUE
      )
      expect_identical(panel$popup$fields[[1]][a], layer$names[a])
    }
    expect_identical(panel$counts, tabulate(panel$class, 3))
  }
  expect_identical(
    layer$counts,
    as.integer(Reduce(`+`, lapply(layer$panels, function(p) p$counts)))
  )
  expect_equal(layer$no_data$count, 1)
  expect_identical(layer$legend_note, "The same classes in all maps")
  expect_match(plan$alt, "1 of 12 areas have no data", fixed = TRUE)
  low <- t$long[which.min(t$long$v), ]
  expect_match(plan$alt, sprintf("(Area %s, %s)", low$k, low$month), fixed = TRUE)
  # Each area is in the topology once.
  expect_length(plan$topology$layers[[1]]$feature_end, 4)
})

test_that("own steps are those of each panel, and the legend says so in the map's language", {
  t <- long_table()
  joined <- quietly(join_statistics(t$areas, t$long, by = c(code = "k"), period = "month"))
  plan <- quietly(resolve_sheet(
    map_sheet("T", locale = "de") |>
      shade_areas(joined, v, steps = steps_equal(2), own_steps = TRUE)
  ))
  months <- sort(unique(t$long$month))
  for (p in 1:3) {
    own <- fit_steps(t$long$v[t$long$month == months[p]], steps_equal(2))
    labels <- class_labels(own, NULL, read_locale("de"))
    expect_identical(plan$layers[[1]]$panels[[p]]$labels, labels)
    expect_identical(plan$layers[[1]]$panels[[p]]$counts, own$counts)
  }
  expect_identical(plan$layers[[1]]$legend_note, "Jede Karte hat eigene Klassen")
})

test_that("an area twice in one panel is refused by name, as is a column with too many values", {
  t <- long_table()
  doubled <- t$areas[c(1, 1, 2), ]
  doubled$month <- c("a", "a", "b")
  doubled$v <- 1:3
  expect_error(
    resolve_sheet(shade_areas(map_sheet("T"), doubled, v, by = month)),
    "`Area 1` more than once for `month` a \\(row 2\\)", class = "ochre_error_argument"
  )
  many <- t$areas[rep(1, 201), ]
  many$v <- many$m <- 1:201
  expect_error(
    shade_areas(map_sheet("T"), many, v, by = m), "201 different values",
    class = "ochre_error_argument"
  )
})

test_that("symbols of panels share one scale, and layers without panels stand in all of them", {
  t <- long_table()
  points <- data.frame(
    longitude = c(0.5, 1.5, 0.5, 1.5),
    latitude = 0.5,
    n = c(1, 4, 9, 16),
    g = c("a", "a", "b", "b")
  )
  plan <- quietly(resolve_sheet(
    map_sheet("T") |> draw_lines(t$areas) |> place_symbols(points, n, by = g)
  ))
  s <- plan$layers[[2]]
  expect_identical(s$panel, c(2L, 2L, 1L, 1L))
  expect_equal(s$r / s$r[1], sqrt(c(16, 9, 4, 1) / 16))
  built <- ggplot2::ggplot_build(as_figure(plan))
  expect_identical(nlevels(built$layout$layout$PANEL), 2L)
  lines <- ggplot2::layer_data(as_figure(plan), 2)
  expect_setequal(lines$PANEL, 1:2)
})
