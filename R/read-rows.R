# Sources that know types: Parquet (with nanoparquet) and databases (with DBI).

parquet_rows <- function(source, call = rlang::caller_env()) {
  need_package("nanoparquet", "Reading Parquet", call)
  rows <- tryCatch(read_parquet_apart(source), error = function(e) {
    ochre_abort(
      "file",
      paste0("`{source$name}` is not a Parquet file that can be read: ",
             "{strip_period(conditionMessage(e)[1])}."), "It may be cut off; fetch it again.",
      file = source$name
    )
  })
  list(table = plain_columns(rows, source$name), typed = TRUE)
}

# Package nanoparquet in a process of its own: spoilt pages can bring the reader down, and that
# must not end the session (a forked process would take its temporary folder along).
read_parquet_apart <- function(source) {
  parts <- source$parts %||% source$path
  out <- tempfile("ochre-", fileext = ".rds")
  on.exit(remove_path(out))
  asked <- list(parts = parts, libraries = .libPaths())
  saveRDS(asked, out)
  script <- paste0(
    "a <- commandArgs(TRUE)[1]; asked <- readRDS(a); .libPaths(asked$libraries); ",
    "read <- function(f) as.data.frame(nanoparquet::read_parquet(f)); ",
    "saveRDS(tryCatch(lapply(unname(asked$parts), read), error = function(e) ",
    "conditionMessage(e)[1]), a, compress = FALSE)"
  )
  suppressWarnings(system2(
    file.path(R.home("bin"), "Rscript"),
    c("--vanilla", "-e", shQuote(script), shQuote(out)),
    stdout = FALSE,
    stderr = FALSE
  ))
  tables <- tryCatch(readRDS(out), error = function(e) NULL)
  if (is.null(tables) || identical(tables, asked)) stop("its pages are damaged")
  if (is.character(tables)) stop(tables)
  tables <- Map(with_folder_columns, tables, names(parts) %||% ".")
  as.data.frame(data.table::rbindlist(tables, use.names = TRUE))
}

# Of a table in parts the names of folders say values: `year=2031/month=04`. A column that the part
# has itself stays.
with_folder_columns <- function(table, folder) {
  pairs <- grep("=", strsplit(folder, "/", fixed = TRUE)[[1]], value = TRUE, fixed = TRUE)
  for (pair in pairs) {
    name <- sub("=.*", "", pair)
    if (name %in% names(table)) next
    text <- utils::URLdecode(sub("^[^=]*=", "", pair))
    if (text == "__HIVE_DEFAULT_PARTITION__") text <- NA_character_
    whole <- is.na(text) || grepl("^(0|[1-9][0-9]{0,8})$", text)
    table[[name]] <- rep(if (whole) as.integer(text) else text, nrow(table))
  }
  table
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
      paste0("`{name}`: left out the binary {if (sum(binary) == 1) 'column' else 'columns'} ",
             "{list_words(names(rows)[binary])}."), file = name
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
