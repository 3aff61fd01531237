# Reading boundaries into a tibble with a geometry column. What a file holds is decided by
# the C++ core; here its columns get their names and the reading is judged.

#' Read boundaries
#'
#' Reads areas, lines or points from a GeoJSON file as RFC 7946 defines it: a
#' FeatureCollection, a Feature or a bare geometry, of every geometry type, with null
#' geometry, nested properties and ids.
#'
#' Properties become typed columns: logical, integer, double or character. A property that
#' has numbers in one feature and text in another becomes character. Whole numbers beyond
#' 2^53 become character, so that no digit is lost. A nested object `{"a": {"b": 1}}` becomes
#' a column `a.b`; an array stays as its JSON text. A feature's `id` becomes the column `id`,
#' or `feature_id` where the properties have an `id` of their own.
#'
#' @param file Path of a file: one text. Or a data frame with one column of a geometry class
#'   that package wk can handle.
#' @return A tibble with one row a feature, in the order of the file, and a last column
#'   `geometry` of class `wk_wkb` in longitude and latitude (degrees, WGS 84). A null
#'   geometry is `NA`; a property that a feature does not have is `NA`.
#' @section Errors:
#' `ochre_error_file` when the file cannot be read or is not GeoJSON, with the fields `file`,
#' `line`, `column` and `feature`; `ochre_error_system` when the coordinates cannot be
#' degrees or say that they are in another system; `ochre_error_argument` for another kind of input.
#' @source Butler, H. et al. (2016) The GeoJSON Format, RFC 7946.
#' @examples
#' districts <- read_boundaries(ochre_demo("districts.geojson"))
#' districts
#' @export
read_boundaries <- function(file) {
  if (is.data.frame(file)) return(boundaries_from_table(file))
  check_text(file, "file")
  path <- check_file(file)
  read <- call_core(read_geojson_core(path, function(share) signal_progress(paste("Reading", basename(file)), share, 1)), file = file)
  if (read$beyond_degrees > 0) check_degrees(read, file)
  columns <- read$columns
  if ("geometry" %in% names(columns)) names(columns)[names(columns) == "geometry"] <- "geometry_property"
  if (!is.null(read$id)) {
    id <- stats::setNames(list(read$id), if ("id" %in% names(columns)) "feature_id" else "id")
    columns <- c(id, columns)
  }
  columns <- lapply(columns, function(x) if (is.logical(x) && all(is.na(x))) rep(NA, read$features) else x)
  out <- tibble::as_tibble(columns, .name_repair = "unique_quiet", .rows = read$features)
  # The core wrote these bytes, so they are not parsed again to be checked.
  out$geometry <- wk::new_wk_wkb(read$geometry, crs = wk::wk_crs_longlat())
  out
}

check_file <- function(file, call = rlang::caller_env()) {
  path <- path.expand(file)
  if (dir.exists(path)) ochre_abort("file", sprintf("`%s` is a folder, not a file.", file), "Name the file in it.", file = file, call = call)
  if (!file.exists(path)) {
    here <- list.files(dirname(path))
    near <- nearest_word(basename(path), here)
    ochre_abort("file", sprintf("There is no file `%s`.", file),
                if (is.null(near)) sprintf("Looked in `%s`.", normalizePath(dirname(path), mustWork = FALSE))
                else sprintf("Did you mean `%s`?", file.path(dirname(file), near)), file = file, call = call)
  }
  enc2native(normalizePath(path))
}

# A few positions beyond ±180, ±90 are typing faults and stay (a warning says so); many are
# projected metres, which must not be drawn as degrees.
check_degrees <- function(read, file, call = rlang::caller_env()) {
  share <- read$beyond_degrees / read$positions
  shown <- format(signif(read$extent, 6), scientific = FALSE, trim = TRUE, drop0trailing = TRUE)
  extent <- sprintf("x from %s to %s, y from %s to %s", shown[["west"]], shown[["east"]], shown[["south"]], shown[["north"]])
  if (share > 0.5) {
    ochre_abort("system", sprintf("`%s`: the coordinates are not longitude and latitude (%s).", file, extent),
                "They look projected: export the file as WGS 84 (EPSG:4326).", file = file, call = call)
  }
  ochre_warn("degrees", sprintf("`%s`: %s beyond longitude 180 or latitude 90 (%s).", file,
                                count_words(read$beyond_degrees, "position lies", "positions lie"), extent),
             "Look for a typing fault or swapped coordinates.", file = file, positions = read$beyond_degrees)
}

boundaries_from_table <- function(table, call = rlang::caller_env()) {
  is_geometry <- vapply(table, function(x) !is.atomic(x) && wk::is_handleable(x) || inherits(x, "wk_vctr"), logical(1))
  if (sum(is_geometry) != 1) {
    ochre_abort("argument", sprintf("The data frame has %s, not one.", count_words(sum(is_geometry), "geometry column")),
                "Keep one column of a geometry class, such as wk::wkb().", arg = "file", call = call)
  }
  geometry <- as_longlat(table[[which(is_geometry)]], "file", call)
  out <- tibble::as_tibble(unclass(table)[!is_geometry], .rows = nrow(table))
  out$geometry <- geometry
  out
}

geometry_of <- function(data, arg, call = rlang::caller_env()) {
  if (!"geometry" %in% names(data)) {
    ochre_abort("argument", sprintf("`%s` has no column `geometry`.", arg),
                "Join the statistics to boundaries first, with join_statistics().", arg = arg, call = call)
  }
  unclass(as_longlat(data$geometry, arg, call))
}

# Any geometry that package wk handles, as well-known binary; refused when it says that it is in
# another system than longitude and latitude, or when its numbers cannot be degrees.
as_longlat <- function(geometry, arg, call) {
  if (inherits(geometry, "wk_wkb") && identical(wk::wk_crs(geometry), wk::wk_crs_longlat())) return(geometry)
  crs <- wk::wk_crs(geometry)
  degrees <- list(NULL, wk::wk_crs_inherit(), wk::wk_crs_longlat(), "EPSG:4326", 4326, 4326L)
  known <- any(vapply(degrees, identical, NA, crs)) || isTRUE(wk::wk_crs_equal(crs, wk::wk_crs_longlat()))
  box <- unclass(wk::wk_bbox(geometry))
  beyond <- isTRUE(max(abs(box$xmin), abs(box$xmax)) > 180 + 1e-9) || isTRUE(max(abs(box$ymin), abs(box$ymax)) > 90 + 1e-9)
  if (!known || beyond) {
    ochre_abort("system", sprintf("`%s` has a geometry that is not in longitude and latitude%s.", arg, if (known) "" else sprintf(" (%s)", format(crs)[1])),
                "Transform it to WGS 84 (EPSG:4326) first.", arg = arg, call = call)
  }
  geometry <- wk::as_wkb(geometry)
  wk::wk_crs(geometry) <- wk::wk_crs_longlat()
  geometry
}
