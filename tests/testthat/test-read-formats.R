districts <- function() read_boundaries(ochre_demo("districts.geojson"))

test_that("one feature a line, a text sequence, gzip and a connection give what the whole file gives", {
  whole <- districts()
  features <- sub(",$", "", grep("\"Feature\"", readLines(ochre_demo("districts.geojson")), value = TRUE))
  features <- sub("^\\{\"type\": ?\"FeatureCollection\".*\"features\": ?\\[", "", sub("\\]\\}$", "", features))
  expect_length(features, 100)
  lines <- write_file(paste(features, collapse = "\n"), ".geojsonl")
  sequence <- write_file(paste0("\x1e", features, "\n", collapse = ""), ".json")
  packed <- temporary(".geojson.gz")
  con <- gzfile(packed, "wb")
  writeBin(readBin(ochre_demo("districts.geojson"), "raw", 1e7), con)
  close(con)
  for (x in list(lines, sequence, packed, file(lines), gzfile(packed))) expect_equal(read_boundaries(x), whole)
})

test_that("TopoJSON is read by object, quantised or not, with ids, properties, points and backward arcs", {
  topology <- paste0("{\"type\":\"Topology\",\"objects\":{\"land\":{\"type\":\"GeometryCollection\",\"geometries\":[",
    "{\"type\":\"Polygon\",\"id\":\"a\",\"properties\":{\"n\":1},\"arcs\":[[0,1]]},{\"type\":\"MultiPolygon\",\"id\":\"b\",\"properties\":{\"n\":2},\"arcs\":[[[2,-1]]]},",
    "{\"type\":null},{\"type\":\"GeometryCollection\",\"geometries\":[{\"type\":\"LineString\",\"arcs\":[~0]}]}]},",
    "\"towns\":{\"type\":\"MultiPoint\",\"coordinates\":[[1,1],[2,2]]}},\"arcs\":[%s]%s}")
  plain <- sprintf(sub("~0", "-1", topology), "[[2,0],[2,2]],[[2,2],[0,2],[0,0],[2,0]],[[2,0],[4,0],[4,2],[2,2]]", "")
  steps <- sprintf(sub("~0", "-1", topology), "[[20,0],[0,20]],[[20,20],[-20,0],[0,-20],[20,0]],[[20,0],[20,0],[0,20],[-20,0]]",
                   ",\"transform\":{\"scale\":[0.1,0.1],\"translate\":[0,0]}")
  a <- read_boundaries(write_file(plain, ".json"), layer = "land")
  expect_identical(a$id, c("a", "b", NA, NA))
  expect_identical(a$n, c(1L, 2L, NA, NA))
  expect_identical(wkt_of(a), c("POLYGON ((2 0, 2 2, 0 2, 0 0, 2 0))", "MULTIPOLYGON (((2 0, 4 0, 4 2, 2 2, 2 0)))", NA, "GEOMETRYCOLLECTION (LINESTRING (2 2, 2 0))"))
  expect_equal(areas_km2(read_boundaries(write_file(steps, ".json"), layer = "land")), areas_km2(a))
  e <- expect_error(read_boundaries(write_file(plain, ".json")), "land.*towns.*layer = \"land\"", class = "ochre_error_layer")
  expect_identical(e$layers, c("land", "towns"))
  expect_identical(wkt_of(read_boundaries(write_file(plain, ".json"), layer = "towns")), "MULTIPOINT ((1 1), (2 2))")
  expect_output(print(inspect_file(write_file(plain, ".json"))), "holds 2 layers.*land.*towns")
})

test_that("a shapefile is read from folder, file and zip, with dates, nulls, holes and its encoding", {
  folder <- tempfile("ochre-test-")
  stem <- write_shapefile(file.path(folder, "areas"), cpg = "1250", name = iconv("Łódka", "UTF-8", "CP1250", toRaw = TRUE)[[1]])
  zip <- zip_files(temporary(".zip"), list.files(folder), folder)
  for (x in list(folder, paste0(stem, ".shp"), zip)) {
    d <- read_boundaries(x)
    expect_identical(as.list(d[1:6]), list(CODE = c("01", "02", "03"), NAME = c("Łódka", "B", NA), N = c(12L, NA, -3L), SHARE = c(0.125, NA, 1000),
                                           SINCE = as.Date(c("2031-05-01", NA, NA)), COAST = c(TRUE, NA, FALSE)))
    expect_identical(wkt_of(d), c("MULTIPOLYGON (((0 0, 0 4, 4 4, 4 0, 0 0), (1 1, 2 1, 2 2, 1 2, 1 1)), ((6 0, 6 1, 7 1, 7 0, 6 0)))", "POLYGON ((1 1, 1 2, 2 2, 2 1, 1 1))", NA))
  }
  # The language byte counts where there is no .cpg; an argument counts before both.
  other <- write_shapefile(file.path(tempfile(), "b"), language = 0x26, name = as.raw(c(0x8c, 0xa8, 0xe0)))
  expect_identical(read_boundaries(dirname(other))$NAME[1], "Мир")
  expect_false(identical(read_boundaries(dirname(other), encoding = "CP437")$NAME[1], "Мир"))
  wrong <- write_shapefile(file.path(tempfile(), "c"), cpg = "UTF-8", name = as.raw(c(0x4b, 0xf6, 0x72)))
  expect_warning(d <- read_boundaries(dirname(wrong)), "1 text is not valid UTF-8", class = "ochre_warning_encoding")
  expect_identical(d$NAME[1], "Kör")
  # Two in one archive are listed; one is asked for by name.
  write_shapefile(file.path(folder, "water"))
  both <- zip_files(temporary(".zip"), list.files(folder), folder)
  expect_error(read_boundaries(both), "areas.*water", class = "ochre_error_layer")
  expect_identical(nrow(read_boundaries(both, layer = "water")), 3L)
  expect_error(read_boundaries(folder), "areas.*water", class = "ochre_error_layer")
  expect_error(read_boundaries(paste0(stem, ".dbf")), "ends in .shp", class = "ochre_error_file")
})

test_that("coordinates in another system come to longitude and latitude, or are refused", {
  skip_if_not_installed("PROJ")
  # The corner of a UTM zone: 500,000 m east is the middle meridian exactly; on the equator 0 m north is latitude 0.
  old <- "{\"type\":\"FeatureCollection\",\"crs\":{\"type\":\"name\",\"properties\":{\"name\":\"urn:ogc:def:crs:EPSG::32631\"}},\"features\":[{\"type\":\"Feature\",\"properties\":{},\"geometry\":{\"type\":\"MultiPoint\",\"coordinates\":[[500000,0],[500000,5000000]]}}]}"
  p <- positions_core(unclass(read_boundaries(write_file(old, ".geojson"))$geometry))
  expect_equal(p[, 1], c(3, 3), tolerance = 1e-9)
  # The same place by the core's own transverse Mercator: an independent computation.
  tm <- project_core(p[, 1], p[, 2], list(name = "transverse Mercator", lon0 = 3, lat0 = 0, lat1 = 0, lat2 = 0))
  expect_equal(0.9996 * tm$y, c(0, 5e6), tolerance = 1e-9)
  expect_equal(0.9996 * tm$x + 5e5, c(5e5, 5e5), tolerance = 1e-9)
  bare <- sub("\"crs\":.*\"features\"", "\"features\"", old)
  expect_error(read_boundaries(write_file(bare, ".geojson")), "no reference system is named.*system =", class = "ochre_error_system")
  expect_equal(positions_core(unclass(read_boundaries(write_file(bare, ".geojson"), system = 32631)$geometry)), p)
  expect_error(read_boundaries(write_file(bare, ".geojson"), system = "EPSG:999999"), "right system", class = "ochre_error_system")
  expect_warning(read_boundaries(ochre_demo("districts.geojson"), system = 32631), "longitude and latitude already", class = "ochre_warning_system")
  prj <- "PROJCS[\"WGS_1984_UTM_Zone_31N\",GEOGCS[\"GCS_WGS_1984\",DATUM[\"D_WGS_1984\",SPHEROID[\"WGS_1984\",6378137.0,298.257223563]],PRIMEM[\"Greenwich\",0.0],UNIT[\"Degree\",0.0174532925199433]],PROJECTION[\"Transverse_Mercator\"],PARAMETER[\"False_Easting\",500000.0],PARAMETER[\"False_Northing\",0.0],PARAMETER[\"Central_Meridian\",3.0],PARAMETER[\"Scale_Factor\",0.9996],PARAMETER[\"Latitude_Of_Origin\",0.0],UNIT[\"Meter\",1.0]]"
  folder <- tempfile()
  write_shapefile(file.path(folder, "u"), prj = prj, unit = 100)
  expect_message(suppressWarnings(d <- read_boundaries(folder)), "brought from WGS 1984 UTM Zone 31N")
  expect_equal(
    positions_core(unclass(d$geometry))[, 1],
    c(0, 0, 4, 4, 0, 1, 2, 2, 1, 1, 6, 6, 7, 7, 6, 1, 1, 2, 2, 1) * 100 / 111320 - 1.4887,
    tolerance = 1e-4
  )
  without("PROJ", {
    expect_error(read_boundaries(write_file(old, ".geojson")), "EPSG:32631.*package PROJ.*not installed.*install.packages", class = "ochre_error_system")
  })
  wkt <- tibble::tibble(g = wk::wkt("POINT (500000 0)", crs = "EPSG:32631"))
  expect_equal(positions_core(unclass(read_boundaries(wkt)$geometry))[1, ], c(3, 0), tolerance = 1e-9)
})

test_that("GeoParquet is read by its metadata; a Parquet file without them is refused", {
  skip_if_not_installed("nanoparquet")
  d <- districts()
  table <- as.data.frame(d[c("code", "population")])
  table$shape <- unclass(d$geometry)
  attributes(table$shape) <- NULL
  file <- temporary(".parquet")
  geo <- "{\"version\":\"1.0.0\",\"primary_column\":\"shape\",\"columns\":{\"shape\":{\"encoding\":\"WKB\",\"geometry_types\":[]%s}}}"
  nanoparquet::write_parquet(table, file, metadata = c(geo = sprintf(geo, "")))
  expect_equal(read_boundaries(file)[c("code", "population", "geometry")], d[c("code", "population", "geometry")])
  nanoparquet::write_parquet(table, file, metadata = c(geo = sprintf(geo, ",\"crs\":{\"id\":{\"authority\":\"EPSG\",\"code\":4326}}")))
  expect_identical(nrow(read_boundaries(file)), 100L)
  nanoparquet::write_parquet(table["code"], file)
  expect_error(read_boundaries(file), "without geometry", class = "ochre_error_file")
})

test_that("KML and KMZ give placemarks with folders, extended data, holes and tracks", {
  kml <- paste0("<?xml version=\"1.0\"?><kml xmlns=\"http://www.opengis.net/kml/2.2\" xmlns:gx=\"http://www.google.com/kml/ext/2.2\"><Document><Folder><name>North</name>",
    "<Placemark><name>A</name><ExtendedData><Data name=\"code\"><value>01</value></Data><Data name=\"n\"><value>5</value></Data></ExtendedData><MultiGeometry><Polygon><outerBoundaryIs><LinearRing><coordinates>\n 0,0,5 4,0 4,4\n0,4 0,0 </coordinates></LinearRing></outerBoundaryIs><innerBoundaryIs><LinearRing><coordinates>1,1 2,1 2,2 1,1</coordinates></LinearRing></innerBoundaryIs></Polygon><Polygon><outerBoundaryIs><LinearRing><coordinates>6,6 7,6 7,7</coordinates></LinearRing></outerBoundaryIs></Polygon></MultiGeometry></Placemark></Folder>",
    "<Placemark><name>&lt;b&gt; &amp; c</name><Point><coordinates>-1.5,+2</coordinates></Point></Placemark><Placemark><gx:Track><gx:coord>1 2 3</gx:coord><gx:coord>3 4 5</gx:coord></gx:Track></Placemark><Placemark><name>none</name></Placemark></Document></kml>")
  file <- write_file(kml, ".kml")
  kmz <- zip_files(temporary(".kmz"), basename(file), dirname(file))
  for (x in c(file, kmz)) {
    d <- read_boundaries(x)
    expect_identical(d$name, c("A", "<b> & c", NA, "none"))
    expect_identical(d$folder, c("North", NA, NA, NA))
    expect_identical(list(d$code, d$n), list(c("01", NA, NA, NA), c(5L, NA, NA, NA)))
    expect_identical(wkt_of(d), c("MULTIPOLYGON (((0 0, 4 0, 4 4, 0 4, 0 0), (1 1, 2 1, 2 2, 1 1)), ((6 6, 7 6, 7 7, 6 6)))", "POINT (-1.5 2)", "LINESTRING (1 2, 3 4)", NA))
  }
})

test_that("GPX gives waypoints, tracks of several segments, and routes", {
  gpx <- paste0("<gpx xmlns=\"http://www.topografix.com/GPX/1/1\" version=\"1.1\"><wpt lat=\"2\" lon=\"1\"><ele>12.5</ele><name>W</name></wpt><rte><name>R</name><rtept lat=\"0\" lon=\"0\"/><rtept lat=\"1\" lon=\"1\"/></rte>",
                "<trk><name>T</name><trkseg><trkpt lat=\"0\" lon=\"0\"/><trkpt lat=\"1\" lon=\"2\"/></trkseg><trkseg><trkpt lat=\"5\" lon=\"5\"/><trkpt lat=\"6\" lon=\"7\"/></trkseg></trk></gpx>")
  d <- read_boundaries(write_file(gpx, ".gpx"))
  expect_identical(as.list(d[c("kind", "name", "elevation")]), list(kind = c("waypoint", "track", "route"), name = c("W", "T", "R"), elevation = c(12.5, NA, NA)))
  expect_identical(wkt_of(d), c("POINT (1 2)", "MULTILINESTRING ((0 0, 2 1), (5 5, 7 6))", "LINESTRING (0 0, 1 1)"))
  expect_identical(read_boundaries(write_file(gpx, ".gpx"), layer = "routes")$name, "R")
})

test_that("tables become points by name, by range, from well-known text; swapped columns are noticed", {
  by_name <- write_file("name;Länge;Breite\nA;-38,5;46,25\nB;;\n")
  d <- read_boundaries(by_name)
  expect_identical(wkt_of(d), c("POINT (-38.5 46.25)", NA))
  by_range <- write_file("name,u,v,n\nA,46.12345,-98.51111,1\nB,47.54321,-99.72222,2\n")
  expect_identical(wkt_of(read_boundaries(by_range))[1], "POINT (-98.51111 46.12345)")
  expect_warning(d <- read_boundaries(write_file("lon,lat\n46.12,-98.5\n47.5,-99.7\n")), "exchanged", class = "ochre_warning_swapped")
  expect_identical(wkt_of(d)[1], "POINT (-98.5 46.12)")
  w <- tryCatch(read_boundaries(write_file("lon,lat\n120.5,46\n121.5,47\n46,120\n")), ochre_warning_swapped = identity)
  expect_identical(w$rows, 3L)
  expect_identical(wkt_of(read_boundaries(write_file("code,shape\n01,\"SRID=4326;POLYGON ((0 0, 1 0, 1 1, 0 0))\"\n02,POINT EMPTY\n"))), c("POLYGON ((0 0, 1 0, 1 1, 0 0))", "POINT EMPTY"))
  expect_error(read_boundaries(write_file("a,b\n1,2\n")), "`longitude` and `latitude`", class = "ochre_error_column")
  skip_if_not_installed("writexl")
  book <- temporary(".xlsx")
  writexl::write_xlsx(list(first = data.frame(longitude = -38.5, latitude = 46, code = "01"), second = data.frame(x = 1)), book)
  expect_identical(as.list(read_boundaries(book)[c("code")]), list(code = "01"))
  expect_identical(wkt_of(read_boundaries(book, layer = "first")), "POINT (-38.5 46)")
  expect_error(read_boundaries(book, layer = "third"), "first.*second", class = "ochre_error_layer")
})

test_that("what is written reads back the same in every format, and GeoJSON winds as the standard asks", {
  d <- districts()
  d$odd <- c("quote \" back \\ line \n tab \t", "<b>", NA, rep("é", 97))
  d$day <- as.Date("2031-05-01") + 0:99
  d$on <- rep(c(TRUE, NA, FALSE, TRUE), 25)
  d$fine <- c(1 / 3, NA, 1e-300, 2^53, seq_len(96) / 7)
  back <- function(ext, ...) {
    file <- temporary(ext)
    write_boundaries(d, file, ...)
    read_boundaries(file)
  }
  plain <- setdiff(names(d), c("geometry", "day"))
  for (ext in c(".geojson", ".topojson", ".gpkg")) {
    got <- back(ext)
    expect_identical(as.list(got[plain]), as.list(d[plain]))
    expect_identical(as.character(got$day), as.character(d$day))
    same_areas(got, d, 1e-7)
  }
  expect_identical(back(".geojson", digits = NULL)$geometry, d$geometry)
  expect_identical(back(".gpkg")$geometry, d$geometry)
  expect_identical(back(".csv", digits = NULL)[c("code", "population", "geometry")], d[c("code", "population", "geometry")], ignore_attr = TRUE)
  # A clockwise shell is turned; heights and every geometry type survive.
  wkt <- c("POLYGON ((0 0, 0 4, 4 4, 0 0), (1 2, 2 3, 1 3, 1 2))", "POINT Z (1 2 3.5)", "MULTIPOINT ((1 1), (2 2))", "LINESTRING (0 0, 1 1.25)",
           "MULTILINESTRING ((0 0, 1 1), (2 2, 3 3))", "GEOMETRYCOLLECTION (POINT (1 2), LINESTRING (0 0, 1 1))", "MULTIPOLYGON (((0 0, 1 0, 1 1, 0 0)))", NA, "POLYGON EMPTY")
  t <- tibble::tibble(n = seq_along(wkt), geometry = wk::wkt(wkt))
  file <- temporary(".geojson")
  write_boundaries(read_boundaries(t), file)
  expect_identical(wkt_of(read_boundaries(file)), c("POLYGON ((0 0, 4 4, 0 4, 0 0), (1 2, 1 3, 2 3, 1 2))", wkt[-1]))
  topo <- temporary(".topojson")
  write_boundaries(read_boundaries(t[c(1, 3:8), ]), topo)
  got <- wkt_of(read_boundaries(topo))
  expect_identical(got[-1], wkt[3:8])
  expect_error(write_boundaries(d, "x.shp"), "geojson", class = "ochre_error_file")
})

test_that("a projection file that is nonsense beside degrees is said and not followed; a link is", {
  folder <- withr::local_tempdir()
  stem <- file.path(folder, "a")
  utm <- 'PROJCS["UTM_32",GEOGCS["g",DATUM["d",SPHEROID["s",6378137,298.257223563]],PRIMEM["Greenwich",0],UNIT["Degree",0.0174532925199433]],PROJECTION["Transverse_Mercator"],PARAMETER["False_Easting",500000],PARAMETER["False_Northing",0],PARAMETER["Central_Meridian",9],PARAMETER["Scale_Factor",0.9996],PARAMETER["Latitude_Of_Origin",0],UNIT["Meter",1]]'
  for (prj in c("nonsense", "PROJCS[\"cut", utm)) {
    write_shapefile(stem, prj = prj, cpg = "1252")
    w <- expect_warning(
      x <- read_boundaries(paste0(stem, ".shp")), "read as longitude and latitude",
      class = "ochre_warning_system"
    )
    expect_identical(unname(unlist(wk::wk_bbox(x$geometry))), c(0, 0, 7, 4))
  }
  # What the user says is believed, and doubted aloud.
  expect_warning(
    expect_message(read_boundaries(paste0(stem, ".shp"), system = utm)), "look like longitude",
    class = "ochre_warning_system"
  )
  square <- function(crs, x) sprintf(
    '{"type":"FeatureCollection","crs":%s,"features":[{"type":"Feature","properties":{},"geometry":{"type":"Point","coordinates":%s}}]}',
    crs, x
  )
  link <- '{"type":"link","properties":{"href":"http://register.example/def/crs/EPSG/0/25832","type":"ogcwkt"}}'
  x <- quietly(read_boundaries(write_file(square(link, "[500000,5500000]"), ".json")))
  expect_equal(unname(unlist(wk::wk_bbox(x$geometry)))[1], 9)
  odd <- '{"type":"link","properties":{"href":"data.crs"}}'
  expect_warning(
    read_boundaries(write_file(square(odd, "[9,48]"), ".json")), "makes no sense",
    class = "ochre_warning_system"
  )
  expect_error(
    read_boundaries(write_file(square(odd, "[500000,5500000]"), ".json")), "data.crs",
    class = "ochre_error_system"
  )
  # No library speaks past R to the terminal.
  said <- printed_by(
    sprintf('try(ochre::read_boundaries("%s.shp", system = "EPSG:999999"), silent = TRUE)', stem)
  )
  expect_identical(said, character())
  for (bare in c("foo", "WGS", "Gauss", "utm32")) expect_error(
    read_boundaries(paste0(stem, ".shp"), system = bare), "no reference system",
    class = "ochre_error_argument"
  )
})

test_that("KML is read whatever its root, prefix or namespace", {
  place <- function(p, ns = "") sprintf(
    '<%sPlacemark%s><%sname>Ilm</%sname><%sPoint><%scoordinates>9,48</%scoordinates></%sPoint></%sPlacemark>',
    p, ns, p, p, p, p, p, p, p
  )
  spelt <- c(place(""), sprintf("<Folder><name>F</name>%s</Folder>", place("")), place("k:", ' xmlns:k="urn:old:2.0"'),
             sprintf('<k:kml xmlns:k="urn:old:2.0"><k:Document>%s</k:Document></k:kml>', place("k:")), sprintf('<kml xmlns="urn:other"><Document>%s</Document></kml>', place("")))
  for (text in spelt) {
    x <- read_boundaries(write_file(text, ".kml"))
    expect_identical(list(x$name, wkt_of(x)), list("Ilm", "POINT (9 48)"), info = text)
  }
})

test_that("boundaries in UTF-16, with U+0000 in a value, or read back by another session are whole", {
  text <- '{"type":"Feature","properties":{"name":"\u00d8st"},"geometry":{"type":"Point","coordinates":[9,48]}}'
  for (encoding in c("UTF-16LE", "UTF-16BE", "UTF-16")) {
    x <- read_boundaries(
      write_file(stringi::stri_encode(text, "UTF-8", encoding, to_raw = TRUE)[[1]], ".geojson")
    )
    expect_identical(list(x$name, wkt_of(x)), list("\u00d8st", "POINT (9 48)"))
  }
  nul <- gsub("st", "\\u0000st", text, fixed = TRUE)
  expect_warning(
    x <- read_boundaries(write_file(nul, ".geojson")), "U+0000 out of 1 text", fixed = TRUE,
    class = "ochre_warning_text"
  )
  expect_identical(x$name, "\u00d8st")
  kept <- temporary(".rds")
  saveRDS(x, kept)
  expect_identical(
    printed_by(
      sprintf(
        'suppressMessages(library(ochre)); x <- readRDS("%s"); writeLines(class(x[1, ]$geometry)[1]); writeLines(format(x$geometry[1]))',
        kept
      )
    )[1],
    "wk_wkb"
  )
})

test_that("the table of a shapefile is read by itself, and a text cut within a character loses that only", {
  folder <- withr::local_tempdir()
  stem <- write_shapefile(
    file.path(folder, "a"), cpg = "1252",
    name = iconv("K\u00f6r", "UTF-8", "CP1252", toRaw = TRUE)[[1]]
  )
  x <- quietly(read_statistics(paste0(stem, ".dbf")))
  expect_identical(
    list(x$CODE, x$NAME[1], x$N[3], x$SINCE[1]),
    list(c("01", "02", "03"), "K\u00f6r", -3L, as.Date("2031-05-01"))
  )
  expect_identical(inspect_file(paste0(stem, ".dbf"))$kind, "statistics")
  expect_error(read_boundaries(paste0(stem, ".dbf")), "read_statistics", class = "ochre_error_file")
  zipped <- zip_files(temporary(".zip"), c("a.dbf", "a.cpg"), folder)
  expect_identical(quietly(read_statistics(zipped))$NAME[1], "K\u00f6r")
  # Ten bytes end within the last character; nothing says what the encoding is.
  field <- function(values, language = 0) {
    file <- temporary(".dbf")
    writeBin(
      dbf_bytes(
        list(list(name = "NAME", type = "C", width = 10, values = lapply(values, charToRaw))),
        length(values), language
      ),
      file
    )
    file
  }
  expect_warning(
    x <- read_statistics(field(c("K\u00f6rlandi\u00f6", "\u00d8st"))),
    "1 text is cut within a character", class = "ochre_warning_encoding"
  )
  expect_identical(x$NAME, c("K\u00f6rlandi", "\u00d8st"))
  latin <- iconv(c("Orvanesk\u00f6", "Sk\u00f6"), "UTF-8", "CP1252")
  expect_silent(x <- read_statistics(field(latin)))
  expect_identical(x$NAME, c("Orvanesk\u00f6", "Sk\u00f6"))
})
