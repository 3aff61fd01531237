areas <- squares(c("001", "002", "010", "Éa-b", "Long Name"))

test_that("each area is kept once, in order, and keys compare as text", {
  statistics <- data.frame(k = c(10, 2, 99), v = c("x", "y", "z"), name = c("p", "q", "r"))
  x <- suppressMessages(join_statistics(areas, statistics, by = c(code = "k")))
  expect_identical(x$code, areas$code)
  expect_identical(x$v, rep(NA_character_, 5))
  x <- suppressMessages(join_statistics(
    squares(c("10", "2", "100000")),
    data.frame(code = c(2, 100000, 10), v = 1:3),
    by = "code"
  ))
  expect_identical(x$v, c(3L, 1L, 2L))
  expect_true(
    "name_statistics" %in% names(suppressMessages(join_statistics(
      areas,
      statistics,
      by = c(code = "k")
    )))
  )
})

test_that("duplicate keys on either side are an error that lists them", {
  e <- expect_error(
    join_statistics(
      areas, data.frame(k = c("001", "001", "002", "002", NA, NA)), by = c(code = "k")
    ),
    class = "ochre_error_duplicates"
  )
  expect_identical(list(e$side, e$keys), list("statistics", c("001", "002")))
  e <- expect_error(
    join_statistics(squares(c("a", "a")), data.frame(k = "a"), by = c(code = "k")),
    class = "ochre_error_duplicates"
  )
  expect_identical(e$side, "boundaries")
})

test_that("the audit names both sides with the likely partner and the reason", {
  keys <- c("1", "2", "éa-b", "LongName", "Nowhere at all", NA)
  x <- suppressMessages(join_statistics(areas, data.frame(k = keys, v = 1:6), by = c(code = "k")))
  audit <- join_audit(x)
  rows <- tibble::as_tibble(audit)[audit$side == "statistics", ]
  expect_identical(rows$key, keys)
  expect_identical(rows$suggestion, c("001", "002", "Éa-b", "Long Name", NA, NA))
  expect_identical(
    rows$reason,
    c("leading zeros", "leading zeros", "case", "spacing or punctuation", NA, "missing key")
  )
  expect_identical(
    attr(audit, "counts")[c("matched", "boundaries_alone", "statistics_alone")],
    c(matched = 0L, boundaries_alone = 5L, statistics_alone = 6L)
  )
  expect_output(print(audit), "1 +perhaps 001 +\\(leading zeros\\)")
})

test_that("spelling is suggested when near and not when far", {
  suggest <- suggest_partner(
    c("Ilmathwenn", "Ulvdre", "Zzz"),
    c("Ilmathwen", "Ulvedre", "Quite another")
  )
  expect_identical(suggest$suggestion, c("Ilmathwen", "Ulvedre", NA))
  expect_identical(suggest$reason, c("near spelling", "near spelling", NA))
})

test_that("tidied keys match only where the partner is the only one, exact ones first", {
  keys <- c("1", "EA B", "01", "longname")
  x <- suppressMessages(join_statistics(
    areas,
    data.frame(k = keys, v = 1:4),
    by = c(code = "k"),
    match = "tidied"
  ))
  expect_identical(x$v, c(NA, NA, NA, 2L, 4L))
  audit <- join_audit(x)
  expect_identical(audit$key[audit$side == "tidied"], c("EA B", "longname"))
})

test_that("a random renaming of codes is undone, and what was dropped is reported", {
  set.seed(11)
  for (i in 1:20) {
    codes <- sprintf("%04d", sample(9999, 60))
    spoilt <- codes
    change <- sample(60, 20)
    spoilt[change] <- sub("^0+", "", spoilt[change])
    keep <- sample(60, 50)
    x <- suppressMessages(join_statistics(
      squares(codes),
      data.frame(k = spoilt[keep], v = keep),
      by = c(code = "k"),
      match = "tidied"
    ))
    expect_identical(which(!is.na(x$v)), sort(keep))
    expect_identical(x$v[!is.na(x$v)], sort(keep))
    audit <- join_audit(x)
    expect_identical(sort(audit$row[audit$side == "boundaries"]), setdiff(1:60, keep))
  }
})

test_that("sums and rates say what they leave out", {
  visits <- data.frame(d = c("b", "a", "a", "c", NA), v = c(1, 2, NA, NA, 9))
  x <- suppressWarnings(sum_areas(visits, v, by = d))
  expect_identical(
    as.list(x), list(d = c("b", "a", "c"), v = c(1, 2, NA), v_missing = c(0L, 1L, 1L))
  )
  expect_warning(
    expect_warning(sum_areas(visits, v, by = d), class = "ochre_warning_missing"),
    class = "ochre_warning_missing"
  )
  expect_identical(
    rate_per(data.frame(n = c(3, NA, 1), p = c(1500, 10, 0)), n, "p")$n_per_1000, c(2, NA, NA)
  )
  expect_error(rate_per(data.frame(n = 1, p = -99), n, p), "negative", class = "ochre_error_column")
  expect_error(
    sum_areas(data.frame(d = "a", v = "n/a"), v, by = d), "not numeric.*\"n/a\"",
    class = "ochre_error_column"
  )
})

test_that("a long join is the same on one core and on all, and what match() gives", {
  set.seed(21)
  areas <- squares(sprintf("%03d", 1:60))
  long <- data.frame(
    code = rep(c(sprintf("%03d", 1:60), "lost"), 4000),
    day = rep(seq_len(4000), each = 61),
    n = sample(c(NA, 1:99), 61 * 4000, TRUE), share = stats::runif(61 * 4000)
  )
  long <- long[sample(nrow(long)), ]
  join <- function() quietly(join_statistics(areas, long, by = "code", period = day))
  all <- join()
  old <- options(ochre.cores = 1)
  on.exit(options(old))
  expect_identical(join(), all)
  at <- match(paste(all$code, all$day), paste(long$code, long$day))
  expect_identical(all$n, long$n[at])
  expect_identical(all$share, long$share[at])
})
