# The verbs on tables in a database must give what they give on data frames, and only the reduced
# rows may travel, on every engine (helper-engines.R).

lazy_tables <- local({
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
  year <- d[d$year == 2030, ]
  list(
    d = d,
    one = d[d$age == "65+" & !(d$area == "03" & d$year == 2031), ],
    year = year,
    wide = data.frame(area = sprintf("%02d", 1:9), n_2030 = 1:9, n_2031 = 9:1),
    # Columns that are called as sums and counts may be called elsewhere.
    odd = stats::setNames(
      year[c("area", "age", "n", "people")], c("rows", "ages", "population", "count")
    ),
    people = data.frame(area = sprintf("%02d", 1:30), residents = 101:130)
  )
})
standard <- data.frame(age = c("65+", "0-64"), population = c(30, 70))

# What is called, on which table, and which columns name a row of the result. `rows` may be handed
# over: those of the result, and those of checks.
case <- function(call, on, by, rows) list(call = call, on = on, by = by, rows = rows)
lazy_cases <- list(
  sums = case(function(d) sum_areas(d, n, by = c(area, year)), "d", c("area", "year"), 160),
  "sums of all" = case(function(d) sum_areas(d, n, by = area), "d", "area", 40),
  "named sums" = case(function(d) sum_areas(d, n, by = area, name = "all"), "d", "area", 40),
  means = case(function(d) average_areas(d, n, people, by = area), "d", "area", 40),
  "odd sums" = case(function(d) sum_areas(d, population, by = rows), "odd", "rows", 40),
  latest = case(function(d) keep_latest(d, year, area), "one", "area", 45),
  "latest with a value" = case(
    function(d) keep_latest(d, year, area, value = n), "one", "area", 45
  ),
  kept = case(function(d) keep_where(d, age, "65+"), "d", c("area", "year"), 155),
  rates = case(function(d) rate_per(d, n, people), "year", c("area", "age"), 70),
  "rates of sums" = case(
    function(d) rate_per(sum_areas(d, people, by = area, name = "all"), all, all, per = 1),
    "d", "area", 45
  ),
  "rates with limits" = case(
    function(d) rate_per(keep_where(d, age, "65+"), n, people, limits = "garwood"),
    "year", "area", 45
  ),
  shares = case(function(d) share_of(d, n, people), "year", c("area", "age"), 70),
  stacked = case(function(d) stack_periods(d), "wide", c("area", "period"), 30),
  changes = case(function(d) change_between(d, n_2030, n_2031, kind = "absolute"), "wide", "area",
                 20),
  "relative changes" = case(
    function(d) change_between(d, n_2030, n_2031, kind = "relative"), "wide", "area", 20
  ),
  renamed = case(function(d) rename_columns(d, c(count = "n")), "year", c("area", "age"), 70),
  standardised = case(
    function(d) standardise_rate(d, n, people, age, area, standard = standard), "year", "area", 50
  ),
  "standardised by all" = case(
    function(d) standardise_rate(d, n, people, age, area, method = "indirect"), "year", "area", 50
  ),
  "standardised, odd" = case(
    function(d) {
      names(standard)[1] <- "ages"
      standardise_rate(d, population, count, ages, rows, standard = standard)
    },
    "odd", "rows", 50
  ),
  # What looks at all areas at once gets the sums.
  hidden = case(
    function(d) hide_small(sum_areas(d, n, by = area), n, limit = 170), "d", "area", 40
  ),
  steadied = case(
    function(d) {
      sums <- sum_areas(d, n, by = area)
      people <- sum_areas(d, people, by = area)
      steady_rate(look_up(fetch(sums), people, by = c(area = "area")), n, people)
    },
    "d", "area", 75
  )
)
fetch <- function(d) if (inherits(d, "tbl_lazy")) dplyr::collect(d) else d

same_rows <- function(got, local, by, info) {
  got <- as.data.frame(fetch(got))
  local <- as.data.frame(local)[names(got)]
  order_of <- function(d) d[do.call(order, unname(d[by])), , drop = FALSE]
  plain <- function(d) {
    lapply(order_of(d), function(x) if (is.character(x)) x else as.numeric(x))
  }
  expect_equal(plain(got), plain(local), info = info)
}

refuses_on <- function(engine, remote) {
  fault <- function(code, words, kind) {
    expect_error(quietly(code), words, class = paste0("ochre_error_", kind), info = engine$name)
  }
  fault(keep_latest(remote$d, year, area), "several rows of their last period", "duplicates")
  fault(sum_areas(remote$d, age, by = area), "not numeric", "column")
  fault(sum_areas(remote$d, peple, by = area), "Did you mean `people`", "column")
  fault(share_of(remote$d, people, n), "is larger than", "column")
  wide <- lazy_tables$wide
  wide$n_2030[4] <- -5L
  fault(rate_per(engine$put("below", wide), n_2031, n_2030), "negative", "column")
  gone <- dplyr::tbl(engine$con, "wide")
  DBI::dbRemoveTable(engine$con, "wide")
  fault(rate_per(gone, n_2031, n_2030), "The database refuses the query", "database")
}

# How the engine goes about the queries of a verb: the plan of the last that groups.
plan_of <- function(con, code) {
  sent <- character()
  ns <- asNamespace("DBI")
  suppressMessages(trace(
    "dbSendQuery", tracer = substitute(quote(keep(statement)), list(keep = function(x) {
      sent <<- c(sent, as.character(x))
    }))[[2]], where = ns, print = FALSE
  ))
  on.exit(suppressMessages(untrace("dbSendQuery", where = ns)))
  quietly(code)
  sql <- utils::tail(grep("GROUP BY", sent, value = TRUE), 1)
  text <- DBI::dbGetQuery(con, paste("EXPLAIN (ANALYZE, VERBOSE, FORMAT JSON)", sql))[[1]]
  jsonlite::fromJSON(text, simplifyVector = FALSE)[[1]]$Plan
}

# All rows are read there, one row an area leaves.
expect_one_aggregate <- function(con, lazy) {
  plan <- plan_of(con, sum_areas(lazy, n, by = area))
  expect_identical(plan$`Actual Rows`, 30L)
  expect_match(plan$`Node Type`, "Aggregate")
}

# Each server sums its own rows: between them travels one row an area, too.
expect_partial_sums <- function(con, lazy) {
  nodes <- list()
  walk <- function(node) {
    nodes <<- c(nodes, list(node))
    for (child in node$Plans) walk(child)
  }
  walk(plan_of(con, sum_areas(lazy, n, by = area)))
  foreign <- Filter(function(node) node$`Node Type` == "Foreign Scan", nodes)
  expect_length(foreign, 1)
  expect_match(foreign[[1]]$`Relations`, "^Aggregate on ")
  expect_match(foreign[[1]]$`Remote SQL`, "GROUP BY", fixed = TRUE)
  expect_lt(foreign[[1]]$`Actual Rows`, 30)
}

test_that("verbs on a lazy table give what they give here, and only the reduced rows travel", {
  with_engines(function(engine) {
    remote <- Map(engine$put, names(lazy_tables), lazy_tables)
    for (name in names(lazy_cases)) {
      case <- lazy_cases[[name]]
      info <- paste(name, "on", engine$name)
      travelled <- rows_fetched(got <- quietly(fetch(case$call(remote[[case$on]]))))
      same_rows(got, quietly(case$call(lazy_tables[[case$on]])), case$by, info)
      expect_lte(travelled, case$rows, label = info)
    }
    expect_gt(rows_fetched(dplyr::collect(remote$d)), 299)
    joined <- quietly(join_statistics(
      squares(sprintf("%02d", 1:30)), sum_areas(remote$d, n, by = area), by = c(code = "area")
    ))
    expect_equal(joined$n, quietly(sum_areas(lazy_tables$d, n, by = area))$n, info = engine$name)
    refuses_on(engine, remote)
    if (engine$name == "PostgreSQL") expect_one_aggregate(engine$con, remote$d)
    if (engine$name == "two PostgreSQL servers") expect_partial_sums(engine$con, remote$d)
  })
})

test_that("tables and queries of a database are read as statistics", {
  d <- lazy_tables$d
  for (open in list(open_sqlite, open_postgres)) {
    engine <- open(environment())
    if (is.null(engine)) next
    con <- engine$con
    engine$put("d", d)
    mark <- if (engine$name == "SQLite") "?" else "$1"
    x <- read_statistics(
      con,
      query = sprintf("SELECT area, people FROM d WHERE age = %s AND year = 2031", mark),
      params = list("65+")
    )
    expect_equal(x$people, d$people[d$age == "65+" & d$year == 2031])
    expect_identical(x$area, sprintf("%02d", 1:30))
    expect_identical(nrow(read_statistics(con, layer = "d")), 300L)
    expect_error(
      read_statistics(con, query = "SELEC 1"), "refuses the query", class = "ochre_error_database"
    )
    expect_error(
      read_statistics(con), "needs either `query` or `layer`", class = "ochre_error_argument"
    )
    DBI::dbDisconnect(con)
  }
})
