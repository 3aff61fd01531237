# The verbs on tables in a database must give what they give on data frames, and only the reduced
# rows may travel. Every test runs on SQLite and on a real PostgreSQL.

in_databases <- function(test) {
  skip_if_not_installed("dbplyr")
  skip_if_not_installed("RSQLite")
  lite <- DBI::dbConnect(RSQLite::SQLite(), ":memory:")
  on.exit(DBI::dbDisconnect(lite))
  test(lite, "SQLite")
  skip_if_not_installed("RPostgres")
  port <- start_postgres()
  post <- DBI::dbConnect(
    RPostgres::Postgres(),
    host = "127.0.0.1",
    port = port,
    user = "postgres",
    dbname = "postgres"
  )
  on.exit(DBI::dbDisconnect(post), add = TRUE, after = FALSE)
  test(post, "PostgreSQL")
}

# Rows that the database hands over while code runs.
rows_fetched <- function(code) {
  seen <- new.env()
  seen$rows <- 0
  ns <- asNamespace("DBI")
  suppressMessages(trace(
    "dbFetch",
    exit = substitute(
      quote(assign("rows", get("rows", e) + NROW(returnValue()), e)),
      list(e = seen)
    )[[2]],
    where = ns,
    print = FALSE
  ))
  on.exit(suppressMessages(untrace("dbFetch", where = ns)))
  force(code)
  seen$rows
}

same_rows <- function(lazy, local, by, info) {
  got <- as.data.frame(dplyr::collect(lazy))
  local <- as.data.frame(local)[names(got)]
  order_of <- function(d) d[do.call(order, unname(d[by])), , drop = FALSE]
  plain <- function(d) {
    lapply(order_of(d), function(x) if (is.character(x)) x else as.numeric(x))
  }
  expect_equal(plain(got), plain(local), info = info)
}

test_that("verbs on a lazy table give what they give here, and only the reduced rows travel", {
  set.seed(12)
  d <- expand.grid(
    area = sprintf("%02d", 1:30),
    year = 2027:2031,
    age = c("0-64", "65+"),
    stringsAsFactors = FALSE
  )
  d$n <- rpois(nrow(d), 20)
  d$people <- rpois(nrow(d), 900) + 1
  d$n[sample(nrow(d), 9)] <- NA
  standard <- data.frame(age = c("65+", "0-64"), population = c(30, 70))
  one <- d[d$age == "65+" & !(d$area == "03" & d$year == 2031), ]
  wide <- data.frame(area = sprintf("%02d", 1:9), n_2030 = 1:9, n_2031 = 9:1)
  in_databases(function(con, info) {
    for (name in c("d", "one", "wide")) DBI::dbWriteTable(con, name, get(name))
    remote <- function(name) dplyr::tbl(con, name)
    quietly({
      same_rows(
        sum_areas(remote("d"), n, by = c(area, year)),
        sum_areas(d, n, by = c(area, year)),
        c("area", "year"),
        info
      )
      same_rows(
        average_areas(remote("d"), n, people, by = area),
        average_areas(d, n, people, by = area),
        "area",
        info
      )
      same_rows(
        keep_latest(remote("one"), year, area),
        keep_latest(one, year, area),
        "area",
        info
      )
      same_rows(
        keep_latest(remote("one"), year, area, value = n),
        keep_latest(one, year, area, value = n),
        "area",
        info
      )
      same_rows(
        keep_where(remote("d"), age, "65+"),
        keep_where(d, age, "65+"),
        c("area", "year"),
        info
      )
      same_rows(
        rate_per(remote("d"), n, people),
        rate_per(d, n, people),
        c("area", "year", "age"),
        info
      )
      same_rows(
        share_of(remote("d"), n, people),
        share_of(d, n, people),
        c("area", "year", "age"),
        info
      )
      same_rows(stack_periods(remote("wide")), stack_periods(wide), c("area", "period"), info)
      for (kind in c("absolute", "relative")) {
        same_rows(
          change_between(remote("wide"), n_2030, n_2031, kind = kind),
          change_between(wide, n_2030, n_2031, kind = kind),
          "area",
          info
        )
      }
      year <- d[d$year == 2030, ]
      for (method in c("direct", "indirect")) {
        ref <- if (method == "direct") standard else NULL
        there <- standardise_rate(
          keep_where(remote("d"), year, 2030),
          n,
          people,
          age,
          area,
          standard = ref,
          method = method
        )
        here <- standardise_rate(year, n, people, age, area, standard = ref, method = method)
        expect_equal(there, here[order(here$area), ], info = info)
      }
      # Columns that are called as sums and counts may be called elsewhere.
      odd <- stats::setNames(year[c("area", "age", "n", "people")], c("rows", "ages", "population",
                                                                    "count"))
      DBI::dbWriteTable(con, "odd", odd)
      there <- standardise_rate(remote("odd"), population, count, ages, rows, standard = ref)
      here <- standardise_rate(odd, population, count, ages, rows, standard = ref)
      expect_equal(there, here[order(here$rows), ], info = info)
      same_rows(
        sum_areas(remote("odd"), population, by = rows), sum_areas(odd, population, by = rows),
        "rows", info
      )
      # 300 rows lie there; of an area's sum 30 come, and a few rows of checks.
      expect_lt(rows_fetched(dplyr::collect(sum_areas(remote("d"), n, by = area))), 40)
      expect_lt(rows_fetched(dplyr::collect(keep_latest(remote("one"), year, area))), 45)
      expect_lt(
        rows_fetched(standardise_rate(
          keep_where(remote("d"), year, 2030),
          n,
          people,
          age,
          area
        )),
        50
      )
      expect_gt(rows_fetched(dplyr::collect(remote("d"))), 299)
      # A rate of a sum is still one query.
      rated <- rate_per(
        sum_areas(remote("d"), people, by = area, name = "people"),
        people,
        people,
        per = 1
      )
      expect_s3_class(rated, "tbl_lazy")
      expect_equal(range(dplyr::collect(rated)[["people_per_1"]]), c(1, 1))
    })
    # The server's own plan: all rows are read there, one row an area leaves.
    if (info == "PostgreSQL") {
      sql <- dbplyr::sql_render(quietly(sum_areas(remote("d"), n, by = area)))
      plan <- jsonlite::fromJSON(
        DBI::dbGetQuery(con, paste("EXPLAIN (ANALYZE, FORMAT JSON)", sql))[[1]],
        simplifyVector = FALSE
      )[[1]]$Plan
      expect_identical(plan$`Actual Rows`, 30L)
      expect_match(plan$`Node Type`, "Aggregate")
    }
    expect_error(
      quietly(keep_latest(remote("d"), year, area)),
      "several rows of their last period",
      class = "ochre_error_duplicates"
    )
    expect_error(
      sum_areas(remote("d"), age, by = area),
      "not numeric",
      class = "ochre_error_column"
    )
    expect_error(
      sum_areas(remote("d"), peple, by = area),
      "Did you mean `people`",
      class = "ochre_error_column"
    )
    expect_error(
      share_of(remote("d"), people, n),
      "is larger than",
      class = "ochre_error_column"
    )
    DBI::dbExecute(con, "UPDATE wide SET n_2030 = -5 WHERE area = '04'")
    expect_error(
      rate_per(remote("wide"), n_2031, n_2030),
      "negative",
      class = "ochre_error_column"
    )
    joined <- quietly(join_statistics(
      squares(sprintf("%02d", 1:30)),
      sum_areas(remote("d"), n, by = area),
      by = c(code = "area")
    ))
    expect_equal(joined$n, quietly(sum_areas(d, n, by = area))$n)
    # Tables and queries as statistics.
    x <- read_statistics(
      con,
      query = if (info == "SQLite") {
        "SELECT area, people FROM d WHERE age = ? AND year = 2031"
      } else {
        "SELECT area, people FROM d WHERE age = $1 AND year = 2031"
      },
      params = list("65+")
    )
    expect_equal(x$people, d$people[d$age == "65+" & d$year == 2031])
    expect_identical(x$area, sprintf("%02d", 1:30))
    expect_identical(nrow(read_statistics(con, layer = "d")), 300L)
    expect_error(
      read_statistics(con, query = "SELEC 1"),
      "refuses the query",
      class = "ochre_error_database"
    )
    expect_error(
      read_statistics(con),
      "needs either `query` or `layer`",
      class = "ochre_error_argument"
    )
  })
})
