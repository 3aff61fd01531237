# Joins beyond one exact key: several columns, aliases, suggestions, periods, and what is said of
# the rest.

named <- function(names, region = "A") {
  x <- squares(names)
  x$name <- names
  x$region <- region
  x
}

test_that("several columns name an area together", {
  areas <- named(c("Port", "Port", "Ilm", "Zed"), c("North", "South", "North", "South"))
  stats <- data.frame(
    r = c("South", "north", "South", "North", NA),
    d = c("Port", "Port", "Zed", "Ilm", "Zed"),
    v = 1:5
  )
  x <- quietly(join_statistics(areas, stats, by = c(region = "r", name = "d")))
  expect_identical(x$v, c(NA, 1L, 4L, 3L))
  audit <- join_audit(x)
  expect_identical(audit$key, c("North / Port", "north / Port", NA))
  expect_identical(audit$suggestion[1:2], c("north / Port", "North / Port"))
  x <- quietly(join_statistics(areas, stats, by = list(region = "r", name = "d"), match = "tidied"))
  expect_identical(x$v, c(2L, 1L, 4L, 3L))
  expect_error(
    join_statistics(areas, stats, by = c(name = "d")), "Port", class = "ochre_error_duplicates"
  )
  # The parts of a key do not run together.
  y <- quietly(join_statistics(
    named(c("b", "a b"), c("a", "")),
    data.frame(r = "a b", d = "b"),
    by = c(region = "r", name = "d"),
    match = "tidied"
  ))
  expect_identical(attr(join_audit(y), "counts")[["matched"]], 0L)
})

test_that("forms of and, saint and word order are tidied, near spelling never is", {
  areas <- named(c("Saint-Jor & Kel", "Port of Ilm", "Sankt Zed", "Nåv"))
  stats <- data.frame(d = c("St. Jor and Kel", "Ilm, Port of", "ST ZED", "Navv"), v = 1:4)
  x <- quietly(join_statistics(areas, stats, by = c(name = "d"), match = "tidied"))
  expect_identical(x$v, c(1L, 2L, 3L, NA))
  audit <- join_audit(x)
  expect_identical(audit$reason[audit$side == "tidied"], rep("and, saint or word order", 3))
  expect_identical(audit$suggestion[audit$key == "Navv"], "Nåv")
  coded <- squares(sprintf("OR-%04d", 101:120))
  x <- quietly(join_statistics(coded, data.frame(code = 101:119, v = 1:19), by = "code"))
  expect_match(attr(join_audit(x), "notes"), "begin with \"OR-\".*match = \"tidied\"")
  x <- quietly(join_statistics(
    coded,
    data.frame(code = 101:119, v = 1:19),
    by = "code",
    match = "tidied"
  ))
  expect_identical(x$v, c(1:19, NA))
})

test_that("suggestions become aliases once a person has confirmed them", {
  areas <- named(c("Ilmathwen", "Ulvedre", "Port Peluminmar", "Zed"))
  stats <- data.frame(
    d = c("Ilmathwenn", "Ulvdre", "Peluminmar", "Not stated", "Zed"),
    v = c(1:4, 5)
  )
  s <- suggest_matches(areas, stats, by = c(name = "d"))
  expect_identical(
    s$boundaries[match(c("Ilmathwenn", "Ulvdre"), s$statistics)], c("Ilmathwen", "Ulvedre")
  )
  expect_identical(s$reason[s$statistics == "Not stated"], "a total, not an area")
  expect_true(all(is.na(s$confirmed)))
  join <- function(aliases) {
    quietly(join_statistics(areas, stats, by = c(name = "d"), aliases = aliases))
  }
  expect_warning(
    suppressMessages(join_statistics(areas, stats, by = c(name = "d"), aliases = s)),
    "No alias is confirmed", class = "ochre_warning_aliases"
  )
  s$confirmed[s$statistics %in% c("Ilmathwenn", "Not stated")] <- "yes"
  # A yes to no area is no word for leaving out.
  e <- expect_error(
    join(s), "names no area for `Not stated`.*left out", class = "ochre_error_alias"
  )
  expect_identical(e$keys, "Not stated")
  expect_error(join(s[c("statistics", "boundaries")]), "names no area", class = "ochre_error_alias")
  expect_error(
    join(transform(s, confirmed = "perhaps")), "Write yes, no or left out",
    class = "ochre_error_alias"
  )
  s$confirmed[s$statistics == "Not stated"] <- "Left out"
  s$boundaries[s$statistics == "Peluminmar"] <- "Port Peluminmar"
  s$confirmed[s$statistics == "Peluminmar"] <- "Yes "
  # Through a file and back, as a person edits it.
  file <- temporary(".csv")
  write_csv(s, file)
  x <- join(suppressMessages(read_statistics(file)))
  expect_identical(x$v, c(1, NA, 3, 5))
  counts <- attr(join_audit(x), "counts")
  expect_identical(
    counts[c("alias", "left_out", "boundaries_alone", "statistics_alone")],
    c(alias = 2L, left_out = 1L, boundaries_alone = 1L, statistics_alone = 1L)
  )
  # What is left out stays in the account.
  lost <- attr(join_audit(x), "lost")
  expect_identical(lost$lost[lost$side == "left out" & lost$column == "v"], 4)
  expect_match(
    paste(format(join_audit(x)), collapse = "\n"),
    "row left out on purpose:\n    Not stated.*`v`: 27 % in rows left out on purpose \\(4 of 15\\)"
  )
  expect_error(
    join(data.frame(statistics = "Ulvdre", boundaries = "Ulvedr")), "Did you mean `Ulvedre`",
    class = "ochre_error_alias"
  )
  expect_error(
    join(data.frame(statistics = "Ulvdre", boundaries = c("Zed", "Ulvedre"))), "two areas",
    class = "ochre_error_alias"
  )
  e <- expect_error(
    join(data.frame(statistics = "Ulvdre", boundaries = "Zed")), "one and the same area",
    class = "ochre_error_duplicates"
  )
  expect_setequal(e$keys, c("Ulvdre", "Zed"))
})

test_that("a long table gives one row an area and period; a repeat is refused", {
  set.seed(4)
  for (i in 1:10) {
    codes <- sprintf("%03d", sample(999, 25))
    areas <- squares(codes)
    long <- expand.grid(
      k = c(codes[-1], "lost"),
      month = c("2031-03", "2031-01", "2031-02"),
      stringsAsFactors = FALSE
    )
    long$v <- seq_len(nrow(long))
    long <- long[sample(nrow(long), 60), ]
    x <- quietly(join_statistics(areas, long, by = c(code = "k"), period = month))
    grid <- expand.grid(code = codes, month = sort(unique(long$month)), stringsAsFactors = FALSE)
    expect_identical(x$code, grid$code)
    expect_identical(x$month, grid$month)
    expect_identical(x$v, long$v[match(paste(grid$code, grid$month), paste(long$k, long$month))])
    expect_identical(wk::wk_crs(x$geometry), wk::wk_crs(areas$geometry))
    audit <- join_audit(x)
    expect_identical(audit$rows[audit$side == "statistics"], sum(long$k == "lost"))
    expect_identical(attr(audit, "counts")[["gaps"]], sum(is.na(x$v[x$code %in% long$k])))
  }
  e <- expect_error(
    join_statistics(areas, rbind(long, long[1, ]), by = c(code = "k"), period = "month"),
    "in one `month`", class = "ochre_error_duplicates"
  )
  expect_identical(e$keys, long$k[1])
  expect_error(
    draw_lines(map_sheet("x"), x), "has each area 3 times.*keep_where\\(month",
    class = "ochre_error_argument"
  )
  expect_identical(
    quietly(resolve_sheet(shade_areas(map_sheet("x"), x, v)))$panels,
    paste(month.name[1:3], "2031", sep = "\u00a0")
  )
  expect_s3_class(
    shade_areas(map_sheet("x"), quietly(keep_where(x, month, "2031-02")), v), "ochre_sheet"
  )
  # Two tables on one set of boundaries keep both audits.
  two <- quietly(join_statistics(
    join_statistics(areas, data.frame(code = codes, v = 1), by = "code"),
    data.frame(code = codes[1:20], v = 2),
    by = "code"
  ))
  expect_identical(two$v_statistics, rep(c(2, NA), c(20, 5)))
  expect_identical(
    vapply(1:2, function(i) attr(join_audit(two, i), "counts")[["matched"]], 0L),
    c(25L, 20L)
  )
})

test_that("what is lost is counted, limited and written for a report", {
  areas <- named(c("a", "b", "<i>c</i>"))
  areas$people <- c(60L, 30L, 10L)
  stats <- data.frame(
    k = c("a", "b", "Total", "x"),
    visits = c(5, 4, 9, 2),
    rate = c(0.1, 0.2, 0.3, 0.4),
    year = 2031
  )
  x <- quietly(join_statistics(areas, stats, by = c(name = "k")))
  lost <- attr(join_audit(x), "lost")
  expect_identical(lost$column, c("people", "visits"))
  expect_equal(lost$share, c(0.1, 0.55))
  expect_identical(join_audit(x)$reason[3:2], c(NA, "a total, not an area"))
  e <- expect_error(
    join_statistics(areas, stats, by = c(name = "k"), unmatched = 2),
    "1 area and 2 keys have no partner; at most 2 may", class = "ochre_error_unmatched"
  )
  expect_identical(nrow(e$audit), 3L)
  expect_s3_class(
    quietly(join_statistics(areas, stats, by = c(name = "k"), unmatched = 3)), "tbl_df"
  )
  expect_error(
    join_statistics(areas, stats, by = c(name = "k"), unmatched = 0.4), "40 % of all",
    class = "ochre_error_unmatched"
  )
  html <- audit_fragment(join_audit(x), level = 3)
  page <- xml2::read_html(html)
  expect_identical(
    xml2::xml_text(xml2::xml_find_all(page, "//tbody/tr/td[2]")), c("<i>c</i>", "Total", "x")
  )
  expect_match(html, "`people`: 10 % in areas without statistics")
  expect_length(xml2::xml_find_all(page, "//i|//script|//@style"), 0)
})

test_that("keys of another kind are noticed", {
  notes <- function(areas, stats, by = c(code = "k")) {
    attr(join_audit(quietly(join_statistics(areas, stats, by = by))), "notes")
  }
  expect_match(
    notes(squares(c("ABC", "DEF", "GHI")), data.frame(k = c("AB", "DE"))),
    "codes of 3 letters.*of 2", all = FALSE
  )
  expect_match(
    notes(squares(c("0101", "0102", "0201")), data.frame(k = c("01", "02"))),
    "begin alike.*merge_areas", all = FALSE
  )
  expect_match(
    notes(squares(c("0101", "0102", "0201")), data.frame(k = c(101, 102))),
    "lost leading zeros \\(`k` holds numbers", all = FALSE
  )
  areas <- named(c("Ilmathwen", "Ulvedre", "Zedlow"))
  areas$code <- c("01", "02", "03")
  expect_match(
    notes(areas, data.frame(k = c("Ilmathwen", "Ulvedre", "Zedlow"))),
    "`name` with `k` would match 100 %.*by = c\\(name = \"k\"\\)", all = FALSE
  )
  expect_match(
    notes(squares(sprintf("%04d", 1:9)), data.frame(k = sprintf("%04d", c(1:7, 5008, 5009)))),
    "move_counts\\(\\)", all = FALSE
  )
  expect_null(notes(squares(c("01", "02")), data.frame(k = c("01", "02"))))
})

test_that("columns of any class keep it, and its own missing value", {
  stats <- data.frame(code = c("1", "3"))
  stats$f <- factor(c("x", "y"))
  stats$d <- as.Date(c("2031-05-01", NA))
  stats$t <- as.difftime(c(1, 2), units = "hours")
  stats$p <- wk::xy(1:2, 3:4)
  stats$v <- numeric_version(c("1.2", "3.4"))
  x <- quietly(join_statistics(squares(c("1", "2", "3")), stats, by = "code"))
  expect_identical(x$f, factor(c("x", NA, "y")))
  expect_identical(x$d, as.Date(c("2031-05-01", NA, NA)))
  expect_identical(x$t, stats$t[c(1, NA, 2)])
  expect_identical(x$p, stats$p[c(1, NA, 2)])
  expect_identical(x$v[[3]], stats$v[[2]])
})

test_that("columns are looked up by the same keys", {
  visits <- data.frame(d = c("01", "1", "02", "09"), age = c("a", "b", "b", "b"), n = 1:4)
  people <- data.frame(
    code = c("01", "01", "02"),
    age = c("a", "b", "b"),
    people = c(5, 6, 7),
    n = 0
  )
  expect_warning(
    x <- look_up(visits, people, by = c(d = "code", age = "age")),
    "2 rows of `data` are not in `table`.*`1 / b` is perhaps `01 / b`",
    class = "ochre_warning_unmatched"
  )
  expect_identical(x$people, c(5, NA, 7, NA))
  expect_named(x, c("d", "age", "n", "people", "n_table"))
  expect_identical(
    quietly(look_up(visits, people, by = c(d = "code", age = "age"), match = "tidied"))$people,
    c(5, 6, 7, NA)
  )
  expect_error(
    look_up(visits, rbind(people, people[1, ]), by = c(d = "code", age = "age")), "01 / a",
    class = "ochre_error_duplicates"
  )
})
