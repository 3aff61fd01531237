# Writes tests/fuzz/seeds/: small files of each format, from the test helpers.
source("tests/testthat/helper-files.R")
put <- function(target, name, bytes) {
  dir.create(file.path("tests/fuzz/seeds", target), recursive = TRUE, showWarnings = FALSE)
  writeBin(
    if (is.character(bytes)) charToRaw(bytes) else bytes,
    file.path("tests/fuzz/seeds", target, name)
  )
}
`%||%` <- function(a, b) if (is.null(a)) b else a
put(
  "fuzz-json",
  "features",
  paste0(
    "{\"type\":\"FeatureCollection\",\"features\":[{\"type\":\"Feature\",\"id\":1,",
    "\"properties\":{\"a\":\"x\\u00e9\",\"b\":{\"c\":[1]},\"n\":1.5e3,\"t\":true,\"z\":null},",
    "\"geometry\":{\"type\":\"MultiPolygon\",\"coordinates\":[[[[0,0],[4,0],[4,4],[0,0]],[[1,",
    "1],[2,1],[2,2],[1,1]]]]}},{\"type\":\"Feature\",\"properties\":null,",
    "\"geometry\":{\"type\":\"GeometryCollection\",\"geometries\":[{\"type\":\"Point\",",
    "\"coordinates\":[1,2,3]},{\"type\":\"LineString\",\"coordinates\":[[0,0],[1,1]]}]}}]}"
  )
)
put(
  "fuzz-json",
  "lines",
  paste0(
    "\x1e{\"type\":\"Feature\",\"properties\":{\"a\":1},",
    "\"geometry\":null}\n{\"type\":\"Point\",\"coordinates\":[-1.25,2e1]}\n"
  )
)
put(
  "fuzz-json",
  "topology",
  paste0(
    "{\"type\":\"Topology\",\"transform\":{\"scale\":[0.1,0.1],\"translate\":[0,0]},",
    "\"objects\":{\"a\":{\"type\":\"GeometryCollection\",",
    "\"geometries\":[{\"type\":\"Polygon\",\"id\":\"p\",\"properties\":{\"n\":1},",
    "\"arcs\":[[0,-2]]},{\"type\":\"MultiPoint\",\"coordinates\":[[1,1]]}]}},\"arcs\":[[[0,",
    "0],[9,0],[0,9]],[[0,0],[9,9]]]}"
  )
)
shp <- shp_bytes(lapply(
  list(list(box_ring(0, 0, 4, 4), box_ring(1, 1, 2, 2, FALSE), box_ring(6, 0, 7, 1)), NULL),
  polygon_record
))
dbf <- dbf_bytes(
  list(
    list(name = "C", type = "C", width = 4, values = list("01", "x")),
    list(name = "N", type = "N", width = 5, values = list("1.5", "*")),
    list(name = "D", type = "D", width = 8, values = list("20310501", "")),
    list(name = "L", type = "L", width = 1, values = list("T", "?"))
  ),
  2
)
put("fuzz-shapefile", "both", c(as.raw(c(length(dbf) %% 256, length(dbf) %/% 256)), dbf, shp))
wkb <- unclass(wk::as_wkb(wk::wkt(c(
  "POLYGON ((0 0, 4 0, 4 4, 0 0))",
  "GEOMETRYCOLLECTION (POINT Z (1 2 3), MULTILINESTRING ((0 0, 1 1)))",
  "MULTIPOLYGON (((0 0, 1 0, 1 1, 0 0)))"
))))
for (i in seq_along(wkb)) put("fuzz-wkb", paste0("g", i), wkb[[i]])
put("fuzz-wkb", "gp", c(as.raw(c(0x47, 0x50, 0, 1, 0xe6, 0x10, 0, 0)), wkb[[1]]))
put("fuzz-positions", "kml", " 0,0,5 4,-1.5e1\n+2,003.5 ")
put("fuzz-shapes", "bow", as.raw(c(0, 0, 4, 4, 4, 0, 0, 4, 255, 0, 2, 2, 8, 2, 8, 8)))
put(
  "fuzz-shapes",
  "wide",
  as.raw(c(
    140, 3, 150, 3, 130, 9, 255, 1, 1, 1, 9, 1, 9, 9, 1, 9, 250, 0, 9, 1, 18, 1, 18, 9, 9,
    9
  ))
)
