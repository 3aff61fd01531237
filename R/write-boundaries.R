# Writing boundaries to files that others read. Coordinates become text in the core; here columns
# become JSON, and a GeoPackage its tables.

default_digits <- 7L

#' Write boundaries
#'
#' @param boundaries A tibble with a `geometry` column.
#' @param file Where to: a path that ends in `.geojson` (or `.json`), `.topojson`, `.gpkg` or `.csv` (geometry
#'   as well-known text). An existing file is replaced only when the new one is complete.
#' @param digits Decimals of the coordinates: one whole number from 0 to 12; 7 (default) are about a
#'   centimetre. `NULL` writes every digit (not in TopoJSON). A GeoPackage always holds every digit.
#' @param layer Name of the object or table inside of a TopoJSON or GeoPackage: one text.
#' @return The path, invisibly. GeoJSON is written as RFC 7946 asks: longitude and latitude on
#'   WGS 84, shells counter-clockwise; TopoJSON shares borders and holds no heights. Dates and other
#'   classes are written as text. [read_boundaries()] reads the same back.
#' @section Errors: `ochre_error_file`, `ochre_error_argument`, `ochre_error_geometry`, `ochre_error_package`.
#' @examples
#' districts <- read_boundaries(ochre_demo("districts.geojson"))
#' write_boundaries(districts, file.path(tempdir(), "districts.topojson"))
#' @export
write_boundaries <- function(boundaries, file, digits = 7, layer = "boundaries") {
  check_table(boundaries, "boundaries")
  check_text(file, "file")
  check_number(digits, "digits", min = 0, max = 12, whole = TRUE, null = TRUE)
  check_text(layer, "layer")
  kind <- tolower(sub("^.*\\.([^./\\\\]+)$", "\\1", file))
  kind <- switch(kind, geojson = , json = "geojson", topojson = "topojson", gpkg = "gpkg", csv = "csv", {
    ochre_abort("file", sprintf("`%s` does not end in a format for boundaries.", file), "End it in `.geojson`, `.topojson`, `.gpkg` or `.csv`.", file = file)
  })
  if (kind == "topojson" && is.null(digits)) ochre_abort("argument", "TopoJSON needs a number of `digits`: its coordinates are whole steps.", "Give digits = 7.", arg = "digits")
  wkb <- geometry_of(boundaries, "boundaries")
  columns <- boundaries[setdiff(names(boundaries), "geometry")]
  places <- as.integer(digits %||% -1)
  write_whole(file, function(path) {
    switch(kind,
      geojson = call_core(write_geojson_core(path, wkb, property_texts(columns), places), file = file),
      topojson = write_lines(
        call_core(topojson_text_core(wkb, json_texts(layer), property_texts(columns), places))$text,
        path, ""
      ),
      gpkg = write_geopackage(columns, wkb, path, layer),
      csv = {
        columns$wkt <- call_core(wkt_core(wkb, places))$wkt
        write_csv(columns, path)
      }
    )
  })
  invisible(file)
}

# One JSON object a row.
property_texts <- function(table) {
  table <- table[setdiff(names(table), "geometry")]
  if (!ncol(table)) return(rep("{}", nrow(table)))
  fields <- Map(function(name, x) paste0(json_texts(name), ":", json_texts(x)), names(table), table)
  paste0("{", do.call(paste, c(unname(fields), list(sep = ","))), "}")
}

# Each value of a vector as JSON.
json_texts <- function(x) {
  if (is.logical(x)) return(ifelse(is.na(x), "null", ifelse(x, "true", "false")))
  if (is.numeric(x) && !is.object(x)) {
    text <- format(x, digits = 15, trim = TRUE, scientific = FALSE, drop0trailing = TRUE, justify = "none")
    if (is.double(x)) {
      # One by one, so that no value is padded to the digits of another.
      seen <- unique(x)
      text <- vapply(seen, function(v) format(v, digits = 15), "")
      exact <- !is.finite(seen)
      exact[!exact] <- as.numeric(text[!exact]) == seen[!exact]
      text[!exact] <- sprintf("%.17g", seen[!exact])
      text <- text[match(x, seen)]
    }
    return(ifelse(is.finite(x), text, "null"))
  }
  text <- enc2utf8(as.character(x))
  out <- stringi::stri_replace_all_fixed(text, c("\\", "\"", "\n", "\r", "\t"), c("\\\\", "\\\"", "\\n", "\\r", "\\t"), vectorize_all = FALSE)
  odd <- which(stringi::stri_detect_regex(out, "[\\u0001-\\u001f]"))
  for (i in odd) out[i] <- gsub("^\"|\"$", "", jsonlite::toJSON(text[i], auto_unbox = TRUE))
  ifelse(is.na(text), "null", paste0("\"", out, "\""))
}

# OGC 12-128r18: an SQLite file with three tables that describe a fourth.
write_geopackage <- function(columns, wkb, path, layer, call = rlang::caller_env()) {
  need_package("RSQLite", "Writing a GeoPackage", call)
  unlink(path)
  con <- DBI::dbConnect(RSQLite::SQLite(), path)
  on.exit(DBI::dbDisconnect(con))
  run <- function(...) DBI::dbExecute(con, paste0(...))
  run("PRAGMA application_id = 1196444487")
  run("PRAGMA user_version = 10300")
  run("CREATE TABLE gpkg_spatial_ref_sys (srs_name TEXT NOT NULL, srs_id INTEGER NOT NULL PRIMARY KEY, organization TEXT NOT NULL, organization_coordsys_id INTEGER NOT NULL, definition TEXT NOT NULL, description TEXT)")
  wgs84 <- "GEOGCS[\"WGS 84\",DATUM[\"WGS_1984\",SPHEROID[\"WGS 84\",6378137,298.257223563,AUTHORITY[\"EPSG\",\"7030\"]],AUTHORITY[\"EPSG\",\"6326\"]],PRIMEM[\"Greenwich\",0],UNIT[\"degree\",0.0174532925199433],AUTHORITY[\"EPSG\",\"4326\"]]"
  DBI::dbAppendTable(con, "gpkg_spatial_ref_sys", data.frame(
    srs_name = c("WGS 84 geodetic", "Undefined Cartesian", "Undefined geographic"), srs_id = c(4326L, -1L, 0L), organization = c("EPSG", "NONE", "NONE"),
    organization_coordsys_id = c(4326L, -1L, 0L), definition = c(wgs84, "undefined", "undefined")))
  run("CREATE TABLE gpkg_contents (table_name TEXT NOT NULL PRIMARY KEY, data_type TEXT NOT NULL, identifier TEXT UNIQUE, description TEXT DEFAULT '', last_change DATETIME NOT NULL DEFAULT (strftime('%Y-%m-%dT%H:%M:%fZ','now')), min_x DOUBLE, min_y DOUBLE, max_x DOUBLE, max_y DOUBLE, srs_id INTEGER)")
  run("CREATE TABLE gpkg_geometry_columns (table_name TEXT NOT NULL, column_name TEXT NOT NULL, geometry_type_name TEXT NOT NULL, srs_id INTEGER NOT NULL, z TINYINT NOT NULL, m TINYINT NOT NULL, PRIMARY KEY (table_name, column_name))")
  key <- setdiff(c("fid", "fid_1", "ogc_fid"), tolower(names(columns)))[1]
  shape <- setdiff(c("geom", "geom_1", "the_geom"), tolower(names(columns)))[1]
  declared <- vapply(columns, function(x) if (is.logical(x)) "BOOLEAN" else if (inherits(x, "Date")) "DATE" else if (is.integer(x)) "INTEGER" else if (is.double(x) && !is.object(x)) "REAL" else "TEXT", "")
  table <- lapply(columns, function(x) if (is.logical(x)) as.integer(x) else if (is.numeric(x) && !is.object(x)) x else as.character(x))
  table <- as.data.frame(table, optional = TRUE, stringsAsFactors = FALSE, row.names = seq_along(wkb))
  names(table) <- names(columns)
  table[[shape]] <- lapply(wkb, function(g) if (is.null(g)) NULL else c(as.raw(c(0x47, 0x50, 0x00, 0x01, 0xe6, 0x10, 0x00, 0x00)), g))
  types <- c(declared, "BLOB")
  name <- function(x) as.character(DBI::dbQuoteIdentifier(con, x))
  run("CREATE TABLE ", name(layer), " (", name(key), " INTEGER PRIMARY KEY AUTOINCREMENT NOT NULL, ", paste(vapply(names(table), name, ""), types, collapse = ", "), ")")
  DBI::dbAppendTable(con, layer, table)
  extent <- measure_positions(wkb)$extent %||% rep(NA_real_, 4)
  DBI::dbExecute(con, "INSERT INTO gpkg_contents (table_name, data_type, identifier, min_x, min_y, max_x, max_y, srs_id) VALUES (?, 'features', ?, ?, ?, ?, ?, 4326)", params = unname(c(list(layer, layer), as.list(extent))))
  DBI::dbExecute(con, "INSERT INTO gpkg_geometry_columns VALUES (?, ?, 'GEOMETRY', 4326, 2, 0)", params = list(layer, shape))
}
