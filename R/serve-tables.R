# Collections that are tables of a database: their rows stay there, and each page is a query of so
# many rows after the last of the page before, in the order of a key.

is_there <- function(collection) !is.null(collection$lazy)

# `tables` are lazy tables by the names of their collections.
table_collections <- function(tables, call = rlang::caller_env()) {
  if (is.null(tables)) return(list())
  names <- file_word(names(tables) %||% rep("", length(tables)))
  fit <- is.list(tables) && all(nzchar(names)) && !anyDuplicated(names) &&
    all(vapply(tables, is_lazy, NA))
  if (!fit) {
    ochre_abort(
      "argument", "`tables` must be a list of tables in a database, each by a name of its own.",
      "For example list(stations = dplyr::tbl(connection, \"stations\")).", arg = "tables"
    )
  }
  Map(table_collection, tables, names(tables), names, list(call))
}

table_collection <- function(table, title, id, call) {
  rows <- fetch_lazy(utils::head(table, 0), call)
  shape <- shape_column(table, rows, call)
  rows <- rows[setdiff(names(rows), shape$all)]
  plain <- vapply(rows, function(x) {
    is.character(x) || is.numeric(x) && !is.object(x) || is.logical(x) || inherits(x, "Date")
  }, NA)
  rows <- as.data.frame(rows)[plain]
  key <- names(rows)[1]
  whole <- length(key) && colnames(table)[1] == key && !is.logical(rows[[1]])
  if (!whole) refuse_key(title, "is of no kind that could be one", call)
  seen <- ask_lazy(dplyr::collect(dplyr::summarise(
    table, ochre_gone = sum(dplyr::case_when(is.na(.data[[key]]) ~ 1L, TRUE ~ 0L), na.rm = TRUE)
  )), call)
  if (isTRUE(as.numeric(seen$ochre_gone) > 0)) refuse_key(title, "is missing in some rows", call)
  if (is.numeric(rows[[1]])) {
    # Parts of numbers would be cut off in the address of the next page.
    parts <- utils::head(dplyr::filter(table, .data[[key]] != floor(.data[[key]])), 1)
    if (nrow(fetch_lazy(parts, call))) refuse_key(title, "has numbers that are not whole", call)
    # Beyond, several keys would be one number here.
    large <- utils::head(dplyr::filter(table, abs(.data[[key]]) > 2^53), 1)
    if (nrow(fetch_lazy(large, call))) {
      refuse_key(title, "has numbers above 2^53; cast it to text", call)
    }
  }
  twice <- dplyr::filter(dplyr::count(table, .data[[key]], name = "ochre_rows"),
                         .data$ochre_rows > 1L)
  twice <- ask_lazy(dplyr::collect(utils::head(twice, 1)), call)
  if (nrow(twice)) {
    refuse_key(title, sprintf("has `%s` in several rows", as_key(twice[[1]])), call)
  }
  at <- if (is.null(shape)) {
    tryCatch(position_columns(names(rows), call), ochre_error_column = function(e) NULL)
  }
  box <- if (!is.null(shape)) shape_box(table, shape, call) else table_box(table, at, call)
  lazy <- dplyr::select(table, dplyr::all_of(c(names(rows), shape$column)))
  list(
    id = id, title = title, table = rows, lazy = lazy, key = key, at = at, shape = shape, box = box
  )
}

refuse_key <- function(title, what, call) {
  ochre_abort(
    "column", "The first column of the table `{title}` {what}.",
    "The first column is the key of the pages: put a unique column first.", arg = "tables"
  )
}

table_box <- function(table, at, call) {
  if (is.null(at)) return(NULL)
  rows <- plain_rows(table, call)
  numbers <- numbers_there(rows, c(tables = at[1], tables = at[2]), character(), call)
  lon <- numbers[[1]]$number
  lat <- numbers[[2]]$number
  box_of_ends(look_there(rows, numbers, list(
    ochre_west = rlang::expr(min(!!lon, na.rm = TRUE)),
    ochre_south = rlang::expr(min(!!lat, na.rm = TRUE)),
    ochre_east = rlang::expr(max(!!lon, na.rm = TRUE)),
    ochre_north = rlang::expr(max(!!lat, na.rm = TRUE))
  ), call))
}

box_of_ends <- function(ends) {
  box <- as.numeric(ends[c("ochre_west", "ochre_south", "ochre_east", "ochre_north")])
  if (!anyNA(box)) box
}

# ---- answers -------------------------------------------------------------------------------------

# One row more than asked for, so that a next page is known.
page_there <- function(collection, asked) {
  rows <- collection$lazy
  for (name in names(asked$fields)) {
    value <- typed_value(collection$table[[name]], asked$fields[[name]])
    rows <- dplyr::filter(rows, .data[[name]] == !!value)
  }
  if (!is.null(asked$filter)) {
    rows <- dplyr::filter(rows, !!filter_there(asked$filter, dbplyr::remote_con(rows)))
  }
  if (!is.null(asked$box)) rows <- rows_in_box(rows, collection, asked$box$at)
  if (!is.null(asked$after)) {
    after <- typed_value(collection$table[[1]], asked$after)
    if (is.na(after)) refuse_request(400, "`after` must be a key of the table.")
    rows <- dplyr::filter(rows, .data[[collection$key]] > !!after)
  }
  rows <- utils::head(dplyr::arrange(rows, .data[[collection$key]]), asked$limit + 1)
  rows <- as.data.frame(fetch_lazy(with_shape(rows, collection$shape)))
  page <- utils::head(rows, asked$limit)
  list(
    of = page_collection(collection, page),
    rows = seq_len(nrow(page)),
    next_page = if (nrow(rows) > nrow(page)) list(after = as_key(page[[1]][nrow(page)]))
  )
}

# The row of a key as a collection; without rows where there is none.
item_there <- function(collection, id) {
  value <- typed_value(collection$table[[1]], id)
  row <- utils::head(dplyr::filter(collection$lazy, .data[[collection$key]] == !!value), 1)
  page_collection(collection, as.data.frame(fetch_lazy(with_shape(row, collection$shape))))
}

# What a text says as a value of a column; NA where it is none, which no row has.
typed_value <- function(x, text) {
  if (is.character(x)) return(text)
  if (is.logical(x)) return(as.logical(upper_case(text)))
  if (inherits(x, "Date")) return(as.Date(text, optional = TRUE, format = "%Y-%m-%d"))
  number <- suppressWarnings(as.numeric(text))
  if (is.finite(number)) number else NA_real_
}

rows_in_box <- function(rows, collection, box) {
  if (!is.null(collection$shape)) return(shape_in_box(rows, collection$shape, box))
  if (is.null(collection$at)) refuse_request(400, "`bbox`: this table has no places.")
  lon <- rlang::expr(.data[[!!collection$at[1]]])
  lat <- rlang::expr(.data[[!!collection$at[2]]])
  rows <- dplyr::filter(rows, !!lat >= !!box[2], !!lat <= !!box[4])
  # A box whose west lies east of its east end runs over 180 degrees.
  if (box[1] > box[3]) return(dplyr::filter(rows, !!lon >= !!box[1] | !!lon <= !!box[3]))
  dplyr::filter(rows, !!lon >= !!box[1], !!lon <= !!box[3])
}

# The rows of a page as a collection of their own.
page_collection <- function(collection, page) {
  data <- page
  data$geometry <- page_geometry(collection, page)
  data$ochre_shape <- NULL
  part <- new_collection(data, list(
    title = collection$title, kind = "table", codes = as_key(page[[1]])
  ))
  c(list(id = collection$id), part)
}
