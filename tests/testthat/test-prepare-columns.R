# Columns made ready, against dplyr and base R, and with what should not be.
wells <- function() {
  tibble::tibble(
    id = c("7", "0012", "103", NA),
    state = factor(c("A", "B", NA, "C")),
    depth = c("12,5", "1.204,25", "<5", NA),
    level = c(3, 9999, -2, NA)
  )
}

test_that("recoded, set and renamed columns are what dplyr makes of them", {
  set.seed(71)
  for (round in 1:20) {
    data <- tibble::tibble(
      k = sample(c("a", "b", "c", NA), 50, TRUE),
      n = sample(c(1:9, 999L, NA), 50, TRUE)
    )
    got <- quietly(recode_values(data, k, c(a = "first", b = "second"), missing = "none"))
    expect_identical(got$k, dplyr::case_when(
      data$k == "a" ~ "first", data$k == "b" ~ "second", is.na(data$k) ~ "none", TRUE ~ data$k
    ))
    got <- quietly(recode_values(data, "k", list(a = "first"), rest = "other", name = "group"))
    expect_identical(got$group, dplyr::if_else(data$k == "a", "first", "other"))
    expect_identical(got$k, data$k)
    got <- quietly(set_values(data, n, above = 100))
    expect_identical(got$n, dplyr::if_else(data$n > 100, NA_integer_, data$n))
    got <- quietly(set_values(data, n, to = 0L, is = c("a", "b"), where = k))
    expect_identical(got$n, dplyr::if_else(data$k %in% c("a", "b"), 0L, data$n))
    got <- rename_columns(data, c(key = "k"))
    expect_identical(got, dplyr::rename(data, key = k))
  }
  # Codes that are numbers stay numbers where all new values are some.
  years <- quietly(recode_values(data.frame(y = c(1, 2, NA)), y, c(`1` = 2031, `2` = 2032)))
  expect_identical(years$y, c(2031, 2032, NA))
  lazy <- dbplyr::lazy_frame(k = 1, n = 2)
  expect_identical(colnames(rename_columns(lazy, c(key = "k"))), c("key", "n"))
})

test_that("texts become numbers by the rule of the readers, and marks stay beside them", {
  got <- to_numbers(wells(), depth, decimal_mark = ",")
  expect_identical(got$depth, c(12.5, 1204.25, NA, NA))
  expect_identical(got$depth_reason, c(NA, NA, "<5", NA))
  file <- write_file(paste0("k;depth\n", paste0(1:3, ";", wells()$depth[1:3], collapse = "\n")))
  expect_identical(quietly(read_statistics(file))$depth, got$depth[1:3])
  e <- expect_error(
    to_numbers(data.frame(x = c("1", "many")), x), "row 2 holds \"many\"",
    class = "ochre_error_column"
  )
  expect_identical(e$rows, 2L)
})

test_that("codes are cut and filled up, texts split and pasted", {
  expect_identical(cut_code(wells(), id, width = 4)$id, c("0007", "0012", "0103", NA))
  code <- sprintf("%02d%03d", 1:60, 1:60)
  expect_identical(cut_code(data.frame(code), code, first = 2)$code, substr(code, 1, 2))
  expect_identical(
    cut_code(data.frame(code = as.integer(code)), code, width = 5, name = "whole")$whole, code
  )
  expect_identical(cut_code(data.frame(code), code, last = 3)$code, substr(code, 3, 5))
  set.seed(72)
  parts <- replicate(3, paste0("p", sample(1000, 40)))
  whole <- data.frame(x = apply(parts, 1, paste, collapse = " / "))
  split <- split_column(whole, x, "/", c("a", "b", "c"))
  expect_identical(unname(as.matrix(split[c("a", "b", "c")])), parts)
  expect_identical(paste_columns(split, "{a} / {b} / {c}", "again")$again, whole$x)
  expect_warning(split_column(data.frame(x = c("a-b", "c")), x, "-", c("l", "r")), "1 value")
  expect_identical(
    paste_columns(data.frame(a = c("x", NA), n = c(1234.5, NA)), "{a}: {n|1}", "t")$t,
    c("x: 1,234.5", NA)
  )
})

test_that("a place is read whatever its text, and the order is told or asked for", {
  set.seed(73)
  lon <- round(runif(50, -180, 180), 4)
  lat <- round(runif(50, -90, 90), 4)
  forms <- c(
    "[%1$s, %2$s]", "POINT (%1$s %2$s)", "SRID=4326;POINT(%1$s %2$s)",
    "{\"type\":\"Point\",\"coordinates\":[%1$s,%2$s]}", "%2$s, %1$s", "%2$s;%1$s"
  )
  for (form in forms) {
    table <- data.frame(well = 1:50, at = sprintf(form, lon, lat))
    got <- places_from(table, at)
    expect_identical(columns_of(got), list(well = 1:50, longitude = lon, latitude = lat))
  }
  expect_error(places_from(data.frame(at = "10, 53"), at), "order", class = "ochre_error_argument")
  expect_identical(places_from(data.frame(at = "10, 53"), at, order = "latitude")$longitude, 53)
  expect_error(places_from(data.frame(at = c("a", NA)), at), class = "ochre_error_column")
  taken <- data.frame(at = "[1, 2]", latitude = 5)
  expect_error(places_from(taken, at), "have a column `latitude`", class = "ochre_error_argument")
  expect_warning(
    odd <- places_from(data.frame(at = c("[1, 2]", "[1, 95]", "here", NA)), at),
    "no place in 2 rows (2 and 3)", fixed = TRUE
  )
  expect_identical(odd$longitude, c(1, NA, NA, NA))
})

test_that("what cannot be meant is refused by name", {
  refused <- function(code) expect_error(code, class = "ochre_error_argument")
  refused(recode_values(wells(), state, c(X = "open")))
  refused(recode_values(wells(), state, c("open", "closed")))
  refused(recode_values(wells(), state, stats::setNames(c("x", "y"), c("A", "A"))))
  refused(set_values(wells(), level))
  refused(rename_columns(wells(), c(depth = "level")))
  refused(rename_columns(wells(), c(geometry = "level")))
  refused(split_column(wells(), id, "", c("a", "b")))
  refused(cut_code(wells(), id, first = 2, last = 2))
  expect_warning(
    quietly_but("ochre_warning_unused", recode_values(wells(), state, c(A = "open", X = "shut"))),
    class = "ochre_warning_unused"
  )
})
