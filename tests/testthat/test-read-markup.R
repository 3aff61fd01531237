# KML, KMZ and GPX.

test_that("KML and KMZ give placemarks with folders, extended data, holes and tracks", {
  kml <- paste0(
    "<?xml version=\"1.0\"?><kml xmlns=\"http://www.opengis.net/kml/2.2\" ",
    "xmlns:gx=\"http://www.google.com/kml/ext/2.2\"><Document><Folder><name>North</name>",
    "<Placemark><name>A</name><ExtendedData><Data name=\"code\"><value>01</value></Data>",
    "<Data name=\"n\"><value>5</value></Data></ExtendedData><MultiGeometry><Polygon>",
    "<outerBoundaryIs><LinearRing><coordinates>\n 0,0,5 4,0 4,4\n0,4 0,0 </coordinates>",
    "</LinearRing></outerBoundaryIs><innerBoundaryIs><LinearRing><coordinates>1,1 2,1 2,2 ",
    "1,1</coordinates></LinearRing></innerBoundaryIs></Polygon><Polygon><outerBoundaryIs>",
    "<LinearRing><coordinates>6,6 7,6 7,7</coordinates></LinearRing></outerBoundaryIs>",
    "</Polygon></MultiGeometry></Placemark></Folder>",
    "<Placemark><name>&lt;b&gt; &amp; c</name><Point><coordinates>-1.5,+2</coordinates>",
    "</Point></Placemark><Placemark><gx:Track><gx:coord>1 2 3</gx:coord><gx:coord>3 4 ",
    "5</gx:coord></gx:Track></Placemark><Placemark><name>none</name></Placemark></Document>",
    "</kml>"
  )
  file <- write_file(kml, ".kml")
  kmz <- zip_files(temporary(".kmz"), basename(file), dirname(file))
  for (x in c(file, kmz)) {
    d <- read_boundaries(x)
    expect_identical(d$name, c("A", "<b> & c", NA, "none"))
    expect_identical(d$folder, c("North", NA, NA, NA))
    expect_identical(list(d$code, d$n), list(c("01", NA, NA, NA), c(5L, NA, NA, NA)))
    expect_identical(
      wkt_of(d),
      c(
        "MULTIPOLYGON (((0 0, 4 0, 4 4, 0 4, 0 0), (1 1, 2 1, 2 2, 1 1)), ((6 6, 7 6, 7 7, 6 6)))",
        "POINT (-1.5 2)", "LINESTRING (1 2, 3 4)", NA
      )
    )
  }
})

test_that("GPX gives waypoints, tracks of several segments, and routes", {
  gpx <- paste0(
    "<gpx xmlns=\"http://www.topografix.com/GPX/1/1\" version=\"1.1\"><wpt lat=\"2\" ",
    "lon=\"1\"><ele>12.5</ele><name>W</name></wpt><rte><name>R</name><rtept lat=\"0\" ",
    "lon=\"0\"/><rtept lat=\"1\" lon=\"1\"/></rte>",
    "<trk><name>T</name><trkseg><trkpt lat=\"0\" lon=\"0\"/><trkpt lat=\"1\" ",
    "lon=\"2\"/></trkseg><trkseg><trkpt lat=\"5\" lon=\"5\"/><trkpt lat=\"6\" ",
    "lon=\"7\"/></trkseg></trk></gpx>"
  )
  d <- read_boundaries(write_file(gpx, ".gpx"))
  expect_identical(
    as.list(d[c("kind", "name", "elevation")]),
    list(
      kind = c("waypoint", "track", "route"), name = c("W", "T", "R"), elevation = c(12.5, NA, NA)
    )
  )
  expect_identical(
    wkt_of(d), c("POINT (1 2)", "MULTILINESTRING ((0 0, 2 1), (5 5, 7 6))", "LINESTRING (0 0, 1 1)")
  )
  expect_identical(read_boundaries(write_file(gpx, ".gpx"), layer = "routes")$name, "R")
})

test_that("KML is read whatever its root, prefix or namespace", {
  place <- function(p, ns = "") {
    sprintf(
      paste0(
        "<%sPlacemark%s><%sname>Ilm</%sname><%sPoint><%scoordinates>9,48</%scoordinates>",
        "</%sPoint></%sPlacemark>"
      ),
      p,
      ns,
      p,
      p,
      p,
      p,
      p,
      p,
      p
    )
  }
  spelt <- c(
    place(""),
    sprintf("<Folder><name>F</name>%s</Folder>", place("")),
    place("k:", ' xmlns:k="urn:old:2.0"'),
    sprintf('<k:kml xmlns:k="urn:old:2.0"><k:Document>%s</k:Document></k:kml>', place("k:")),
    sprintf('<kml xmlns="urn:other"><Document>%s</Document></kml>', place(""))
  )
  for (text in spelt) {
    x <- read_boundaries(write_file(text, ".kml"))
    expect_identical(list(x$name, wkt_of(x)), list("Ilm", "POINT (9 48)"), info = text)
  }
})
