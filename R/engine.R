# How columns of a table in a database are read as R would have them, and where engines differ.

# ---- what R would see ----------------------------------------------------------------------------

# A verb begins from rows without groups or order, whose columns are called there as they are here:
# SQL that is written below renames, heads and sorts of dbplyr means what it says.
plain_rows <- function(data, call = rlang::caller_env()) {
  groups <- dplyr::group_vars(data)
  if (length(groups)) {
    ochre_abort("argument", "The table is grouped by {list_words(groups)}.",
                "Call dplyr::ungroup() first, and name the groups in the verb's own argument.",
                arg = "data")
  }
  sql <- ask_lazy(dbplyr::sql_render(data), call)
  if (grepl("^SELECT \\*\\s+FROM \\S+$", sql)) return(data)
  dplyr::tbl(dbplyr::remote_con(data), sql, vars = colnames(data))
}

# The columns as R gets them, without rows.
types_there <- function(rows, columns, call = rlang::caller_env()) {
  rows <- dplyr::select(rows, dplyr::all_of(unique(unname(columns))))
  ask_lazy(dplyr::collect(utils::head(rows, 0)), call)
}

# Whether a column holds something: no number and the empty text are missing, as they are here.
known_there <- function(column, types, con, empty = FALSE) {
  x <- rlang::sym(column)
  type <- types[[column]]
  known <- rlang::expr(!is.na(!!x))
  if (is.character(type) && !empty) return(rlang::expr(!!known & !!x != ""))
  if (!is.double(type) || is.object(type)) return(known)
  if (is_postgres(con)) return(rlang::expr(!!known & !!x != "NaN"))
  if (is_clickhouse(con)) return(rlang::expr(!!known & !isNaN(!!x)))
  known
}

# Texts in the order of their bytes, whatever the database sorts by.
in_byte_order <- function(column, types, con) {
  x <- rlang::sym(column)
  if (!is.character(types[[column]]) || !is_postgres(con)) return(x)
  rlang::expr(!!x %COLLATE% !!dbplyr::sql("\"C\""))
}

# Columns of numbers, by the names of their arguments: `column`, `arg`, `number` (an expression of
# double precision in which what is no number is missing), whether it `counts` (is not negative),
# and expressions of what is checked: `whole` numbers and `text` in it.
numbers_there <- function(rows, columns, counts, call = rlang::caller_env()) {
  types <- types_there(rows, columns, call)
  con <- dbplyr::remote_con(rows)
  Map(function(column, arg) {
    x <- DBI::dbQuoteIdentifier(con, column)
    number <- dbplyr::sql(number_sql(x, types[[column]], con))
    one <- list(column = column, arg = arg, counts = arg %in% counts, number = number)
    if (is_sqlite(con)) {
      # Each value has its own type there, whatever its column was declared as.
      only <- "CASE WHEN typeof(%1$s) %2$s THEN CAST(%1$s AS %3$s) END"
      one$whole <- dbplyr::sql(sprintf(only, x, "= 'integer'", "REAL"))
      texts <- sprintf("IN ('text', 'blob') AND %s <> ''", x)
      one$text <- dbplyr::sql(sprintf(only, x, texts, "TEXT"))
    } else {
      check_numeric_type(types[[column]], column, arg, call)
      if (inherits(types[[column]], "integer64")) one$whole <- number
    }
    one
  }, columns, names(columns))
}

check_numeric_type <- function(type, column, arg, call) {
  if (is.numeric(type)) return(invisible())
  ochre_abort("column", "`{arg}` names the column `{column}`, which is not numeric.",
              "Its type is `{class(type)[1]}`; cast it to a number.")
}

number_sql <- function(x, type, con) {
  if (is_postgres(con)) {
    number <- sprintf("CAST(%s AS double precision)", x)
    if (is.integer(type) || is.object(type)) return(number)
    return(sprintf("CASE WHEN %s <> 'NaN' THEN %s END", x, number))
  }
  if (is_sqlite(con)) return(sprintf("CASE WHEN typeof(%1$s) <> 'text' THEN 1.0 * %1$s END", x))
  if (is_clickhouse(con)) return(sprintf("if(isNaN(1.0 * %1$s), NULL, 1.0 * %1$s)", x))
  sprintf("1.0 * %s", x)
}

# Aggregates that say of each column whether it can be taken, and what refuses it.
checks_there <- function(numbers) {
  checks <- list()
  for (one in numbers) {
    check <- function(name, expression) {
      checks[[paste0("ochre_", name, "_", one$column)]] <<- expression
    }
    if (one$counts) check("least", rlang::expr(min(!!one$number, na.rm = TRUE)))
    if (!is.null(one$text)) check("text", rlang::expr(max(!!one$text, na.rm = TRUE)))
    if (!is.null(one$whole)) {
      check("low", rlang::expr(min(!!one$whole, na.rm = TRUE)))
      check("high", rlang::expr(max(!!one$whole, na.rm = TRUE)))
    }
  }
  checks
}

refuse_numbers <- function(seen, numbers, call) {
  for (one in numbers) {
    odd <- stats::na.omit(as.character(seen[[paste0("ochre_text_", one$column)]]))
    if (length(odd)) {
      ochre_abort("column", "`{one$arg}` names the column `{one$column}`, which is not numeric.",
                  "It holds, for example, \"{odd[1]}\".", arg = one$arg, column = one$column)
    }
    ends <- unlist(lapply(c("ochre_low_", "ochre_high_"), function(end) {
      as.numeric(seen[[paste0(end, one$column)]])
    }))
    if (any(abs(ends) >= 2^53, na.rm = TRUE)) {
      ochre_abort(
        "column",
        "`{one$column}` has whole numbers of 2^53 or more, too large for exact arithmetic.",
        "If they are codes, cast them to text in the database.", arg = one$arg, column = one$column
      )
    }
    least <- as.numeric(seen[[paste0("ochre_least_", one$column)]])
    if (any(least < 0, na.rm = TRUE)) {
      ochre_abort(
        "column",
        "`{one$column}` is negative somewhere (the least is {format(min(least, na.rm = TRUE))}).",
        "A count cannot be; look for a mark of missing values such as -99.", column = one$column
      )
    }
  }
}

# One query of one row, by which columns are judged without fetching them.
look_there <- function(rows, numbers, more = list(), call = rlang::caller_env()) {
  checks <- c(more, checks_there(numbers))
  if (!length(checks)) return(NULL)
  seen <- fetch_lazy(dplyr::summarise(rows, !!!checks), call)
  refuse_numbers(seen, numbers, call)
  seen
}

# How many rows fulfil a condition.
count_there <- function(condition) {
  rlang::expr(sum(dplyr::case_when(!!condition ~ 1L, TRUE ~ 0L), na.rm = TRUE))
}

# Rows of keys in the order of their bytes.
in_key_order <- function(data, by) {
  if (!nrow(data)) return(data)
  data[do.call(order, c(unname(as.list(data[by])), method = "radix")), , drop = FALSE]
}

# Several queries of one state of the database. Inside a transaction of the caller's they are of
# that: it is neither ended nor begun again.
in_snapshot <- function(con, code, call = rlang::caller_env()) {
  begin <- if (is_postgres(con)) {
    if (!RPostgres::postgresIsTransacting(con)) "BEGIN ISOLATION LEVEL REPEATABLE READ"
  } else if (is_sqlite(con)) {
    "BEGIN"
  }
  if (is.null(begin)) return(code())
  began <- tryCatch(DBI::dbExecute(con, begin), error = function(e) NULL)
  # Nothing was written: it does not matter how it ends, nor whether the connection still stands.
  if (!is.null(began)) on.exit(try(DBI::dbExecute(con, "ROLLBACK"), silent = TRUE))
  code()
}

# ---- where engines differ ------------------------------------------------------------------------

is_postgres <- function(con) inherits(con, "PqConnection")
is_sqlite <- function(con) inherits(con, "SQLiteConnection")
is_clickhouse <- function(con) inherits(con, "ClickhouseConnection")

# Some engines have no window functions, or none that dbplyr knows.
has_windows <- function(con) {
  known <- tryCatch(
    dbplyr::translate_sql(max(x, na.rm = TRUE), con = con, window = TRUE),
    error = function(e) NULL
  )
  !is.null(known)
}

# The rows of a lazy table whose columns of these names, or what an expression makes of them, are a
# row of the lazy table `keys`, in its order.
lazy_within <- function(data, what, keys) {
  con <- dbplyr::remote_con(data)
  # With GLOBAL the keys go to all shards of a distributed table; without it each asks for itself.
  word <- if (is_clickhouse(con)) "GLOBAL IN" else "IN"
  left <- in_sql(if (is.character(what)) rlang::syms(what) else list(what), con)
  within <- sprintf("(%s) %s (%s)", paste(left, collapse = ", "), word, dbplyr::sql_render(keys))
  dplyr::filter(data, dbplyr::sql(within))
}

# The rows of a lazy table of PostgreSQL for which an expression gives one of some whole numbers,
# which it looks up in a hash of them.
lazy_among <- function(data, what, numbers) {
  among <- in_sql(list(what), dbplyr::remote_con(data))
  numbers <- paste(sprintf("%.0f", numbers), collapse = ",")
  among <- sprintf("CAST((%s) AS bigint) = ANY ('{%s}'::bigint[])", among, numbers)
  dplyr::filter(data, dbplyr::sql(among))
}

# One SELECT that groups plain rows by what `key` makes of them, as `ochre_key`. dplyr would put
# `key` into a query of its own below, for which the shards of a distributed table hand over every
# row.
summarise_at_once <- function(rows, key, sums) {
  con <- dbplyr::remote_con(rows)
  columns <- c(list(ochre_key = key), sums)
  made <- in_sql(columns, con)
  named <- sprintf("%s AS %s", made, in_sql(rlang::syms(names(columns)), con))
  sql <- dbplyr::sql_render(rows)
  from <- sub("^SELECT \\*\\s+FROM (?=\\S+$)", "", sql, perl = TRUE)
  if (from == sql) from <- sprintf("(%s) ochre_rows", sql)
  query <- sprintf("SELECT %s\nFROM %s\nGROUP BY %s", paste(named, collapse = ", "), from, made[1])
  dplyr::tbl(con, dbplyr::sql(query), vars = names(columns))
}

in_sql <- function(expressions, con) {
  expressions <- lapply(unname(expressions), rlang::new_quosure, env = baseenv())
  as.character(dbplyr::translate_sql_(expressions, con = con, window = FALSE))
}

# Whole numbers from 0 to `most` as rows are grouped by them fastest: ClickHouse counts short keys
# without looking them up.
group_key <- function(whole, most, con) {
  if (!is_clickhouse(con) || most >= 2^32) return(whole)
  if (most < 2^16) rlang::expr(toUInt16(!!whole)) else rlang::expr(toUInt32(!!whole))
}

# The whole part of numbers from 0 to 2^32; others may give anything.
whole_part <- function(number, con) {
  if (is_clickhouse(con)) return(rlang::expr(toUInt32(!!number)))
  rlang::expr(as.integer(floor(!!number)))
}

# A table of whole numbers that the engine gets for a while; `give_back` takes it away again.
# PostgreSQL reads it from the query itself: nothing is written, so that no right is needed for it.
# ClickHouse's shards see no temporary tables. dplyr's own copying would end a transaction.
lend_table <- function(con, data, keys, call = rlang::caller_env()) {
  if (is_postgres(con)) {
    table <- dplyr::tbl(con, dbplyr::sql(arrays_sql(con, data)), vars = names(data))
    return(list(table = table, give_back = function() NULL))
  }
  name <- basename(tempfile("ochre_"))
  ask_lazy({
    if (is_clickhouse(con)) {
      # Joins as everywhere: all partners of a key, and what has none is missing.
      DBI::dbExecute(con, "SET join_default_strictness = 'ALL', join_use_nulls = 1")
      DBI::dbWriteTable(con, name, data, engine = "Memory", row.names = FALSE,
                        field.types = rep("Int64", length(data)))
    } else {
      columns <- paste(DBI::dbQuoteIdentifier(con, names(data)), "bigint", collapse = ", ")
      DBI::dbExecute(con, sprintf("CREATE TEMPORARY TABLE %s (%s)", name, columns))
      DBI::dbAppendTable(con, name, data)
      index <- paste(DBI::dbQuoteIdentifier(con, keys), collapse = ", ")
      DBI::dbExecute(con, sprintf("CREATE INDEX %s_keys ON %s (%s)", name, name, index))
    }
  }, call)
  list(table = dplyr::tbl(con, name), give_back = function() take_back(con, name))
}

# The rows of a query, kept by the engine for a while; PostgreSQL is asked for them again.
keep_there <- function(query, call = rlang::caller_env()) {
  con <- dbplyr::remote_con(query)
  if (is_postgres(con)) return(list(table = plain_rows(query, call), give_back = function() NULL))
  name <- basename(tempfile("ochre_"))
  what <- if (is_clickhouse(con)) "CREATE TABLE %s ENGINE = Memory" else "CREATE TEMPORARY TABLE %s"
  sql <- paste(sprintf(what, name), "AS", dbplyr::sql_render(query))
  ask_lazy(DBI::dbExecute(con, sql), call)
  list(table = dplyr::tbl(con, name), give_back = function() take_back(con, name))
}

# When a connection is lost, so are its tables; the error that is on its way says it.
take_back <- function(con, name) try(DBI::dbRemoveTable(con, name), silent = TRUE)

# Whole numbers as a table in SQL: short enough for millions.
arrays_sql <- function(con, data) {
  numbers <- vapply(data, function(x) paste(sprintf("%.0f", x), collapse = ","), "")
  sprintf(
    "SELECT * FROM unnest(%s) AS ochre_table(%s)",
    paste(sprintf("'{%s}'::bigint[]", numbers), collapse = ", "),
    paste(DBI::dbQuoteIdentifier(con, names(data)), collapse = ", ")
  )
}

# A pattern of LIKE in the signs of another language: for any letters, for one, and for what stands
# for itself.
rewrite_like <- function(pattern, many, one, plain) {
  if (!nzchar(pattern)) return("")
  signs <- stringi::stri_extract_all_regex(pattern, "\\\\.|(?s).")[[1]]
  wild <- c(`%` = many, `_` = one)[signs]
  paste(ifelse(is.na(wild), plain(sub("^\\\\(?=.)", "", signs, perl = TRUE)), wild), collapse = "")
}

# LIKE as the standard has it, where capitals count; NULL where the engine cannot read the pattern.
# SQLite's own passes over capitals, GLOB does not.
like_there <- function(x, pattern, con) {
  if (inherits(con, "SQLiteConnection")) {
    plain <- function(x) ifelse(x %in% c("*", "?", "["), paste0("[", x, "]"), x)
    return(rlang::expr(!!x %GLOB% !!rewrite_like(pattern, "*", "?", plain)))
  }
  with_backslash <- c("PqConnection", "MariaDBConnection", "ClickhouseConnection")
  if (grepl("\\", pattern, fixed = TRUE) && !inherits(con, with_backslash)) return(NULL)
  rlang::expr(!!x %LIKE% !!pattern)
}

utils::globalVariables(c("x", "isNaN", "toUInt16", "toUInt32", "%COLLATE%", "%GLOB%", "%LIKE%"))
