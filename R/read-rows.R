# Sources that know types: Parquet (with nanoparquet) and databases (with DBI).

parquet_rows <- function(source, call = rlang::caller_env()) {
  need_package("nanoparquet", "Parquet", call)
  rows <- tryCatch(nanoparquet::read_parquet(source$path), error = function(e) {
    ochre_abort("file", sprintf("`%s` is not a Parquet file that can be read: %s.", source$name, strip_period(conditionMessage(e)[1])), "It may be cut off; fetch it again.", file = source$name, call = call)
  })
  list(table = plain_columns(rows, source$name), typed = TRUE)
}

database_rows <- function(con, layer, query, params, call = rlang::caller_env()) {
  rows <- ask_database(con, layer, query, params, call)
  list(table = plain_columns(rows, "the database"), typed = TRUE, format = "database", layer = layer)
}

# Columns of plain values; binary ones are left out and said.
plain_columns <- function(rows, name) {
  binary <- vapply(rows, is.list, NA)
  if (any(binary)) ochre_warn("columns", sprintf("`%s`: left out the binary %s %s.", name, if (sum(binary) == 1) "column" else "columns", list_words(names(rows)[binary])), file = name)
  columns <- lapply(as.list(rows)[!binary], function(x) if (inherits(x, "integer64")) whole_numbers(x) else if (is.factor(x)) enc2utf8(as.character(x)) else if (is.character(x)) enc2utf8(x) else x)
  stats::setNames(columns, tidy_names(names(columns)))
}
