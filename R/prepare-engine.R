# Where engines differ in what they understand.

# Some engines have no window functions, or none that dbplyr knows.
has_windows <- function(data) {
  con <- dbplyr::remote_con(data)
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

# One SELECT that groups rows by what `key` makes of them, as `ochre_key`. dplyr would put `key`
# into a query of its own below, for which the shards of a distributed table hand over every row.
summarise_at_once <- function(data, key, sums) {
  con <- dbplyr::remote_con(data)
  columns <- c(list(ochre_key = key), sums)
  made <- in_sql(columns, con)
  named <- sprintf("%s AS %s", made, in_sql(rlang::syms(names(columns)), con))
  from <- dbplyr::sql_render(data)
  table <- dbplyr::remote_name(data)
  from <- if (is.null(table) || inherits(table, "sql")) {
    sprintf("(%s) ochre_rows", from)
  } else {
    sub("^SELECT \\*\\s+FROM ", "", from)
  }
  query <- sprintf(
    "SELECT %s\nFROM %s\nGROUP BY %s", paste(named, collapse = ", "), from, made[1]
  )
  dplyr::tbl(con, dbplyr::sql(query), vars = names(columns))
}

in_sql <- function(expressions, con) {
  expressions <- lapply(unname(expressions), rlang::new_quosure, env = baseenv())
  as.character(dbplyr::translate_sql_(expressions, con = con, window = FALSE))
}

is_clickhouse <- function(con) inherits(con, "ClickhouseConnection")

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

# A table of whole numbers that the engine gets for a while, with an index over `keys`; `give_back`
# takes it away again. It is temporary, but for ClickHouse, whose shards see no temporary tables.
lend_table <- function(con, data, keys, call = rlang::caller_env()) {
  name <- basename(tempfile("ochre_"))
  ask_lazy({
    if (is_clickhouse(con)) {
      # Joins as everywhere: all partners of a key, and what has none is missing.
      DBI::dbExecute(con, "SET join_default_strictness = 'ALL', join_use_nulls = 1")
      DBI::dbWriteTable(con, name, data, engine = "Memory", row.names = FALSE,
                        field.types = rep("Int64", length(data)))
    } else {
      dplyr::copy_to(con, data, name, temporary = TRUE, indexes = list(keys), analyze = TRUE)
    }
  }, call)
  list(table = dplyr::tbl(con, name), give_back = function() DBI::dbRemoveTable(con, name))
}

# The rows of a query, kept by the engine for a while in the same way.
keep_there <- function(query, call = rlang::caller_env()) {
  con <- dbplyr::remote_con(query)
  name <- basename(tempfile("ochre_"))
  table <- ask_lazy({
    if (is_clickhouse(con)) {
      sql <- paste("CREATE TABLE", name, "ENGINE = Memory AS", dbplyr::sql_render(query))
      DBI::dbExecute(con, sql)
      dplyr::tbl(con, name)
    } else {
      dplyr::compute(query, name, temporary = TRUE)
    }
  }, call)
  list(table = table, give_back = function() DBI::dbRemoveTable(con, name))
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

utils::globalVariables(c("x", "toUInt16", "toUInt32", "%GLOB%", "%LIKE%"))
