# Points of a table in a database are counted where they lie, and each area gets what find_areas()
# gives it, whatever the cells of the grid; few points travel (helper-engines.R).

scattered <- function(count, districts) {
  set.seed(5)
  # Places on borders and in corners, just beside them, outside, without coordinates, swapped, and
  # the same place by its name beyond 180 degrees.
  corners <- unique(positions_core(unclass(districts$geometry)))
  corners <- corners[sample(nrow(corners), 400), ]
  lon <- c(
    runif(count, -40.5, -36), corners[, 1], corners[, 1] + rnorm(400, sd = 1e-7),
    NA, -38, 47, corners[1:20, 1] + 360, -500
  )
  lat <- c(
    runif(count, 45.8, 48), corners[, 2], corners[, 2] + rnorm(400, sd = 1e-7),
    47, NA, -38, corners[1:20, 2], 47
  )
  visits <- rpois(length(lon), 3)
  visits[sample(length(lon), 50)] <- NA
  data.frame(longitude = lon, latitude = lat, visits = as.numeric(visits))
}

test_that("points in a database get the areas that they have here, and few of them travel", {
  districts <- read_boundaries(ochre_demo("districts.geojson"))
  sizes <- c(few_points = 900, many_points = 4e4)
  tables <- lapply(sizes, scattered, districts = districts)
  # Longitudes by their other names, many of them.
  beyond <- seq(1, sizes[["many_points"]], by = 7)
  tables$many_points$longitude[beyond] <- tables$many_points$longitude[beyond] + 360
  here <- lapply(tables, function(points) {
    quietly(list(
      count = count_in_areas(points, districts)$points,
      sum = summarise_in_areas(points, districts, visits)$visits_sum,
      mean = summarise_in_areas(points, districts, visits, "mean")$visits_mean,
      min = summarise_in_areas(points, districts, visits, "min")$visits_min,
      max = summarise_in_areas(points, districts, visits, "max")$visits_max
    ))
  })
  one_by_one <- quietly(find_areas(tables$many_points, districts))$area
  expect_identical(here$many_points$count, as.integer(table(factor(one_by_one, districts$code))))
  with_engines(function(engine) {
    for (size in names(sizes)) {
      points <- engine$put(size, tables[[size]])
      info <- paste(size, "points on", engine$name)
      travelled <- rows_fetched({
        warned <- capture_warnings(count <- count_in_areas(points, districts)$points)
      })
      expect_identical(count, here[[size]]$count, info = info)
      outside <- nrow(tables[[size]]) - sum(count) - 2L
      expect_match(warned, fixed = TRUE, info = info, sprintf(
        "%s points lie in none of the areas; 2 points have no coordinates.",
        format(outside, big.mark = ",")
      ))
      if (size == "many_points") expect_lt(travelled, nrow(tables$many_points) * 0.13, label = info)
      for (fun in if (size == "few_points") c("sum", "min", "mean") else "max") {
        there <- quietly(summarise_in_areas(points, districts, visits, fun))
        expect_equal(there[[paste0("visits_", fun)]], here[[size]][[fun]], info = info)
      }
    }
    # What was lent is given back.
    expect_no_match(DBI::dbListTables(engine$con), "^ochre_")
  })
})

# The same wells as geometry in another system.
shapes_of_wells <- function(con) {
  DBI::dbExecute(con, "CREATE EXTENSION IF NOT EXISTS postgis")
  DBI::dbExecute(con, paste(
    "CREATE TABLE shapes AS SELECT well, CASE WHEN x <> 'NaN' THEN",
    "ST_SetSRID(ST_MakePoint(x, y), 4326) END AS place FROM wells"
  ))
  dplyr::tbl(con, "shapes")
}

test_that("points come from any lazy table, within transactions and without rights to write", {
  districts <- read_boundaries(ochre_demo("districts.geojson"))
  points <- scattered(4000, districts)
  points$well <- seq_len(nrow(points))
  here <- quietly(count_in_areas(points, districts)$points)
  for (open in list(open_sqlite, open_postgres)) {
    engine <- open(environment())
    if (is.null(engine)) next
    con <- engine$con
    count <- function(d) quietly(count_in_areas(d, districts)$points)
    there <- engine$put("wells", stats::setNames(points, c("x", "y", "visits", "well")))
    renamed <- dplyr::rename(there, longitude = x, latitude = y)
    expect_identical(count(renamed), here, info = engine$name)
    expect_identical(count(dplyr::arrange(renamed, dplyr::desc(visits))), here, info = engine$name)
    own <- dplyr::filter(dplyr::mutate(there, longitude = x - 1 + 1, latitude = y), well <= 3000L)
    kept <- points[points$well <= 3000, ]
    expect_identical(count(own), quietly(count_in_areas(kept, districts)$points))
    first <- utils::head(dplyr::arrange(renamed, well), 2000)
    expect_identical(
      count(quietly(keep_where(first, visits, 3:5))),
      quietly(count_in_areas(points[1:2000, ][points$visits[1:2000] %in% 3:5, ], districts)$points)
    )
    expect_error(
      count(dplyr::group_by(renamed, visits)), "grouped by `visits`", class = "ochre_error_argument"
    )
    # What the caller began is still open, with what was written in it.
    DBI::dbBegin(con)
    DBI::dbExecute(con, "INSERT INTO wells (x, y) VALUES (-38.26, 47.04)")
    expect_identical(sum(count(renamed)), sum(here) + 1L, info = engine$name)
    DBI::dbRollback(con)
    expect_identical(count(renamed), here, info = engine$name)
    if (engine$name == "PostgreSQL") {
      DBI::dbExecute(con, "UPDATE wells SET x = 'NaN' WHERE x IS NULL")
      DBI::dbExecute(con, "REVOKE TEMP ON DATABASE postgres FROM PUBLIC")
      DBI::dbExecute(con, "CREATE ROLE reader")
      DBI::dbExecute(con, "GRANT SELECT ON wells TO reader")
      DBI::dbExecute(con, "SET ROLE reader")
      DBI::dbExecute(con, "SET default_transaction_read_only = on")
      expect_warning(
        found <- count_in_areas(renamed, districts)$points, "2 points have no coordinates"
      )
      expect_identical(found, here)
      DBI::dbExecute(con, "RESET ROLE")
      DBI::dbExecute(con, "SET default_transaction_read_only = off")
      expect_identical(count(shapes_of_wells(con)), here)
    }
    DBI::dbDisconnect(con)
    lost <- tryCatch(count(renamed), error = class)
    expect_match(lost[1], "^ochre_error_", info = engine$name)
  }
})

test_that("a table that is none of points is refused, and so is one that changes meanwhile", {
  districts <- read_boundaries(ochre_demo("districts.geojson"))
  engine <- open_sqlite()
  on.exit(DBI::dbDisconnect(engine$con))
  points <- engine$put("points", scattered(9000, districts))
  expect_error(
    count_in_areas(engine$put("nothing", data.frame(x = 1, y = 2)), districts),
    "no columns `longitude` and `latitude`", class = "ochre_error_column"
  )
  expect_error(
    count_in_areas(engine$put("words", data.frame(lon = "west", lat = "3")), districts),
    "not numeric", class = "ochre_error_column"
  )
  expect_error(find_areas(points, districts), "needs its rows", class = "ochre_error_argument")
  expect_error(
    count_in_areas(points, districts[c(1, 1), ]), "shape of another row",
    class = "ochre_error_geometry"
  )
  # Somebody else, in the same transaction, takes rows, adds scattered ones, or ones at a place far
  # from any border.
  changes <- c(
    "DELETE FROM passing WHERE rowid IN (SELECT rowid FROM passing LIMIT 500)",
    "INSERT INTO passing SELECT * FROM points",
    "INSERT INTO passing SELECT -38.26, 47.04, 1 FROM points"
  )
  for (change in changes) {
    passing <- engine$put("passing", dplyr::collect(points))
    expect_error(
      before_each_query(
        quietly(count_in_areas(passing, districts)),
        function() DBI::dbExecute(engine$con, change)
      ),
      "The table changed while it was counted", class = "ochre_error_database"
    )
    DBI::dbRemoveTable(engine$con, "passing")
  }
})
