# Reading boundaries into a tibble with a geometry column. Where the bytes come from is settled in
# read-source.R, what they are in read-format.R; each format has a file of its own. All of them
# give the same: columns, geometry as well-known binary, and the reference system that was named.

#' Read boundaries
#'
#' Reads areas, lines or points from what an agency publishes. The format is found from the
#' content: GeoJSON (RFC 7946, also its older form with a `crs`, one feature a line, or a text
#' sequence), TopoJSON, shapefile (a folder, the `.shp` file, or a zip archive), GeoPackage,
#' GeoParquet, KML and KMZ, GPX, and tables (delimited text, Excel) with columns of longitude and
#' latitude or of well-known text; each also compressed with gzip or in a zip archive.
#'
#' Properties become typed columns: logical, integer, double or character. A property that
#' has numbers in one feature and text in another becomes character. Whole numbers beyond
#' 2^53 become character, so that no digit is lost. A nested object `{"a": {"b": 1}}` becomes
#' a column `a.b`; an array stays as its JSON text. A feature's `id` becomes the column `id`,
#' or `feature_id` where the properties have an `id` of their own. Dates of a shapefile become
#' `Date`; its texts are brought to UTF-8 from the encoding that its `.cpg` file or its language
#' byte names. KML placemarks get their `folder` and their extended data as columns; GPX gets a
#' column `kind` (waypoint, track, route).
#'
#' What a service gives page by page (OGC API - Features) is read to its last page: the address may
#' be the service's own, with `layer` as the collection, that of a collection, or that of its items,
#' with what chooses among them, such as `…/items?bbox=-38.5,46,-37,47&limit=1000`.
#'
#' A file from the web is kept in a cache (`options(ochre.cache = )`, by default R's own cache
#' folder) and asked for again only if it has changed; without a network the cached copy is used
#' and a warning `ochre_warning_offline` says so.
#'
#' @param file A path or an address (`https://…`): one text. Or a connection; a database
#'   connection (package DBI), with `query` or `layer`; a geometry vector, or a data frame with one
#'   column, of a class that package wk can handle.
#' @param layer Which one, where a file holds several (objects of a TopoJSON, tables of a
#'   GeoPackage or database, files of an archive or folder, sheets of a workbook, collections of a
#'   service): one text.
#'   `NULL` (default) takes the only one.
#' @param system The reference system of the coordinates, where the file does not name it or names a
#'   wrong one: an EPSG code (`25832`, `"EPSG:25832"`) or any text that PROJ understands. Anything
#'   but longitude and latitude on WGS 84 is transformed to that, with package PROJ. A message names
#'   the datum where it is not WGS 84 or ETRS89: PROJ takes the best transformation that is
#'   installed, which without the datum's grid is right to a few metres.
#' @param encoding Encoding of the texts of a shapefile or of a delimited table, as [iconv()] knows
#'   it; `NULL` (default) finds it.
#' @param request How to ask a web service that gives records as JSON, from [service_request()],
#'   with paging by link, page, offset or mark. In each record one member is the geometry, as
#'   GeoJSON has it. An answer is kept and used again for an hour, or as `request` says.
#' @param records For `request`: where the list of records lies in an answer, as a JSON Pointer such
#'   as `"/data/rows"`; `NULL` (default) finds it.
#' @param query,params For a database: an SQL query whose geometry is well-known binary (or text),
#'   and a list of values for its placeholders.
#' @return A tibble with one row a feature, in the order of the file, and a last column
#'   `geometry` of class `wk_wkb` in longitude and latitude (degrees, WGS 84). A null
#'   geometry is `NA`; a property that a feature does not have is `NA`.
#' @section Errors:
#' `ochre_error_file` when the file cannot be read or is not what it seems, with the fields `file`
#' and, where they are known, `line`, `column`, `byte` and `feature`; `ochre_error_layer` when one
#' of several must be named (field `layers`); `ochre_error_system` when the coordinates cannot be
#' degrees and no system is named, or the system is not known or cannot be used here;
#' `ochre_error_url`; `ochre_error_service` when pages lead elsewhere or have no end;
#' `ochre_error_package` when a format needs a package that is not installed;
#' `ochre_error_argument` for another kind of input.
#' @source Butler, H. et al. (2016) The GeoJSON Format, RFC 7946. Williams, N. (2015) JSON Text
#'   Sequences, RFC 8142. Shapefile Technical Description (1998). OGC 12-128r18 GeoPackage.
#'   OGC 12-007r2 KML 2.3. OGC 17-069r4 OGC API - Features - Part 1: Core.
#' @examples
#' districts <- read_boundaries(ochre_demo("districts.geojson"))
#' districts
#' @concept CRS
#' @concept EPSG
#' @concept reproject
#' @concept coordinate reference system
#' @concept shapefile
#' @concept GeoJSON
#' @concept TopoJSON
#' @concept GeoPackage
#' @concept KML
#' @export
read_boundaries <- function(file, layer = NULL, system = NULL, encoding = NULL, records = NULL,
                            request = NULL, query = NULL, params = NULL) {
  refuse_missing(missing(file), "file", rlang::current_env())
  check_text(layer, "layer", null = TRUE)
  check_text(encoding, "encoding", null = TRUE)
  system <- check_system(system)
  if (inherits(file, "DBIConnection")) {
    return(tell_source(as_boundaries(
      read_database(file, layer, query, params),
      "the database",
      system
    )))
  }
  if (!is.null(query)) {
    ochre_abort("argument", "`query` needs a database connection as `file`.",
                "Connect with DBI::dbConnect().", arg = "query")
  }
  if (is.data.frame(file)) return(boundaries_from_table(file, system))
  if (is.object(file) && !inherits(file, "connection") && is_geometry(file)) {
    return(boundaries_from_table(tibble::tibble(geometry = file), system))
  }
  if (!inherits(file, "connection")) check_text(file, "file")
  if (!is.null(request)) return(tell_source(shaped_records(file, request, records, system)))
  tell_source(whole_boundaries(file, layer, encoding, system))
}

# A file, or all pages of a service.
whole_boundaries <- function(file, layer, encoding = NULL, system = NULL,
                             call = rlang::caller_env()) {
  read_one <- function(file, layer = NULL) {
    with_copy(file, function(copy) {
      source <- find_source(file, layer, copy = copy)
      on.exit(remove_path(source$temporary))
      more <- page_facts(source)
      if (!is.null(more$items)) return(more["items"])
      if (!is.null(more$collections)) return(more["collections"])
      found <- as_boundaries(read_format(source, layer, encoding), source$name, system)
      list(boundaries = found, more = more)
    })
  }
  read_all_pages(file, layer, read_one, call)
}

# What inspect_file() needs to know of the source is no part of what a user gets.
tell_source <- function(boundaries) {
  about <- attr(boundaries, "ochre_source")
  if (!is.null(about$system) && !"system" %in% getOption("ochre.quiet")) {
    ochre_tell("{basename(about$name)}: {transformed_words(about)}")
  }
  attr(boundaries, "ochre_source") <- NULL
  boundaries
}

# What a reader gives: `columns` (a named list), `geometry` (a list of raw vectors, NULL where
# there is none), `system` (text, or NULL for degrees on WGS 84), `id`, and what the core measured.
as_boundaries <- function(read, name, system, call = rlang::caller_env()) {
  n <- length(read$geometry)
  named <- system %||% read$system
  if (is_degrees(named)) {
    if (is.null(read$positions)) read <- c(read, measure_positions(read$geometry))
    if (read$beyond_degrees > 0) check_degrees(read, name, call)
  } else {
    moved <- to_degrees(read$geometry, named, name, own = !is.null(system), call = call)
    if (is.null(moved)) named <- NULL else read$geometry <- moved
  }
  columns <- read$columns
  if ("geometry" %in% names(columns)) {
    names(columns)[names(columns) == "geometry"] <- "geometry_property"
  }
  if (!is.null(read$id)) {
    id <- stats::setNames(list(read$id), if ("id" %in% names(columns)) "feature_id" else "id")
    columns <- c(id, columns)
  }
  columns <- lapply(columns, function(x) if (is.logical(x) && all(is.na(x))) rep(NA, n) else x)
  out <- tibble::as_tibble(columns, .name_repair = "unique_quiet", .rows = n)
  # The core wrote these bytes, so they are not parsed again to be checked.
  out$geometry <- wk::new_wk_wkb(read$geometry, crs = wk::wk_crs_longlat())
  attr(out, "ochre_source") <- list(
    name = name,
    format = read$format,
    layer = read$layer,
    system = if (!is_degrees(named)) system_words(named),
    datum = if (!is_degrees(named)) other_datum(named)
  )
  out
}

measure_positions <- function(geometry) {
  p <- call_core(positions_core(geometry))
  p <- p[is.finite(p[, 1]) & is.finite(p[, 2]), , drop = FALSE]
  beyond <- sum(abs(p[, 1]) > 180 | abs(p[, 2]) > 90)
  extent <- if (nrow(p)) {
    c(west = min(p[, 1]), south = min(p[, 2]), east = max(p[, 1]), north = max(p[, 2]))
  }
  list(positions = nrow(p), beyond_degrees = beyond, extent = extent)
}

# A few positions beyond ±180, ±90 are typing faults and stay (a warning says so); many are
# projected metres, which must not be drawn as degrees.
check_degrees <- function(read, file, call = rlang::caller_env()) {
  share <- read$beyond_degrees / read$positions
  shown <- format(signif(read$extent, 6), scientific = FALSE, trim = TRUE, drop0trailing = TRUE)
  extent <- sprintf(
    "x from %s to %s, y from %s to %s", shown[["west"]], shown[["east"]],
    shown[["south"]], shown[["north"]]
  )
  if (share > 0.5) {
    ochre_abort(
      "system",
      paste0("`{file}`: the coordinates are not longitude and latitude ({extent}), and no ",
             "reference system is named."),
      paste0("They look projected: say in which system, for example system = \"EPSG:25832\", ",
             "or export the file as WGS 84 (EPSG:4326).")
    )
  }
  ochre_warn(
    "degrees",
    sprintf(
      "`%s`: %s beyond longitude 180 or latitude 90 (%s).", file,
      count_words(read$beyond_degrees, "position lies", "positions lie"), extent
    ), "Look for a typing fault or swapped coordinates.", file = file,
    positions = read$beyond_degrees
  )
}

is_geometry <- function(x) !is.atomic(x) && wk::is_handleable(x) || inherits(x, "wk_vctr")

boundaries_from_table <- function(table, system = NULL, call = rlang::caller_env()) {
  check_table(table, "file", call = call)
  found <- vapply(table, is_geometry, logical(1))
  if (sum(found) != 1) {
    ochre_abort("argument",
                "The data frame has {count_words(sum(found), 'geometry column')}, not one.",
                "Keep one column of a geometry class, such as wk::wkb().", arg = "file")
  }
  geometry <- as_longlat(table[[which(found)]], "file", call, system)
  out <- tibble::as_tibble(unclass(table)[!found], .rows = nrow(table))
  out$geometry <- geometry
  out
}

geometry_of <- function(data, arg, call = rlang::caller_env()) {
  refuse_missing(missing(data), arg, call)
  check_table(data, arg, call = call)
  if (!"geometry" %in% names(data)) {
    ochre_abort("argument", "`{arg}` has no column `geometry`.",
                "Join the statistics to boundaries first, with join_statistics().")
  }
  unclass(as_longlat(data$geometry, arg, call))
}

# Any geometry that package wk handles, as well-known binary in degrees. One that names another
# system is brought over; one whose numbers cannot be degrees is refused.
as_longlat <- function(geometry, arg, call, system = NULL) {
  crs <- wk::wk_crs(geometry)
  if (inherits(geometry, "wk_wkb") && is.null(system) && identical(crs, wk::wk_crs_longlat())) {
    plain <- call_core(plain_wkb_core(unclass(geometry)), file = arg, call = call)$geometry
    return(wk::new_wk_wkb(plain, crs = crs))
  }
  known <- list(NULL, wk::wk_crs_inherit(), wk::wk_crs_longlat(), "EPSG:4326", 4326, 4326L)
  degrees <- any(vapply(known, identical, NA, crs)) ||
    isTRUE(wk::wk_crs_equal(crs, wk::wk_crs_longlat()))
  # Bytes go through the core's own door first; a foreign reader may not survive them.
  if (inherits(geometry, "wk_wkb")) {
    geometry <- call_core(plain_wkb_core(unclass(geometry)), file = arg, call = call)$geometry
    geometry <- wk::new_wk_wkb(geometry, crs = crs)
  }
  plain <- tryCatch(unclass(wk::as_wkb(geometry)), error = function(e) {
    ochre_abort("geometry",
                "`{arg}` has a geometry that cannot be read: {strip_period(conditionMessage(e))}.")
  })
  attributes(plain) <- NULL
  plain <- call_core(plain_wkb_core(plain), call = call)$geometry
  named <- system %||% if (!degrees) wk_system(crs)
  if (!is_degrees(named)) {
    plain <- to_degrees(plain, named, arg, call = call)
  } else {
    seen <- measure_positions(plain)
    if (seen$beyond_degrees > 0) check_degrees(seen, arg, call)
  }
  wk::new_wk_wkb(plain, crs = wk::wk_crs_longlat())
}
