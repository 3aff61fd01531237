# What a verb gives on a table in a database is what it gives on the same rows here, or an error of
# a class: for each verb, each engine, and each kind of value that they take for different things.

# Rows that are put into each engine as they stand: the types of columns, and values as SQL. A kind
# that an engine has not is left out.
awkward_tables <- list(
  SQLite = list(
    types = c(
      place = "TEXT", day = "TEXT", whole = "INTEGER", big = "INTEGER", real = "REAL",
      word = "TEXT", people = "INTEGER", cases = "INTEGER"
    ),
    rows = c(
      "'a', '2031-01', 5, 9007199254740993, 1.5, '12', 100, 3",
      "'a', '2031-02', NULL, 1, 9e999, '', 200, 5",
      "'b', '2031-01', 2147483647, 2, NULL, NULL, 300, 7",
      "'b', '', 2147483647, 3, -2.25, 'x', 400, 11",
      "'', '2031-02', 7, NULL, 0, 'y', 500, 13",
      "NULL, '2031-02', 9, 4, 3.5, 'y', 0, 0",
      "'B ', NULL, 0, 5, 0.1, 'z', NULL, 1"
    )
  ),
  PostgreSQL = list(
    types = c(
      place = "text", padded = "char(4)", day = "date", year = "text", whole = "integer",
      big = "bigint", real = "double precision", single = "real", decimal = "numeric(30, 2)",
      yes = "boolean", word = "text", people = "integer", cases = "bigint"
    ),
    rows = c(
      "'a', 'a', '2031-01-01', '2031-B', 5, 9007199254740993, 1.5, 1.5, 1.25, true, '12', 100, 3",
      "'a', 'a', '2031-02-01', '2031-a', NULL, 1, 'NaN', 'NaN', 'NaN', false, '', 200, 5",
      "'b', 'b', '2031-01-01', '', 2147483647, 2, NULL, 2, NULL, NULL, NULL, 300, 7",
      "'b', 'b', NULL, '2032', 2147483647, 3, 'Infinity', 3, 12345678901234.25, true, 'x', 400, 11",
      "'', '', '2031-02-01', '2031', 7, NULL, 0, 0, 0.1, true, 'y', 500, 13",
      "NULL, NULL, '2031-02-01', '2031', 9, 4, 3.5, 3, 1, true, 'y', 0, 0",
      "'\u00e9', 'B', '2031-03-01', NULL, 0, 5, -1, -1, -2.5, false, 'z', NULL, 1"
    )
  )
)

# Each verb, of a column of values and one of keys.
looked_for <- c("a", "2031", "7", "2031-02-01", "TRUE", "-1")
awkward_verbs <- list(
  keep_where = function(d, v, k) keep_where(d, !!v, looked_for),
  "keep_where, also nothing" = function(d, v, k) keep_where(d, !!k, c(NA, looked_for)),
  "keep_where, nowhere" = function(d, v, k) keep_where(d, !!k, "q"),
  rate_per = function(d, v, k) rate_per(d, !!v, people),
  "rate_per, of" = function(d, v, k) rate_per(d, cases, !!v),
  share_of = function(d, v, k) share_of(d, !!v, people),
  change_between = function(d, v, k) change_between(d, !!v, cases, "relative", name = "change"),
  stack_periods = function(d, v, k) {
    stack_periods(rename_columns(d, stats::setNames(c(v, "cases"), c("n_2030", "n_2031"))))
  },
  sum_areas = function(d, v, k) sum_areas(d, !!v, by = !!k, name = "all"),
  average_areas = function(d, v, k) average_areas(d, !!v, people, by = !!k, name = "mean"),
  "average_areas, by" = function(d, v, k) average_areas(d, cases, !!v, by = !!k),
  keep_latest = function(d, v, k) keep_latest(d, !!v, by = c(!!k, "cases")),
  "keep_latest, of all" = function(d, v, k) keep_latest(d, !!v, by = !!k),
  standardise_rate = function(d, v, k) standardise_rate(d, cases, people, !!v, !!k),
  "standardise_rate, indirect" = function(d, v, k) {
    standardise_rate(d, cases, people, !!v, !!k, method = "indirect")
  }
)

# What comes of a call: a table in the order of its rows, or the class of its error; and which
# warnings it gives.
outcome <- function(verb, data, value, key) {
  warned <- character()
  code <- function() suppressMessages(ochre:::fetch_lazy(verb(data, value, key)))
  result <- tryCatch(
    withCallingHandlers(code(), warning = function(w) {
      if (inherits(w, "ochre_warning")) warned <<- c(warned, class(w)[1])
      invokeRestart("muffleWarning")
    }),
    ochre_error = function(e) e
  )
  if (inherits(result, "error")) return(list(error = class(result)[1]))
  # Columns that are only carried along are what each driver makes of them.
  result <- as.data.frame(result)[setdiff(names(result), "big")]
  result[] <- lapply(result, function(x) if (is.numeric(x)) as.numeric(x) else as.character(x))
  result <- result[do.call(order, c(unname(result), method = "radix")), , drop = FALSE]
  list(table = as.list(result), warned = sort(unique(warned)))
}

# What a driver would make into other values is refused in words, wherever it is read.
refuses_loose_types <- function(engine) {
  type <- if (engine$name == "SQLite") "" else "money"
  DBI::dbExecute(engine$con, sprintf("CREATE TABLE loose (area text, value %s)", type))
  DBI::dbExecute(engine$con, "INSERT INTO loose VALUES ('a', 3), ('b', '5'), ('c', NULL)")
  there <- dplyr::tbl(engine$con, "loose")
  for (call in list(
    function() sum_areas(there, value, area), function() keep_latest(there, value, area),
    function() read_statistics(engine$con, layer = "loose")
  )) {
    expect_error(quietly(call()), class = "ochre_error", info = engine$name)
  }
}

test_that("verbs take awkward values in a database for what they are here, or refuse them", {
  skip_if_not_installed("dbplyr")
  for (open in list(open_sqlite, open_postgres)) {
    engine <- open(environment())
    if (is.null(engine)) next
    awkward <- awkward_tables[[engine$name]]
    columns <- paste(names(awkward$types), awkward$types, collapse = ", ")
    DBI::dbExecute(engine$con, sprintf("CREATE TABLE awkward (%s)", columns))
    for (row in awkward$rows) {
      DBI::dbExecute(engine$con, sprintf("INSERT INTO awkward VALUES (%s)", row))
    }
    there <- dplyr::tbl(engine$con, "awkward")
    here <- suppressWarnings(ochre:::fetch_lazy(there))
    keys <- intersect(names(awkward$types), c("place", "padded", "day", "year", "yes", "real"))
    values <- setdiff(names(awkward$types), c("place", "padded", "people", "cases"))
    # A part of the cases, in which each verb meets each key and value; all in `make test-cluster`.
    cases <- expand.grid(
      key = seq_along(keys), value = seq_along(values), verb = names(awkward_verbs),
      stringsAsFactors = FALSE
    )
    if (Sys.getenv("OCHRE_CLUSTER") != "yes") {
      turn <- match(cases$verb, names(awkward_verbs)) + cases$value + cases$key
      cases <- cases[turn %% (2 * length(keys) - 1) == 0, ]
    }
    refused <- 0
    for (i in seq_len(nrow(cases))) {
      verb <- awkward_verbs[[cases$verb[i]]]
      value <- values[cases$value[i]]
      key <- keys[cases$key[i]]
      info <- paste(cases$verb[i], "of", value, "by", key, "on", engine$name)
      got <- outcome(verb, there, value, key)
      local <- outcome(verb, here, value, key)
      # What works here may be refused there, but what is refused here is never a number there.
      if (!is.null(got$error)) {
        expect_match(got$error, "^ochre_error_", info = info)
        refused <- refused + is.null(local$error)
      } else {
        expect_null(local$error, info = info)
        expect_equal(got$table, local$table[names(got$table)], info = info)
        expect_identical(got$warned, local$warned, info = info)
      }
    }
    expect_lte(refused / nrow(cases), 0.2)
    refuses_loose_types(engine)
    DBI::dbDisconnect(engine$con)
  }
})
