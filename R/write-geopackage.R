# A GeoPackage: the tables that the standard asks for, and one layer of features.
# Source: OGC GeoPackage Encoding Standard 1.3 (OGC 12-128r17).

write_geopackage <- function(columns, wkb, path, layer, call = rlang::caller_env()) {
  need_package("RSQLite", "Writing a GeoPackage", call)
  remove_path(path)
  con <- DBI::dbConnect(RSQLite::SQLite(), path)
  on.exit(DBI::dbDisconnect(con))
  for (statement in geopackage_tables) DBI::dbExecute(con, statement)
  DBI::dbAppendTable(con, "gpkg_spatial_ref_sys", geopackage_systems())
  free <- function(names) setdiff(names, lower_case(names(columns)))[1]
  key <- free(c("fid", "fid_1", "ogc_fid"))
  shape <- free(c("geom", "geom_1", "the_geom"))
  table <- geopackage_rows(columns, wkb, shape)
  types <- c(vapply(columns, sql_type, ""), "BLOB")
  name <- function(x) as.character(DBI::dbQuoteIdentifier(con, x))
  DBI::dbExecute(con, sprintf(
    "CREATE TABLE %s (%s INTEGER PRIMARY KEY AUTOINCREMENT NOT NULL, %s)",
    name(layer),
    name(key),
    paste(vapply(names(table), name, ""), types, collapse = ", ")
  ))
  DBI::dbAppendTable(con, layer, table)
  register_layer(con, layer, shape, wkb)
}

geopackage_tables <- c(
  "PRAGMA application_id = 1196444487",
  "PRAGMA user_version = 10300",
  paste(
    "CREATE TABLE gpkg_spatial_ref_sys (srs_name TEXT NOT NULL, srs_id INTEGER NOT NULL",
    "PRIMARY KEY, organization TEXT NOT NULL, organization_coordsys_id INTEGER NOT NULL,",
    "definition TEXT NOT NULL, description TEXT)"
  ),
  paste(
    "CREATE TABLE gpkg_contents (table_name TEXT NOT NULL PRIMARY KEY, data_type TEXT NOT",
    "NULL, identifier TEXT UNIQUE, description TEXT DEFAULT '', last_change DATETIME NOT",
    "NULL DEFAULT (strftime('%Y-%m-%dT%H:%M:%fZ','now')), min_x DOUBLE, min_y DOUBLE,",
    "max_x DOUBLE, max_y DOUBLE, srs_id INTEGER)"
  ),
  paste(
    "CREATE TABLE gpkg_geometry_columns (table_name TEXT NOT NULL, column_name TEXT NOT",
    "NULL, geometry_type_name TEXT NOT NULL, srs_id INTEGER NOT NULL, z TINYINT NOT NULL,",
    "m TINYINT NOT NULL, PRIMARY KEY (table_name, column_name))"
  )
)

geopackage_systems <- function() {
  wgs84 <- paste0(
    "GEOGCS[\"WGS 84\",DATUM[\"WGS_1984\",SPHEROID[\"WGS 84\",6378137,298.257223563,",
    "AUTHORITY[\"EPSG\",\"7030\"]],AUTHORITY[\"EPSG\",\"6326\"]],PRIMEM[\"Greenwich\",0],",
    "UNIT[\"degree\",0.0174532925199433],AUTHORITY[\"EPSG\",\"4326\"]]"
  )
  data.frame(
    srs_name = c("WGS 84 geodetic", "Undefined Cartesian", "Undefined geographic"),
    srs_id = c(4326L, -1L, 0L), organization = c("EPSG", "NONE", "NONE"),
    organization_coordsys_id = c(4326L, -1L, 0L),
    definition = c(wgs84, "undefined", "undefined")
  )
}

sql_type <- function(x) {
  if (is.logical(x)) return("BOOLEAN")
  if (inherits(x, "Date")) return("DATE")
  if (is.integer(x)) return("INTEGER")
  if (is.double(x) && !is.object(x)) "REAL" else "TEXT"
}

# Columns as the database keeps them, with the geometries behind the header of the standard.
geopackage_rows <- function(columns, wkb, shape) {
  plain <- function(x) {
    if (is.logical(x)) return(as.integer(x))
    if (is.numeric(x) && !is.object(x)) x else as.character(x)
  }
  table <- as.data.frame(
    lapply(columns, plain),
    optional = TRUE,
    stringsAsFactors = FALSE,
    row.names = seq_along(wkb)
  )
  names(table) <- names(columns)
  head <- as.raw(c(0x47, 0x50, 0x00, 0x01, 0xe6, 0x10, 0x00, 0x00))
  table[[shape]] <- lapply(wkb, function(g) if (!is.null(g)) c(head, g))
  table
}

# Says in the standard's tables what the layer is and how far it reaches.
register_layer <- function(con, layer, shape, wkb) {
  extent <- measure_positions(wkb)$extent %||% rep(NA_real_, 4)
  DBI::dbExecute(
    con,
    paste(
      "INSERT INTO gpkg_contents (table_name, data_type, identifier, min_x, min_y, max_x,",
      "max_y, srs_id) VALUES (?, 'features', ?, ?, ?, ?, ?, 4326)"
    ),
    params = unname(c(list(layer, layer), as.list(extent)))
  )
  DBI::dbExecute(
    con,
    "INSERT INTO gpkg_geometry_columns VALUES (?, ?, 'GEOMETRY', 4326, 2, 0)",
    params = list(layer, shape)
  )
}
