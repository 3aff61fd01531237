# Boundaries from a web service that gives records as JSON, each with its geometry in one member.

shaped_records <- function(url, request, records, system, call = rlang::caller_env()) {
  check_text(records, "records", null = TRUE, call = call)
  path <- ask_service(url, request, records, whole = TRUE, call = call)
  rows <- jsonlite::read_json(path, simplifyVector = FALSE, bigint_as_char = TRUE)
  if (!length(rows)) service_fault(url, "gives no records", call = call)
  features <- if (all_are(rows, is_feature)) rows else features_of(rows, url, call)
  text <- jsonlite::toJSON(
    list(type = "FeatureCollection", features = I(features)),
    auto_unbox = TRUE, null = "null", digits = NA, na = "null"
  )
  file <- tempfile(fileext = ".geojson")
  on.exit(remove_path(file))
  write_lines(text, file)
  source <- find_source(file)
  source$name <- url
  as_boundaries(read_format(source, NULL, NULL), url, system)
}

geometry_types <- c(
  "Point", "MultiPoint", "LineString", "MultiLineString", "Polygon", "MultiPolygon",
  "GeometryCollection"
)
is_shape <- function(x) {
  is_record(x) && is.character(x$type) && length(x$type) == 1 && x$type %in% geometry_types
}

# Records as features: the member that holds a geometry is one in all of them, or missing.
features_of <- function(rows, url, call) {
  held <- unique(unlist(lapply(rows, function(r) names(r)[vapply(r, is_shape, NA)])))
  if (length(held) != 1) {
    ochre_abort(
      "records",
      if (length(held)) {
        "The records of `{url}` have several geometries: {list_words(held)}."
      } else {
        "The records of `{url}` have no geometry."
      },
      if (length(held)) {
        "Ask the service for one of them only."
      } else {
        paste0("A member should hold one as GeoJSON has it. Places in columns are read with ",
               "read_statistics(request = ).")
      }, file = url, found = held
    )
  }
  lapply(rows, function(r) {
    rest <- r[setdiff(names(r), held)]
    if (!length(rest)) rest <- stats::setNames(list(), character())
    list(type = "Feature", properties = rest, geometry = r[[held]])
  })
}
