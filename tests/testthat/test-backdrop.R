# What lies under the data in a page: addresses and levels of tiles, where a picture is bent to,
# and what is refused.

test_that("levels of tiles are those of the common scheme, and the sheet is in web Mercator", {
  plan <- resolve_sheet(
    under() |>
      lay_tiles(
        "https://Tiles.example/{z}/{x}/{y}.png",
        "Who <b>",
        levels = c(0, 7),
        link = "https://who.example/"
      ) |>
      lay_plain("Nothing") |>
      draw_lines(land())
  )
  expect_identical(plan$projection$name, "web Mercator")
  level <- plan$backdrops[[1]]$levels[[8]]
  # A known answer: tile 7/50/45 has its upper left corner at 39.375 degrees west, 46.5589 north
  # (atan(sinh(pi (1 - 2 * 45 / 128)))).
  corner <- mercator(-39.375, atan(sinh(pi * (1 - 2 * 45 / 128))) * 180 / pi)
  side <- level$metres * level$width
  expect_equal(c(level$x + 50 * side, level$y - 45 * side), c(corner), tolerance = 1e-9)
  expect_identical(vapply(plan$backdrops[[1]]$levels, function(l) l$columns, 0), 2^(0:7))
  page <- paste(page_text(plan), collapse = "\n")
  expect_match(page, "img-src data: https://tiles.example;", fixed = TRUE)
  expect_false(grepl("connect-src", page))
  expect_match(page, "\\u003cb>", fixed = TRUE)
  expect_match(
    format(plan), "backdrop: Tiles, tiles of https://tiles.example in 8 levels", all = FALSE
  )
  expect_identical(vapply(content(plan)$backdrops, function(b) b$name, ""), c("Tiles", "Nothing"))
  # Across 180 degrees the map's x begins at its own meridian, and the tiles with it.
  east <- wk::wkt(c(
    "POLYGON ((179 -17, 180 -17, 180 -16, 179 -16, 179 -17))",
    "POLYGON ((-180 -17, -179 -17, -179 -16, -180 -16, -180 -17))"
  ))
  fiji <- resolve_sheet(
    under() |>
      lay_tiles("https://t.example/{z}/{x}/{y}.png", "W") |>
      draw_lines(tibble::tibble(geometry = wk::as_wkb(east)))
  )
  l <- fiji$backdrops[[1]]$levels[[1]]
  expect_equal(
    abs(l$x + 20037508.342789244 + 6378137 * fiji$projection$lon0 * pi / 180), 0, tolerance = 1e-3
  )
  german <- content(quietly(resolve_sheet(
    under(locale = "de") |>
      lay_tiles("https://t.example/{z}/{x}/{y}.png", "W") |>
      lay_plain() |>
      draw_lines(land()) |>
      shade_density(quietly(read_statistics(ochre_demo("clinics.csv"))), 20000)
  )))
  expect_identical(
    c(
      vapply(german$backdrops, function(b) b$name, ""),
      vapply(german$layers, function(l) l$name, "")
    ),
    c("Kacheln", "Keiner", "Linien", "Punkte je km\u00b2")
  )
  # Without backdrops a page names no place to fetch from, and keeps its equal areas.
  bare <- resolve_sheet(under() |> draw_lines(land()))
  expect_identical(bare$projection$name, "azimuthal equal-area")
  expect_match(paste(page_text(bare), collapse = "\n"), "img-src data:; base-uri", fixed = TRUE)
})

test_that("tiles that cannot go with the sheet are refused, and addresses that hide their host", {
  tiles <- function(sheet, url = "https://t.example/{z}/{x}/{y}.png", ...) {
    lay_tiles(sheet, url, "W", ...)
  }
  expect_error(
    resolve_sheet(under(projection = "world equal-area") |> tiles() |> draw_lines(land())),
    "asks for the projection world equal-area", class = "ochre_error_projection"
  )
  expect_error(
    resolve_sheet(under(inset = TRUE) |> tiles() |> draw_lines(land())), "Insets",
    class = "ochre_error_projection"
  )
  for (url in c(
      "https://t.example/{z}/{x}.png", "ftp://t.example/{z}/{x}/{y}",
      "https://{z}.example/{x}/{y}", "//t.example/{z}/{x}/{y}", "javascript:{z}{x}{y}",
      "https://t.example/{z}/{x}/{y}/{key}", "https://t.example/{z}/{x}/{y} ;script-src *"
    )) {
    expect_error(tiles(under(), url), class = "ochre_error_argument")
  }
  expect_error(
    lay_tiles(under(), "https://t.example/{z}/{x}/{y}", " "), "empty",
    class = "ochre_error_argument"
  )
  expect_error(tiles(under(), levels = c(5, 3)), class = "ochre_error_argument")
  expect_error(tiles(under(), link = "javascript:x"), class = "ochre_error_argument")
  expect_error(page_style(places = "javascript:x"), class = "ochre_error_argument")
  expect_match(
    paste(
      page_text(quietly(resolve_sheet(
        under(page = page_style(places = "https://Find.example/p?k=1")) |> draw_lines(land())
      ))),
      collapse = "\n"
    ),
    "connect-src https://find.example;",
    fixed = TRUE
  )
  # Far from the equator shaded areas mislead, and are said to.
  north <- tibble::tibble(
    v = 1:2,
    geometry = wk::as_wkb(wk::wkt(c(
      "POLYGON ((0 50, 5 50, 5 55, 0 55, 0 50))",
      "POLYGON ((0 65, 5 65, 5 70, 0 70, 0 65))"
    )))
  )
  expect_warning(
    quietly_but(
      "ochre_warning_projection",
      resolve_sheet(under() |> tiles() |> shade_areas(north, v, steps = steps_categories()))
    ),
    class = "ochre_warning_projection"
  )
  expect_message(as_figure(under() |> tiles() |> draw_lines(land())), "are for pages")
})

test_that("a picture lies where its world file or its corners say, in any projection", {
  path <- picture()
  # Pixels of 0.1 by 0.05 degrees, turned and sheared; the middle of the first lies at 10 E, 50 N.
  six <- c(0.1, 0.004, 0.002, -0.05, 10, 50)
  writeLines(format(six), file.path(dirname(path), "plan.pgw"))
  at <- function(column, row) {
    cbind(six[1] * column + six[3] * row + six[5], six[2] * column + six[4] * row + six[6])
  }
  ground <- tibble::tibble(geometry = wk::as_wkb(wk::rct(10, 48, 14, 51)))
  by_world <- resolve_sheet(
    under(projection = "web Mercator") |> lay_picture(path, "W") |> draw_lines(ground)
  )$backdrops[[1]]
  n <- by_world$cells
  net <- function(b, i, j) cbind(b$x, b$y)[1 + i + (b$cells + 1) * j, ]
  # Outer corners are half a pixel beyond the middles of the outer pixels.
  corners <- rbind(at(-0.5, -0.5), at(39.5, -0.5), at(39.5, 19.5), at(-0.5, 19.5))
  expect_equal(
    rbind(net(by_world, 0, 0), net(by_world, n, 0), net(by_world, n, n), net(by_world, 0, n)),
    mercator(corners[, 1], corners[, 2]), tolerance = 1e-7
  )
  by_corners <- resolve_sheet(
    under(projection = "web Mercator") |>
      lay_picture(path, "W", corners = lapply(1:4, function(i) corners[i, ])) |>
      draw_lines(ground)
  )$backdrops[[1]]
  expect_equal(by_corners$x, by_world$x, tolerance = 1e-8)
  # What lies between the corners of the net is right to a two-thousandth of the map.
  plan <- resolve_sheet(
    under(projection = "azimuthal equal-area") |> lay_picture(path, "W") |> draw_lines(ground)
  )
  b <- plan$backdrops[[1]]
  for (k in 1:50) {
    s <- runif(2)
    place <- at(40 * s[1] - 0.5, 20 * s[2] - 0.5)
    truth <- unlist(project_core(place[1], place[2], plan$projection)[c("x", "y")])
    i <- pmin(b$cells - 1, floor(s * b$cells))
    f <- s * b$cells - i
    guess <- if (f[1] >= f[2]) {
      net(b, i[1], i[2]) + f[1] * (net(b, i[1] + 1, i[2]) - net(b, i[1], i[2])) +
        f[2] * (net(b, i[1] + 1, i[2] + 1) - net(b, i[1] + 1, i[2]))
    } else {
      net(b, i[1], i[2]) + f[2] * (net(b, i[1], i[2] + 1) - net(b, i[1], i[2])) +
        f[1] * (net(b, i[1] + 1, i[2] + 1) - net(b, i[1], i[2] + 1))
    }
    expect_lt(
      max(abs(guess - truth)),
      max(plan$frame["x1"] - plan$frame["x0"], plan$frame["y1"] - plan$frame["y0"]) / 1500
    )
  }
  # The file is a part of the page, byte for byte.
  expect_identical(
    jsonlite::base64_dec(sub("^data:image/png;base64,", "", b$address)), readBin(path, "raw", 1e6)
  )
  # A system in metres is brought to degrees.
  skip_if_not_installed("PROJ")
  low <- mercator(10, 50)
  writeLines(format(c(1000, 0, 0, -1000, low), digits = 12), file.path(dirname(path), "plan.pgw"))
  m <- resolve_sheet(
    under(projection = "web Mercator") |>
      lay_picture(path, "W", system = "EPSG:3857") |>
      draw_lines(ground)
  )$backdrops[[1]]
  expect_equal(c(m$x[1], m$y[1]), c(low) + c(-500, 500), tolerance = 1e-7)
})

test_that("a figure shows the picture where the page does, with its attribution", {
  # Quarters of four colours, turned on the map; each pixel of the figure against the place that
  # it shows.
  folder <- tempfile("ochre-quarters-")
  dir.create(folder)
  colours <- array(0, c(60, 80, 3))
  colours[1:30, 1:40, 1] <- colours[1:30, 41:80, 2] <- colours[31:60, 1:40, 3] <- 1
  six <- c(0.05, 0.012, 0.01, -0.05, 10, 51)
  for (type in c("png", "jpg")) {
    if (type == "png") {
      png::writePNG(colours, file.path(folder, "q.png"))
    } else {
      jpeg::writeJPEG(colours, file.path(folder, "q.jpg"), quality = 1)
    }
    writeLines(format(six), file.path(folder, paste0("q.", c(png = "pgw", jpg = "jgw")[[type]])))
    sheet <- under(projection = "equal-area conic") |>
      lay_picture(file.path(folder, paste0("q.", type)), "Whose it is") |>
      draw_lines(tibble::tibble(geometry = wk::as_wkb(wk::rct(10.5, 48.6, 13.5, 50.5))))
    plan <- resolve_sheet(sheet)
    b <- plan$backdrops[[1]]
    pixels <- decode_picture(b)
    from <- bend_picture(dim(pixels), b, plan$frame)
    seen <- matrix(native_colours(pixels[from], 1), nrow(from))
    unit <- (plan$frame[["x1"]] - plan$frame[["x0"]]) / ncol(seen)
    for (k in 1:200) {
      at <- c(runif(1, 2, 77), runif(1, 2, 57))
      if (min(abs(at - c(39.5, 29.5))) < 1.5) next
      place <- c(six[1] * at[1] + six[3] * at[2] + six[5], six[2] * at[1] + six[4] * at[2] + six[6])
      p <- project_core(place[1], place[2], plan$projection)
      column <- ceiling((p$x - plan$frame[["x0"]]) / unit)
      row <- ceiling((plan$frame[["y1"]] - p$y) / unit)
      if (column < 1 || row < 1 || column > ncol(seen) || row > nrow(seen)) next
      expect_lt(
        max(abs(
          grDevices::col2rgb(seen[row, column])[, 1] / 255 -
            colours[1 + round(at[2]), 1 + round(at[1]), ]
        )),
        0.05
      )
    }
  }
  expect_match(as_figure(sheet)$labels$caption, "Whose it is")
  # What is half transparent is so, beside nothing at all; a picture that only touches the map's
  # edge is left out.
  expect_identical(native_colours(c(NA, bitwOr(bitwShiftL(200L, 8L), 5L)), 0.5), c(NA, "#05C80000"))
  expect_identical(native_colours(-16777216L + 255L, 0.5), "#FF000080")
  expect_true(all(is.na(bend_picture(
    c(9, 9),
    list(cells = 1, x = c(10, 20, 10, 20), y = c(10, 10, 0, 0)),
    c(x0 = 0, y0 = 0, x1 = 10, y1 = 10)
  ))))
  # Each kind of layer and its legend are as faint as each other.
  for (layer in list(
      list(kind = "areas", colours = "#102030", labels = "a"),
      list(kind = "density", colours = "#102030", labels = "a", opacity = 1)
    )) {
    expect_identical(
      legend_entries(with_opacity(c(layer, list(show = list(opacity = 0.5)))))$colours, "#10203080"
    )
  }
  expect_identical(
    with_opacity(list(
      kind = "lines",
      colour = "#102030",
      casing = NULL,
      show = list(opacity = 0.5)
    ))$colour,
    "#10203080"
  )
})

test_that("pictures that are none, or have no place, are refused", {
  lay <- function(...) resolve_sheet(under() |> lay_picture(...) |> draw_lines(land()))
  path <- picture()
  expect_error(lay(path, "W"), "no world file beside it", class = "ochre_error_picture")
  for (bad in list(
      "a", c("1", "2"), c("1", "1", "1", "1", "0", "0"), c("1", "x", "0", "1", "0", "0"),
      c(rep("Inf", 6))
    )) {
    writeLines(bad, file.path(dirname(path), "plan.pgw"))
    expect_error(lay(path, "W"), "no world file", class = "ochre_error_picture")
  }
  writeLines(c("100", "0", "0", "-100", "4000000", "5000000"), file.path(dirname(path), "plan.pgw"))
  expect_error(lay(path, "W"), "not on the globe", class = "ochre_error_picture")
  expect_error(
    lay(ochre_demo("visits.csv"), "W", corners = c(0, 1, 1, 1, 1, 0, 0, 0)), "is no picture",
    class = "ochre_error_picture"
  )
  expect_error(
    lay("nowhere.png", "W", corners = c(0, 1, 1, 1, 1, 0, 0, 0)), class = "ochre_error_file"
  )
  expect_error(
    lay_picture(under(), path, "W", corners = c(0, 0, 1, 1, 2, 2, 3, 3)), "one line",
    class = "ochre_error_argument"
  )
  expect_error(
    lay_picture(under(), path, "W", corners = c(0, 0, 1, 1)), "four pairs",
    class = "ochre_error_argument"
  )
  expect_error(
    lay_picture(under(), "https://p.example/a.png", "W"), "needs `corners`",
    class = "ochre_error_argument"
  )
  # A few bytes that would unpack to very many pixels.
  bomb <- readBin(path, "raw", 1e6)
  bomb[17:24] <- as.raw(c(0, 1, 0x86, 0xa0, 0, 1, 0x86, 0xa0))
  writeBin(bomb, path)
  expect_error(
    lay(path, "W", corners = c(0, 1, 1, 1, 1, 0, 0, 0)), "100,000 by 100,000 pixels",
    class = "ochre_error_picture"
  )
  path <- picture()
  # Files that are cut off anywhere end in a classed error, or are taken for what their start says.
  whole <- readBin(path, "raw", 1e6)
  jpeg <- as.raw(c(
    0xff, 0xd8, 0xff, 0xe0, 0, 4, 0, 0, 0xff, 0xc0, 0, 11, 8, 0, 20, 0, 40, 1, 1, 0x11, 0,
    0xff, 0xd9, rep(0, 8)
  ))
  expect_identical(picture_size(jpeg, "jpeg"), list(width = 40, height = 20))
  for (bytes in list(whole, jpeg)) {
    for (n in seq(0, 40, 3)) {
      writeBin(utils::head(bytes, n), path)
      tryCatch(
        lay(path, "W", corners = c(0, 1, 1, 1, 1, 0, 0, 0)),
        ochre_error = function(e) expect_s3_class(e, "ochre_error_picture")
      )
    }
  }
})
