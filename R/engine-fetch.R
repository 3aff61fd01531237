# Rows that come from a database.

# A failure in the database is an error of Ochre's, with the database's words.
ask_lazy <- function(code, call = rlang::caller_env()) {
  need_package("dbplyr", "Working on a table of a database", call)
  tryCatch(code, error = function(e) {
    if (inherits(e, "ochre_error")) rlang::cnd_signal(e)
    words <- conditionMessage(if (!is.null(e$parent)) e$parent else e)
    ochre_abort(
      "database",
      sprintf(
        "The database refuses the query: %s.",
        strip_period(gsub("\\s+", " ", substr(words, 1, 300)))
      )
    )
  })
}

# The rows of a lazy table; any other table as it is.
fetch_lazy <- function(data, call = rlang::caller_env()) {
  if (!is_lazy(data)) return(data)
  con <- dbplyr::remote_con(data)
  out <- ask_lazy(fetch_rows(con, dbplyr::sql_render(data), call = call), call)
  out[] <- lapply(out, function(x) if (inherits(x, "integer64")) whole_numbers(x) else x)
  tibble::as_tibble(out, .name_repair = "minimal")
}

# The rows of a query. Errors of the driver are R's own: callers say whose query it was.
fetch_rows <- function(con, query, params = NULL, call = rlang::caller_env()) {
  refuse <- function(what, mend) ochre_abort("database", what, mend)
  result <- DBI::dbSendQuery(con, query)
  on.exit(DBI::dbClearResult(result))
  if (length(params)) DBI::dbBind(result, unname(as.list(params)))
  types <- if (is_postgres(con)) DBI::dbColumnInfo(result)
  money <- which(types$.typname == "money")
  if (length(money)) {
    # Its text follows the server's locale, and the driver reads it as zero.
    refuse(
      sprintf("The column `%s` has type money, which cannot be read safely.", types$name[money[1]]),
      "Cast it to numeric in the query."
    )
  }
  rows <- withCallingHandlers(rows_of_result(result), warning = function(w) {
    # SQLite's driver would coerce them to one type: text becomes zero.
    said <- conditionMessage(w)
    if (!grepl("mixed type", said)) return(invisible())
    refuse(
      sprintf("The column %s holds values of several types.", sub("^.*?(`.*`).*$", "\\1", said)),
      "Cast it to one type in the query."
    )
  })
  # char(n) is padded with spaces that mean nothing.
  for (padded in which(types$.typname == "bpchar")) rows[[padded]] <- sub(" +$", "", rows[[padded]])
  rows
}

rows_of_result <- function(result) {
  parts <- list()
  repeat {
    parts[[length(parts) + 1]] <- DBI::dbFetch(result, n = 20000)
    if (DBI::dbHasCompleted(result)) break
    signal_progress(
      sprintf("Fetching rows (%s)", format(20000 * length(parts), big.mark = ",")),
      length(parts),
      NA
    )
  }
  if (length(parts) == 1) parts[[1]] else do.call(rbind, parts)
}

# 64-bit integers as doubles where nothing is lost, else as text.
whole_numbers <- function(x) {
  text <- as.character(x)
  number <- suppressWarnings(as.numeric(text))
  if (all(is.na(text)) || max(abs(number), na.rm = TRUE) < 2^53) number else text
}

# What one query counted, the next must find.
refuse_changed <- function(seen, expected, call) {
  if (seen == expected) return(invisible())
  ochre_abort(
    "database",
    paste0("The table changed while it was counted: it first had ",
           "{format(expected, big.mark = ',')} rows to look at, then ",
           "{format(seen, big.mark = ',')}."),
    "Try again, within a transaction (DBI::dbWithTransaction()) if the database has them."
  )
}
