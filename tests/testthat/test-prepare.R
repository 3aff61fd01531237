test_that("sums and weighted means are those of base R on random tables", {
  set.seed(3)
  for (i in 1:10) {
    n <- sample(50:400, 1)
    d <- data.frame(
      area = sample(c(sprintf("%02d", 1:9), NA), n, TRUE),
      month = sample(1:4, n, TRUE),
      v = sample(c(NA, 0:50), n, TRUE),
      w = sample(0:9, n, TRUE)
    )
    known <- d[!is.na(d$area), ]
    s <- quietly(sum_areas(d, v, by = c(area, month)))
    expect_equal(
      s$v,
      unname(mapply(
        function(a, m) {
          x <- known$v[known$area == a & known$month == m]
          if (all(is.na(x))) NA else sum(x, na.rm = TRUE)
        },
        s$area,
        s$month
      ))
    )
    expect_identical(nrow(s), nrow(unique(known[c("area", "month")])))
    m <- quietly(average_areas(d, v, w, by = "area"))
    expect_equal(
      m$v,
      unname(vapply(
        m$area,
        function(a) {
          k <- known[known$area == a & !is.na(known$v), ]
          if (sum(k$w)) weighted.mean(k$v, k$w) else NA_real_
        },
        0
      ))
    )
    expect_equal(
      m$v_missing,
      unname(vapply(m$area, function(a) sum(is.na(known$v[known$area == a])), 0L))
    )
  }
  expect_error(
    average_areas(data.frame(a = 1, v = 1, w = -1), v, w, a), "negative",
    class = "ochre_error_column"
  )
  expect_error(
    sum_areas(data.frame(area = "a", v = 1), v, c(area, mnth)), class = "ochre_error_column"
  )
})

test_that("columns of periods go under each other and nothing else does", {
  wide <- data.frame(
    code = c("01", "02"), `visits_2030` = 1:2, `visits_2031` = 3:4,
    `rate 2031` = c(0.5, NA), `visits_2031_reason` = c(NA, "<5"), people = c(10, 20),
    check.names = FALSE
  )
  long <- stack_periods(wide)
  expect_identical(
    columns_of(long),
    list(
      code = rep(c("01", "02"), each = 2), people = rep(c(10, 20), each = 2),
      period = rep(c("2030", "2031"), 2), visits = c(1L, 3L, 2L, 4L), rate = c(NA, 0.5, NA, NA),
      visits_reason = c(NA, NA, NA, "<5")
    )
  )
  expect_identical(
    stack_periods(
      data.frame(a = 1, `2031-02` = 5, `2031-01` = 4, check.names = FALSE),
      value = "n"
    )$n,
    c(4, 5)
  )
  expect_identical(
    stack_periods(wide, columns = c("visits_2030", "visits_2031"))$`rate 2031`, c(0.5, 0.5, NA, NA)
  )
  expect_error(
    stack_periods(data.frame(a = 1, b = 2)), "ends in a year", class = "ochre_error_column"
  )
  expect_error(
    stack_periods(data.frame(n_2030 = 1, n_2031 = "x")), "different types",
    class = "ochre_error_column"
  )
  expect_error(
    stack_periods(data.frame(period = 1, n_2031 = 2)), "already", class = "ochre_error_argument"
  )
})

test_that("rows are kept by value and by their last period, and what went is said", {
  d <- data.frame(
    area = c("a", "a", "b", "b", NA),
    sex = c("f", "m", "f", "m", "f"),
    year = c(2030, 2031, 2031, 2031, 2031),
    n = c(1, NA, 3, 4, 5)
  )
  expect_message(k <- keep_where(d, sex, "f"), "Kept 3 of 5 rows where `sex` is f")
  expect_identical(k$n, c(1, 3, 5))
  expect_warning(keep_where(d, sex, "female"), "nowhere `female`", class = "ochre_warning_unused")
  expect_identical(quietly(keep_latest(d, year, c(area, sex)))$n, c(1, NA, 3, 4))
  expect_error(keep_latest(d, year, area), "b", class = "ochre_error_duplicates")
  expect_message(
    k <- keep_latest(d[1:3, ], year, area, value = n), "2031 in 1 area, 2030 in 1 area"
  )
  expect_identical(k$n, c(1, 3))
})

test_that("counts move to new codes and none is lost on the way", {
  set.seed(8)
  for (i in 1:20) {
    old <- sprintf("%02d", 1:12)
    d <- expand.grid(code = old, year = 2030:2031, stringsAsFactors = FALSE)
    d$n <- rpois(nrow(d), 40)
    split <- sample(old, 3)
    merged <- sample(setdiff(old, split), 4)
    share <- runif(3)
    changes <- rbind(
      data.frame(from = split, to = paste0(split, "a"), weight = share),
      data.frame(from = split, to = paste0(split, "b"), weight = 1 - share),
      data.frame(from = merged, to = "M", weight = 1)
    )
    x <- quietly(move_counts(d, code, changes, "n", within = "year"))
    expect_equal(tapply(x$n, x$year, sum), tapply(d$n, d$year, sum))
    expect_setequal(x$code, c(setdiff(old, c(split, merged)), changes$to))
    expect_equal(x$n[x$code == "M" & x$year == 2031], sum(d$n[d$code %in% merged & d$year == 2031]))
    expect_equal(
      x$n[x$code == paste0(split[1], "a") & x$year == 2030],
      share[1] * d$n[d$code == split[1] & d$year == 2030]
    )
  }
  # Codes that change places change all at once; a missing part makes the sum missing.
  swap <- data.frame(from = c("1", "2"), to = c("2", "1"))
  expect_message(
    x <- move_counts(data.frame(code = 1:3, n = c(5, 7, NA), name = "x"), code, swap, "n"),
    "Left out `name`"
  )
  expect_identical(stats::setNames(x$n, x$code), c(`2` = 5, `1` = 7, `3` = NA))
  expect_error(
    move_counts(d, code, data.frame(from = "01", to = c("a", "b"), weight = c(0.5, 0.4)), "n"),
    "add up to 0.9", class = "ochre_error_changes"
  )
  expect_error(
    move_counts(d, code, data.frame(from = "01", too = "a"), "n"), class = "ochre_error_column"
  )
})

test_that("values that look like faults are found, one of each kind, and good data have none", {
  set.seed(2)
  for (i in 1:20) {
    good <- data.frame(
      code = sprintf("%04d", sample(9999, 60)),
      people = round(rlnorm(60, 9, 0.4)),
      rate = rlnorm(60, 2, 0.3)
    )
    expect_identical(nrow(find_outliers(good)), 0L)
    bad <- good
    rows <- sample(60, 5)
    bad$people[rows[1]] <- as.integer(bad$code[rows[1]]) + 0
    bad$people[rows[2]] <- 0
    bad$people[rows[3]] <- exp(9) * 100
    bad$rate[rows[4]] <- exp(2) / 100
    bad$rate[rows[5]] <- -bad$rate[rows[5]]
    if (as.integer(bad$code[rows[1]]) < 100) next
    found <- find_outliers(bad)
    expect_identical(
      found$reason[
        match(
          paste(c("people", "people", "people", "rate", "rate"), rows),
          paste(found$column, found$row)
        )
      ],
      c(
        "the row's own code", "zero where none can be", "100 times too large",
        "100 times too small", "below zero, unlike the others"
      )
    )
    expect_identical(nrow(found), 5L)
    expect_warning(
      flagged <- flag_outliers(bad, people), "100 times too large", class = "ochre_warning_outliers"
    )
    expect_identical(which(!is.na(flagged$people_outlier)), sort(rows[1:3]))
    expect_identical(flagged$people, bad$people)
  }
  series <- data.frame(
    area = rep(c("a", "b"), each = 8),
    n = c(100, 104, 98, 101, 9900, 103, 97, 100, 10, 11, 9, 10, 12, 10, 11, 9)
  )
  expect_identical(find_outliers(series, n, by = area)$row, 5L)
  expect_output(
    print(find_outliers(series, n, by = area)),
    "a \\(row 5\\).*100 times too large; usual is about 100"
  )
})

test_that("an outlier is said with what is usual, and one wrong value does not hide others", {
  set.seed(3)
  people <- round(rlnorm(60, 9, 0.3))
  people[1] <- 1
  people[2:6] <- 0
  found <- find_outliers(data.frame(name = sprintf("Area %d", 1:60), people = people))
  expect_setequal(found$row, 1:6)
  expect_identical(found$reason[match(2:6, found$row)], rep("zero where none can be", 5))
  # What is usual is the median of those above zero, whatever stands beside them.
  expect_equal(found$usual, rep(stats::median(people[people > 0]), 6), tolerance = 0.01)
  expect_false(any(grepl("NA", format(found))))
})

test_that("a few marks below zero are found, and a column of changes is left alone", {
  set.seed(4)
  usual <- rlnorm(60, 5, 0.3)
  for (rows in list(7, c(7, 9), c(1, 20, 33, 60))) {
    x <- usual
    x[rows] <- -1
    found <- find_outliers(data.frame(v = x), v)
    expect_identical(found$row[found$reason == "below zero, unlike the others"], as.integer(rows))
  }
  changes <- data.frame(v = rnorm(60))
  expect_false(any(grepl("below zero", find_outliers(changes, v)$reason)))
})

test_that("a table in which every row stands twice is said to be one", {
  rows <- data.frame(code = rep(sprintf("%02d", 1:30), each = 2), month = 1:2, n = 1:60)
  expect_no_warning(sum_areas(rows, n, by = code))
  expect_warning(sum_areas(rbind(rows, rows), n, by = code), class = "ochre_warning_repeated")
})

test_that("words without a column are the same in every row", {
  expect_identical(paste_columns(data.frame(a = c(1, NA)), "same words", "r")$r,
                   rep("same words", 2))
})

test_that("a filter that keeps nothing, and a file without rows, make a map of no data", {
  areas <- squares(sprintf("%02d", 1:4))
  file <- withr::local_tempfile(lines = "code,n", fileext = ".csv")
  none <- read_statistics(file)
  expect_warning(kept <- keep_where(data.frame(code = "01", n = 3), code, "99"), "No row is kept",
                 class = "ochre_warning_unused")
  for (rows in list(none, kept)) {
    sums <- sum_areas(rows, n, by = code)
    joined <- suppressMessages(join_statistics(areas, sums, by = "code"))
    plan <- suppressWarnings(resolve_sheet(map_sheet("T") |> shade_areas(joined, n)))
    expect_identical(plan$layers[[1]]$class, rep(0L, 4))
    expect_identical(plan$layers[[1]]$no_data$count, 4L)
  }
})
