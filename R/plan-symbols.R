# A layer of symbols: which are drawn where, in which colours. How large they are is in
# plan-symbol-sizes.R. Names, texts and values follow for the rows without a symbol, which stand in
# a page's table and search.

resolve_symbols <- function(layer, on, setting) {
  plain <- is.null(layer$size)
  value <- if (plain) rep(1, nrow(layer$data)) else as.numeric(layer$data[[layer$size]])
  halves <- if (!is.null(layer$second)) as.numeric(layer$data[[layer$second]])
  layer$hover <- layer$hover %||% symbol_hover(layer)
  rows <- symbol_rows(layer, on$shape, on$point, on$map, value, halves)
  every <- c(rows, setdiff(seq_along(value), rows))
  all <- layer
  all$data <- layer$data[every, , drop = FALSE]
  all_values <- replace(value[every], !is.finite(value[every]), NA)
  layer$data <- layer$data[rows, , drop = FALSE]
  value <- value[rows]
  place <- list(x = on$point$x[rows], y = on$point$y[rows])
  panel <- if (!is.null(layer$by)) panel_of_rows(layer, on$map$panels)
  amount <- list(whole = abs(value), half = halves[rows])
  sizes <- symbol_sizes(layer, amount, place, panel, on$map, setting)
  sizes <- size_fields(sizes, layer, setting)
  formats <- sized_formats(layer, c(layer$size, layer$second), layer$size_steps)
  ground <- setting$ground
  fields <- list(
    legend = layer$legend,
    legend_note = if (!length(rows)) setting$locale$none,
    facts = symbol_facts(layer, value, formats, setting$locale),
    row = rows,
    panel = if (!is.null(layer$by)) panel_of_rows(all, on$map$panels),
    group = layer$group,
    plain = plain,
    colour = layer$colour %||% ink_colour("symbol", ground),
    opacity = c(order = 0.85, transparent = 0.5, move = 0.9)[[layer$overlap]],
    rim = ink_colour("rim", ground),
    key = sign_key(layer, value, setting) %||% colour_key(layer, setting)
  )
  formats <- Filter(Negate(is.null), formats)
  texts <- plan_texts(all, formats, setting)
  values <- if (!plain) {
    written <- format_field(all_values, NULL, formats[[layer$size]], setting$locale)
    written[is.na(all_values)] <- NA
    list(values = written, numbers = signif(all_values, 15))
  }
  c(fields, move_apart(place, sizes, layer$overlap), sizes, texts, values, layer_names(all))
}

symbol_facts <- function(layer, value, formats, locale) {
  if (!is.null(layer$size)) {
    return(range_fact(value, rep(TRUE, length(value)), layer, formats[[layer$size]], locale))
  }
  places <- fill_word(locale$page$places, format_number(length(value), 0, locale = locale))
  paste0(paste(c(layer$legend, places), collapse = ": "), ".")
}

# Of symbols that are all alike the name, or what their colour tells.
symbol_hover <- function(layer) {
  if (is.null(layer$size)) {
    name <- name_column(layer$data)
    if (!is.null(layer$colour_by)) return(default_hover(layer$data, layer$colour_by))
    return(if (!is.na(name)) as_field(name))
  }
  second <- if (!is.null(layer$second)) paste0(", ", as_field(layer$second))
  paste0(default_hover(layer$data, layer$size), second)
}

# Rows that get a symbol, large ones first, so that small ones lie over them.
symbol_rows <- function(layer, shape, point, map, value, halves) {
  amount <- pmax(abs(value), halves %||% 0, na.rm = TRUE)
  placed <- is.finite(point$x) & is.finite(point$y)
  shown <- is.finite(amount) & amount > 0 & placed & (is.null(halves) | is.finite(value))
  if (any(!shown)) {
    ochre_warn(
      "symbols",
      sprintf(
        if (is.null(layer$size)) {
          "%s no symbol: the place is missing."
        } else {
          "%s no symbol: the size or the place is missing, or the size is zero."
        },
        count_words(sum(!shown), "row gets", "rows get")
      ), rows = which(!shown)
    )
  }
  if (map$framed || any(beyond_edge(shape, map))) {
    shown <- shown & !off_map(layer, shape, point, shown, map)
  }
  rows <- which(shown)
  rows[order(-amount[rows])]
}

# Where symbols stand: on their places, or gently moved apart, with where each came from.
move_apart <- function(place, sizes, overlap) {
  if (overlap != "move" || length(place$x) < 2) return(place)
  r <- pmax(sizes$r, sizes$second$r %||% 0)
  moved <- call_core(displace_core(place$x, place$y, r, 0.06 * max(r), 2.5 * max(r)))
  if (!moved$all) {
    ochre_warn(
      "crowded",
      paste0("{count_words(length(place$x), 'symbol')} are too many to be moved apart; some ",
             "still overlap."),
      paste0("Make them smaller, group them with group = TRUE, or lay them over each other ",
             "with overlap = \"transparent\".")
    )
  }
  list(x = moved$x, y = moved$y, from = place)
}

# Values below zero have a colour of their own.
sign_key <- function(layer, value, setting) {
  if (!any(value < 0) || !is.null(layer$colour_by)) return(NULL)
  locale <- setting$locale
  class <- ifelse(value < 0, 1L, 2L)
  zero <- format_field(0, NULL, layer$format, locale)
  above <- layer$colour %||% ink_colour("symbol", setting$ground)
  new_part(setting, "key", list(
    legend = layer$legend,
    class = class,
    labels = c(sprintf(locale$under, zero), sprintf(locale$over, zero)),
    colours = c(ink_colour("second", setting$ground), above),
    count_labels = format_number(tabulate(class, 2), 0, locale = locale),
    no_data = no_data_entry(0L, setting)
  ))
}

# Web Mercator ends at a square world; what lies beyond would be drawn at its edge.
beyond_edge <- function(shape, map) {
  map$projection$name == "web Mercator" & !is.na(shape$lat) & abs(shape$lat) > 85.0512
}

# Which symbols lie beyond the map, with a warning that names them and the likely reason.
off_map <- function(layer, shape, point, shown, map) {
  frame <- map$frame
  room <- 0.08 * max(frame[["x1"]] - frame[["x0"]], frame[["y1"]] - frame[["y0"]])
  within <- function(p) {
    p$x > frame[["x0"]] - room & p$x < frame[["x1"]] + room &
      p$y > frame[["y0"]] - room & p$y < frame[["y1"]] + room
  }
  out <- shown & (!within(point) | beyond_edge(shape, map))
  if (!any(out)) return(out)
  lon <- shape$lon[out]
  lat <- shape$lat[out]
  swapped <- within(call_core(project_core(lat, lon, map$projection))) %in% TRUE
  zero <- abs(lon) < 0.01 & abs(lat) < 0.01
  who <- row_words(layer$data, which(out))
  ochre_warn(
    "off_map",
    sprintf(
      "%s outside the map and left out: %s.", count_words(sum(out), "symbol is", "symbols are"),
      list_words(who, mark = "")
    ),
    c(
      if (any(swapped)) say_of("Longitude and latitude look swapped in", who[swapped]),
      if (any(zero)) say_of("Longitude and latitude are zero in", who[zero])
    ), rows = which(out), swapped = which(out)[swapped]
  )
  out
}

say_of <- function(what, who) sprintf("%s %s.", what, list_words(who, mark = ""))

# Rows by their name, where they have one.
row_words <- function(data, rows) {
  name <- name_column(data)
  if (is.na(name)) return(paste("row", rows))
  paste0(data[[name]][rows], " (row ", rows, ")")
}
