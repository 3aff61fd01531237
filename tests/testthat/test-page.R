# What a sheet asks of a page, and what the page then holds.
sheet <- function(...) {
  map_sheet("T", ...) |>
    shade_areas(demo_rates(), visits_per_1000, steps = steps_natural(5, digits = 0))
}
content <- function(plan) jsonlite::fromJSON(write_json(plan_content(plan)), simplifyVector = FALSE)

test_that("totals and ranks are those of the data, in the map's language and format", {
  rate <- demo_rates()$visits_per_1000
  plan <- quietly(resolve_sheet(sheet(
    locale = "de",
    page = page_style(cards = c("sum", "mean", "highest"), bars = 3)
  )))
  say <- function(v) format_number(v, 0, locale = read_locale("de"))
  expect_identical(
    plan$page$cards[[1]],
    list(
      list(label = "Summe", value = say(sum(rate, na.rm = TRUE))),
      list(label = "Mittel", value = say(mean(rate, na.rm = TRUE))),
      list(
        label = paste0("H\u00f6chster Wert: ", demo_rates()$name[which.max(rate)]),
        value = say(max(rate, na.rm = TRUE))
      )
    )
  )
  layer <- plan$layers[[1]]
  expect_identical(layer$rank[!is.na(rate)], rank(-rate[!is.na(rate)], ties.method = "min"))
  expect_identical(range(layer$share[!is.na(rate)]), c(0L, 1000L))
  expect_identical(layer$share[is.na(rate)], -1L)
  expect_equal(layer$numbers, rate, tolerance = 1e-6)
  # Values travel only where something shows them.
  bare <- content(quietly(resolve_sheet(sheet(page = page_style(table = FALSE)))))
  expect_null(bare$layers[[1]]$numbers)
  expect_false(bare$page$download)
})

test_that("links and pictures keep safe addresses only, and the page fetches from no other place", {
  rates <- demo_rates()
  rates$url <- "https://Example.org:8080/a"
  rates$url[1:6] <- c(
    "javascript:alert(1)", " data:text/html,x", "//example.org/x",
    "https://example.org/a b", "mailto:a@example.org", NA
  )
  rates$name[7] <- "a/b?c&d#e"
  made <- function(...) map_sheet("T") |> shade_areas(rates, visits_per_1000, popup = c(...))
  expect_warning(
    plan <- resolve_sheet(
      map_sheet("T") |>
        shade_areas(
          rates,
          visits_per_1000,
          popup = c(
            "R" = popup_link("{url}", "On {name}"),
            "Q" = popup_link("https://q.example/{name}"),
            "P" = popup_picture("{url}.png", "{name}")
          )
        )
    ),
    "addresses are left out", class = "ochre_warning_link"
  )
  popup <- plan$layers[[1]]$popup
  expect_identical(popup$kinds, c("link", "link", "picture"))
  expect_identical(
    popup$fields[[1]][1:7],
    c(NA, NA, NA, NA, "mailto:a@example.org", NA, "https://example.org:8080/a")
  )
  expect_identical(popup$texts[[1]][7], "On a/b?c&d#e")
  expect_identical(popup$fields[[2]][7], "https://q.example/a%2Fb%3Fc%26d%23e")
  expect_identical(popup$fields[[3]][5:7], c(NA, NA, "https://example.org:8080/a.png"))
  expect_identical(picture_origins(plan), "https://example.org:8080")
  text <- paste(page_text(plan), collapse = "\n")
  expect_match(text, "img-src data: https://example.org:8080;", fixed = TRUE)
  expect_false(grepl("javascript:", text))
  expect_error(popup_link(5), class = "ochre_error_argument")
  expect_error(
    map_sheet("T") |> shade_areas(rates, visits_per_1000, popup = list("R" = list(lnk = "x"))),
    "`link` or `picture`", class = "ochre_error_argument"
  )
})

test_that("a page that follows its readers has the colours of both maps", {
  both <- quietly(resolve_sheet(sheet(ground = "follow")))
  expect_identical(both$ground, "light")
  expect_identical(both$layers, quietly(resolve_sheet(sheet()))$layers)
  dark <- quietly(resolve_sheet(sheet(ground = "dark")))
  expect_identical(as.character(both$dark$layers[[1]]$colours), dark$layers[[1]]$colours)
  expect_identical(both$dark$inks, dark$inks)
  expect_identical(both$dark$layers[[1]]$no_data$colour, dark$layers[[1]]$no_data$colour)
})

test_that("words of controls exist in every language, and others can be given", {
  english_words <- read_locale("en")$page
  for (code in locale_codes) {
    words <- read_locale(code)$page
    expect_setequal(names(words), names(english_words))
    holes <- function(x) {
      vapply(
        x,
        function(t) paste(sort(unlist(regmatches(t, gregexpr("\\{\\d\\}", t)))), collapse = ""),
        ""
      )
    }
    expect_identical(holes(words)[names(english_words)], holes(english_words))
  }
  plan <- quietly(resolve_sheet(sheet(
    locale = map_locale("es", code = "it", words = list(zoom_in = "Ingrandisci"))
  )))
  expect_identical(content(plan)$words$zoom_in, "Ingrandisci")
  expect_identical(content(plan)$words$close, "Cerrar")
  expect_error(
    map_locale(words = list(zom_in = "x")), "Did you mean `zoom_in`", class = "ochre_error_argument"
  )
})

test_that("a layer may be off at first or between zooms, and wrong wishes are refused", {
  layers <- content(quietly(resolve_sheet(
    sheet() |> show_layer(off = TRUE, zooms = c(2, 8))
  )))$layers
  expect_identical(layers[[1]]$show, list(off = TRUE, opacity = 1L, zooms = list(2L, 8L)))
  expect_error(show_layer(map_sheet("T")), "no layer", class = "ochre_error_sheet")
  expect_error(
    show_layer(sheet(), zooms = c(8, 2)), "least and the greatest", class = "ochre_error_argument"
  )
  expect_error(
    page_style(tools = "mesure"), "Did you mean `measure`", class = "ochre_error_argument"
  )
  expect_error(map_sheet("T", page = legend_style()), "page_style", class = "ochre_error_argument")
  expect_error(
    map_sheet("T", figure = figure_style(c(1, 2))), "from 40 to 2500",
    class = "ochre_error_argument"
  )
})

test_that("without scripts a page has the map as shapes, and its values as a table", {
  plan <- quietly(resolve_sheet(
    sheet() |> place_symbols(quietly(read_statistics(ochre_demo("clinics.csv"))), patients)
  ))
  still <- xml2::read_html(paste(gsub("</?noscript>", "", page_first(plan)), collapse = "\n"))
  layer <- plan$layers[[1]]
  fills <- xml2::xml_attr(xml2::xml_find_all(still, "//*[@class='ochre-first']//path"), "fill")
  expect_identical(fills, c(layer$no_data$colour, layer$colours))
  expect_length(xml2::xml_find_all(still, "//circle"), length(plan$layers[[2]]$x))
  tables <- xml2::xml_find_all(still, "//table")
  expect_length(tables, 2)
  rows <- xml2::xml_find_all(tables[[1]], ".//tr")
  expect_identical(trimws(xml2::xml_text(xml2::xml_find_first(rows, "./th"))), layer$names)
  expect_identical(
    trimws(xml2::xml_text(xml2::xml_find_first(rows, "./td"))),
    ifelse(is.na(layer$values), layer$no_data$label, layer$values)
  )
})

test_that("a page without scripts is as faint as the map, in picture and legend", {
  still <- page_first(quietly(resolve_sheet(sheet() |> show_layer(opacity = 0.7))))
  expect_true(all(grepl("opacity=\"0.7\"", grep("<path|<rect width=\"100%", still, value = TRUE))))
  expect_gt(length(grep("opacity=\"0.7\"", still)), 9)
})

test_that("a page without scripts shows surfaces too, cell for cell", {
  clinics <- quietly(read_statistics(ochre_demo("clinics.csv")))
  plan <- quietly(resolve_sheet(
    map_sheet("T") |>
      draw_lines(read_boundaries(ochre_demo("districts.geojson"))) |>
      shade_density(clinics, kernel = 15000) |>
      shade_heat(clinics)
  ))
  still <- page_first(plan)
  pictures <- regmatches(still, regexpr("data:image/png;base64,[^\"]+", still))
  expect_length(pictures, 2)
  for (k in 1:2) {
    layer <- plan$layers[[1 + k]]
    seen <- png::readPNG(jsonlite::base64_dec(sub("^[^,]*,", "", pictures[k])))
    class <- matrix(
      inverse.rle(structure(
        list(lengths = layer$grid$runs, values = layer$grid$class),
        class = "rle"
      )),
      layer$grid$columns
    )
    each <- round(max(dim(class)) / 180)
    class <- t(class[seq(1, nrow(class), each), seq(ncol(class), 1, -each)])
    expect_identical(dim(seen)[1:2], dim(class))
    expect_identical(seen[, , 4] > 0.5, class > 0)
    top <- which(class == length(layer$colours), arr.ind = TRUE)[1, ]
    expect_equal(
      round(255 * seen[top[1], top[2], 1:3]),
      c(grDevices::col2rgb(layer$colours[length(layer$colours)]))
    )
  }
  expect_true(all(vapply(
    plan$layers[[2]]$labels,
    function(l) any(grepl(l, still, fixed = TRUE)),
    NA
  )))
})

test_that("without scripts a reader sees what the page shows at first, and its whole legend", {
  areas <- squares(c("1", "2", "3"))
  places <- data.frame(longitude = 0:2 + 0.5, latitude = 0.5, kind = c("a", "b", "a"))
  sheet <- map_sheet("T", source = "S", source_link = "https://a.example/?b&c") |>
    shade_areas(areas) |>
    draw_lines(areas, legend = "Off") |>
    show_layer(off = TRUE) |>
    place_symbols(places, legend = "Near") |>
    show_layer(zooms = c(4, 64)) |>
    place_symbols(places, colour = kind, legend = "Kinds") |>
    draw_lines(areas[1, ], legend = "Border")
  plan <- quietly(resolve_sheet(sheet))
  still <- xml2::read_html(paste(gsub("</?noscript>", "", page_first(plan)), collapse = "\n"))
  items <- xml2::xml_text(xml2::xml_find_all(still, "//li/*[@class='ochre-class-label']"))
  expect_identical(items, c("a", "b", "Border"))
  expect_length(xml2::xml_find_all(still, "//circle"), 3)
  link <- xml2::xml_find_first(still, "//a")
  expect_identical(xml2::xml_attr(link, "href"), "https://a.example/?b&c")
  expect_identical(xml2::xml_text(link), plan$source)
})

test_that("a first view is the box of an area or of degrees, and wrong wishes are refused", {
  rates <- demo_rates()
  viewed <- function(...) {
    map_sheet("T", page = page_style(...)) |> shade_areas(rates, visits_per_1000)
  }
  plan <- quietly(resolve_sheet(viewed(view = rates$name[4], zooms = c(1, 8))))
  expect_identical(plan$page$zooms, c(1, 8))
  p <- paths_core(plan$topology, 1)
  own <- p$feature == 4
  expect_equal(plan$page$view, c(min(p$x[own]), min(p$y[own]), max(p$x[own]), max(p$y[own])))
  expect_identical(quietly(resolve_sheet(viewed(view = rates$code[4])))$page$view, plan$page$view)
  # The map's units are metres about its middle: a degree of latitude is 111 km.
  box <- quietly(resolve_sheet(viewed(view = c(-38.7, 46.4, -37.7, 47.4))))$page$view
  expect_equal(box[4] - box[2], 111200, tolerance = 0.02)
  expect_equal(box[3] - box[1], 111200 * cos(46.4 * pi / 180), tolerance = 0.02)
  expect_error(quietly(resolve_sheet(viewed(view = "Nowhere"))), "no area has",
               class = "ochre_error_argument")
  expect_error(page_style(view = c(1, 2, 3)), "four numbers", class = "ochre_error_argument")
  expect_error(page_style(view = c(3, 2, 1, 4)), class = "ochre_error_argument")
  expect_error(page_style(zooms = c(8, 2)), "from 1 to 1024", class = "ochre_error_argument")
  expect_error(page_style(zooms = 0), class = "ochre_error_argument")
})

test_that("the markup for an article is escaped, and its script stands in it once", {
  markup <- format(embed_markup("a.html?x=\"1\"&y", title = "<b>T</b>", height = 300))
  page <- xml2::read_html(markup)
  frame <- xml2::xml_find_all(page, "//iframe")
  expect_identical(xml2::xml_attr(frame, "src"), "a.html?x=\"1\"&y")
  expect_identical(xml2::xml_attr(frame, "title"), "<b>T</b>")
  expect_length(xml2::xml_find_all(page, "//script"), 1)
  expect_false(grepl("<script", format(embed_markup("a", title = "T", script = FALSE))))
  expect_error(embed_markup("a", title = 1), class = "ochre_error_argument")
  expect_error(embed_markup("a", title = "T", height = 5), class = "ochre_error_argument")
})
