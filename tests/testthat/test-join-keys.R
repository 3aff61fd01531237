# Keys that are found, keys that are shared, and keys that stand for none.
test_that("the pair of columns that was joined before it was spoilt comes first", {
  set.seed(81)
  for (round in 1:30) {
    n <- sample(c(10, 100, 400), 1)
    codes <- sprintf("%05d", sample(99999, n))
    areas <- tibble::tibble(
      code = codes,
      name = paste0(sample(LETTERS, n, TRUE), "town ", seq_len(n)),
      population = sample(5000, n),
      geometry = rep(wk::as_wkb(wk::wkt("POINT (0 0)")), n)
    )
    key <- sample(c("code", "name"), 1)
    spoil <- if (key == "name") {
      ochre:::upper_case
    } else if (round %% 2) {
      as.integer
    } else {
      function(x) paste0("TV-", x)
    }
    rows <- sample(n, round(0.8 * n))
    other <- tibble::tibble(
      year = 2031L,
      cases = sample(400, length(rows), TRUE),
      place = spoil(areas[[key]][rows])
    )
    found <- find_keys(areas, other)
    expect_identical(found$boundaries[1], key)
    expect_identical(found$statistics[1], "place")
    expect_identical(found$tidied[1], length(rows))
    expect_equal(found$keys_share[1], 1)
    expect_identical(found$exact[1], sum(areas[[key]] %in% as.character(other$place)))
    # The answer can be used as it stands.
    by <- stats::setNames("place", key)
    joined <- quietly(join_statistics(areas, other, by = by, match = "tidied"))
    expect_identical(sum(!is.na(joined$cases)), length(rows))
    expect_error(
      join_statistics(areas, other, by = c(kode = "place")),
      sprintf("by = c(%s = \"place\") would join %d of %d areas", key, length(rows), n),
      fixed = TRUE, class = "ochre_error_column"
    )
  }
  expect_length(format(find_keys(data.frame(a = c("x", "y")), data.frame(b = c("p", "q")))), 1)
})

test_that("keys that several areas have are not counted as found", {
  areas <- data.frame(name = c("Ash", "Ash", "Elm", "Oak", "Fir"), code = as.character(1:5))
  found <- find_keys(areas, data.frame(place = c("Ash", "Elm", "Oak", "Fir"), n = 7:10))
  expect_identical(c(found$exact[1], found$tidied[1], found$areas[1]), c(3L, 3L, 5L))
})

test_that("codes of another level are named with the verb that brings them together", {
  county <- data.frame(code = sprintf("%02d%03d", rep(1:9, each = 9), 1:81))
  state <- data.frame(id = sprintf("%02d", 1:9), v = 1:9)
  expect_match(find_keys(county, state)$note[1], "cut_code(first = 2)", fixed = TRUE)
  expect_match(find_keys(state, county)$note[1], "sum_areas()", fixed = TRUE)
})

test_that("repeated keys of areas are an error only where statistics would be given twice", {
  areas <- squares(c("a", "b", "b", "c"))
  stats <- data.frame(k = c("a", "c"), v = 1:2)
  joined <- quietly(join_statistics(areas, stats, by = c(code = "k")))
  expect_identical(joined$v, c(1L, NA, NA, 2L))
  stats <- data.frame(k = rep(c("a", "b", "c"), each = 2), month = c(1, 2), v = 1:6)
  e <- expect_error(
    join_statistics(areas, stats, by = c(code = "k"), period = month), "repeats = \"share\"",
    class = "ochre_error_duplicates"
  )
  expect_identical(e$keys, "b")
  shared <- quietly(
    join_statistics(areas, stats, by = c(code = "k"), period = month, repeats = "share")
  )
  expect_identical(shared$v, c(1L, 3L, 3L, 5L, 2L, 4L, 4L, 6L))
  audit <- join_audit(shared)
  expect_match(attr(audit, "notes"), "1 key is on several areas", all = FALSE)
  expect_identical(attr(audit, "counts")[["boundaries_alone"]], 0L)
})

test_that("marks for no code match nothing, even when the statistics have them too", {
  areas <- squares(c("-99", "-99", "NA", "a", "-", "-"))
  stats <- data.frame(k = c("-99", "NA", "a", "-"), v = 1:4)
  joined <- quietly(join_statistics(areas, stats, by = c(code = "k")))
  # NA by itself may be a code.
  expect_identical(joined$v, c(NA, NA, 2L, 3L, NA, NA))
  audit <- join_audit(joined)
  expect_match(attr(audit, "notes"), "`-99` and `-` among the keys", all = FALSE, fixed = TRUE)
  expect_identical(sum(audit$reason %in% "missing key"), 4L)
})

test_that("the atlas's names find their partners, and no wrong ones", {
  atlas <- quietly(read_boundaries(ochre_demo("atlas.topojson.gz")))
  figures <- quietly(read_statistics(ochre_demo("atlas-figures.csv")))
  expect_identical(find_keys(atlas, figures)$boundaries[1], "name_long")
  suggested <- quietly(suggest_matches(atlas, figures, by = c(name = "country")))
  # The true partner by the long names, where words are turned back.
  long <- sub("^(.*), (.*) of$", "\\2 of \\1", suggested$statistics)
  true <- atlas$name[match(gsub("&", "and", long), atlas$name_long)]
  proposed <- !is.na(suggested$boundaries)
  expect_gt(mean(suggested$boundaries[proposed] == true[proposed]), 0.97)
  expect_gt(mean(proposed), 0.75)
})
