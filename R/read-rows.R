# Sources that know types: Parquet (with nanoparquet) and databases (with DBI).

parquet_rows <- function(source, call = rlang::caller_env()) {
  need_package("nanoparquet", "Reading Parquet", call)
  rows <- tryCatch(read_parquet_apart(source$path), error = function(e) {
    ochre_abort(
      "file",
      sprintf(
        "`%s` is not a Parquet file that can be read: %s.",
        source$name,
        strip_period(conditionMessage(e)[1])
      ),
      "It may be cut off; fetch it again.",
      file = source$name,
      call = call
    )
  })
  list(table = plain_columns(rows, source$name), typed = TRUE)
}

# Package nanoparquet in a process of its own: spoilt pages can bring the reader down, and that
# must not end the session (a forked process would take its temporary folder along).
read_parquet_apart <- function(path) {
  out <- tempfile("ochre-", fileext = ".rds")
  on.exit(remove_path(out))
  script <- paste0(
    "a <- commandArgs(TRUE); ",
    "saveRDS(tryCatch(as.data.frame(nanoparquet::read_parquet(a[1])), error = function(e) ",
    "conditionMessage(e)[1]), a[2], compress = FALSE)"
  )
  library_paths <- paste0("R_LIBS=", paste(.libPaths(), collapse = .Platform$path.sep))
  suppressWarnings(system2(
    file.path(R.home("bin"), "Rscript"),
    c("--vanilla", "-e", shQuote(script), shQuote(path), shQuote(out)),
    stdout = FALSE,
    stderr = FALSE,
    env = library_paths
  ))
  rows <- if (file.exists(out)) readRDS(out) else "its pages are damaged"
  if (is.character(rows)) stop(rows)
  rows
}

database_rows <- function(con, layer, query, params, call = rlang::caller_env()) {
  rows <- ask_database(con, layer, query, params, call)
  list(
    table = plain_columns(rows, "the database"),
    typed = TRUE,
    format = "database",
    layer = layer
  )
}

# Columns of plain values; binary ones are left out and said.
plain_columns <- function(rows, name) {
  binary <- vapply(rows, is.list, NA)
  if (any(binary)) {
    ochre_warn(
      "columns",
      sprintf(
        "`%s`: left out the binary %s %s.",
        name,
        if (sum(binary) == 1) "column" else "columns",
        list_words(names(rows)[binary])
      ),
      file = name
    )
  }
  columns <- lapply(as.list(rows)[!binary], function(x) {
    if (inherits(x, "integer64")) {
      whole_numbers(x)
    } else if (is.factor(x)) {
      enc2utf8(as.character(x))
    } else if (is.character(x)) {
      enc2utf8(x)
    } else {
      x
    }
  })
  stats::setNames(columns, tidy_names(names(columns)))
}
