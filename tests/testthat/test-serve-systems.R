# Coordinates and boxes in other reference systems, against PROJ's own program, which writes them in
# the order of the register.

uri_of <- function(code) paste0("http://www.opengis.net/def/crs/EPSG/0/", code)

# Places in degrees as the register has them in a system.
by_program <- function(at, code) {
  file <- temporary(".txt")
  writeLines(sprintf("%.9f %.9f", at[, 2], at[, 1]), file)
  run <- processx::run("cs2cs", c("-f", "%.9f", "EPSG:4326", paste0("EPSG:", code), file))
  out <- utils::read.table(text = run$stdout)
  unname(as.matrix(out[1:2]))
}

# How far the positions of each lie from the next of the other.
farthest <- function(a, b) {
  apart <- sqrt(outer(a[, 1], b[, 1], `-`)^2 + outer(a[, 2], b[, 2], `-`)^2)
  max(apply(apart, 1, min), apply(apart, 2, min))
}

codes_of <- function(got) vapply(json_of(got)$features, function(f) f$properties$code, "")

test_that("features, boxes and links are in a country's grid as the register has it", {
  skip_if_not_installed("PROJ")
  skip_if(Sys.which("cs2cs") == "", "PROJ's program is not installed")
  # East and north; north and east; degrees with latitude first.
  codes <- c("32624", "3035", "4258")
  s <- service_of(
    ochre_demo("map.ochre.yml"),
    paste0("--system=EPSG:", c("32624", "3857")), "--system", "3035", "--system=EPSG:4258",
    "--field", "region", "--field=population"
  )
  on.exit(s$server$kill())
  collection <- paste0(s$address, "/collections/visits-per-1-000-residents")
  facts <- json_of(asked(paste0(collection, "?f=json")))
  expect_setequal(unlist(facts$crs), c(longitude_latitude, uri_of(c("4326", "3857", codes))))
  get <- function(...) asked(paste0(collection, "/items?f=geojson&limit=1000", ...))
  corners <- function(got) {
    lapply(json_of(got)$features, function(f) {
      matrix(unlist(f$geometry$coordinates), ncol = 2, byrow = TRUE)
    })
  }
  of_system <- function(code, name = "crs") {
    paste0("&", name, "=", curl::curl_escape(uri_of(code)))
  }
  degrees <- corners(get())
  expect_true(all(c("region", "population") %in% names(json_of(get())$features[[1]]$properties)))
  for (code in codes) {
    got <- get(of_system(code))
    expect_identical(got$headers[["content-crs"]], paste0("<", uri_of(code), ">"))
    # Rings may run the other way. Degrees came here with six digits.
    known <- by_program(do.call(rbind, degrees), code)
    fault <- max(abs(by_program(do.call(rbind, degrees) + 1e-6, code) - known))
    of <- rep(seq_along(degrees), vapply(degrees, nrow, 0L))
    apart <- mapply(
      function(a, rows) farthest(a, known[rows, ]), corners(got), split(seq_along(of), of)
    )
    expect_lt(max(apart), 2 * fault, label = code)
  }
  # Whose geometry meets a box in the grid: by the corners that lie in it, and the middle of one.
  grid <- corners(get(of_system("3035")))
  middle <- apply(do.call(rbind, grid), 2, stats::median)
  box <- c(middle - 4000, middle + 4000)
  as_text <- function(box) paste(format(box, digits = 15, trim = TRUE), collapse = ",")
  found <- codes_of(get("&bbox=", as_text(box), of_system("3035", "bbox-crs")))
  within <- function(at) {
    any(at[, 1] > box[1] & at[, 1] < box[3] & at[, 2] > box[2] & at[, 2] < box[4])
  }
  over <- function(at) {
    all(apply(at, 2, min) < box[3:4]) && all(apply(at, 2, max) > box[1:2])
  }
  code <- codes_of(get())
  expect_true(all(code[vapply(grid, within, NA)] %in% found))
  expect_true(all(found %in% code[vapply(grid, over, NA)]))
  expect_gt(length(found), 0)
  expect_lt(length(found), length(code))
  # One feature, pages and the description of the service.
  one <- asked(paste0(collection, "/items/", code[1], "?f=geojson", of_system("32624")))
  expect_identical(one$headers[["content-crs"]], paste0("<", uri_of("32624"), ">"))
  three <- paste0(collection, "/items?f=geojson&limit=3", of_system("3035"))
  more <- asked(href(json_of(asked(three)), "next"))
  expect_equal(corners(more)[[1]], grid[[4]])
  inside_out <- paste0("&bbox=", as_text(box[c(3, 2, 1, 4)]), of_system("32624", "bbox-crs"))
  for (query in c(of_system("25832"), of_system("3035 "), inside_out)) {
    expect_identical(get(query)$status, 400L, info = query)
  }
  api <- json_of(asked(paste0(s$address, "/api"), Accept = "application/json"))
  said <- api$paths[["/collections/visits-per-1-000-residents/items"]]$get$parameters
  crs <- Find(function(p) identical(p$name, "crs"), said)
  expect_setequal(unlist(crs$schema$enum), unlist(facts$crs))
})

test_that("a system that has no place for a map, or is none for maps, is refused at the start", {
  skip_if_not_installed("PROJ")
  fault <- function(systems, words, class = "ochre_error_system") {
    e <- expect_error(
      quietly(serve_maps(ochre_demo("ages.ochre.yml"), systems = systems)), class = class
    )
    expect_match(conditionMessage(e), words)
  }
  # On the other side of the Earth its formulas fold.
  fault("EPSG:27200", "positions have no place there")
  # Ways between two datums may differ by metres there and back.
  at <- unname(as.matrix(expand.grid(seq(-120, -70, 5), seq(25, 49, 4))))
  expect_null(lost_positions(at, transform_positions(at, "OGC:CRS84", "EPSG:4269"), "EPSG:4269"))
  fault("EPSG:9999999", "no such code")
  fault("EPSG:5773", "its axes go")
  fault("EPSG:4978", "its axes go")
  fault("ETRS89", "no code of the register", "ochre_error_argument")
  fault(25832, "systems", "ochre_error_argument")
})
