label_lon <- function(d) positions_core(unclass(label_points(d)$geometry))

test_that("PostGIS gives geometry as binary, hexadecimal, in other systems; values are bound", {
  skip_if_not_installed("RPostgres")
  port <- start_postgres()
  con <- DBI::dbConnect(
    RPostgres::Postgres(),
    host = "127.0.0.1",
    port = port,
    user = "postgres",
    dbname = "postgres"
  )
  on.exit(DBI::dbDisconnect(con), add = TRUE, after = FALSE)
  suppressMessages({
    DBI::dbExecute(con, "SET client_min_messages = warning")
    DBI::dbExecute(con, "CREATE EXTENSION postgis")
    DBI::dbExecute(con, "CREATE SCHEMA health")
    DBI::dbExecute(
      con,
      "CREATE TABLE health.districts (code text, people bigint, geom geometry(MultiPolygonZ, 4326))"
    )
  })
  d <- read_boundaries(ochre_demo("districts.geojson"))
  DBI::dbExecute(
    con,
    "INSERT INTO health.districts SELECT $1, $2, ST_Force3D(ST_Multi(ST_GeomFromText($3, 4326)))",
    params = list(d$code, d$population, as.character(wk::as_wkt(d$geometry)))
  )
  DBI::dbExecute(con, "INSERT INTO health.districts VALUES ('none', 9007199254740993, NULL)")
  binary <- read_boundaries(
    con,
    query = paste0(
      "SELECT code, people, ST_AsBinary(geom) AS shape FROM health.districts WHERE people < ",
      "1e9 ORDER BY code"
    )
  )
  expect_identical(binary$code, sort(d$code))
  same_areas(binary, d[order(d$code), ], 1e-9)
  expect_equal(binary$people, as.numeric(d$population[order(d$code)]))
  # What the server calls geometry comes as text of hexadecimal digits, with the system inside; a
  # number that a double cannot hold stays text.
  table <- read_boundaries(con, layer = "health.districts")
  expect_identical(nrow(table), 101L)
  expect_identical(table$people[table$code == "none"], "9007199254740993")
  expect_true(is.na(table$geometry[table$code == "none"]))
  expect_equal(sum(areas_km2(table), na.rm = TRUE), sum(areas_km2(d)))
  # The server's own measure is a second computation of ours.
  server <- DBI::dbGetQuery(
    con,
    paste0(
      "SELECT ST_Area(geom::geography) / 1e6 AS km2 FROM health.districts WHERE geom IS NOT ",
      "NULL ORDER BY code"
    )
  )$km2
  expect_equal(areas_km2(binary), server, tolerance = 1e-6)
  centre <- DBI::dbGetQuery(
    con,
    paste0(
      "SELECT bool_and(ST_Within(ST_SetSRID(ST_MakePoint(lon, lat), 4326), geom)) AS ok FROM ",
      "health.districts JOIN unnest($1::text[], $2::float8[], $3::float8[]) AS p(c, lon, ",
      "lat) ON p.c = code"
    ),
    params = list(
      paste0("{", paste(d$code, collapse = ","), "}"),
      paste0("{", paste(label_lon(d)[, 1], collapse = ","), "}"),
      paste0("{", paste(label_lon(d)[, 2], collapse = ","), "}")
    )
  )
  expect_true(centre$ok)
  one <- read_boundaries(
    con,
    query = "SELECT code, geom FROM health.districts WHERE code = $1",
    params = list("0101'; DROP TABLE health.districts; --")
  )
  expect_identical(nrow(one), 0L)
  skip_if_not_installed("PROJ")
  moved <- read_boundaries(
    con,
    query = paste0(
      "SELECT code, ST_Transform(geom, 3857) AS geom FROM health.districts WHERE geom IS NOT ",
      "NULL ORDER BY code"
    )
  )
  same_areas(moved, d[order(d$code), ], 1e-7)
  expect_error(
    read_boundaries(con, query = "SELEC 1"), "refuses the query.*syntax",
    class = "ochre_error_database"
  )
  expect_error(
    read_boundaries(con, query = "SELECT code FROM health.districts"), "ST_AsBinary",
    class = "ochre_error_argument"
  )
  # Merged and mended areas are valid to the server's eyes.
  valid <- function(x) {
    DBI::dbGetQuery(
      con,
      "SELECT bool_and(ST_IsValid(ST_GeomFromText(w, 4326))) AS ok FROM unnest($1::text[]) AS w",
      params = list(paste0(
        "{\"",
        paste(as.character(wk::as_wkt(x$geometry)), collapse = "\",\""),
        "\"}"
      ))
    )$ok
  }
  expect_true(valid(merge_areas(d, region)))
  expect_true(valid(quietly(simplify_boundaries(d, keep = 0.1))))
  bow <- read_boundaries(tibble::tibble(
    geometry = wk::wkt(c(
      "POLYGON ((0 0, 2 2, 2 0, 0 2, 0 0))",
      "POLYGON ((0 0, 4 0, 4 3, 1 3, 1 -1, 3 -1, 3 4, 0 4, 0 0))"
    ))
  ))
  expect_false(valid(bow))
  expect_true(valid(quietly(mend_boundaries(bow))))
})

test_that("SpatiaLite gives geometry through a query", {
  skip_if_not_installed("RSQLite")
  con <- DBI::dbConnect(RSQLite::SQLite(), ":memory:", loadable.extensions = TRUE)
  on.exit(DBI::dbDisconnect(con))
  skip_if(
    inherits(
      try(DBI::dbGetQuery(con, "SELECT load_extension('mod_spatialite')"), silent = TRUE),
      "try-error"
    ),
    "SpatiaLite is not installed"
  )
  d <- read_boundaries(
    con,
    query = paste0(
      "SELECT 'a' AS code, AsBinary(GeomFromText('POLYGON((0 0, 1 0, 1 1, 0 0))', 4326)) AS ",
      "geometry"
    )
  )
  expect_identical(wkt_of(d), "POLYGON ((0 0, 1 0, 1 1, 0 0))")
})
