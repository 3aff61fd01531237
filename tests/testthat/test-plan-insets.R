quiet_steps <- function(code) {
  withCallingHandlers(
    code,
    ochre_warning_off_map = function(w) invokeRestart("muffleWarning"),
    ochre_warning_symbols = function(w) invokeRestart("muffleWarning")
  )
}

islands <- function() {
  box <- function(x, y, s) {
    sprintf("POLYGON ((%1$g %2$g, %3$g %2$g, %3$g %4$g, %1$g %4$g, %1$g %2$g))", x, y, x + s, y + s)
  }
  read_boundaries(tibble::tibble(
    code = c("a", "b", "c", "far"),
    v = c(1, 2, 3, 4),
    geometry = wk::wkt(c(box(0, 45, 2), box(2, 45, 2), box(0, 47, 2), box(-60, 15, 0.25)))
  ))
}

test_that("what lies in an inset's box moves there, in its own frame, and the map closes up", {
  x <- islands()
  sheet <- function(...) {
    map_sheet("T", ...) |>
      shade_areas(x, v, steps = steps_equal(2)) |>
      place_symbols(tibble::tibble(longitude = c(1, -59.8), latitude = c(46, 15.2), n = c(1, 4)), n)
  }
  plain <- quietly(resolve_sheet(sheet(inset = FALSE)))
  for (wish in list(list(Far = c(-61, 14, -59, 16)), TRUE)) {
    plan <- quietly(resolve_sheet(sheet(inset = wish)))
    expect_length(plan$insets, 1)
    inset <- plan$insets[[1]]
    side <- function(p) {
      max(p$frame[["x1"]] - p$frame[["x0"]], p$frame[["y1"]] - p$frame[["y0"]])
    }
    expect_lt(side(plan), side(plain) / 5)
    within <- function(px, py, f) {
      all(px >= f[["x0"]] & px <= f[["x1"]] & py >= f[["y0"]] & py <= f[["y1"]])
    }
    paths <- paths_core(plan$topology, 1)
    far <- paths$feature == 4
    expect_true(within(paths$x[far], paths$y[far], inset$frame))
    expect_false(within(paths$x[!far], paths$y[!far], inset$frame))
    symbols <- plan$layers[[2]]
    expect_true(within(symbols$x[symbols$row == 2], symbols$y[symbols$row == 2], inset$frame))
    # The label says the scale, which is that of the drawing.
    times <- as.numeric(sub(".*?([0-9.]+) \u00d7 larger.*", "\\1", inset$label))
    width <- diff(range(paths$x[far])) / (0.25 * 111.195e3 * cos(15.125 * pi / 180))
    expect_equal(width, times, tolerance = 0.06)
  }
  expect_match(format(plan), "inset: .* larger, azimuthal equal-area", all = FALSE)
  expect_match(
    quietly(resolve_sheet(sheet(inset = list(Far = c(-61, 14, -59, 16)))))$insets[[1]]$label,
    "^Far \\("
  )
  expect_warning(
    quiet_steps(resolve_sheet(sheet(inset = list(c(100, 0, 101, 1))))),
    class = "ochre_warning_inset"
  )
  expect_error(
    map_sheet("T", inset = list(c(1, 2, 3))), "west, south, east, north",
    class = "ochre_error_argument"
  )
  file <- temporary(".svg")
  quietly(publish(plan, file))
  expect_match(paste(readLines(file), collapse = ""), "larger")
  yml <- write_file(
    sprintf(
      paste0(
        "ochre: 1\ntitle: T\nprojection: web Mercator\ninset: {Far: [-61, 14, -59, ",
        "16]}\ntables: {a: [{read_boundaries: {file: %s}}]}\nlayers: [{shade_areas: {data: ",
        "a, value: v}}]\n"
      ),
      {
        f <- temporary(".geojson")
        write_boundaries(x, f)
        f
      }
    ),
    ".yml"
  )
  plan <- quietly(resolve_sheet(read_sheet(yml)))
  expect_identical(plan$projection$name, "web Mercator")
  expect_match(plan$insets[[1]]$label, "^Far")
})

test_that("a symbol of an area stands at its label point", {
  d <- read_boundaries(ochre_demo("districts.geojson"))
  plan <- quietly(resolve_sheet(
    map_sheet("T") |> shade_areas(d, population_65_plus) |> place_symbols(d, population)
  ))
  symbols <- plan$layers[[2]]
  p <- positions_core(unclass(label_points(d)$geometry))[symbols$row, ]
  at <- project_core(p[, 1], p[, 2], plan$projection)
  expect_equal(symbols[c("x", "y")], at, tolerance = 1e-9)
})

test_that("the projection follows the extent, can be named, and one that misleads is said", {
  box <- function(w, s, e, n) {
    lon <- seq(w, e, length.out = 9)
    read_boundaries(tibble::tibble(
      v = 1:2,
      geometry = wk::wkt(sprintf(
        "POLYGON ((%1$g %2$g, %3$g %2$g, %3$g %4$g, %1$g %4$g, %1$g %2$g))",
        c(w, (w + e) / 2), s, c((w + e) / 2, e), n
      ))
    ))
  }
  pick <- function(x, ...) {
    quietly(resolve_sheet(
      map_sheet("T", ...) |> shade_areas(x, v, steps = steps_equal(2))
    ))$projection
  }
  expect_identical(pick(box(5, 45, 10, 50))$name, "azimuthal equal-area")
  expect_identical(pick(box(-30, 40, 40, 55))$name, "equal-area conic")
  expect_identical(pick(box(-72, -50, -68, -20))$name, "transverse Mercator")
  expect_identical(pick(box(-180, -60, 180, 80))$name, "world equal-area")
  expect_identical(
    pick(box(-180, 60, 180, 85))[c("name", "lat0")], list(name = "azimuthal equal-area", lat0 = 90)
  )
  fiji <- read_boundaries(tibble::tibble(
    v = 1:2,
    geometry = wk::wkt(c(
      "POLYGON ((177 -19, 179 -19, 179 -16, 177 -16, 177 -19))",
      "POLYGON ((-180 -18, -178 -18, -178 -16, -180 -16, -180 -18))"
    ))
  ))
  expect_equal(pick(fiji)$lon0, 179.5)
  expect_identical(pick(box(5, 45, 10, 50), projection = "web Mercator")$name, "web Mercator")
  expect_warning(
    quiet_steps(resolve_sheet(
      map_sheet("T", projection = "web Mercator") |>
        shade_areas(box(0, 0, 20, 60), v, steps = steps_equal(2))
    )),
    "up to 4 times",
    class = "ochre_warning_projection"
  )
  expect_error(
    map_sheet("T", projection = "mercator"), "web Mercator", class = "ochre_error_argument"
  )
  # A map of the world is torn where it cuts no land; where the sheet asks for another middle, an
  # area across the map's edge is cut there, not drawn across it.
  world <- read_boundaries(tibble::tibble(
    v = 1:3,
    geometry = wk::wkt(c(
      "POLYGON ((-180 -60, -60 -60, 60 -60, 169 -60, 169 70, 60 70, -60 70, -180 70, -180 -60))",
      "POLYGON ((170 0, -170 0, -170 10, 170 10, 170 0))",
      NA
    ))
  ))
  for (centre in list(NULL, 0)) {
    plan <- quietly(resolve_sheet(
      map_sheet("T", centre = centre) |> shade_areas(world, v, steps = steps_equal(2))
    ))
    paths <- paths_core(plan$topology, 1)
    wide <- tapply(paths$x[paths$feature == 2], paths$part[paths$feature == 2], function(v) {
      diff(range(v))
    })
    expect_length(wide, if (is.null(centre)) 1 else 2)
    expect_true(all(wide < 2e6 * (3 - length(wide))))
  }
})

test_that("what a map says of an inset and of a hatch is in its language, with its marks", {
  said <- list(
    en = "Far \\(3.1 \u00d7 larger\\)", de = "Far \\(3,1-fach vergr\u00f6\u00dfert\\)",
    fr = "Far \\(agrandi 3,1\u00a0\u00d7\\)", es = "Far \\(ampliado 3,1 \u00d7\\)",
    pl = "Far \\(powi\u0119kszone 3,1 \u00d7\\)"
  )
  uncertain <- c(
    en = "Uncertain or hidden", de = "Unsicher oder verborgen",
    fr = "Incertain ou masqu\u00e9", es = "Incierto u oculto", pl = "Niepewne lub ukryte"
  )
  areas <- squares(c("a", "b", "c", "d"))
  areas$v <- 1:4
  areas$few <- c(TRUE, FALSE, FALSE, FALSE)
  for (code in names(said)) {
    locale <- read_locale(code)
    expect_match(inset_label("Far", 3.14, locale), said[[code]])
    expect_identical(inset_label(NULL, 1, locale), "")
    plan <- quietly(resolve_sheet(
      map_sheet("T", locale = code) |>
        shade_areas(areas, v, hatch = few, steps = steps_equal(2))
    ))
    expect_true(uncertain[[code]] %in% plan$layers[[1]]$labels)
    expect_identical(plan$marks, unclass(locale)[c("decimal", "thousands")])
  }
})

test_that("far-off parts are found where the map would be empty with them, and it is said", {
  x <- islands()
  sheet <- function(...) map_sheet("T", ...) |> shade_areas(x, v, steps = steps_equal(2))
  expect_message(
    found <- resolve_sheet(sheet()), "1 distant part is drawn in 1 inset; `inset = FALSE`",
    fixed = TRUE
  )
  expect_length(found$insets, 1)
  expect_length(suppressMessages(resolve_sheet(sheet(inset = FALSE)))$insets, 0)
  # Land fills a third of the map and more.
  counties <- quietly(read_boundaries(ochre_demo("counties.topojson.gz")))
  far <- quietly(resolve_sheet(map_sheet("T") |> shade_areas(counties)))
  main <- counties[!counties$state %in% utils::tail(unique(counties$state), 2), ]
  land <- sum(areas_km2(main)) * 1e6
  wide <- vapply(far$insets, function(i) i$frame[["y1"]], 0)
  expect_gt(length(far$insets), 1)
  frame <- far$frame
  expect_gt(land / ((frame[["x1"]] - frame[["x0"]]) * (frame[["y1"]] - frame[["y0"]])), 0.35)
  # A world is one map.
  atlas <- quietly(read_boundaries(ochre_demo("atlas.topojson.gz")))
  expect_length(quietly(resolve_sheet(map_sheet("T") |> shade_areas(atlas)))$insets, 0)
})

test_that("specks and poles are left out by a word, and counted", {
  x <- islands()
  x <- rbind(x, read_boundaries(tibble::tibble(
    code = "speck", v = 5, geometry = wk::wkt("POLYGON ((40 5, 40.02 5, 40.02 5.02, 40 5))")
  ))[names(x)])
  sheet <- map_sheet("T", leave_out = "specks") |> shade_areas(x, v, steps = steps_equal(2))
  expect_message(plan <- resolve_sheet(sheet), "Left out 1 part far off; of 1 area nothing is left")
  expect_identical(plan$layers[[1]]$names, x$code)
  atlas <- quietly(read_boundaries(ochre_demo("atlas.topojson.gz")))
  whole <- quietly(resolve_sheet(map_sheet("T") |> shade_areas(atlas)))
  less <- quietly(resolve_sheet(map_sheet("T", leave_out = "poles") |> shade_areas(atlas)))
  expect_lt(less$frame[["y1"]] - less$frame[["y0"]], whole$frame[["y1"]] - whole$frame[["y0"]])
  # The rest is as it was.
  parts <- unclass(atlas$geometry)
  left <- drop_parts(parts, function(box) box$ymax < -60)
  expect_identical(left$whole, 1L)
  kept <- lengths(left$wkb) > 0
  expect_identical(sum(!kept), 1L)
  expect_equal(areas_km2(atlas[kept, ]), measure_core(left$wkb[kept])$area / 1e6)
})

test_that("a graticule and an outline lie below all, in no list and no legend", {
  atlas <- quietly(read_boundaries(ochre_demo("atlas.topojson.gz")))
  bare <- quietly(resolve_sheet(map_sheet("T") |> shade_areas(atlas)))
  plan <- quietly(resolve_sheet(
    map_sheet("T", graticule = 30, outline = TRUE) |> shade_areas(atlas)
  ))
  expect_identical(vapply(plan$layers, function(l) l$kind, ""), c("lines", "areas"))
  expect_identical(plan$layers[[1]]$name, "")
  expect_null(plan$layers[[1]]$legend)
  expect_false(plan$page$layers)
  expect_identical(plan$projection, bare$projection)
  # Twelve meridians, five parallels, four edges.
  expect_length(plan$topology$layers[[1]]$feature_end, 21)
  turned <- quietly(resolve_sheet(map_sheet("T", centre = 150) |> shade_areas(atlas)))
  expect_equal(turned$projection$lon0, 150)
  near <- quietly(resolve_sheet(map_sheet("T", graticule = 1) |> shade_areas(squares(1:4))))
  frame <- quietly(resolve_sheet(map_sheet("T") |> shade_areas(squares(1:4))))$frame
  expect_equal(near$frame, frame, tolerance = 1e-3)
})
