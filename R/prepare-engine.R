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

# The rows of a lazy table whose `columns` are a row of the lazy table `keys`, in its order.
lazy_within <- function(data, columns, keys) {
  con <- dbplyr::remote_con(data)
  names <- vapply(columns, function(x) {
    as.character(dbplyr::escape(dbplyr::ident(x), con = con))
  }, "")
  # With GLOBAL the keys go to all shards of a distributed table; without it each asks for itself.
  word <- if (is_clickhouse(con)) "GLOBAL IN" else "IN"
  left <- if (length(names) > 1) sprintf("(%s)", paste(names, collapse = ", ")) else names
  dplyr::filter(data, dbplyr::sql(sprintf("%s %s (%s)", left, word, dbplyr::sql_render(keys))))
}

is_clickhouse <- function(con) inherits(con, "ClickhouseConnection")

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

utils::globalVariables("x")
