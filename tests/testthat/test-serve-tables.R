# Tables of a database as collections: every row once by following links, also while rows are added,
# what is chosen in the engine, and what is refused. On a real PostgreSQL where it is installed.

stations <- local({
  set.seed(8)
  n <- 437
  data.frame(
    id = sample(sprintf("s%04d", 1:n)), longitude = round(runif(n, -40, -36), 4),
    latitude = round(runif(n, 46, 48), 4),
    kind = sample(c("town", "o'hill & <b>", "5%_[x]*?\\\u00df", NA), n, TRUE),
    height = round(rnorm(n, 200, 90)), open = sample(c(TRUE, FALSE), n, TRUE),
    since = as.Date("2031-01-01") + sample(300, n, TRUE)
  )
})

table_service <- function(connect, count_rows) {
  script <- temporary(".R")
  writeLines(c(
    sprintf("con <- %s", connect),
    "list(stations = dplyr::tbl(con, 'stations'), kinds = dplyr::tbl(con, 'kinds'))"
  ), script)
  service_of("--tables", script)
}

follow_all <- function(address) {
  features <- list()
  while (!is.null(address)) {
    page <- json_of(asked(address, Accept = "application/geo+json"))
    features <- c(features, page$features)
    address <- href(page, "next")
  }
  features
}

# Conditions as texts, and what R says of the same rows.
filters <- list(
  list("height > 200", quote(height > 200)),
  list("height>=150 AND height < 250.5", quote(height >= 150 & height < 250.5)),
  list("kind = 'o''hill & <b>' OR height < -1e1", quote(kind == "o'hill & <b>" | height < -10)),
  list("NOT (kind = 'town')", quote(kind != "town")),
  list("kind IS NULL and not height = +200", quote(is.na(kind) & height != 200)),
  list("\"kind\" is not null AND (height <> 200 or 300 > height)", quote(!is.na(kind))),
  list("NOT NOT longitude <= -38", quote(longitude <= -38)),
  list("id IN ('s0001', 's0042') or height in (200)", quote(
    id %in% c("s0001", "s0042") | height == 200
  )),
  list("kind NOT IN ('town')", quote(!is.na(kind) & kind != "town")),
  list("height NOT BETWEEN 100 AND 2e2", quote(height < 100 | height > 200)),
  list("id LIKE 's_04%'", quote(substr(id, 3, 4) == "04")),
  list("kind NOT LIKE 'T%' AND id LIKE '%7'", quote(!is.na(kind) & endsWith(id, "7"))),
  list("kind LIKE '5\\%\\_[x]*?\\\\\u00df'", quote(startsWith(kind, "5"))),
  list("kind LIKE '_%[x]%\u00df' OR kind LIKE '' OR kind LIKE '\\_%'", quote(startsWith(kind, "5")))
)

chosen_in_engine <- function(address, info) {
  ids <- function(query) {
    got <- follow_all(paste0(address, "/collections/stations/items?limit=60&", query))
    vapply(got, function(f) f$id, "")
  }
  with <- function(rows) sort(stations$id[which(rows)])
  d <- stations
  expect_identical(ids("bbox=-38.5,46.5,-37,47.5"),
                   with(d$longitude >= -38.5 & d$longitude <= -37 & d$latitude >= 46.5 &
                          d$latitude <= 47.5), info = info)
  expect_identical(ids("bbox=-37,46,-39,48"), with(d$longitude >= -37 | d$longitude <= -39))
  expect_identical(ids("kind=o%27hill%20%26%20%3Cb%3E"), with(d$kind == "o'hill & <b>"))
  expect_identical(ids("height=200"), with(d$height == 200))
  expect_identical(ids("height=many"), character())
  expect_identical(ids("kind=town%27%20OR%20%271%27%3D%271"), character())
  day <- as.character(d$since[3])
  if (info == "PostgreSQL") {
    expect_identical(ids(paste0("since=", day)), with(d$since == d$since[3]))
  }
  for (one in filters) {
    query <- paste0("filter=", curl::curl_escape(one[[1]]))
    expect_identical(ids(query), with(eval(one[[2]], d)), info = paste(one[[1]], info))
  }
  one <- asked(paste0(address, "/collections/stations/items/s0042?f=geojson"))
  expect_identical(json_of(one)$id, "s0042")
  mercator <- "crs=http%3A%2F%2Fwww.opengis.net%2Fdef%2Fcrs%2FEPSG%2F0%2F3857"
  at <- json_of(asked(paste0(address, "/collections/stations/items/s0042?f=geojson&", mercator)))
  expect_equal(at$geometry$coordinates[[1]],
               6378137 * pi / 180 * d$longitude[d$id == "s0042"], tolerance = 1e-6)
  faults <- c(
    "bbox=1,2,3" = 400, "limit=0" = 400, "offset=3" = 400, "heigth=3" = 400, "bbox=0,9,1,3" = 400
  )
  for (query in names(faults)) {
    got <- asked(paste0(address, "/collections/stations/items?", query))
    expect_identical(got$status, 400L, info = query)
    expect_match(got$type, "application/problem+json", fixed = TRUE)
  }
  for (path in c("/items/nobody", "/tiles", "/items/s0042/x")) {
    got <- asked(paste0(address, "/collections/stations", path))
    expect_identical(got$status, 404L, info = path)
  }
  expect_identical(asked(paste0(address, "/collections/kinds/items?bbox=1,2,3,4"))$status, 400L)
  expect_length(follow_all(paste0(address, "/collections/kinds/items?limit=2")), 3)
}

# What the service says of tables leads to them, and everything is there.
pages_of_tables <- function(address) {
  kinds <- "/collections/kinds/items"
  for (path in c("/", "/collections", "/collections/stations", "/api", kinds)) {
    for (form in c("text/html", "application/json")) {
      got <- asked(paste0(address, path), Accept = form)
      if (path == kinds && form != "text/html") next
      expect_identical(got$status, 200L, info = paste(path, form))
      expect_no_match(got$text, "<b>", fixed = TRUE)
    }
  }
  paths <- names(json_of(asked(paste0(address, "/api"), Accept = "application/json"))$paths)
  expect_setequal(grep("stations", paths, value = TRUE), paste0(
    "/collections/stations", c("", "/items", "/items/{featureId}", "/queryables")
  ))
  about <- json_of(asked(paste0(address, "/collections/stations?f=json")))
  expect_equal(unlist(about$extent$spatial$bbox), c(
    min(stations$longitude), min(stations$latitude), max(stations$longitude),
    max(stations$latitude)
  ))
  csv <- asked(paste0(address, "/collections/stations/items?f=csv&limit=1000"))
  expect_identical(nrow(utils::read.csv(text = csv$text)), nrow(stations))
  page <- asked(paste0(address, "/collections/stations/items?f=html&limit=1000"))
  expect_match(page$text, "o&#39;hill &amp; &lt;b&gt;|o'hill &amp; &lt;b&gt;")
  areas <- quietly(read_boundaries(paste0(address, "/collections/stations")))
  expect_identical(sort(areas$id), sort(stations$id))
}

test_that("rows of a database are features, page by page, and stay where they are", {
  skip_if_not_installed("RSQLite")
  file <- temporary(".sqlite")
  open <- list(SQLite = list(
    con = DBI::dbConnect(RSQLite::SQLite(), file),
    connect = sprintf("DBI::dbConnect(RSQLite::SQLite(), '%s')", file)
  ))
  if (requireNamespace("RPostgres", quietly = TRUE) && !is.null(postgres_programs())) {
    port <- start_postgres()
    open$PostgreSQL <- list(con = connect_postgres(port), connect = sprintf(paste0(
      "DBI::dbConnect(RPostgres::Postgres(), host = '127.0.0.1', port = %d, user = 'postgres', ",
      "dbname = 'postgres')"
    ), port))
  }
  for (name in names(open)) {
    con <- open[[name]]$con
    DBI::dbWriteTable(con, "stations", stations)
    DBI::dbWriteTable(con, "kinds", data.frame(kind = 1:3, words = c("a", "b", NA)))
    s <- table_service(open[[name]]$connect)
    whole <- follow_all(paste0(s$address, "/collections/stations/items?limit=50"))
    ids <- vapply(whole, function(f) f$id, "")
    expect_identical(ids, sort(stations$id), info = name)
    own <- stations[match(ids, stations$id), ]
    expect_equal(
      t(vapply(whole, function(f) unlist(f$geometry$coordinates), numeric(2))),
      unname(as.matrix(own[2:3])), info = name
    )
    said <- function(x) vapply(whole, function(f) as.character(f$properties[[x]] %||% NA), "")
    expect_identical(said("kind"), own$kind)
    expect_identical(as.numeric(said("height")), own$height)
    chosen_in_engine(s$address, name)
    pages_of_tables(s$address)
    # Rows that come and go between pages: the others are there once.
    first <- json_of(asked(paste0(s$address, "/collections/stations/items?limit=100&f=geojson")))
    DBI::dbExecute(con, "DELETE FROM stations WHERE id < 's0050'")
    DBI::dbExecute(con, "INSERT INTO stations (id) VALUES ('s0002x'), ('t0001')")
    rest <- follow_all(href(first, "next"))
    expect_identical(vapply(rest, function(f) f$id, ""), c(sort(stations$id)[101:437], "t0001"))
    expect_null(rest[[length(rest)]]$geometry)
    # The database goes away.
    DBI::dbExecute(con, "DROP TABLE kinds")
    gone <- asked(paste0(s$address, "/collections/kinds/items"))
    expect_identical(gone$status, 503L, info = paste(readLines(s$said), collapse = "\n"))
    expect_no_match(gone$text, "kinds")
    s$server$kill()
    DBI::dbDisconnect(con)
  }
})

test_that("areas that PostgreSQL keeps are features in degrees, and found by boxes there", {
  skip_if_not_installed("RPostgres")
  port <- start_postgres()
  con <- connect_postgres(port)
  on.exit(DBI::dbDisconnect(con), add = TRUE, after = FALSE)
  suppressMessages(DBI::dbExecute(con, "CREATE EXTENSION postgis"))
  d <- read_boundaries(ochre_demo("districts.geojson"))
  DBI::dbExecute(
    con, "CREATE TABLE stations (code text, place geometry, name text, other geometry)"
  )
  # In metres, in degrees and without a system; one with bends, one that is nowhere.
  DBI::dbExecute(
    con,
    paste(
      "INSERT INTO stations SELECT $1, CASE $4::int WHEN 0 THEN ST_Transform(g, 3857) WHEN 1 THEN",
      "g ELSE ST_SetSRID(ST_Force3D(g), 0) END, $2, ST_Centroid(g)",
      "FROM (SELECT ST_GeomFromText($3, 4326) AS g) s"
    ),
    params = list(d$code, d$name, as.character(wk::as_wkt(d$geometry)), seq_along(d$code) %% 3L)
  )
  DBI::dbExecute(con, paste(
    "INSERT INTO stations VALUES ('x1', NULL, 'Nowhere', NULL), ('x2',",
    "'SRID=4326;CURVEPOLYGON(CIRCULARSTRING(-50 40, -51 41, -50 42, -49 41, -50 40))', 'Round',",
    "NULL)"
  ))
  suppressMessages(DBI::dbExecute(con, "CREATE EXTENSION citext"))
  DBI::dbExecute(con, paste(
    "CREATE TABLE kinds AS SELECT n AS kind, '0101000000' AS words, 'Town'::citext AS label, CASE",
    "WHEN n > 30 THEN ST_Point(n, 1)::geography END AS spot FROM generate_series(1, 40) n"
  ))
  s <- table_service(sprintf(paste0(
    "DBI::dbConnect(RPostgres::Postgres(), host = '127.0.0.1', port = %d, user = 'postgres', ",
    "dbname = 'postgres')"
  ), port))
  on.exit(s$server$kill(), add = TRUE, after = FALSE)
  items <- paste0(s$address, "/collections/stations/items?f=geojson&limit=40")
  whole <- follow_all(items)
  expect_identical(vapply(whole, function(f) f$id, ""), c(sort(d$code), "x1", "x2"))
  expect_setequal(names(whole[[1]]$properties), c("code", "name"))
  expect_null(whole[[101]]$geometry)
  expect_gt(length(unlist(whole[[102]]$geometry$coordinates)), 50)
  read <- quietly(read_boundaries(paste0(s$address, "/collections/stations")))
  same_areas(read[match(d$code, read$code), ], d, 1e-5)
  about <- json_of(asked(paste0(s$address, "/collections/stations?f=json")))
  ends <- as.data.frame(wk::wk_bbox(d$geometry))
  box <- c(-51, 40, ends$xmax, ends$ymax)
  expect_equal(unlist(about$extent$spatial$bbox), box, tolerance = 1e-6)
  # By the engine as by our own core, over 180 degrees too.
  for (box in list(c(-39, 46.4, -38.2, 46.9), c(-38.9, 46, -39.1, 47), c(10, 0, 20, 5))) {
    query <- paste0("&bbox=", paste(box, collapse = ","))
    found <- vapply(follow_all(paste0(items, query)), function(f) f$id, "")
    own <- meets_box(geometry_boxes(d$geometry), unclass(d$geometry), box, TRUE)
    expect_identical(found, sort(d$code[own]), info = query)
  }
  one <- json_of(asked(paste0(s$address, "/collections/stations/items/", d$code[3])))
  expect_identical(one$properties$name, d$name[3])
  # What only looks like geometry is a text, and so is a text of another extension; geography is a
  # place, though the first rows have none.
  kinds <- follow_all(paste0(s$address, "/collections/kinds/items?f=geojson&bbox=35.5,0,50,2"))
  expect_identical(vapply(kinds, function(f) f$id, ""), as.character(36:40))
  expect_identical(kinds[[1]]$properties, list(kind = 36L, words = "0101000000", label = "Town"))
  expect_equal(unlist(kinds[[1]]$geometry$coordinates), c(36, 1))
})

test_that("a table without a key of its own is refused before anything is served", {
  skip_if_not_installed("RSQLite")
  con <- DBI::dbConnect(RSQLite::SQLite(), ":memory:")
  on.exit(DBI::dbDisconnect(con))
  fault <- function(data, words, names = "t") {
    DBI::dbWriteTable(con, "t", data, overwrite = TRUE)
    tables <- stats::setNames(list(dplyr::tbl(con, "t")), names)
    expect_error(serve_maps(tables = tables), words, class = "ochre_error")
  }
  fault(data.frame(id = c("a", "b", "a")), "`a` in several rows")
  fault(data.frame(id = c("a", NA)), "missing in some rows")
  fault(data.frame(id = c(1, 2.5)), "not whole")
  fault(data.frame(id = c("a", "b")), "by a name of its own", names = "")
  expect_error(serve_maps(tables = list(x = data.frame(id = 1))), class = "ochre_error_argument")
  expect_error(serve_maps(), "must be a sheet", class = "ochre_error_argument")
})
