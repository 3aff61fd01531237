# Writing boundaries to files that others read. Coordinates become text in the core; here columns
# become JSON, and a GeoPackage its tables.

default_digits <- 7L

#' Write boundaries
#'
#' @param boundaries A tibble with a `geometry` column.
#' @param file Where to: a path that ends in `.geojson` (or `.json`), `.topojson`, `.gpkg` or
#'   `.csv` (geometry as well-known text). An existing file is replaced only when the new one is
#'   complete.
#' @param digits Decimals of the coordinates: one whole number from 0 to 12; 7 (default) are about a
#'   centimetre. `NULL` writes every digit (not in TopoJSON). A GeoPackage always holds every digit.
#' @param layer Name of the object or table inside of a TopoJSON or GeoPackage: one text.
#' @return The path, invisibly. GeoJSON is written as RFC 7946 asks: longitude and latitude on
#'   WGS 84, shells counter-clockwise; TopoJSON shares borders and holds no heights. Dates and other
#'   classes are written as text. [read_boundaries()] reads the same back.
#' @section Errors: `ochre_error_file`, `ochre_error_argument`, `ochre_error_geometry`,
#' `ochre_error_package`.
#' @examples
#' districts <- read_boundaries(ochre_demo("districts.geojson"))
#' write_boundaries(districts, file.path(tempdir(), "districts.topojson"))
#' @export
write_boundaries <- function(boundaries, file, digits = 7, layer = "boundaries") {
  plain_numbers()
  check_table(boundaries, "boundaries")
  check_text(file, "file")
  check_number(digits, "digits", min = 0, max = 12, whole = TRUE, null = TRUE)
  check_text(layer, "layer")
  kind <- boundary_kind(file)
  if (kind == "topojson" && is.null(digits)) {
    ochre_abort("argument", "TopoJSON needs a number of `digits`: its coordinates are whole steps.",
                "Give digits = 7.", arg = "digits")
  }
  wkb <- geometry_of(boundaries, "boundaries")
  columns <- boundaries[setdiff(names(boundaries), "geometry")]
  places <- as.integer(digits %||% -1)
  write <- switch(kind,
    geojson = function(path) {
      texts <- property_texts(columns)
      call_core(write_geojson_core(path, wkb, texts, places), file = file)
    },
    topojson = function(path) {
      texts <- property_texts(columns)
      written <- call_core(topojson_text_core(wkb, json_texts(layer), texts, places))
      write_lines(as_utf8(written$text), path, "")
    },
    gpkg = function(path) write_geopackage(columns, wkb, path, layer),
    csv = function(path) {
      columns$wkt <- call_core(wkt_core(wkb, places))$wkt
      write_csv(columns, path)
    }
  )
  write_whole(file, write)
  invisible(file)
}

# The format that the end of a file's name says.
boundary_kind <- function(file, call = rlang::caller_env()) {
  end <- lower_case(sub("^.*\\.([^./\\\\]+)$", "\\1", file))
  kinds <- c(
    geojson = "geojson", json = "geojson", topojson = "topojson", gpkg = "gpkg", csv = "csv"
  )
  if (end %in% names(kinds)) return(kinds[[end]])
  ochre_abort("file", "`{file}` does not end in a format for boundaries.",
              "End it in `.geojson`, `.topojson`, `.gpkg` or `.csv`.")
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
    text <- format(
      x, digits = 15, trim = TRUE, scientific = FALSE, drop0trailing = TRUE,
      justify = "none"
    )
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
  out <- stringi::stri_replace_all_fixed(
    text,
    c("\\", "\"", "\n", "\r", "\t"),
    c("\\\\", "\\\"", "\\n", "\\r", "\\t"),
    vectorize_all = FALSE
  )
  odd <- which(stringi::stri_detect_regex(out, "[\\u0001-\\u001f]"))
  for (i in odd) out[i] <- gsub("^\"|\"$", "", jsonlite::toJSON(text[i], auto_unbox = TRUE))
  ifelse(is.na(text), "null", paste0("\"", out, "\""))
}
