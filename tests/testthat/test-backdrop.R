# What lies under the data in a page: addresses and levels of tiles, where a picture is bent to, and what is refused.
land <- function() read_boundaries(ochre_demo("districts.geojson"))
under <- function(...) map_sheet("T", ...)
content <- function(plan) jsonlite::fromJSON(plan_json(plan), simplifyVector = FALSE)

# Web Mercator by the formulas of EPSG's Guidance Note 7-2 (method 1024), apart from the package's code.
mercator <- function(lon, lat) cbind(6378137 * lon * pi / 180, 6378137 * log(tan(pi / 4 + lat * pi / 360)))

test_that("levels of tiles are those of the common scheme, and the sheet is in web Mercator", {
  plan <- resolve_sheet(under() |> lay_tiles("https://Tiles.example/{z}/{x}/{y}.png", "Who <b>", levels = c(0, 7), link = "https://who.example/") |> lay_plain("Nothing") |> draw_lines(land()))
  expect_identical(plan$projection$name, "web Mercator")
  level <- plan$backdrops[[1]]$levels[[8]]
  # A known answer: tile 7/50/45 has its upper left corner at 39.375 degrees west, 46.5589 north (atan(sinh(pi (1 - 2 * 45 / 128)))).
  corner <- mercator(-39.375, atan(sinh(pi * (1 - 2 * 45 / 128))) * 180 / pi)
  side <- level$metres * level$width
  expect_equal(c(level$x + 50 * side, level$y - 45 * side), c(corner), tolerance = 1e-9)
  expect_identical(vapply(plan$backdrops[[1]]$levels, function(l) l$columns, 0), 2^(0:7))
  page <- paste(page_text(plan), collapse = "\n")
  expect_match(page, "img-src data: https://tiles.example;", fixed = TRUE)
  expect_false(grepl("connect-src", page))
  expect_match(page, "\\u003cb>", fixed = TRUE)
  expect_match(format(plan), "backdrop: Tiles, tiles of https://tiles.example in 8 levels", all = FALSE)
  expect_identical(vapply(content(plan)$backdrops, function(b) b$name, ""), c("Tiles", "Nothing"))
  # Across 180 degrees the map's x begins at its own meridian, and the tiles with it.
  east <- wk::wkt(c("POLYGON ((179 -17, 180 -17, 180 -16, 179 -16, 179 -17))", "POLYGON ((-180 -17, -179 -17, -179 -16, -180 -16, -180 -17))"))
  fiji <- resolve_sheet(under() |> lay_tiles("https://t.example/{z}/{x}/{y}.png", "W") |> draw_lines(tibble::tibble(geometry = wk::as_wkb(east))))
  l <- fiji$backdrops[[1]]$levels[[1]]
  expect_equal(abs(l$x + 20037508.342789244 + 6378137 * fiji$projection$lon0 * pi / 180), 0, tolerance = 1e-3)
  german <- content(quietly(resolve_sheet(under(locale = "de") |> lay_tiles("https://t.example/{z}/{x}/{y}.png", "W") |> lay_plain() |> draw_lines(land()) |> shade_density(quietly(read_statistics(ochre_demo("clinics.csv"))), 20000))))
  expect_identical(c(vapply(german$backdrops, function(b) b$name, ""), vapply(german$layers, function(l) l$name, "")), c("Kacheln", "Keiner", "Linien", "Punkte je km\u00b2"))
  # Without backdrops a page names no place to fetch from, and keeps its equal areas.
  bare <- resolve_sheet(under() |> draw_lines(land()))
  expect_identical(bare$projection$name, "azimuthal equal-area")
  expect_match(paste(page_text(bare), collapse = "\n"), "img-src data:; base-uri", fixed = TRUE)
})

test_that("tiles that cannot go with the sheet are refused, and addresses that hide their host", {
  tiles <- function(sheet, url = "https://t.example/{z}/{x}/{y}.png", ...) lay_tiles(sheet, url, "W", ...)
  expect_error(resolve_sheet(under(projection = "world equal-area") |> tiles() |> draw_lines(land())), "asks for the projection world equal-area", class = "ochre_error_projection")
  expect_error(resolve_sheet(under(inset = TRUE) |> tiles() |> draw_lines(land())), "Insets", class = "ochre_error_projection")
  for (url in c("https://t.example/{z}/{x}.png", "ftp://t.example/{z}/{x}/{y}", "https://{z}.example/{x}/{y}", "//t.example/{z}/{x}/{y}", "javascript:{z}{x}{y}", "https://t.example/{z}/{x}/{y}/{key}", "https://t.example/{z}/{x}/{y} ;script-src *")) {
    expect_error(tiles(under(), url), class = "ochre_error_argument")
  }
  expect_error(lay_tiles(under(), "https://t.example/{z}/{x}/{y}", " "), "empty", class = "ochre_error_argument")
  expect_error(tiles(under(), levels = c(5, 3)), class = "ochre_error_argument")
  expect_error(tiles(under(), link = "javascript:x"), class = "ochre_error_argument")
  expect_error(page_style(places = "javascript:x"), class = "ochre_error_argument")
  expect_match(paste(page_text(quietly(resolve_sheet(under(page = page_style(places = "https://Find.example/p?k=1")) |> draw_lines(land())))), collapse = "\n"), "connect-src https://find.example;", fixed = TRUE)
  # Far from the equator shaded areas mislead, and are said to.
  north <- tibble::tibble(v = 1:2, geometry = wk::as_wkb(wk::wkt(c("POLYGON ((0 50, 5 50, 5 55, 0 55, 0 50))", "POLYGON ((0 65, 5 65, 5 70, 0 70, 0 65))"))))
  expect_warning(quietly_but("ochre_warning_projection", resolve_sheet(under() |> tiles() |> shade_areas(north, v, steps = steps_categories()))), class = "ochre_warning_projection")
  expect_message(as_figure(under() |> tiles() |> draw_lines(land())), "are for pages")
})

picture <- function(width = 40, height = 20, folder = tempfile("ochre-picture-")) {
  dir.create(folder)
  path <- file.path(folder, "plan.png")
  png::writePNG(array(runif(3 * width * height), c(height, width, 3)), path)
  path
}

test_that("a picture lies where its world file or its corners say, in any projection", {
  path <- picture()
  # Pixels of 0.1 by 0.05 degrees, turned and sheared; the middle of the first lies at 10 E, 50 N.
  six <- c(0.1, 0.004, 0.002, -0.05, 10, 50)
  writeLines(format(six), file.path(dirname(path), "plan.pgw"))
  at <- function(column, row) cbind(six[1] * column + six[3] * row + six[5], six[2] * column + six[4] * row + six[6])
  ground <- tibble::tibble(geometry = wk::as_wkb(wk::rct(10, 48, 14, 51)))
  by_world <- resolve_sheet(under(projection = "web Mercator") |> lay_picture(path, "W") |> draw_lines(ground))$backdrops[[1]]
  n <- by_world$cells
  net <- function(b, i, j) cbind(b$x, b$y)[1 + i + (b$cells + 1) * j, ]
  # Outer corners are half a pixel beyond the middles of the outer pixels.
  corners <- rbind(at(-0.5, -0.5), at(39.5, -0.5), at(39.5, 19.5), at(-0.5, 19.5))
  expect_equal(rbind(net(by_world, 0, 0), net(by_world, n, 0), net(by_world, n, n), net(by_world, 0, n)), mercator(corners[, 1], corners[, 2]), tolerance = 1e-7)
  by_corners <- resolve_sheet(under(projection = "web Mercator") |> lay_picture(path, "W", corners = lapply(1:4, function(i) corners[i, ])) |> draw_lines(ground))$backdrops[[1]]
  expect_equal(by_corners$x, by_world$x, tolerance = 1e-8)
  # What lies between the corners of the net is right to a two-thousandth of the map.
  plan <- resolve_sheet(under(projection = "azimuthal equal-area") |> lay_picture(path, "W") |> draw_lines(ground))
  b <- plan$backdrops[[1]]
  for (k in 1:50) {
    s <- runif(2)
    place <- at(40 * s[1] - 0.5, 20 * s[2] - 0.5)
    truth <- unlist(project_core(place[1], place[2], plan$projection)[c("x", "y")])
    i <- pmin(b$cells - 1, floor(s * b$cells))
    f <- s * b$cells - i
    guess <- if (f[1] >= f[2]) net(b, i[1], i[2]) + f[1] * (net(b, i[1] + 1, i[2]) - net(b, i[1], i[2])) + f[2] * (net(b, i[1] + 1, i[2] + 1) - net(b, i[1] + 1, i[2]))
             else net(b, i[1], i[2]) + f[2] * (net(b, i[1], i[2] + 1) - net(b, i[1], i[2])) + f[1] * (net(b, i[1] + 1, i[2] + 1) - net(b, i[1], i[2] + 1))
    expect_lt(max(abs(guess - truth)), max(plan$frame["x1"] - plan$frame["x0"], plan$frame["y1"] - plan$frame["y0"]) / 1500)
  }
  # The file is a part of the page, byte for byte.
  expect_identical(jsonlite::base64_dec(sub("^data:image/png;base64,", "", b$address)), readBin(path, "raw", 1e6))
  # A system in metres is brought to degrees.
  skip_if_not_installed("PROJ")
  low <- mercator(10, 50)
  writeLines(format(c(1000, 0, 0, -1000, low), digits = 12), file.path(dirname(path), "plan.pgw"))
  m <- resolve_sheet(under(projection = "web Mercator") |> lay_picture(path, "W", system = "EPSG:3857") |> draw_lines(ground))$backdrops[[1]]
  expect_equal(c(m$x[1], m$y[1]), c(low) + c(-500, 500), tolerance = 1e-7)
})

test_that("a figure shows the picture where the page does, with its attribution", {
  # Quarters of four colours, turned on the map; each pixel of the figure against the place that it shows.
  folder <- tempfile("ochre-quarters-")
  dir.create(folder)
  colours <- array(0, c(60, 80, 3))
  colours[1:30, 1:40, 1] <- colours[1:30, 41:80, 2] <- colours[31:60, 1:40, 3] <- 1
  six <- c(0.05, 0.012, 0.01, -0.05, 10, 51)
  for (type in c("png", "jpg")) {
    if (type == "png") png::writePNG(colours, file.path(folder, "q.png")) else jpeg::writeJPEG(colours, file.path(folder, "q.jpg"), quality = 1)
    writeLines(format(six), file.path(folder, paste0("q.", c(png = "pgw", jpg = "jgw")[[type]])))
    sheet <- under(projection = "equal-area conic") |> lay_picture(file.path(folder, paste0("q.", type)), "Whose it is") |> draw_lines(tibble::tibble(geometry = wk::as_wkb(wk::rct(10.5, 48.6, 13.5, 50.5))))
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
      expect_lt(max(abs(grDevices::col2rgb(seen[row, column])[, 1] / 255 - colours[1 + round(at[2]), 1 + round(at[1]), ])), 0.05)
    }
  }
  expect_match(as_figure(sheet)$labels$caption, "Whose it is")
  # What is half transparent is so, beside nothing at all; a picture that only touches the map's edge is left out.
  expect_identical(native_colours(c(NA, bitwOr(bitwShiftL(200L, 8L), 5L)), 0.5), c(NA, "#05C80000"))
  expect_identical(native_colours(-16777216L + 255L, 0.5), "#FF000080")
  expect_true(all(is.na(bend_picture(c(9, 9), list(cells = 1, x = c(10, 20, 10, 20), y = c(10, 10, 0, 0)), c(x0 = 0, y0 = 0, x1 = 10, y1 = 10)))))
  # Each kind of layer and its legend are as faint as each other.
  for (layer in list(list(kind = "areas", colours = "#102030", labels = "a"), list(kind = "density", colours = "#102030", labels = "a", opacity = 1))) expect_identical(legend_entries(faint_layer(c(layer, list(show = list(opacity = 0.5)))))$colours, "#10203080")
  expect_identical(faint_layer(list(kind = "lines", colour = "#102030", casing = NULL, show = list(opacity = 0.5)))$colour, "#10203080")
})

test_that("pictures that are none, or have no place, are refused", {
  lay <- function(...) resolve_sheet(under() |> lay_picture(...) |> draw_lines(land()))
  path <- picture()
  expect_error(lay(path, "W"), "no world file beside it", class = "ochre_error_picture")
  for (bad in list("a", c("1", "2"), c("1", "1", "1", "1", "0", "0"), c("1", "x", "0", "1", "0", "0"), c(rep("Inf", 6)))) {
    writeLines(bad, file.path(dirname(path), "plan.pgw"))
    expect_error(lay(path, "W"), "no world file", class = "ochre_error_picture")
  }
  writeLines(c("100", "0", "0", "-100", "4000000", "5000000"), file.path(dirname(path), "plan.pgw"))
  expect_error(lay(path, "W"), "not on the globe", class = "ochre_error_picture")
  expect_error(lay(ochre_demo("visits.csv"), "W", corners = c(0, 1, 1, 1, 1, 0, 0, 0)), "is no picture", class = "ochre_error_picture")
  expect_error(lay("nowhere.png", "W", corners = c(0, 1, 1, 1, 1, 0, 0, 0)), class = "ochre_error_file")
  expect_error(lay_picture(under(), path, "W", corners = c(0, 0, 1, 1, 2, 2, 3, 3)), "one line", class = "ochre_error_argument")
  expect_error(lay_picture(under(), path, "W", corners = c(0, 0, 1, 1)), "four pairs", class = "ochre_error_argument")
  expect_error(lay_picture(under(), "https://p.example/a.png", "W"), "needs `corners`", class = "ochre_error_argument")
  # A few bytes that would unpack to very many pixels.
  bomb <- readBin(path, "raw", 1e6)
  bomb[17:24] <- as.raw(c(0, 1, 0x86, 0xa0, 0, 1, 0x86, 0xa0))
  writeBin(bomb, path)
  expect_error(lay(path, "W", corners = c(0, 1, 1, 1, 1, 0, 0, 0)), "100,000 by 100,000 pixels", class = "ochre_error_picture")
  path <- picture()
  # Files that are cut off anywhere end in a classed error, or are taken for what their start says.
  whole <- readBin(path, "raw", 1e6)
  jpeg <- as.raw(c(0xff, 0xd8, 0xff, 0xe0, 0, 4, 0, 0, 0xff, 0xc0, 0, 11, 8, 0, 20, 0, 40, 1, 1, 0x11, 0, 0xff, 0xd9, rep(0, 8)))
  expect_identical(picture_size(jpeg, "jpeg"), list(width = 40, height = 20))
  for (bytes in list(whole, jpeg)) for (n in seq(0, 40, 3)) {
    writeBin(utils::head(bytes, n), path)
    tryCatch(lay(path, "W", corners = c(0, 1, 1, 1, 1, 0, 0, 0)), ochre_error = function(e) expect_s3_class(e, "ochre_error_picture"))
  }
})

capabilities <- function(change = identity) {
  path <- tempfile(fileext = ".xml")
  writeLines(change(demo_capabilities("https://w.example")), path)
  path
}

test_that("a WMTS server's capabilities give the same levels as the common scheme, by template or by keys", {
  wmts <- function(path, ...) resolve_sheet(under() |> lay_wmts(path, "orvane", "W", ...) |> draw_lines(land()))$backdrops[[1]]
  b <- wmts(capabilities())
  expect_identical(b$url, "https://w.example/wmts/tiles/{z}/{y}/{x}.png")
  common <- common_levels(list(levels = tile_levels, tile = 256, rows = "top"))
  for (field in c("metres", "x", "y", "columns", "rows")) expect_equal(vapply(b$levels, function(l) l[[field]], 0), vapply(common, function(l) l[[field]], 0), tolerance = 1e-10)
  # OGC 07-057r7, annex E.4: level 0 of GoogleMapsCompatible has the scale denominator 559082264.0287178.
  expect_equal(2 * mercator_edge / 256 / pixel_metres, 559082264.0287178, tolerance = 1e-12)
  keys <- wmts(capabilities(function(x) sub("<ResourceURL[^>]*/>", "", sub("<Contents>", "<ows:OperationsMetadata><ows:Operation name=\"GetTile\"><ows:DCP><ows:HTTP><ows:Get xlink:href=\"https://w.example/ask?map=a\" xmlns:xlink=\"http://www.w3.org/1999/xlink\"/></ows:HTTP></ows:DCP></ows:Operation></ows:OperationsMetadata><Contents>", x))))
  expect_identical(keys$url, "https://w.example/ask?map=a&SERVICE=WMTS&REQUEST=GetTile&VERSION=1.0.0&LAYER=orvane&STYLE=plain&FORMAT=image%2Fpng&TILEMATRIXSET=world&TILEMATRIX={z}&TILEROW={y}&TILECOL={x}")
  refused <- function(change, what, class = "ochre_error_service") expect_error(wmts(capabilities(change)), what, class = class)
  refused(function(x) sub(">orvane<", ">orvan<", x), "Did you mean `orvan`")
  refused(function(x) sub("EPSG::3857", "EPSG::25832", x), "none of them in web Mercator")
  refused(function(x) sub("EPSG::3857", "EPSG::13857", x), "none of them in web Mercator")
  refused(function(x) sub("<TileMatrixSetLink>", "<Dimension><ows:Identifier>Time</ows:Identifier></Dimension><TileMatrixSetLink>", x), "gives no value for `Time`")
  refused(function(x) sub("https://w.example/wmts", "javascript:alert(1)//", x), "cannot be used")
  refused(function(x) sub("<ScaleDenominator>[^<]*", "<ScaleDenominator>-1", x), "numbers cannot be read")
  refused(function(x) sub("?>", "?><!DOCTYPE a [<!ENTITY b \"c\">]>", x, fixed = TRUE), "document type", "ochre_error_file")
  refused(function(x) substr(x, 1, 900), "not well-formed", "ochre_error_file")
  expect_error(wmts(capabilities(), style = "plane"), "Styles: `plain`", class = "ochre_error_service")
  expect_error(wmts(ochre_demo("visits.csv")), class = "ochre_error_file")
})

test_that("the stand-in server has tiles, capabilities and places, for this machine", {
  skip_if_not_installed("httpuv")
  server <- processx::process$new(file.path(R.home("bin"), "Rscript"), c(system.file("bin", "ochre", package = "ochre"), "serve-demo", "--port", "0"), stdout = "|", env = c("current", R_LIBS = paste(.libPaths(), collapse = .Platform$path.sep)))
  on.exit(server$kill())
  server$poll_io(20000)
  address <- sub("/$", "", server$read_output_lines()[1])
  get <- function(path) curl::curl_fetch_memory(paste0(address, path))
  # A tile where Orvane is has land and sea; where it is not there is none.
  tile <- get("/tiles/7/50/45.png")
  expect_identical(dim(png::readPNG(tile$content))[1:2], c(256L, 256L))
  expect_gt(length(unique(c(round(png::readPNG(tile$content), 2)))), 30)
  expect_identical(c(get("/tiles/7/1/1.png")$status_code, get("/tiles/30/1/1.png")$status_code, get("/tiles/7/50/9999999.png")$status_code), rep(404L, 3))
  expect_identical(get("/wmts/tiles/7/45/50.png")$content, tile$content)
  # The land of the tile is where the districts are: its middle row against point in polygon.
  at <- png::readPNG(tile$content)[128, , 1:3]
  side <- 2 * mercator_edge / 2^7
  x <- -mercator_edge + (50 + (seq_len(256) - 0.5) / 256) * side
  y <- mercator_edge - (45 + 127.5 / 256) * side
  place <- data.frame(longitude = x / mercator_edge * 180, latitude = atan(sinh(y / mercator_edge * pi)) * 180 / pi)
  on_land <- !is.na(quietly(find_areas(place, land()))$area)
  blue <- at[, 3] > at[, 1]
  expect_gt(mean(blue == !on_land), 0.9)
  found <- function(q) jsonlite::fromJSON(rawToChar(get(paste0("/places?limit=3&q=", utils::URLencode(q, reserved = TRUE)))$content), simplifyVector = FALSE)$places
  known <- land()
  first <- found(toupper(stringi::stri_trans_general(known$name[4], "NFD; [:Nonspacing Mark:] Remove")))[[1]]
  expect_identical(first$name, known$name[4])
  expect_true(first$box[[1]] < first$lon && first$lon < first$box[[3]] && first$box[[2]] < first$lat && first$lat < first$box[[4]])
  expect_length(found(""), 0)
  expect_length(found("<script>"), 0)
  for (odd in c("?q=", "?q", "?=", "?q=%zz&limit=x", "?q=%ff%00", "?limit=-1&q=a")) expect_length(
    jsonlite::fromJSON(rawToChar(get(paste0("/places", odd))$content))$places, 0
  )
  expect_identical(get(paste0("/places?q=", strrep("a", 5000)))$status_code, 414L)
  expect_identical(c(get("/../etc")$status_code, get("/tiles/7/50/45.png/x")$status_code), c(404L, 404L))
  expect_lte(length(found("a")), 3)
  port <- as.integer(sub(".*:", "", address))
  expect_error(serve_demo(port), "is taken", class = "ochre_error_port")
  page <- rawToChar(get("/")$content)
  expect_match(page, paste0("connect-src http://127.0.0.1:", port), fixed = TRUE)
})

test_that("pictures of a popup may lie in a folder, become a part of the page, and come from nowhere else", {
  path <- picture(30, 30)
  folder <- dirname(path)
  file.copy(path, file.path(folder, "100% a.png"))
  writeLines("no picture", file.path(folder, "text.png"))
  areas <- demo_rates()
  areas$photo <- NA_character_
  areas$photo[1:5] <- c("plan.png", "100% a.png", "../plan.png", path, "lost.png")
  made <- function() map_sheet("T") |> shade_areas(areas, visits_per_1000, popup = list("Photo" = popup_picture("{photo}", "{name}", folder = folder)))
  expect_warning(plan <- quietly_but("ochre_warning_link", resolve_sheet(made())), "3 pictures are left out", class = "ochre_warning_link")
  address <- plan$layers[[1]]$popup$fields[[1]]
  expect_identical(which(!is.na(address)), 1:2)
  expect_identical(jsonlite::base64_dec(sub("^data:image/png;base64,", "", address[2])), readBin(path, "raw", 1e6))
  expect_length(picture_origins(plan), 0)
  areas$photo[1] <- "text.png"
  expect_error(quietly(resolve_sheet(made())), "is no picture", class = "ochre_error_picture")
})

test_that("values by zoom begin with that of the whole map, and a heat surface with the places of its points", {
  expect_identical(format(by_zoom(c(1, 8), c(0.5, 2))), "Between zooms: 0.5 at zoom 1, 2 at zoom 8")
  for (bad in list(list(c(2, 1), 1:2), list(1, 1:2), list(c(0.5, 2), 1:2), list(c(1, 2), c("a", "b")), list(c(1, 2), list(1, 1:2)))) expect_error(do.call(by_zoom, bad), class = "ochre_error_argument")
  clinics <- quietly(read_statistics(ochre_demo("clinics.csv")))
  expect_error(place_symbols(map_sheet("T"), clinics, patients, grow = by_zoom(c(2, 4), c(1, 2))), "must begin with 1", class = "ochre_error_argument")
  expect_error(place_symbols(map_sheet("T"), clinics, patients, grow = 3), "by_zoom", class = "ochre_error_argument")
  expect_error(draw_lines(map_sheet("T"), land(), dash = by_zoom(1, 3)), "pairs", class = "ochre_error_argument")
  sheet <- map_sheet("T") |> draw_lines(land(), width = by_zoom(c(1, 8), c(0.5, 2)), dash = by_zoom(c(1, 4), list(c(0, 0), c(4, 3)), stepped = TRUE)) |>
    place_symbols(clinics, patients, grow = by_zoom(c(1, 8), c(1, 3))) |> write_labels(clinics, name, scale = by_zoom(c(1, 8), c(0.8, 1.2))) |> shade_heat(clinics, weight = patients, radius = 30)
  plan <- quietly(resolve_sheet(sheet))
  expect_identical(list(plan$layers[[1]]$width, plan$layers[[1]]$dash, plan$layers[[3]]$scale), list(0.5, FALSE, 0.8))
  page <- content(plan)
  expect_identical(page$layers[[1]]$zoomed$dash, list(zooms = list(1L, 4L), values = list(list(0L, 0L), list(4L, 3L)), stepped = TRUE))
  expect_equal(unlist(page$layers[[2]]$zoomed$size$values), c(1, 3))
  heat <- plan$layers[[4]]
  expect_setequal(heat$weight, signif(clinics$patients[plan$layers[[2]]$row], 4))
  expect_equal(sort(heat$x), sort(plan$layers[[2]]$x), tolerance = 1e-9)
  # The figure's surface is darkest around the fullest place.
  grid <- heat$grid
  class <- inverse.rle(structure(list(lengths = grid$runs, values = grid$class), class = "rle"))
  top <- which.max(class) - 1
  middle <- c(grid$x0 + (top %% grid$columns) * grid$cell, grid$y0 + (top %/% grid$columns) * grid$cell)
  near <- function(p) { d2 <- (heat$x - p[1])^2 + (heat$y - p[2])^2; r2 <- (30 * max(plan$frame[["x1"]] - plan$frame[["x0"]], plan$frame[["y1"]] - plan$frame[["y0"]]) / 900)^2; sum(heat$weight * pmax(0, 1 - d2 / r2)^2) }
  expect_gt(near(middle), 0.85 * max(mapply(function(x, y) near(c(x, y)), heat$x, heat$y)))
  expect_error(shade_heat(map_sheet("T"), clinics, ramp = "meadow"), "no order", class = "ochre_error_argument")
})
