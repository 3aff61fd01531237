# Figures: what stands where, sizes on paper, files for print.
words_in <- function(svg) xml2::xml_text(xml2::xml_find_all(svg, "//*[local-name() = 'text']"))
drawn <- function(sheet, ..., ext = ".svg") {
  file <- temporary(ext)
  quietly(publish(sheet, file, ...))
  if (ext == ".svg") xml2::read_xml(file) else file
}
rates <- function(...) {
  map_sheet("T", ...) |>
    shade_areas(demo_rates(), visits_per_1000, steps = steps_natural(5, digits = 0))
}

test_that("areas of an SVG have ids, titles and the colour of their class; text is text", {
  svg <- drawn(rates())
  plan <- quietly(resolve_sheet(rates()))
  layer <- plan$layers[[1]]
  for (i in c(1, 50, 100)) {
    area <- xml2::xml_find_first(svg, sprintf("//*[@id = 'layer1-%s']", layer$codes[i]))
    expect_identical(xml2::xml_text(area), layer$hover[i])
    expect_match(
      xml2::xml_attr(area, "style"), c(layer$no_data$colour, layer$colours)[layer$class[i] + 1],
      fixed = TRUE
    )
  }
  ids <- xml2::xml_attr(xml2::xml_find_all(svg, "//*[@id]"), "id")
  expect_false(anyDuplicated(ids) > 0)
  expect_true(all(layer$labels %in% words_in(svg)))
  expect_identical(xml2::xml_attr(svg, "aria-label"), plan$alt)
  # Also with symbols, lines and several layers and maps: an id stands on the area that it names.
  clinics <- quietly(read_statistics(ochre_demo("clinics.csv")))
  twice <- demo_rates()[rep(1:3, 2), ]
  twice$when <- rep(c("a", "b"), each = 3)
  twice$v <- 1:6
  sheet <- map_sheet("T") |>
    shade_areas(demo_rates(), visits_per_1000, steps = steps_natural(5, digits = 0)) |>
    shade_areas(twice, v, steps = steps_equal(3), by = when) |>
    place_symbols(clinics, patients, second = patients)
  svg <- drawn(sheet)
  plan <- quietly(resolve_sheet(sheet))
  for (p in 1:2) {
    for (k in 1:2) {
      layer <- plan$layers[[k]]
      area <- xml2::xml_find_first(
        svg,
        sprintf("//*[@id = 'layer%d-map-%d-%s']", k, p, layer$codes[2])
      )
      now <- layer$panels[[p]] %||% layer
      expect_identical(xml2::xml_text(area), now$hover[2])
      expect_match(xml2::xml_attr(area, "style"), layer$colours[now$class[2]], fixed = TRUE)
    }
  }
  # Names that break markup stay text, and ids stay ids.
  odd <- squares(c("1", "2", "3"))
  odd$code <- c("a\"b<c", "a b", "a_b")
  odd$name <- c("<script>", "&amp;", "\"'")
  odd$v <- 1:3
  svg <- drawn(map_sheet("<b>&") |> shade_areas(odd, v, steps = steps_equal(2)))
  ids <- xml2::xml_attr(xml2::xml_find_all(svg, "//*[local-name() = 'path']"), "id")
  expect_identical(ids, c("layer1-a-b-c", "layer1-a-b", "layer1-a_b"))
  expect_true("<b>&" %in% words_in(svg))
})

test_that("in an SVG of small maps titles and ids stand on the right shapes", {
  areas <- squares(sprintf("%02d", 1:6))
  for (maps in c(2, 4, 5, 7, 12)) {
    for (columns in list(NULL, 2, 3)) {
      set.seed(maps)
      long <- data.frame(
        code = rep(areas$code, each = maps),
        month = rep(sprintf("2031-%02d", seq_len(maps)), 6),
        v = round(runif(6 * maps), 3)
      )
      sheet <- map_sheet("Maps", figure = figure_style(columns = columns)) |>
        shade_areas(
          quietly(join_statistics(areas, long, by = "code", period = "month")),
          v,
          steps = steps_equal(4),
          hover = "{code}: {v|3}"
        )
      plan <- quietly(resolve_sheet(sheet))
      layer <- plan$layers[[1]]
      svg <- drawn(plan)
      for (p in seq_len(maps)) {
        for (i in 1:6) {
          shape <- xml2::xml_find_first(
            svg,
            sprintf("//*[@id = 'layer1-map-%d-%s']", p, layer$codes[i])
          )
          colour <- layer$colours[layer$panels[[p]]$class[i]]
          expect_match(
            xml2::xml_attr(shape, "style") %||% "", colour, ignore.case = TRUE,
            info = paste(maps, p, i)
          )
          title <- sprintf(
            "%s: %s",
            areas$code[i],
            format(long$v[long$code == areas$code[i]][p], nsmall = 3)
          )
          expect_identical(xml2::xml_text(xml2::xml_child(shape)), title)
        }
      }
    }
  }
})

test_that("sizes are millimetres, and letters keep their points at each", {
  for (size in list("column", "wide", c(120, 90))) {
    style <- figure_style(size)
    svg <- drawn(rates(figure = style))
    box <- as.numeric(strsplit(xml2::xml_attr(svg, "viewBox"), " ")[[1]])
    expect_equal(box[3], style$mm[1] / 25.4 * 72, tolerance = 1e-3)
    if (length(style$mm) == 2) expect_equal(box[4], style$mm[2] / 25.4 * 72, tolerance = 1e-3)
    label <- xml2::xml_find_first(svg, "//*[local-name() = 'text' and text() = '13\u201353']")
    expect_match(
      xml2::xml_attr(label, "style"), sprintf("font-size: %.2fpx", 0.88 * style$text), fixed = TRUE
    )
  }
  png <- png::readPNG(drawn(rates(figure = figure_style("column")), dpi = 300, ext = ".png"))
  expect_equal(ncol(png), 85 / 25.4 * 300, tolerance = 2e-3)
})

test_that("grounds of a figure: none, dark, light; and a PDF holds its fonts", {
  clear <- png::readPNG(drawn(rates(figure = figure_style(transparent = TRUE)), ext = ".png"))
  expect_identical(dim(clear)[3], 4L)
  expect_gt(mean(clear[, , 4] == 0), 0.3)
  plan <- quietly(resolve_sheet(rates(ground = "dark")))
  image <- pixels(drawn(rates(ground = "dark"), ext = ".png", dpi = 60))
  expect_gt(share_of_colour(image, plan$inks$ground), 0.3)
  for (k in 1:3) expect_gt(share_of_colour(image, plan$layers[[1]]$colours[k]), 0.01)
  pdf <- readBin(drawn(rates(), ext = ".pdf"), "raw", 1e7)
  expect_true(length(grepRaw("/FontFile", pdf)) > 0)
})

test_that("scale bar, north and ranked bars are true", {
  svg <- drawn(rates(figure = figure_style(scale_bar = TRUE, north = TRUE, bars = 6)))
  plan <- quietly(resolve_sheet(rates(figure = figure_style(scale_bar = TRUE, bars = 6))))
  rate <- demo_rates()$visits_per_1000
  top <- order(-rate)[1:6]
  expect_identical(plan$ranking$names, demo_rates()$name[top])
  expect_equal(plan$ranking$share, rate[top] / rate[top][1])
  expect_identical(plan$ranking$values, format_number(rate[top], 0))
  expect_true(all(c("N", plan$scale_bar$label, plan$ranking$names) %in% words_in(svg)))
  # The bar against a geodesic along the parallel through the map's middle.
  km <- as.numeric(sub("\\D.*", "", plan$scale_bar$label))
  frame <- plan$frame
  y <- mean(frame[c("y0", "y1")])
  ends <- lapply(
    mean(frame[c("x0", "x1")]) + c(-0.5, 0.5) * plan$scale_bar$length,
    function(x) inverse_core(x, y, plan$projection)
  )
  expect_equal(
    km_between(ends[[1]]$lon, ends[[1]]$lat, ends[[2]]$lon, ends[[2]]$lat), km, tolerance = 0.005
  )
  # Off the central meridian north is not up.
  expect_equal(north_at(0, 0, plan$projection), 0, tolerance = 1e-6)
  expect_lt(
    north_at(frame[["x0"]], 0, plan$projection) * north_at(frame[["x1"]], 0, plan$projection), 0
  )
})

test_that("a legend stands where it was asked to and covers nothing", {
  corner <- read_boundaries(geojson(
    c("{\"v\":1,\"name\":\"a\"}", "{\"v\":2,\"name\":\"b\"}"),
    c(
      paste0(
        "{\"type\":\"Polygon\",\"coordinates\":[[[0,0],[4,0],[4,4],[3.6,4],[3.6,0.4],[0,0.4],",
        "[0,0]]]}"
      ),
      "{\"type\":\"Polygon\",\"coordinates\":[[[0,0.4],[0.3,0.4],[0.3,0.7],[0,0.7],[0,0.4]]]}"
    )
  ))
  sheet <- function(place) {
    map_sheet("T", legend = legend_style(place)) |>
      shade_areas(corner, v, steps = steps_equal(2))
  }
  at <- figure_layout(resolve_sheet(sheet("inside")))
  expect_identical(c(at$corner$x, at$corner$y), c(0, 1))
  expect_identical(at$right, 0)
  full <- map_sheet("T", legend = legend_style("inside")) |>
    shade_areas(transform(squares(c("1", "2")), v = 1:2), v, steps = steps_equal(2))
  expect_message(as_figure(full), "no corner of the map is free")
  below <- figure_layout(resolve_sheet(sheet("below")))
  expect_gt(below$below, 0.3)
  expect_identical(figure_layout(resolve_sheet(sheet("none")))$right, 0)
  expect_false("1" %in% words_in(drawn(sheet("none"))))
  # In a narrow figure it goes below by itself.
  narrow <- rates(figure = figure_style("column"))
  expect_identical(figure_layout(quietly(resolve_sheet(narrow)))$place, "below")
})

test_that("labels keep to the page and off each other; layers and themes can be added", {
  figure <- quietly(as_figure(
    rates() |> write_labels(demo_rates(), name, priority = population)
  ))
  more <- figure + ggplot2::theme(plot.title = ggplot2::element_text(colour = "red")) +
    ggplot2::annotate("text", x = 0, y = 0, label = "mine")
  file <- temporary(".svg")
  svglite::svglite(file, 9, 6)
  print(more)
  grDevices::dev.off()
  svg <- xml2::read_xml(file)
  texts <- xml2::xml_find_all(svg, "//*[local-name() = 'text']")
  expect_true("mine" %in% xml2::xml_text(texts))
  named <- texts[xml2::xml_text(texts) %in% demo_rates()$name]
  # Each label once in ink, and eight times for its halo in another colour.
  words <- xml2::xml_text(named)
  fill <- sub(".*fill: (#[0-9A-F]{6}).*", "\\1", xml2::xml_attr(named, "style"))
  fill[!startsWith(fill, "#")] <- "#000000"
  times <- stats::ave(seq_along(fill), words, fill, FUN = length)
  expect_true(all(times %in% c(1, 8)) && all(table(words) == 9))
  inked <- named[times == 1]
  expect_false(anyDuplicated(xml2::xml_text(inked)) > 0)
  x <- as.numeric(xml2::xml_attr(inked, "x"))
  y <- as.numeric(xml2::xml_attr(inked, "y"))
  wide <- as.numeric(sub("px", "", xml2::xml_attr(inked, "textLength")))
  expect_gt(length(x), 20)
  for (i in seq_along(x)) {
    expect_false(any(abs(y[-i] - y[i]) < 8 & abs(x[-i] - x[i]) < (wide[-i] + wide[i]) / 2 - 1))
  }
})

# How much of the land of a PNG is of the borders' colour, by how green it is.
border_share <- function(file) {
  picture <- png::readPNG(file)
  land <- apply(picture[, , 1:3], 1:2, min) < 0.97
  green <- picture[, , 2] - pmax(picture[, , 1], picture[, , 3])
  sum(pmax(green, 0)[land]) / sum(land)
}
many_areas <- function(n) {
  side <- ceiling(sqrt(n))
  x <- rep(seq_len(side), side)[seq_len(n)] * 10 / side
  y <- rep(seq_len(side), each = side)[seq_len(n)] * 10 / side
  text <- "POLYGON ((%1$f %2$f, %3$f %2$f, %3$f %4$f, %1$f %4$f, %1$f %2$f))"
  set.seed(n)
  tibble::tibble(
    v = runif(n),
    part = rep_len(1:4, n),
    geometry = wk::as_wkb(wk::wkt(sprintf(text, x, y, x + 10 / side, y + 10 / side)))
  )
}

test_that("borders are as wide whichever way the rings of a file run", {
  turned <- many_areas(400)
  set.seed(3)
  some <- sample(400, 180)
  turned$geometry[some] <- wk::as_wkb(wk::wkt(vapply(some, function(i) {
    at <- wk::wk_coords(turned$geometry[i])
    sprintf("POLYGON ((%s))", paste(rev(at$x), rev(at$y), collapse = ", "))
  }, "")))
  spacing <- function(areas) {
    quietly(resolve_sheet(map_sheet("T") |> shade_areas(areas, v)))$layers[[1]]$spacing
  }
  expect_equal(spacing(turned), spacing(many_areas(400)))
})

test_that("borders leave the map visible, however many areas there are and however small it is", {
  own <- border_style(colour = "#00ff00")
  for (n in c(100, 3000, 20000)) {
    sheet <- map_sheet("T", figure = figure_style(if (n == 3000) "column" else "screen")) |>
      shade_areas(many_areas(n), v, borders = own)
    expect_lt(border_share(drawn(sheet, ext = ".png")), 0.12)
  }
  small <- do.call(rbind, lapply(1:12, function(month) cbind(many_areas(400), month = month)))
  sheet <- map_sheet("T") |> shade_areas(tibble::as_tibble(small), v, by = month, borders = own)
  expect_lt(border_share(drawn(sheet, ext = ".png")), 0.12)
  # A width that was asked for is kept, and one of none draws none.
  wide <- map_sheet("T") |>
    shade_areas(many_areas(3000), v, borders = border_style("#00ff00", width = 2))
  expect_gt(border_share(drawn(wide, ext = ".png")), 0.12)
})

test_that("a published figure is in one open family, wherever one is found", {
  family <- figure_family()
  expect_true(family %in% c(open_families, ""))
  svg <- drawn(map_sheet("Words", inset = list(Far = c(-1, -1, 1, 1)), source = "S") |>
    shade_areas(squares(c("1", "2", "3", "4")), code, steps_categories()))
  style <- xml2::xml_attr(xml2::xml_find_all(svg, "//*[local-name() = 'text']"), "style")
  expect_gt(length(style), 5)
  if (nzchar(family)) expect_true(all(grepl(family, style, fixed = TRUE)))
})

test_that("a published figure is drawn as the ggplot2 object is, over every verb", {
  world <- plan_world()
  on_device <- function(draw, at) {
    file <- temporary(".png")
    ragg::agg_png(file, at$width, at$tall, units = "in", res = 60, background = at$ground)
    grid::grid.newpage()
    draw()
    grDevices::dev.off()
    pixels(file)
  }
  set.seed(11)
  compared <- 0
  for (i in 1:16) {
    plan <- tryCatch(quietly(resolve_sheet(any_sheet(world))), ochre_error = function(e) NULL)
    if (is.null(plan)) next
    at <- quietly(figure_layout(plan))
    at$tall <- figure_height(plan, at$width)
    at$ground <- if (plan$style$figure$transparent) "white" else plan$inks$ground
    figure <- quietly(as_figure(plan))
    ours <- on_device(function() quietly(draw_paper(plan, at, "")), at)
    theirs <- on_device(function() grid::grid.draw(ggplot2::ggplotGrob(figure)), at)
    expect_identical(dim(ours), dim(theirs))
    expect_lt(mean(abs(ours - theirs) > 30), 1e-4)
    expect_gt(mean(ours != ours[1]), 0.005)
    compared <- compared + 1
  }
  expect_gt(compared, 8)
})
