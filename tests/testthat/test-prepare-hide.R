# Hidden counts against an attacker who knows everything but them. The attack here is by trying all
# tables, not by the linear programs of the package.

# Is there a table with these sums in which hidden cell `k` is `v`? Cells are filled one after the
# other with whole numbers from 1 on, as long as each sum has at least 1 left for every cell that
# is still to come.
can_be <- function(value, hidden, groups, k, v) {
  free <- which(hidden)
  free <- c(free[k], free[-k])
  at <- lapply(groups, function(g) match(g[free], unique(g[free])))
  left <- lapply(seq_along(groups), function(j) as.numeric(tapply(value[free], at[[j]], sum)))
  open <- lapply(at, tabulate)
  fill <- function(i) {
    if (i > length(free)) return(TRUE)
    last <- vapply(seq_along(at), function(j) open[[j]][at[[j]][i]] == 1, NA)
    room <- vapply(seq_along(at), function(j) left[[j]][at[[j]][i]] - open[[j]][at[[j]][i]] + 1, 0)
    tries <- if (i == 1) {
      v
    } else if (any(last)) {
      room[last][1]
    } else {
      seq_len(max(0, min(room)))
    }
    for (x in tries) {
      if (x < 1 || any(x > room) || any(last & x != room)) next
      for (j in seq_along(at)) {
        left[[j]][at[[j]][i]] <<- left[[j]][at[[j]][i]] - x
        open[[j]][at[[j]][i]] <<- open[[j]][at[[j]][i]] - 1
      }
      if (fill(i + 1)) return(TRUE)
      for (j in seq_along(at)) {
        left[[j]][at[[j]][i]] <<- left[[j]][at[[j]][i]] + x
        open[[j]][at[[j]][i]] <<- open[[j]][at[[j]][i]] + 1
      }
    }
    FALSE
  }
  fill(1)
}

excludes <- function(value, hidden, groups, limit) {
  small <- which(value[hidden] > 0 & value[hidden] < limit)
  for (k in small) {
    for (v in seq_len(limit - 1)) {
      if (!can_be(value, hidden, groups, k, v)) return(TRUE)
    }
  }
  FALSE
}

# The fewest partners that protect all, by trying all sets of them.
fewest <- function(value, groups, limit) {
  small <- value > 0 & value < limit
  rest <- which(value >= limit)
  for (n in 0:length(rest)) {
    sets <- if (n) utils::combn(length(rest), n) else matrix(0L, 0, 1)
    for (k in seq_len(ncol(sets))) {
      hidden <- small
      hidden[rest[sets[, k]]] <- TRUE
      if (!excludes(value, hidden, groups, limit)) return(n)
    }
  }
  NA
}

# Tables of three kinds: one total, totals of regions, totals of rows and columns.
table_of <- function(kind, cells, most) {
  n <- function(size) pmin(most, sample(c(0, 0, 1, 2, 3, 4, 5, 6, 8, 12, 20, 60), size, TRUE))
  if (kind == "margins") {
    return(cbind(expand.grid(g = seq_len(cells), k = 1:3), n = n(3 * cells)))
  }
  data.frame(
    g = if (kind == "regions") sample(c("a", "b"), 3 * cells, TRUE) else "all",
    k = 1,
    n = n(3 * cells)
  )
}
margins_of <- list(all = list(character()), regions = list("g"), margins = list("g", "k"))

test_that("no hidden small count can be excluded in 300 tables, with one or two margins", {
  set.seed(5)
  for (kind in names(margins_of)) {
    unsafe <- 0
    for (round in 1:300) {
      t <- table_of(kind, 5, 60)
      wishes <- list(margins = margins_of[[kind]])
      h <- tryCatch(
        quietly(do.call(hide_small, c(list(t, quote(n)), wishes))),
        ochre_error_hidden = function(e) NULL
      )
      if (is.null(h)) next
      found <- do.call(infer_hidden, c(list(t, quote(n), is.na(h$n)), wishes))
      unsafe <- unsafe + sum(!found$safe[found$count < 5]) +
        sum(h$n > 0 & h$n < 5, na.rm = TRUE)
    }
    expect_identical(unsafe, 0)
  }
})

test_that("trying all tables finds nothing, few others are hidden, errors where it cannot", {
  set.seed(6)
  partners <- best <- 0
  for (round in 1:90) {
    kind <- names(margins_of)[round %% 3 + 1]
    t <- table_of(kind, if (kind == "margins") 3 else 2, 9)
    groups <- if (kind == "margins") list(t$g, t$k) else list(t$g)
    h <- tryCatch(
      quietly(hide_small(t, n, 4, margins = margins_of[[kind]])),
      ochre_error_hidden = function(e) NULL
    )
    needed <- fewest(t$n, groups, 4)
    expect_identical(is.null(h), is.na(needed), info = round)
    if (is.null(h)) next
    hidden <- is.na(h$n)
    expect_true(all(hidden[t$n > 0 & t$n < 4]) && !any(hidden[t$n == 0]))
    expect_false(excludes(t$n, hidden, groups, 4), info = round)
    expect_identical(h$n_reason, ifelse(hidden, "hidden", NA_character_))
    partners <- partners + sum(hidden)
    best <- best + needed + sum(t$n > 0 & t$n < 4)
  }
  expect_gt(best, 100)
  expect_lte(partners, 1.1 * best)
})

test_that("what can be inferred is found by linear programs as by trying all tables", {
  set.seed(7)
  for (round in 1:40) {
    t <- cbind(expand.grid(g = 1:3, k = 1:3), n = sample(0:7, 9, TRUE))
    t$hide <- t$n > 0 & runif(9) < 0.6
    if (!any(t$hide)) next
    found <- infer_hidden(t, n, hide, limit = 4, margins = list("g", "k"))
    cells <- which(t$hide)
    ends <- vapply(
      seq_along(cells),
      function(k) range(Filter(function(v) can_be(t$n, t$hide, list(t$g, t$k), k, v), 1:21)),
      c(0, 0)
    )
    expect_identical(found$row, cells)
    expect_equal(found$least, ends[1, ])
    expect_equal(found$greatest, ends[2, ])
    expect_true(all(found$count >= found$least & found$count <= found$greatest))
  }
  # Without any sum nothing bounds a count.
  expect_identical(infer_hidden(t, n, hide, total = FALSE)$greatest, rep(Inf, sum(t$hide)))
  expect_error(infer_hidden(t, n, TRUE), "`hidden` has 1 value", class = "ochre_error_argument")
})

test_that("totals that are rows are hidden with their parts, over several columns at once", {
  set.seed(8)
  for (round in 1:8) {
    cells <- expand.grid(
      area = c("a", "b", "c"),
      age = c("young", "old"),
      sex = c("men", "women"),
      stringsAsFactors = FALSE
    )
    cells$n <- sample(c(2, 3, 7, 9, 14, 20, 31), nrow(cells), TRUE)
    both <- stats::aggregate(n ~ area + age, cells, sum)
    both$sex <- "both"
    t <- rbind(cells, both[names(cells)])
    wishes <- list(
      by = c("area", "age", "sex"),
      margins = list(c("area", "sex"), c("age", "sex")),
      sums = list(sex = "both")
    )
    h <- tryCatch(
      quietly(do.call(hide_small, c(list(t, quote(n), 4), wishes))),
      ochre_error_hidden = function(e) NULL
    )
    if (is.null(h)) next
    found <- do.call(infer_hidden, c(list(t, quote(n), is.na(h$n), 4), wishes))
    expect_true(all(found$safe[found$count < 4]))
    shown <- !is.na(h$n)
    expect_true(all(h$n[shown] == 0 | h$n[shown] >= 4))
  }
})

test_that("the known traps are avoided; what nothing protects is an error", {
  traps <- list(c(4, 4, 30), c(3, 5, 40), c(1, 1, 9), c(2, 30, 4, 0))
  for (n in traps) {
    h <- quietly(hide_small(data.frame(n = n), n))
    found <- infer_hidden(data.frame(n = n), n, is.na(h$n))
    expect_true(all(found$safe[found$count < 5]))
  }
  expect_message(
    hide_small(data.frame(n = c(3, 12, 40)), n), "hid 1 count below 5, and 1 more to protect"
  )
  expect_identical(
    quietly(hide_small(data.frame(n = c(3, 12, 40)), n, total = FALSE))$n, c(NA, 12, 40)
  )
  e <- expect_error(
    hide_small(data.frame(n = c(3, 0, 0)), n), "Nothing can protect 1 small count: row 1",
    class = "ochre_error_hidden"
  )
  expect_identical(e$rows, 1L)
  lone <- data.frame(g = c("a", "b", "b"), n = c(3, 9, 12))
  e <- expect_error(
    hide_small(lone, n, within = g), "the total of g a", class = "ochre_error_hidden"
  )
  expect_message(
    h <- hide_small(lone, n, within = g, hide_totals = TRUE), "Do not publish the total of g a"
  )
  expect_identical(h$n, c(NA, 9, 12))
  expect_identical(attr(h, "hidden_totals"), "the total of g a")
  # Missing counts stay missing without a reason, and zeros stay.
  h <- quietly(hide_small(data.frame(n = c(NA, 0, 2, 8, 9)), n))
  expect_identical(h$n_reason, c(NA, NA, "hidden", "hidden", NA))
  expect_identical(h$n[2], 0)
})

test_that("what is derived from a hidden count is hidden with it, whichever verb comes first", {
  set.seed(11)
  n <- 40
  data <- tibble::tibble(
    code = sprintf("%02d", seq_len(n)), population = round(runif(n, 800, 9000)),
    cases = rpois(n, 9), deaths = rpois(n, 30)
  )
  made <- data |>
    rate_per(cases, population, limits = "byar") |>
    share_of(cases, population) |>
    index_to(cases, code, "07") |>
    steady_rate(cases, population) |>
    paste_columns("{cases} cases", "words") |>
    rename_columns(c(rate = "cases_per_1000"))
  made$own <- round(1e5 * made$cases / made$population, 1)
  made$twice <- 2 * made$cases
  made <- tibble::as_tibble(made)
  hidden <- suppressMessages(hide_small(made, cases, limit = 8))
  gone <- is.na(hidden$cases)
  expect_gt(sum(gone), 5)
  derived <- c("rate", "cases_per_1000_low", "cases_per_1000_high", "cases_share", "cases_index",
               "cases_steady", "words", "own", "twice")
  for (column in derived) expect_true(all(is.na(hidden[[column]][gone])), info = column)
  for (column in c("population", "deaths")) expect_false(anyNA(hidden[[column]]), info = column)
  expect_message(hide_small(made, cases, limit = 8), "Also missing there: `rate`")
  # Of an index, under any name, the hidden count of its reference is known from any other count.
  least <- data$code[which.min(data$cases)]
  index <- index_to(data, cases, code, least, name = "level")
  expect_true(all(is.na(suppressMessages(hide_small(index, cases, limit = 8))$level)))
  # Both orders of the verbs give the same.
  first <- suppressMessages(hide_small(data, cases, limit = 8)) |> rate_per(cases, population)
  expect_identical(first$cases_per_1000, hidden$rate)
})

test_that("columns that add up are protected together, or a warning names them", {
  set.seed(12)
  data <- tibble::tibble(men = rpois(30, 7), women = rpois(30, 8), other = rpois(30, 200))
  data$total <- data$men + data$women
  expect_warning(
    suppressMessages(hide_small(data, men, limit = 4)),
    "`total` is the sum of .*recovered", class = "ochre_warning_adding_up"
  )
  expect_no_warning(
    made <- suppressMessages(hide_small(data, total, limit = 5, parts = c(men, women)))
  )
  columns <- c("total", "men", "women")
  for (column in columns) {
    small <- data[[column]] > 0 & data[[column]] < 5
    expect_true(all(is.na(made[[column]][small])), info = column)
    expect_identical(made[[paste0(column, "_reason")]] %in% "hidden", is.na(made[[column]]))
  }
  # In no row does one missing cell stand alone beside two that are shown, zeros apart, and in no
  # column either.
  open <- rowSums(is.na(made[columns]))
  expect_false(any(open == 1))
  expect_false(any(colSums(is.na(made[columns])) == 1))
  expect_error(
    hide_small(transform(data, total = total + 1), total, parts = c(men, women)),
    "not the sum", class = "ochre_error_column"
  )
})
