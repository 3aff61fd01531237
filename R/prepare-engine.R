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
  word <- if (inherits(con, "ClickhouseConnection")) "GLOBAL IN" else "IN"
  left <- if (length(names) > 1) sprintf("(%s)", paste(names, collapse = ", ")) else names
  dplyr::filter(data, dbplyr::sql(sprintf("%s %s (%s)", left, word, dbplyr::sql_render(keys))))
}

utils::globalVariables("x")
