# What a file is, from its first bytes, and the reader for it.

read_format <- function(source, layer, encoding, call = rlang::caller_env()) {
  format <- find_format(source, call)
  tell <- function(share) signal_progress(paste("Reading", basename(source$name)), share, 1)
  chosen <- if (is.null(source$layer)) layer else source$inner_layer
  read <- switch(format,
    json = read_features(source, chosen, tell, call),
    shapefile = read_shapefile(source, encoding, tell, call),
    dbf = beside_shapefile(source, call),
    geopackage = read_geopackage(source, chosen, call),
    geoparquet = read_geoparquet(source, call),
    kml = read_kml(source, call),
    gpx = read_gpx(source, chosen, call),
    workbook = ,
    table = read_places(source, format, chosen, encoding, call)
  )
  tell(1)
  read$format <- if (isTRUE(read$topology)) "topojson" else format
  read$layer <- source$layer %||% layer
  if (identical(read$system, "")) read$system <- NULL
  read
}

read_features <- function(source, layer, tell, call) {
  path <- source$path
  # UTF-16 is read from a copy in UTF-8.
  encoding <- utf16_of(first_bytes(path, 2))
  if (!is.null(encoding)) {
    path <- in_utf8(path, encoding)
    on.exit(remove_path(path))
  }
  read <- call_core(
    read_json_core(path, layer %||% "", column_limit(), tell),
    file = source$name,
    call = call
  )
  if (read$texts_with_nul > 0) {
    ochre_warn(
      "text",
      paste0("`{source$name}`: took the character U+0000 out of ",
             "{count_words(read$texts_with_nul, 'text')}."),
      "No program can show it; look at how the file was made.", file = source$name
    )
  }
  warn_documents(read$collections, "feature collections", source$name)
  read
}

formats <- c(
  json = "GeoJSON", topojson = "TopoJSON", shapefile = "shapefile",
  geopackage = "GeoPackage", geoparquet = "GeoParquet", kml = "KML", gpx = "GPX",
  workbook = "Excel workbook", opendocument = "OpenDocument workbook",
  parquet = "Parquet", dbf = "table of a shapefile", database = "database",
  table = "delimited text"
)

find_format <- function(source, call = rlang::caller_env()) {
  start <- first_bytes(source$path)
  if (!length(start)) {
    ochre_abort(
      "file", "`{source$name}`: the file is empty.", "Fetch it again.", file = source$name
    )
  }
  if (begins_with(start, 0x00, 0x00, 0x27, 0x0a)) {
    # The index has the same first bytes; its name tells them apart.
    if (lower_case(tools::file_ext(source$path)) == "shx") return(beside_shapefile(source, call))
    return("shapefile")
  }
  if (begins_with(start, 0x53, 0x51, 0x4c, 0x69, 0x74, 0x65)) return("geopackage")
  if (begins_with(start, 0x50, 0x41, 0x52, 0x31)) return("geoparquet")
  if (begins_with(start, 0x50, 0x4b, 0x03, 0x04) ||
      begins_with(start, 0xd0, 0xcf, 0x11, 0xe0)) {
    return("workbook")
  }
  if (is_dbf(source$path, start)) return("dbf")
  if (lower_case(tools::file_ext(source$path)) %in% c("dbf", "prj", "cpg", "sbn", "sbx", "qix")) {
    return(beside_shapefile(source, call))
  }
  text <- without_marks(start)
  if (length(text) && text[1] %in% charToRaw("{[")) return("json")
  if (length(text) && text[1] == charToRaw("<")) {
    words <- rawToChar(start[start != 0])
    has <- function(element) grepl(element, words, ignore.case = TRUE, useBytes = TRUE)
    if (has("<([a-z0-9]+:)?gpx\\b")) return("gpx")
    # A fragment may begin with what otherwise lies in a `kml`.
    if (has("<([a-z0-9]+:)?(kml|Document|Folder|Placemark)\\b")) return("kml")
    refuse_web_page(words, "boundaries", source, call)
    ochre_abort("file", "`{source$name}` is markup, but neither KML nor GPX.", file = source$name)
  }
  "table"
}

# Without blanks, marks of the byte order, separators of a sequence, and the zeros of UTF-16.
without_marks <- function(bytes) {
  bytes[!bytes %in% as.raw(c(0x20, 0x09, 0x0a, 0x0d, 0xef, 0xbb, 0xbf, 0x1e, 0x00, 0xff, 0xfe))]
}

refuse_web_page <- function(words, wanted, source, call) {
  if (!grepl("<html|<!doctype html", words, ignore.case = TRUE, useBytes = TRUE)) {
    return(invisible())
  }
  ochre_abort("file", "`{source$name}` is a web page, not {wanted}.",
              "Was it fetched with an expired or wrong address?", file = source$name)
}

beside_shapefile <- function(source, call) {
  ochre_abort(
    "file", "`{source$name}` is one part of a shapefile.",
    paste0("Name the part that ends in .shp, or the folder. A .dbf alone can be read by ",
           "read_statistics()."), file = source$name
  )
}

# By what its header says of its size; there is no mark at its start.
is_dbf <- function(path, start = first_bytes(path)) {
  known <- as.raw(c(
    0x02, 0x03, 0x04, 0x05, 0x30, 0x31, 0x32, 0x43, 0x63, 0x83, 0x8b, 0xcb, 0xf5, 0xfb
  ))
  if (length(start) < 33 || !start[1] %in% known) return(FALSE)
  number <- function(at, n) sum(as.integer(start[at + seq_len(n)]) * 256^(seq_len(n) - 1))
  abs(number(8, 2) + number(4, 4) * number(10, 2) - file.size(path)) <= 1
}
