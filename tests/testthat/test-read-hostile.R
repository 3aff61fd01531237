# Whatever comes in ends in a classed error that names the file, in little time and memory.

refused <- function(file, class = "ochre_error_file", ...) {
  took <- system.time(e <- expect_error(quietly(read_boundaries(file, ...)), class = class))[[
    "elapsed"
  ]]
  expect_lt(took, 10)
  expect_s3_class(e, "ochre_error")
  invisible(e)
}
bytes_file <- function(bytes, ext) {
  file <- temporary(ext)
  writeBin(bytes, file)
  file
}

test_that("files cut off anywhere are refused, or read where nothing is lost", {
  folder <- tempfile("ochre-test-")
  stem <- write_shapefile(file.path(folder, "a"))
  gpkg <- temporary(".gpkg")
  parquet <- temporary(".parquet")
  kml <- write_file(
    "<kml><Placemark><name>a</name><Point><coordinates>1,2</coordinates></Point></Placemark></kml>",
    ".kml"
  )
  write_boundaries(squares(c("1", "2")), gpkg)
  nanoparquet::write_parquet(data.frame(a = 1:3), parquet, metadata = c(geo = "{}"))
  zip <- zip_files(temporary(".zip"), list.files(folder), folder)
  for (file in c(paste0(stem, ".shp"), gpkg, parquet, kml, zip)) {
    whole <- readBin(file, "raw", 1e6)
    for (share in c(0.1, 0.3, 0.5, 0.7, 0.9)) {
      writeBin(utils::head(whole, round(share * length(whole))), file)
      e <- tryCatch(quietly(read_boundaries(file)), ochre_error = identity)
      expect_true(inherits(e, "ochre_error"), label = paste(basename(file), share))
    }
    writeBin(whole, file)
  }
})

test_that("counts that lie, offsets outside and tables that do not belong name their byte", {
  folder <- tempfile("ochre-test-")
  stem <- write_shapefile(file.path(folder, "a"))
  shp <- readBin(paste0(stem, ".shp"), "raw", 1e5)
  spoil <- function(at, value) {
    bytes <- shp
    bytes[at + seq_along(value)] <- value
    writeBin(bytes, paste0(stem, ".shp"))
    refused(paste0(stem, ".shp"))
  }
  expect_identical(spoil(104, be(2^30))$byte, 104)  # a record longer than the file
  expect_match(spoil(144, le(2^30))$message, "more points")  # parts
  expect_match(spoil(148, le(2^31 - 1))$message, "more points")  # points
  expect_match(spoil(156, le(10^6))$message, "outside of its points")
  expect_match(spoil(108, le(99))$message, "shape type 99")
  writeBin(shp, paste0(stem, ".shp"))
  dbf <- readBin(paste0(stem, ".dbf"), "raw", 1e5)
  for (change in list(list(4, le(1000)), list(8, as.raw(c(255, 255))), list(10, as.raw(c(1, 0))))) {
    bytes <- dbf
    bytes[change[[1]] + seq_along(change[[2]])] <- change[[2]]
    writeBin(bytes, paste0(stem, ".dbf"))
    expect_match(refused(paste0(stem, ".shp"))$message, "byte")
  }
  writeBin(
    dbf_bytes(list(list(name = "A", type = "C", width = 1, values = list("x"))), 1),
    paste0(stem, ".dbf")
  )
  expect_match(refused(paste0(stem, ".shp"))$message, "3 shapes.*1 rows")
})

test_that("archives that climb out, unpack to gigabytes or hold nothing of use are refused", {
  skip_if(!nzchar(Sys.which("python3")) && !nzchar(Sys.which("zip")))
  there <- list.files(tempdir(), pattern = "^ochre-[0-9a-f]+$")
  folder <- tempfile("ochre-test-")
  dir.create(file.path(folder, "in"), recursive = TRUE)
  writeLines("{}", file.path(folder, "x.geojson"))
  climbing <- zip_files(temporary(".zip"), "../x.geojson", file.path(folder, "in"))
  expect_match(refused(climbing)$message, "unpacked elsewhere")
  writeLines("hello", file.path(folder, "note.txt"))
  expect_match(
    refused(zip_files(temporary(".zip"), "note.txt", folder))$message, "no file that can be read"
  )
  # 300 MB of blanks in a few hundred kB, with a limit of 50 MB: by what it says, and by what it
  # does.
  con <- gzfile(file.path(folder, "big.geojson.gz"), "wb")
  for (i in 1:300) writeBin(rep(as.raw(0x20), 1e6), con)
  close(con)
  old <- options(ochre.unpack_limit = 5e7)
  on.exit(options(old))
  expect_match(refused(file.path(folder, "big.geojson.gz"))$message, "larger than 50 MB")
  con <- file(file.path(folder, "big.geojson"), "wb")
  for (i in 1:100) writeBin(rep(as.raw(0x20), 1e6), con)
  close(con)
  expect_match(
    refused(zip_files(temporary(".zip"), "big.geojson", folder))$message, "unpacks to 100 MB"
  )
  # A packed file that fails inside of an archive: what was unpacked on the way is gone again.
  writeBin(
    utils::head(readBin(file.path(folder, "big.geojson.gz"), "raw", 1e7), 5000),
    file.path(folder, "cut.geojson.gz")
  )
  refused(zip_files(temporary(".zip"), "cut.geojson.gz", folder))
  expect_identical(
    setdiff(list.files(tempdir(), pattern = "^ochre-[0-9a-f]+$"), there), character()
  )
})

test_that("XML with entities, unclosed or nested without end is refused and expands nothing", {
  bomb <- paste0(
    "<!DOCTYPE kml [<!ENTITY a \"",
    strrep("x", 1000),
    "\">",
    paste0("<!ENTITY b", 1:9, " \"&a;&a;&a;\">", collapse = ""),
    "]><kml><Placemark><name>&b9;</name></Placemark></kml>"
  )
  expect_match(refused(write_file(bomb, ".kml"))$message, "declares a document type")
  secret <- write_file(
    paste0(
      "<!DOCTYPE kml [<!ENTITY f SYSTEM ",
      "\"file:///etc/passwd\">]><kml><Placemark><name>&f;</name></Placemark></kml>"
    ),
    ".kml"
  )
  refused(secret)
  refused(write_file(paste0("<kml>", strrep("<Folder>", 100000)), ".kml"))
  refused(write_file(
    "<kml><Placemark><Point><coordinates>1;2</coordinates></Point></Placemark></kml>",
    ".kml"
  ))
  refused(write_file("<!doctype html><html><body>Not found</body></html>", ".kml"))
})

test_that("text nested without end, in mixed encodings or of another kind is refused", {
  deep <- write_file(
    paste0("{\"type\":\"FeatureCollection\",\"features\":", strrep("[", 1e5)),
    ".geojson"
  )
  refused(deep)
  refused(write_file(
    paste0(
      "{\"x\":", strrep("[", 1e5), strrep("]", 1e5),
      ",\"type\":\"Polygon\",\"coordinates\":", strrep("[", 1e5)
    ),
    ".json"
  ))
  refused(write_file(
    paste0(
      "{\"type\":\"Topology\",\"objects\":{\"a\":{\"type\":\"Polygon\",\"arcs\":",
      strrep("[", 1e5)
    ),
    ".json"
  ))
  refused(write_file(paste0(strrep("{\"type\":\"Feature\",\"properties\":", 1e5)), ".json"))
  topology <- paste0(
    "{\"type\":\"Topology\",\"objects\":{\"a\":{\"type\":\"GeometryCollection\",",
    "\"geometries\":[%s]}},\"arcs\":[[[0,0],[1,1],[0,1],[0,0]]]}"
  )
  expect_match(
    refused(write_file(
      sprintf(topology, "{\"type\":\"LineString\",\"arcs\":[7]}"),
      ".json"
    ))$message,
    "feature 1.*arc is named"
  )
  many <- paste(
    rep(
      sprintf(
        "{\"type\":\"MultiLineString\",\"arcs\":[[%s]]}",
        paste(rep("0", 4000), collapse = ",")
      ),
      200
    ),
    collapse = ","
  )
  expect_match(refused(write_file(sprintf(topology, many), ".json"))$message, "again and again")
  expect_match(
    refused(bytes_file(
      c(
        charToRaw("{\"type\":\"Feature\",\"geometry\":null,\"properties\":{\"a\":\""),
        as.raw(c(0xc3, 0xa9, 0xe9)),
        charToRaw("\"}}")
      ),
      ".json"
    ))$message,
    "line 1, column 56.*not valid UTF-8"
  )
  refused(bytes_file(as.raw(0:255), ".dat"), class = "ochre_error")
  refused(bytes_file(raw(), ".geojson"))
  refused(tempdir())
  refused("ftp://somewhere/x.zip", class = "ochre_error_url")
  gpkg <- temporary(".gpkg")
  con <- DBI::dbConnect(RSQLite::SQLite(), gpkg)
  DBI::dbWriteTable(con, "plain", data.frame(a = 1))
  DBI::dbDisconnect(con)
  expect_match(refused(gpkg)$message, "not a GeoPackage")
  wkb <- tibble::tibble(g = wk::new_wk_wkb(list(as.raw(c(1, 3, 0, 0, 0, 255, 255, 255, 255)))))
  refused(wkb, class = "ochre_error_geometry")
})

test_that("300,000 columns, 30,000 names and a line of 20 MB end soon and in bounds", {
  long <- strrep("y", 2e7)
  feature <- function(properties) {
    sprintf(
      '{"type":"Feature","properties":{%s},"geometry":{"type":"Point","coordinates":[1,2]}}',
      properties
    )
  }
  many <- paste0('"c', 1:3e4, '":1')
  nested <- function(open, inner, close, n = 5000) {
    paste0(strrep(open, n), inner, strrep(close, n))
  }
  files <- c(
    write_file(c(
      charToRaw(paste0("c", 1:3e5, collapse = ",")),
      charToRaw("\n"),
      charToRaw(paste(rep("1", 3e5), collapse = ","))
    )),
    write_file(sprintf("[{%s}]", paste0('"c', 1:3e5, '":1', collapse = ",")), ".json"),
    write_file(feature(paste(many, collapse = ",")), ".geojson"),
    write_file(
      sprintf('{"type":"FeatureCollection","features":[%s]}', paste(feature(many), collapse = ",")),
      ".geojson"
    ),
    write_file(sprintf("[%s]", paste0("{", many, "}", collapse = ",")), ".json"),
    write_file(paste0("a,b\nx,", long)),
    write_file(long),
    write_file(strrep("a,", 1e7)),
    write_file(sprintf('{"a":1,"b":"%s"}\n{"a":2,"b":"c"}', long), ".jsonl"),
    write_file(feature(sprintf('"a":"%s"', long)), ".geojson"),
    write_file(paste0("{", strrep(" ", 2e7)), ".json"),
    write_file(
      nested(
        '{"type":"GeometryCollection","geometries":[',
        '{"type":"Point","coordinates":[1,2]}',
        "]}"
      ),
      ".geojson"
    ),
    write_file(nested('{"a":', "1", "}"), ".json"),
    write_file(feature(paste0('"a":', nested('{"a":', "1", "}"))), ".geojson"),
    write_file(
      sprintf(
        "<kml><Document>%s</Document></kml>",
        nested("<Folder>", "<Placemark/>", "</Folder>")
      ),
      ".kml"
    ),
    write_file(paste0("wkt\n", nested("GEOMETRYCOLLECTION (", "POINT (1 2)", ")")))
  )
  withr::defer(unlink(files))
  for (file in files) {
    for (read in list(read_boundaries, read_statistics, inspect_file)) {
      gc(reset = TRUE)
      taken <- sum(system.time(got <- tryCatch(quietly(read(file)), error = identity))[1:2])
      megabytes <- sum(gc()[, 6])
      expect_true(!inherits(got, "error") || inherits(got, "ochre_error"), info = basename(file))
      expect_lt(taken, 5)
      expect_lt(megabytes, 1000)
    }
  }
})

test_that("two documents in one file, and what is named as another format, are said", {
  folder <- withr::local_tempdir()
  text <- readLines(squares_file(c("01", "02")))
  two <- file.path(folder, "two.geojson")
  writeLines(c(text, text), two)
  expect_warning(both <- read_boundaries(two), "2 feature collections",
                 class = "ochre_warning_documents")
  expect_identical(nrow(both), 4L)
  writeLines("[{\"a\":1}] [{\"a\":2}]", lists <- file.path(folder, "two.json"))
  expect_warning(suppressMessages(read_statistics(lists)), "2 JSON documents",
                 class = "ochre_warning_documents")
  writeLines(c("{\"a\":1}", "{\"a\":2}"), lines <- file.path(folder, "lines.json"))
  expect_no_warning(suppressMessages(read_statistics(lines)))
  writeLines(text, file.path(folder, "in.geojson"))
  kmz <- zip_files(temporary(".kmz"), "in.geojson", folder)
  expect_warning(read_boundaries(kmz), "named as KML", class = "ochre_warning_format")
})

test_that("an area that also holds points is drawn by its polygons, in every kind of file", {
  folder <- withr::local_tempdir()
  square <- function(x) {
    sprintf("{\"type\":\"Polygon\",\"coordinates\":[[[%d,0],[%d,0],[%d,1],[%d,1],[%d,0]]]}",
            x, x + 1, x + 1, x, x)
  }
  both <- sprintf("{\"type\":\"GeometryCollection\",\"geometries\":[%s,%s]}",
                  "{\"type\":\"Point\",\"coordinates\":[0.5,0.5]}", square(0L))
  features <- sprintf("{\"type\":\"Feature\",\"properties\":{\"v\":%d},\"geometry\":%s}",
                      1:2, c(both, square(1L)))
  mixed <- sprintf("{\"type\":\"FeatureCollection\",\"features\":[%s]}",
                   paste(features, collapse = ","))
  writeLines(mixed, file <- file.path(folder, "mixed.geojson"))
  areas <- quietly(read_boundaries(file))
  expect_message(sheet <- map_sheet("T") |> shade_areas(areas, v, steps = steps_equal(2)),
                 "only the polygons")
  for (kind in c("png", "svg", "pdf", "html")) {
    out <- file.path(folder, paste0("map.", kind))
    quietly(publish(sheet, out))
    expect_gt(file.size(out), 500)
  }
})
