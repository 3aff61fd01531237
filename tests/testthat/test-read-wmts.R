# Tiles by the capabilities of a WMTS server.

test_that("a WMTS server's capabilities give the common levels, by template or by keys", {
  wmts <- function(path, ...) {
    resolve_sheet(
      under() |> lay_wmts(path, "orvane", "W", ...) |> draw_lines(land())
    )$backdrops[[1]]
  }
  b <- wmts(capabilities())
  expect_identical(b$url, "https://w.example/wmts/tiles/{z}/{y}/{x}.png")
  common <- common_levels(list(levels = tile_levels, tile = 256, rows = "top"))
  for (field in c("metres", "x", "y", "columns", "rows")) {
    expect_equal(
      vapply(b$levels, function(l) l[[field]], 0),
      vapply(common, function(l) l[[field]], 0),
      tolerance = 1e-10
    )
  }
  # OGC 07-057r7, annex E.4: level 0 of GoogleMapsCompatible has the scale denominator
  # 559082264.0287178.
  expect_equal(2 * mercator_edge / 256 / pixel_metres, 559082264.0287178, tolerance = 1e-12)
  keys <- wmts(capabilities(function(x) {
    sub(
      "<ResourceURL[^>]*/>",
      "",
      sub(
        "<Contents>",
        paste0(
          "<ows:OperationsMetadata><ows:Operation name=\"GetTile\"><ows:DCP><ows:HTTP>",
          "<ows:Get xlink:href=\"https://w.example/ask?map=a\" ",
          "xmlns:xlink=\"http://www.w3.org/1999/xlink\"/></ows:HTTP></ows:DCP>",
          "</ows:Operation></ows:OperationsMetadata><Contents>"
        ),
        x
      )
    )
  }))
  expect_identical(
    keys$url,
    paste0(
      "https://w.example/ask?map=a&SERVICE=WMTS&REQUEST=GetTile&VERSION=1.0.0&LAYER=orvane",
      "&STYLE=plain&FORMAT=image%2Fpng&TILEMATRIXSET=world&TILEMATRIX={z}&TILEROW={y}&TILECOL={x}"
    )
  )
  refused <- function(change, what, class = "ochre_error_service") {
    expect_error(wmts(capabilities(change)), what, class = class)
  }
  refused(function(x) sub(">orvane<", ">orvan<", x), "Did you mean `orvan`")
  refused(function(x) sub("EPSG::3857", "EPSG::25832", x), "none of them in web Mercator")
  refused(function(x) sub("EPSG::3857", "EPSG::13857", x), "none of them in web Mercator")
  refused(
    function(x) {
      sub(
        "<TileMatrixSetLink>",
        "<Dimension><ows:Identifier>Time</ows:Identifier></Dimension><TileMatrixSetLink>",
        x
      )
    },
    "gives no value for `Time`"
  )
  refused(function(x) sub("https://w.example/wmts", "javascript:alert(1)//", x), "cannot be used")
  refused(
    function(x) sub("<ScaleDenominator>[^<]*", "<ScaleDenominator>-1", x),
    "numbers cannot be read"
  )
  refused(
    function(x) sub("?>", "?><!DOCTYPE a [<!ENTITY b \"c\">]>", x, fixed = TRUE),
    "document type",
    "ochre_error_file"
  )
  refused(function(x) substr(x, 1, 900), "not well-formed", "ochre_error_file")
  expect_error(
    wmts(capabilities(), style = "plane"), "Styles: `plain`", class = "ochre_error_service"
  )
  expect_error(wmts(ochre_demo("visits.csv")), class = "ochre_error_file")
})
