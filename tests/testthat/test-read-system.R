# Reference systems.

test_that("coordinates in another system come to longitude and latitude, or are refused", {
  skip_if_not_installed("PROJ")
  # The corner of a UTM zone: 500,000 m east is the middle meridian exactly; on the equator 0 m
  # north is latitude 0.
  old <- paste0(
    "{\"type\":\"FeatureCollection\",\"crs\":{\"type\":\"name\",",
    "\"properties\":{\"name\":\"urn:ogc:def:crs:EPSG::32631\"}},",
    "\"features\":[{\"type\":\"Feature\",\"properties\":{},",
    "\"geometry\":{\"type\":\"MultiPoint\",\"coordinates\":[[500000,0],[500000,5000000]]}}]}"
  )
  p <- positions_core(unclass(read_boundaries(write_file(old, ".geojson"))$geometry))
  expect_equal(p[, 1], c(3, 3), tolerance = 1e-9)
  # The same place by the core's own transverse Mercator: an independent computation.
  tm <- project_core(
    p[, 1],
    p[, 2],
    list(name = "transverse Mercator", lon0 = 3, lat0 = 0, lat1 = 0, lat2 = 0)
  )
  expect_equal(0.9996 * tm$y, c(0, 5e6), tolerance = 1e-9)
  expect_equal(0.9996 * tm$x + 5e5, c(5e5, 5e5), tolerance = 1e-9)
  bare <- sub("\"crs\":.*\"features\"", "\"features\"", old)
  expect_error(
    read_boundaries(write_file(bare, ".geojson")), "no reference system is named.*system =",
    class = "ochre_error_system"
  )
  expect_equal(
    positions_core(unclass(read_boundaries(write_file(bare, ".geojson"), system = 32631)$geometry)),
    p
  )
  expect_error(
    read_boundaries(write_file(bare, ".geojson"), system = "EPSG:999999"), "right system",
    class = "ochre_error_system"
  )
  expect_warning(
    read_boundaries(ochre_demo("districts.geojson"), system = 32631),
    "longitude and latitude already", class = "ochre_warning_system"
  )
  prj <- paste0(
    "PROJCS[\"WGS_1984_UTM_Zone_31N\",GEOGCS[\"GCS_WGS_1984\",DATUM[\"D_WGS_1984\",",
    "SPHEROID[\"WGS_1984\",6378137.0,298.257223563]],PRIMEM[\"Greenwich\",0.0],",
    "UNIT[\"Degree\",0.0174532925199433]],PROJECTION[\"Transverse_Mercator\"],",
    "PARAMETER[\"False_Easting\",500000.0],PARAMETER[\"False_Northing\",0.0],",
    "PARAMETER[\"Central_Meridian\",3.0],PARAMETER[\"Scale_Factor\",0.9996],",
    "PARAMETER[\"Latitude_Of_Origin\",0.0],UNIT[\"Meter\",1.0]]"
  )
  folder <- tempfile()
  write_shapefile(file.path(folder, "u"), prj = prj, unit = 100)
  expect_message(
    suppressWarnings(d <- read_boundaries(folder)),
    "transformed from WGS 1984 UTM Zone 31N to longitude and latitude.$"
  )
  other <- tempfile()
  write_shapefile(file.path(other, "u"), prj = sub("D_WGS_1984", "D_Old_Island", prj), unit = 100)
  expect_message(
    suppressWarnings(read_boundaries(other)),
    "The datum changes from Old Island; places may be off by metres."
  )
  expect_equal(
    positions_core(unclass(d$geometry))[, 1],
    c(0, 0, 4, 4, 0, 1, 2, 2, 1, 1, 6, 6, 7, 7, 6, 1, 1, 2, 2, 1) * 100 / 111320 - 1.4887,
    tolerance = 1e-4
  )
  without("PROJ", {
    expect_error(
      read_boundaries(write_file(old, ".geojson")),
      "EPSG:32631.*package PROJ.*not installed.*install.packages", class = "ochre_error_system"
    )
  })
  wkt <- tibble::tibble(g = wk::wkt("POINT (500000 0)", crs = "EPSG:32631"))
  expect_equal(
    positions_core(unclass(read_boundaries(wkt)$geometry))[1, ], c(3, 0), tolerance = 1e-9
  )
})

test_that("a projection file that is nonsense beside degrees is said and not followed; a link is", {
  folder <- withr::local_tempdir()
  stem <- file.path(folder, "a")
  utm <- paste0(
    'PROJCS["UTM_32",GEOGCS["g",DATUM["d",SPHEROID["s",6378137,298.257223563]],',
    'PRIMEM["Greenwich",0],UNIT["Degree",0.0174532925199433]],',
    'PROJECTION["Transverse_Mercator"],PARAMETER["False_Easting",500000],',
    'PARAMETER["False_Northing",0],PARAMETER["Central_Meridian",9],PARAMETER["Scale_Factor",',
    '0.9996],PARAMETER["Latitude_Of_Origin",0],UNIT["Meter",1]]'
  )
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
  square <- function(crs, x) {
    sprintf(
      paste0(
        '{"type":"FeatureCollection","crs":%s,"features":[{"type":"Feature","properties":{},',
        '"geometry":{"type":"Point","coordinates":%s}}]}'
      ),
      crs,
      x
    )
  }
  link <- paste0(
    '{"type":"link","properties":{"href":"http://register.example/def/crs/EPSG/0/25832",',
    '"type":"ogcwkt"}}'
  )
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
  said <- printed_by(sprintf(
    'try(ochre::read_boundaries("%s.shp", system = "EPSG:999999"), silent = TRUE)',
    stem
  ))
  expect_identical(said, character())
  for (bare in c("foo", "WGS", "Gauss", "utm32")) {
    expect_error(
      read_boundaries(paste0(stem, ".shp"), system = bare), "no reference system",
      class = "ochre_error_argument"
    )
  }
})
