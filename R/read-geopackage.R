# GeoPackage (with RSQLite), GeoParquet (with nanoparquet) and databases (with DBI): rows come with
# geometry as well-known binary in some dialect, which the core makes plain.

read_geopackage <- function(source, layer, call = rlang::caller_env()) {
  need_package("RSQLite", "Reading a GeoPackage", call)
  check_pages(source, call)
  con <- DBI::dbConnect(RSQLite::SQLite(), source$path, flags = RSQLite::SQLITE_RO)
  on.exit(DBI::dbDisconnect(con))
  ask <- function(...) ask_geopackage(con, ..., name = source$name, call = call)
  inside <- ask(paste(
    "SELECT g.table_name AS layer, g.column_name AS geometry, g.srs_id AS srs FROM",
    "gpkg_geometry_columns g ORDER BY g.table_name"
  ))
  if (!nrow(inside)) {
    ochre_abort("file", "`{source$name}` holds no layer with geometry.", file = source$name)
  }
  one <- inside[choose_layer(inside$layer, layer, source$name, "layers", call), ]
  table <- DBI::dbQuoteIdentifier(con, one$layer)
  rows <- ask(sprintf("SELECT * FROM %s", table))
  about <- ask(sprintf("PRAGMA table_info(%s)", table))
  # The table's own row number is none of the data's columns.
  key <- about$name[about$pk == 1 & upper_case(about$type) == "INTEGER"]
  own <- names(rows) %in% key & lower_case(names(rows)) %in% c("fid", "fid_1", "ogc_fid")
  out <- rows_with_geometry(rows[!own], one$geometry, source$name, call)
  out$columns <- declared_columns(out$columns, about)
  system <- ask(
    paste(
      "SELECT organization, organization_coordsys_id AS id, definition FROM",
      "gpkg_spatial_ref_sys WHERE srs_id = ?"
    ),
    params = list(one$srs)
  )
  # -1 and 0 stand for an unknown system.
  if (nrow(system) && one$srs > 0) out$system <- geopackage_system(system)
  out
}

ask_geopackage <- function(con, ..., name, call) {
  tryCatch(suppressWarnings(DBI::dbGetQuery(con, ...)), error = function(e) {
    ochre_abort(
      "file",
      "`{name}` is not a GeoPackage that can be read: {strip_period(conditionMessage(e))}.",
      "It may be cut off or another kind of database; fetch it again.", file = name
    )
  })
}

# Booleans and dates, which the database keeps as numbers and texts.
declared_columns <- function(columns, about) {
  declared <- upper_case(about$type[match(names(columns), about$name)])
  flags <- declared %in% "BOOLEAN"
  dates <- declared %in% "DATE"
  columns[flags] <- lapply(columns[flags], as.logical)
  columns[dates] <- lapply(columns[dates], as.Date, optional = TRUE)
  columns
}

geopackage_system <- function(system) {
  if (upper_case(system$organization) == "EPSG") paste0("EPSG:", system$id) else system$definition
}

# SQLite reads a file that is cut off until it misses a page; its header says how many there are.
check_pages <- function(source, call) {
  head <- first_bytes(source$path, 100)
  number <- function(at) sum(as.integer(head[at]) * 256^rev(seq_along(at) - 1))
  if (length(head) == 100 && identical(head[25:28], head[93:96])) {
    size <- if (number(17:18) == 1) 65536 else number(17:18)
    if (file.size(source$path) < size * number(29:32)) {
      ochre_abort(
        "file",
        paste0("`{source$name}` is cut off: it should have {size_words(size * number(29:32))} ",
               "and has {size_words(file.size(source$path))}."), "Fetch it again.",
        file = source$name
      )
    }
  }
}

# Splits a data frame into columns and geometry; other binary columns are left out and said.
rows_with_geometry <- function(rows, column, name, call) {
  binary <- vapply(rows, is.list, NA)
  lost <- setdiff(names(rows)[binary], column)
  if (length(lost)) {
    ochre_warn(
      "columns",
      paste0("`{name}`: left out the binary {if (length(lost) == 1) 'column' else 'columns'} ",
             "{list_words(lost)}."), file = name
    )
  }
  columns <- as.list(rows[!binary & names(rows) != column])
  columns <- lapply(columns, function(x) {
    if (inherits(x, "integer64")) {
      whole_numbers(x)
    } else if (is.character(x)) {
      enc2utf8(x)
    } else {
      x
    }
  })
  plain <- call_core(plain_wkb_core(unclass(rows[[column]])), file = name, call = call)
  list(
    columns = columns,
    geometry = plain$geometry,
    system = if (plain$system > 0) sprintf("EPSG:%d", as.integer(plain$system))
  )
}

read_geoparquet <- function(source, call = rlang::caller_env()) {
  need_package("nanoparquet", "Reading GeoParquet", call)
  name <- source$name
  fail <- function(what, mend = NULL) {
    ochre_abort("file", "`{name}` {what}", mend, file = name)
  }
  broken <- function(e) {
    why <- strip_period(conditionMessage(e)[1])
    fail(
      sprintf("is not a Parquet file that can be read: %s.", why),
      "It may be cut off; fetch it again."
    )
  }
  geo <- geo_metadata(source$path, fail, broken)
  for (part in source$parts) {
    if (!identical(geo_metadata(part, fail, broken)$columns, geo$columns)) {
      fail("holds parts whose geometry is not described alike.", "Read each of them by itself.")
    }
  }
  column <- geo$primary_column
  about <- geo$columns[[column %||% ""]]
  if (is.null(about)) {
    ochre_abort("file", "`{name}`: its metadata do not say which column holds the geometry.",
                file = name)
  }
  if (!identical(upper_case(about$encoding), "WKB")) {
    encoding <- about$encoding %||% "nothing known"
    ochre_abort("file", "`{name}`: its geometry is encoded as {encoding}, not as WKB.",
                "Write it again with the encoding WKB.", file = name)
  }
  rows <- tryCatch(read_parquet_apart(source), error = broken)
  if (is.null(rows[[column]])) {
    fail(sprintf("has no column `%s`, which its metadata name.", column))
  }
  out <- rows_with_geometry(rows, column, name, call)
  # No `crs` means longitude and latitude; null means that nobody knows.
  if (!is.null(about$crs)) out$system <- parquet_system(about$crs)
  out
}

# What the file says of its geometry. `fail` raises what is wrong, `broken` what cannot be read.
geo_metadata <- function(path, fail, broken) {
  pairs <- tryCatch(
    nanoparquet::read_parquet_metadata(path)$file_meta_data$key_value_metadata[[1]],
    error = broken
  )
  geo <- pairs$value[pairs$key == "geo"]
  if (!length(geo)) {
    fail(
      "is a Parquet file without geometry.",
      paste(
        "A GeoParquet file says in its metadata which column holds it; read statistics with",
        "read_statistics()."
      )
    )
  }
  tryCatch(jsonlite::fromJSON(geo[1], simplifyVector = FALSE), error = broken)
}

# A description (PROJJSON), or as older writers have it a text: a name of PROJ, a code, WKT.
parquet_system <- function(crs) {
  if (is.character(crs)) return(crs[1])
  if (!is.list(crs)) return(NULL)
  if (is.list(crs$id)) return(paste0(crs$id$authority, ":", crs$id$code))
  as.character(jsonlite::toJSON(crs, auto_unbox = TRUE, digits = NA))
}

# ---- databases ----------------------------------------------------------------------------

# All rows of a table or query.
ask_database <- function(con, layer, query, params, call) {
  if (is.null(query) == is.null(layer)) {
    ochre_abort("argument", "A database needs either `query` or `layer`, the name of a table.",
                arg = "query")
  }
  check_text(query, "query", null = TRUE, call = call)
  if (!is.null(layer)) {
    query <- paste(
      "SELECT * FROM",
      DBI::dbQuoteIdentifier(con, DBI::Id(strsplit(layer, ".", fixed = TRUE)[[1]]))
    )
  }
  tryCatch(fetch_rows(con, query, params, call), error = function(e) {
    if (inherits(e, "ochre_error")) rlang::cnd_signal(e)
    ochre_abort(
      "database",
      sprintf(
        "The database refuses the query: %s.", strip_period(gsub("\\s+", " ", conditionMessage(e)))
      ), "The query was: {substr(query, 1, 200)}", query = query
    )
  })
}

read_database <- function(con, layer, query, params, call = rlang::caller_env()) {
  rows <- ask_database(con, layer, query, params, call)
  found <- names(rows)[vapply(rows, holds_geometry, NA)]
  # Without a value to look at, its class or its name must tell.
  if (!length(found)) {
    named <- lower_case(names(rows)) %in% c(
      "geometry", "geom", "the_geom", "wkb_geometry", "shape", "geography"
    )
    found <- names(rows)[
      vapply(rows, function(x) all(is.na(x)), NA) & (named | vapply(rows, is.list, NA))
    ]
  }
  if (length(found) != 1) {
    ochre_abort(
      "argument", "The query gives {count_words(length(found), 'geometry column')}, not one.",
      if (length(found)) {
        "Keep one of {list_words(found)}."
      } else {
        "Ask for it as well-known binary: SELECT code, ST_AsBinary(geom) AS geometry FROM \u2026"
      }, arg = "query"
    )
  }
  if (is.character(rows[[found]])) {
    rows[[found]] <- from_text(rows[[found]], "the database", call)
  }
  rows_with_geometry(rows, found, "the database", call)
}

hex_pattern <- "^0[01][0-9A-Fa-f]{8,}$"
holds_geometry <- function(x) {
  if (is.list(x)) {
    first <- Find(function(v) is.raw(v) && length(v), x)
    return(
      !is.null(first) && tryCatch(
        is.list(call_core(plain_wkb_core(list(first)))),
        ochre_error = function(e) FALSE
      )
    )
  }
  if (!is.character(x)) return(FALSE)
  seen <- x[!is.na(x)][1]
  !is.na(seen) && (grepl(hex_pattern, seen) || has_pattern(seen, wkt_pattern))
}

wkt_pattern <- paste0(
  "^\\s*(SRID=\\d+;)?\\s*",
  "((MULTI)?(POINT|LINESTRING|POLYGON)|GEOMETRYCOLLECTION)"
)

# Well-known binary in hexadecimal digits, or well-known text, as raw vectors.
from_text <- function(x, name, call) {
  x <- as.character(x)
  seen <- x[!is.na(x) & nzchar(x)]
  if (length(seen) && grepl(hex_pattern, seen[1])) {
    return(lapply(x, function(one) {
      if (is.na(one) || nchar(one) %% 2 || grepl("[^0-9A-Fa-f]", one)) return(NULL)
      n <- strtoi(substring(one, seq(1, nchar(one), 2), seq(2, nchar(one), 2)), 16L)
      as.raw(n)
    }))
  }
  x[!nzchar(x)] <- NA
  geometry <- tryCatch(wk::as_wkb(wk::new_wk_wkt(x)), error = function(e) {
    ochre_abort("file",
                "`{name}`: a geometry is not well-known text: {strip_period(conditionMessage(e))}.",
                file = name)
  })
  geometry <- unclass(geometry)
  attributes(geometry) <- NULL
  geometry
}
