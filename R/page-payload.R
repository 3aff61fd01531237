# The plan as the viewer reads it (viewer/src/payload.ts has the same shape in types).

plan_json <- function(plan) {
  out <- list(
    version = plan_version, locale = plan$locale, alt = plan$alt, title = plan$title, subtitle = plan$subtitle, source = plan$source, note = plan$note, ground = plan$ground, inks = plan$inks,
    style = plan$style$legend, panels = if (!is.null(plan$panels)) I(plan$panels),
    words = plan$words, marks = plan$marks, page = page_json(plan$page), dark = plan$dark,
    projection = c(list(name = plan$projection$name), as.list(unlist(plan$projection[c("lon0", "lat0", "lat1", "lat2")]))),
    frame = signif(unname(plan$frame), 10), backdrops = lapply(plan$backdrops, backdrop_json),
    insets = lapply(
      plan$insets, function(i) list(frame = signif(unname(i$frame), 10), label = i$label)
    ),
    topology = structure(call_core(topojson_core(plan$topology)), class = "json"),
    layers = lapply(plan$layers, layer_json, table = plan$page$table || plan$page$bars > 0)
  )
  as.character(jsonlite::toJSON(out, auto_unbox = TRUE, null = "null", na = "null", digits = NA, json_verbatim = TRUE))
}

# I() keeps a vector of one an array.
arrays <- function(x, fields) lapply(x[intersect(fields, names(x))], function(v) if (is.null(v)) NULL else I(v))

layer_json <- function(layer, table) {
  common <- c(list(kind = layer$kind, id = layer$id, name = layer$name, legend = layer$legend, legend_note = layer$legend_note, zoomed = if (length(layer$zoomed)) lapply(layer$zoomed, by_zoom_json), show = if (!is.null(layer$show)) list(off = layer$show$off, opacity = layer$show$opacity, zooms = if (!is.null(layer$show$zooms)) I(layer$show$zooms))), texts_json(layer))
  c(common, switch(layer$kind,
    areas = c(area_json(layer, table), arrays(layer, c("names", "codes")), layer[intersect(c("outline", "hatch"), names(layer))], list(
      square = if (!is.null(layer$square)) lapply(layer$square, function(x) if (length(x) > 1) I(x) else x),
      panels = if (!is.null(layer$panels)) lapply(layer$panels, function(p) c(texts_json(p), area_json(p, table))))),
    symbols = c(list(x = I(round(layer$x, 1)), y = I(round(layer$y, 1)), r = I(round(layer$r, 1)), sizes = list(labels = I(layer$sizes$labels), r = I(round(layer$sizes$r, 1))), key = key_json(layer$key)),
      layer[intersect(c("colour", "opacity", "rim", "group"), names(layer))], arrays(layer, "panel"), list(
      outline = if (!is.null(layer$outline)) lapply(layer$outline, function(v) I(round(v, 4))),
      bar = if (!is.null(layer$bar)) list(width = round(layer$bar$width, 1), height = I(round(layer$bar$height, 1)), marks = I(round(layer$bar$marks, 1))),
      second = if (!is.null(layer$second)) list(r = I(round(layer$second$r, 1)), colour = layer$second$colour, labels = I(layer$second$labels)),
      from = if (!is.null(layer$from)) lapply(layer$from, function(v) I(round(v, 1))))),
    lines = c(layer[intersect(c("colour", "dash", "casing", "arrow"), names(layer))], list(width = layer$width, widths = if (!is.null(layer$widths)) lapply(layer$widths, I), key = key_json(layer$key))),
    density = c(arrays(layer, c("labels", "colours")), list(opacity = layer$opacity, grid = c(layer$grid[c("x0", "y0", "cell", "columns", "rows")], arrays(layer$grid, c("runs", "class"))))),
    heat = c(arrays(layer, c("labels", "colours", "weight")), list(x = I(round(layer$x, 1)), y = I(round(layer$y, 1)), radius = layer$radius, opacity = layer$opacity)),
    labels = c(arrays(layer, "text"), list(x = I(round(layer$x, 1)), y = I(round(layer$y, 1)), r = I(round(layer$r, 1))), layer[intersect(c("scale", "colour", "halo", "bold", "centred"), names(layer))], ink_json(layer))
  ))
}

# Inks of labels on what lies under them, counted from 0; `ink` has a list for each panel.
ink_json <- function(layer) {
  if (is.null(layer$ink)) return(NULL)
  ink <- if (is.list(layer$ink)) layer$ink else list(layer$ink)
  list(
    inks = I(layer$inks), halos = if (!is.null(layer$halos)) I(layer$halos),
    ink = lapply(ink, function(i) I(i - 1L)), over = I(layer$over - 1L)
  )
}

# Of a layer or of one of its panels.
texts_json <- function(x) list(
  hover = if (!is.null(x$hover)) I(x$hover),
  popup = if (!is.null(x$popup)) list(labels = I(x$popup$labels), kinds = I(x$popup$kinds %||% rep("text", length(x$popup$labels))), fields = lapply(x$popup$fields, I), texts = if (!is.null(x$popup$texts)) lapply(x$popup$texts, function(t) if (is.null(t)) NULL else I(t)))
)

# Levels have the same fields, so they are rows of a table.
backdrop_json <- function(b) {
  c(b[intersect(c("kind", "name", "attribution", "link", "opacity", "url", "address", "cells"), names(b))], arrays(b, c("x", "y")), list(levels = if (!is.null(b$levels)) lapply(b$levels, function(l) Filter(Negate(is.null), l))))
}

page_json <- function(page) c(page[c("hover", "click", "search", "layers", "bars", "table", "download", "places")], list(tools = I(page$tools), cards = page$cards_shown))

# The values themselves only where a table or bars show them.
area_json <- function(x, table) c(
  arrays(x, c("class", "counts", "count_labels", "labels", "colours", "share", "rank", if (table) c("values", "numbers"))), list(no_data = x$no_data),
  if (!is.null(x$histogram)) list(histogram = lapply(x$histogram, I))
)

key_json <- function(key) if (!is.null(key)) c(list(legend = key$legend, no_data = key$no_data), arrays(key, c("class", "labels", "colours", "count_labels")))
