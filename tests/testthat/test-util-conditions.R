# What a user reads when something is wrong; a misspelt or unhelpful message shows in review.

# The classes and the words of the error of each expression, in a form that does not change with
# the version of testthat.
said <- function(...) {
  for (expr in rlang::enquos(...)) {
    e <- tryCatch(
      {
        rlang::eval_tidy(expr)
        stop("no error")
      },
      error = identity
    )
    cat(
      class(e)[1],
      "\n",
      gsub("[^ `]*ochre-test-[0-9a-f]+", "FILE", conditionMessage(e)),
      "\n\n",
      sep = ""
    )
  }
}

test_that("errors of reading say what is wrong, where, and the likely mend", {
  bad <- function(text, ext = ".geojson") write_file(text, ext)
  expect_snapshot(
    cran = TRUE,
    said(
      read_boundaries(
        bad(
          paste0(
            "{\"type\":\"FeatureCollection\",\"features\":[{\"type\":\"Feature\",",
            "\"geometry\":{\"type\":\"Point\",\"coordinates\":[\"1\",2]}}]}"
          )
        )
      ),
      read_boundaries(bad("{\"type\":\"FeatureCollection\",\"features\":[{\"type\":\"Feature\"")),
      read_boundaries(
        bad("{\"type\":\"Feature\",\n\"geometry\":null,\n\"properties\":{\"a\":1,,}}")
      ),
      read_boundaries(
        bad("{\"type\":\"LineString\",\"coordinates\":[[500000,5200000],[510000,5210000]]}")
      ),
      read_boundaries(data.frame(a = 1)),
      read_boundaries(tibble::tibble(g = wk::wkt("POINT (500000 1)"))),
      read_boundaries(tibble::tibble(g = wk::wkt("POINT (5 1)", crs = "EPSG:999999"))),
      read_boundaries(bad("{\"type\":\"Topology\",\"objects\":{\"a\":{},\"b\":{}},\"arcs\":[]}")),
      read_boundaries(bad("a,b\n1,2\n", ".csv")), read_boundaries(bad("<html></html>", ".kml")),
      read_statistics(bad("a,b\n1,2\n3\n4,5\n", ".csv")), read_statistics(bad("", ".csv")),
      read_statistics(bad("a\n1\n", ".csv"), encoding = "klingon"), ochre_demo("district.geojson")
    )
  )
})

test_that("errors of arguments name the argument and the nearest right word", {
  areas <- squares(c("1", "2"))
  areas$v <- c(1, 2)
  sheet <- map_sheet("T")
  expect_snapshot(
    cran = TRUE,
    said(
      map_sheet(NULL), shade_areas(sheet, areas, value), shade_areas(sheet, areas, name),
      shade_areas(sheet, areas, v, steps = TRUE), shade_areas(sheet, areas, v, ramp = "woad_madde"),
      shade_areas(sheet, areas, v, hover = "{nam}"),
      shade_areas(sheet, areas, v, hover = "{name|x}"), shade_areas(areas, v),
      place_symbols(sheet, data.frame(x = 1), x), draw_lines(sheet, areas, colour = "rot"),
      join_statistics(areas, data.frame(code = c("1", "1")), by = "code"),
      fit_steps(c(1, 50), steps_at(c(0, 10, 20))), steps_quantile(20),
      sum_areas(data.frame(d = 1, v = "n/a"), v, d), resolve_sheet(sheet),
      publish(sheet, "map.gif"), map_sheet("T", projection = "web mercator"),
      map_sheet("T", inset = 5), simplify_boundaries(areas),
      simplify_boundaries(areas, budget = "5 pages"), merge_areas(areas, region),
      write_boundaries(areas, "x.shp"), check_boundaries(areas, id = "cod"), join_audit(areas),
      reading_report(areas)
    )
  )
})

test_that("errors of preparing and joining say what is wrong, where, and the likely mend", {
  d <- data.frame(code = c("a", "b"), n = c(1, 2), people = c(5, 0))
  areas <- squares(c("a", "c"))
  areas$people <- c(60L, 40L)
  expect_snapshot(
    cran = TRUE,
    said(
      read_statistics(write_file('{"a":[{"n":1}],"b":[{"n":2}]}', ".json")),
      read_statistics(write_file('[{"n":1}', ".json")),
      read_statistics("visits.csv", request = list()), service_request(keep = "an hour"),
      sum_areas(d, n, by = c(code, cod)), keep_where(d, code, "c"), stack_periods(d),
      move_counts(d, code, data.frame(from = "a", to = c("x", "y"), weight = c(0.5, 0.6)), "n"),
      standardise_rate(d, n, people, code, code),
      join_statistics(areas, d, by = c(code = "code"), unmatched = 0),
      join_statistics(areas, rbind(d, d), by = "code", period = n),
      join_statistics(
        areas, d, by = "code", aliases = data.frame(statistics = "b", boundaries = "cc")
      ),
      look_up(d, rbind(d, d), by = c(code = "code"))
    )
  )
})
