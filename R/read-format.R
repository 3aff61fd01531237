# What a file is, from its first bytes, and the reader for it.

read_format <- function(source, layer, encoding, call = rlang::caller_env()) {
  format <- find_format(source, call)
  tell <- function(share) signal_progress(paste("Reading", basename(source$name)), share, 1)
  chosen <- if (is.null(source$layer)) layer else source$inner_layer
  read <- switch(format,
    json = call_core(read_json_core(source$path, chosen %||% "", tell), file = source$name, call = call),
    shapefile = read_shapefile(source, encoding, tell, call),
    geopackage = read_geopackage(source, chosen, call),
    geoparquet = read_geoparquet(source, call),
    kml = read_kml(source, call),
    gpx = read_gpx(source, chosen, call),
    workbook = , table = read_places(source, format, chosen, encoding, call)
  )
  tell(1)
  read$format <- if (isTRUE(read$topology)) "topojson" else format
  read$layer <- source$layer %||% layer
  if (identical(read$system, "")) read$system <- NULL
  read
}

formats <- c(json = "GeoJSON", topojson = "TopoJSON", shapefile = "shapefile", geopackage = "GeoPackage", geoparquet = "GeoParquet", kml = "KML",
             gpx = "GPX", workbook = "Excel workbook", opendocument = "OpenDocument workbook", parquet = "Parquet", database = "database", table = "delimited text")

find_format <- function(source, call = rlang::caller_env()) {
  start <- first_bytes(source$path)
  if (!length(start)) ochre_abort("file", sprintf("`%s`: the file is empty.", source$name), "Fetch it again.", file = source$name, call = call)
  if (begins_with(start, 0x00, 0x00, 0x27, 0x0a)) {
    # The index has the same first bytes; its name tells them apart.
    if (tolower(tools::file_ext(source$path)) == "shx") return(beside_shapefile(source, call))
    return("shapefile")
  }
  if (begins_with(start, 0x53, 0x51, 0x4c, 0x69, 0x74, 0x65)) return("geopackage")
  if (begins_with(start, 0x50, 0x41, 0x52, 0x31)) return("geoparquet")
  if (begins_with(start, 0x50, 0x4b, 0x03, 0x04) || begins_with(start, 0xd0, 0xcf, 0x11, 0xe0)) return("workbook")
  if (tolower(tools::file_ext(source$path)) %in% c("dbf", "prj", "cpg", "sbn", "sbx", "qix")) return(beside_shapefile(source, call))
  text <- start[!start %in% as.raw(c(0x20, 0x09, 0x0a, 0x0d, 0xef, 0xbb, 0xbf, 0x1e))]
  if (length(text) && text[1] %in% charToRaw("{[")) return("json")
  if (length(text) && text[1] == charToRaw("<")) {
    words <- rawToChar(start[start != 0])
    if (grepl("<gpx", words, ignore.case = TRUE, useBytes = TRUE)) return("gpx")
    if (grepl("<([a-z]+:)?kml", words, ignore.case = TRUE, useBytes = TRUE)) return("kml")
    ochre_abort("file", sprintf("`%s` is markup, but neither KML nor GPX.", source$name),
                if (grepl("<html|<!doctype html", words, ignore.case = TRUE, useBytes = TRUE)) "It is a web page: was it fetched with an expired or wrong address?", file = source$name, call = call)
  }
  "table"
}

beside_shapefile <- function(source, call) {
  ochre_abort("file", sprintf("`%s` is one part of a shapefile.", source$name), "Name the part that ends in .shp, or the folder.", file = source$name, call = call)
}
