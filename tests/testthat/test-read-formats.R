# Formats of boundaries: each is read as another makes it.

test_that("lines, a text sequence, gzip and a connection give what the whole file gives", {
  whole <- districts()
  features <- sub(
    ",$",
    "",
    grep("\"Feature\"", readLines(ochre_demo("districts.geojson")), value = TRUE)
  )
  features <- sub(
    "^\\{\"type\": ?\"FeatureCollection\".*\"features\": ?\\[",
    "",
    sub("\\]\\}$", "", features)
  )
  expect_length(features, 100)
  lines <- write_file(paste(features, collapse = "\n"), ".geojsonl")
  sequence <- write_file(paste0("\x1e", features, "\n", collapse = ""), ".json")
  packed <- temporary(".geojson.gz")
  con <- gzfile(packed, "wb")
  writeBin(readBin(ochre_demo("districts.geojson"), "raw", 1e7), con)
  close(con)
  for (x in list(lines, sequence, packed, file(lines), gzfile(packed))) {
    expect_equal(read_boundaries(x), whole)
  }
})

test_that("TopoJSON is read by object, with ids, properties, points and backward arcs", {
  topology <- paste0(
    "{\"type\":\"Topology\",\"objects\":{\"land\":{\"type\":\"GeometryCollection\",",
    "\"geometries\":[",
    "{\"type\":\"Polygon\",\"id\":\"a\",\"properties\":{\"n\":1},\"arcs\":[[0,1]]},",
    "{\"type\":\"MultiPolygon\",\"id\":\"b\",\"properties\":{\"n\":2},\"arcs\":[[[2,-1]]]},",
    "{\"type\":null},{\"type\":\"GeometryCollection\",",
    "\"geometries\":[{\"type\":\"LineString\",\"arcs\":[~0]}]}]},",
    "\"towns\":{\"type\":\"MultiPoint\",\"coordinates\":[[1,1],[2,2]]}},\"arcs\":[%s]%s}"
  )
  plain <- sprintf(
    sub("~0", "-1", topology),
    "[[2,0],[2,2]],[[2,2],[0,2],[0,0],[2,0]],[[2,0],[4,0],[4,2],[2,2]]",
    ""
  )
  steps <- sprintf(
    sub("~0", "-1", topology),
    "[[20,0],[0,20]],[[20,20],[-20,0],[0,-20],[20,0]],[[20,0],[20,0],[0,20],[-20,0]]",
    ",\"transform\":{\"scale\":[0.1,0.1],\"translate\":[0,0]}"
  )
  a <- read_boundaries(write_file(plain, ".json"), layer = "land")
  expect_identical(a$id, c("a", "b", NA, NA))
  expect_identical(a$n, c(1L, 2L, NA, NA))
  expect_identical(
    wkt_of(a),
    c(
      "POLYGON ((2 0, 2 2, 0 2, 0 0, 2 0))", "MULTIPOLYGON (((2 0, 4 0, 4 2, 2 2, 2 0)))", NA,
      "GEOMETRYCOLLECTION (LINESTRING (2 2, 2 0))"
    )
  )
  expect_equal(areas_km2(read_boundaries(write_file(steps, ".json"), layer = "land")), areas_km2(a))
  e <- expect_error(
    read_boundaries(write_file(plain, ".json")), "land.*towns.*layer = \"land\"",
    class = "ochre_error_layer"
  )
  expect_identical(e$layers, c("land", "towns"))
  expect_identical(
    wkt_of(read_boundaries(write_file(plain, ".json"), layer = "towns")),
    "MULTIPOINT ((1 1), (2 2))"
  )
  expect_output(print(inspect_file(write_file(plain, ".json"))), "holds 2 layers.*land.*towns")
})

test_that("a shapefile is read from folder, file and zip, with dates, holes and encoding", {
  folder <- tempfile("ochre-test-")
  stem <- write_shapefile(
    file.path(folder, "areas"),
    cpg = "1250",
    name = iconv("Łódka", "UTF-8", "CP1250", toRaw = TRUE)[[1]]
  )
  zip <- zip_files(temporary(".zip"), list.files(folder), folder)
  for (x in list(folder, paste0(stem, ".shp"), zip)) {
    d <- read_boundaries(x)
    expect_identical(
      as.list(d[1:6]),
      list(
        CODE = c("01", "02", "03"), NAME = c("Łódka", "B", NA), N = c(12L, NA, -3L),
        SHARE = c(0.125, NA, 1000), SINCE = as.Date(c("2031-05-01", NA, NA)),
        COAST = c(TRUE, NA, FALSE)
      )
    )
    expect_identical(
      wkt_of(d),
      c(
        paste0(
          "MULTIPOLYGON (((0 0, 0 4, 4 4, 4 0, 0 0), (1 1, 2 1, 2 2, 1 2, 1 1)), ((6 0, 6 1, ",
          "7 1, 7 0, 6 0)))"
        ),
        "POLYGON ((1 1, 1 2, 2 2, 2 1, 1 1))", NA
      )
    )
  }
  # The language byte counts where there is no .cpg; an argument counts before both.
  other <- write_shapefile(
    file.path(tempfile(), "b"),
    language = 0x26,
    name = as.raw(c(0x8c, 0xa8, 0xe0))
  )
  expect_identical(read_boundaries(dirname(other))$NAME[1], "Мир")
  expect_false(identical(read_boundaries(dirname(other), encoding = "CP437")$NAME[1], "Мир"))
  wrong <- write_shapefile(
    file.path(tempfile(), "c"),
    cpg = "UTF-8",
    name = as.raw(c(0x4b, 0xf6, 0x72))
  )
  expect_warning(
    d <- read_boundaries(dirname(wrong)), "1 text is not valid UTF-8",
    class = "ochre_warning_encoding"
  )
  expect_identical(d$NAME[1], "Kör")
  # Two in one archive are listed; one is asked for by name.
  write_shapefile(file.path(folder, "water"))
  both <- zip_files(temporary(".zip"), list.files(folder), folder)
  expect_error(read_boundaries(both), "areas.*water", class = "ochre_error_layer")
  expect_identical(nrow(read_boundaries(both, layer = "water")), 3L)
  expect_error(read_boundaries(folder), "areas.*water", class = "ochre_error_layer")
  expect_error(read_boundaries(paste0(stem, ".dbf")), "ends in .shp", class = "ochre_error_file")
})

test_that("GeoParquet is read by its metadata; a Parquet file without them is refused", {
  skip_if_not_installed("nanoparquet")
  d <- districts()
  table <- as.data.frame(d[c("code", "population")])
  table$shape <- unclass(d$geometry)
  attributes(table$shape) <- NULL
  file <- temporary(".parquet")
  geo <- paste0(
    "{\"version\":\"1.0.0\",\"primary_column\":\"shape\",",
    "\"columns\":{\"shape\":{\"encoding\":\"WKB\",\"geometry_types\":[]%s}}}"
  )
  nanoparquet::write_parquet(table, file, metadata = c(geo = sprintf(geo, "")))
  expect_equal(
    read_boundaries(file)[c("code", "population", "geometry")],
    d[c("code", "population", "geometry")]
  )
  nanoparquet::write_parquet(
    table,
    file,
    metadata = c(geo = sprintf(geo, ",\"crs\":{\"id\":{\"authority\":\"EPSG\",\"code\":4326}}"))
  )
  expect_identical(nrow(read_boundaries(file)), 100L)
  # In parts, with what the names of their folders say.
  parts <- temporary("")
  for (year in c("2030", "__HIVE_DEFAULT_PARTITION__")) {
    dir.create(file.path(parts, paste0("year=", year)), recursive = TRUE)
    part <- file.path(parts, paste0("year=", year), "part-0.parquet")
    half <- table[if (year == "2030") 1:50 else 51:100, ]
    nanoparquet::write_parquet(half, part, metadata = c(geo = sprintf(geo, "")))
  }
  dir.create(file.path(parts, "_begun"))
  file.copy(part, file.path(parts, "_begun", "part-0.parquet"))
  expect_message(whole <- read_boundaries(parts), "2 Parquet parts of one table")
  expect_equal(whole[c("code", "geometry")], d[c("code", "geometry")])
  # "2030" stands before "__HIVE".
  expect_identical(whole$year, rep(c(2030L, NA), each = 50))
  other <- sub("geometry_types", "bbox\":[0,0,1,1],\"geometry_types", sprintf(geo, ""))
  nanoparquet::write_parquet(half, part, metadata = c(geo = other))
  expect_error(read_boundaries(parts), "not described alike", class = "ochre_error_file")
  nanoparquet::write_parquet(table["code"], file)
  expect_error(read_boundaries(file), "without geometry", class = "ochre_error_file")
})

test_that("tables become points by name, range or well-known text; swaps are noticed", {
  by_name <- write_file("name;Länge;Breite\nA;-38,5;46,25\nB;;\n")
  d <- read_boundaries(by_name)
  expect_identical(wkt_of(d), c("POINT (-38.5 46.25)", NA))
  by_range <- write_file("name,u,v,n\nA,46.12345,-98.51111,1\nB,47.54321,-99.72222,2\n")
  expect_identical(wkt_of(read_boundaries(by_range))[1], "POINT (-98.51111 46.12345)")
  expect_warning(
    d <- read_boundaries(write_file("lon,lat\n46.12,-98.5\n47.5,-99.7\n")), "exchanged",
    class = "ochre_warning_swapped"
  )
  expect_identical(wkt_of(d)[1], "POINT (-98.5 46.12)")
  w <- tryCatch(
    read_boundaries(write_file("lon,lat\n120.5,46\n121.5,47\n46,120\n")),
    ochre_warning_swapped = identity
  )
  expect_identical(w$rows, 3L)
  expect_identical(
    wkt_of(read_boundaries(write_file(
      "code,shape\n01,\"SRID=4326;POLYGON ((0 0, 1 0, 1 1, 0 0))\"\n02,POINT EMPTY\n"
    ))),
    c("POLYGON ((0 0, 1 0, 1 1, 0 0))", "POINT EMPTY")
  )
  expect_error(
    read_boundaries(write_file("a,b\n1,2\n")), "`longitude` and `latitude`",
    class = "ochre_error_column"
  )
  skip_if_not_installed("writexl")
  book <- temporary(".xlsx")
  writexl::write_xlsx(
    list(
      first = data.frame(longitude = -38.5, latitude = 46, code = "01"),
      second = data.frame(x = 1)
    ),
    book
  )
  expect_identical(as.list(read_boundaries(book)[c("code")]), list(code = "01"))
  expect_identical(wkt_of(read_boundaries(book, layer = "first")), "POINT (-38.5 46)")
  expect_error(read_boundaries(book, layer = "third"), "first.*second", class = "ochre_error_layer")
})

test_that("boundaries in UTF-16, with U+0000, or read back by another session are whole", {
  text <- paste0(
    '{"type":"Feature","properties":{"name":"\u00d8st"},"geometry":{"type":"Point",',
    '"coordinates":[9,48]}}'
  )
  for (encoding in c("UTF-16LE", "UTF-16BE", "UTF-16")) {
    x <- read_boundaries(write_file(
      stringi::stri_encode(text, "UTF-8", encoding, to_raw = TRUE)[[1]],
      ".geojson"
    ))
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
    printed_by(sprintf(
      paste0(
        "suppressMessages(library(ochre)); x <- readRDS('%s'); ",
        "writeLines(class(x[1, ]$geometry)[1]); writeLines(format(x$geometry[1]))"
      ),
      kept
    ))[1],
    "wk_wkb"
  )
})

test_that("the table of a shapefile is read by itself; a cut character costs only itself", {
  folder <- withr::local_tempdir()
  stem <- write_shapefile(
    file.path(folder, "a"),
    cpg = "1252",
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
        length(values),
        language
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
