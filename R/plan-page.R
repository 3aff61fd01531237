# What a page shows beside the map: which parts it has, totals, and the values of its table.

plan_page <- function(sheet, map, layers, setting) {
  style <- unclass(sheet$page)
  count <- sum(vapply(layers, function(l) length(l$names), 0L))
  named <- any(vapply(layers, function(l) !is.null(l$names), NA))
  style$search <- style$search %||% (count > 12)
  listed <- vapply(layers, function(l) nzchar(l$name), NA)
  style$layers <- style$layers %||% (sum(listed) > 1)
  style$table <- style$table && named
  style$download <- style$download && style$table
  style$zooms <- style$zooms %||% c(1, 64 * map$levels / grid_levels)
  style["view"] <- list(first_view(style$view, map, layers))
  style["cards"] <- list(page_cards(sheet, layers, setting$locale))
  style["live"] <- list(page_live(style$live, setting))
  new_part(setting, "page", style)
}

page_live <- function(live, setting) {
  if (!is.null(live)) new_part(setting, "live_source", unclass(live))
}

# The box that is seen first, in map units: of degrees, or of an area by its code or name.
first_view <- function(view, map, layers) {
  if (is.null(view)) return(NULL)
  if (is.character(view)) return(view_of_area(view, map, layers))
  lon <- seq(view[1], view[3], length.out = 9)
  lat <- seq(view[2], view[4], length.out = 9)
  p <- call_core(project_core(rep(lon, 9), rep(lat, each = 9), map$projection))
  on_map <- is.finite(p$x) & is.finite(p$y)
  if (any(on_map)) return(box_of(p$x[on_map], p$y[on_map]))
  ochre_abort("argument", "The box of `view` lies where the map's projection shows nothing.",
              "Give a box on the map: west, south, east, north, in degrees.", arg = "view")
}

# Left, lower, right and upper edge.
box_of <- function(x, y) c(min(x), min(y), max(x), max(y))

view_of_area <- function(view, map, layers) {
  drawn <- which(layers_are(layers, "outlines"))
  coded <- any(lengths(lapply(layers[drawn], `[[`, "codes")) > 0)
  known <- c(if (coded) "code", "name")
  for (i in seq_along(drawn)) {
    layer <- layers[[drawn[i]]]
    item <- which(layer$codes %in% view | layer$names %in% view)
    if (!length(item)) next
    p <- call_core(paths_core(map$topology, i))
    own <- p$feature %in% item
    if (any(own)) return(box_of(p$x[own], p$y[own]))
  }
  ochre_abort(
    "argument", "`view` is `{view}`, and no area has that {paste(known, collapse = ' or ')}.",
    "Codes are the column `code` or the key of a join. Or give a box: west, south, east, north.",
    arg = "view"
  )
}

# The totals of the first shaded layer, for each panel: a label and a value in words.
page_cards <- function(sheet, layers, locale) {
  counted <- function(l) {
    layer_is(l, "shaded") && is.null(l$second) && l$steps$method != "categories"
  }
  first <- which(vapply(sheet$layers, counted, NA))[1]
  if (!length(sheet$page$cards) || is.na(first)) return(NULL)
  if (!is.null(sheet$page$live)) {
    ochre_tell("The cards are left out: the page takes new values, and they would stay the same.")
    return(NULL)
  }
  plan <- layers[[first]]
  parts <- plan$panels %||% list(plan)
  all <- unlist(lapply(parts, function(one) one$numbers))
  lapply(parts, function(p) {
    steps <- list(breaks = p$breaks %||% plan$breaks, digits = p$digits %||% plan$digits)
    format <- own_format(layer_format(sheet$layers[[first]]), steps, all)
    say <- function(v) format_field(v, NULL, format, locale)
    lapply(sheet$page$cards, page_card, value = counted_numbers(p, plan), names = plan$names,
           say = say,
           locale = locale)
  })
}

# The numbers of a panel that count: those that have a rank, of an area of several parts one.
counted_numbers <- function(panel, plan) {
  value <- panel$numbers
  value[panel$rank == 0L] <- NA
  value[plan$repeated + 1L] <- NA
  value
}

page_card <- function(card, value, names, say, locale) {
  words <- locale$page
  known <- which(is.finite(value))
  if (!length(known)) return(list(label = words[[card]], value = locale$no_data))
  if (card == "highest") {
    top <- known[which.max(value[known])]
    label <- paste(c(words$highest, names[top]), collapse = ": ")
    return(list(label = label, value = say(value[top])))
  }
  number <- if (card == "mean") mean(value[known]) else sum(value[known])
  list(label = words[[card]], value = say(number))
}

# The colours of a plan on the other ground, for readers who follow their own; the rest of it is
# the same.
plan_colours <- function(plan) {
  list(
    inks = plan$inks,
    layers = lapply(plan$layers, function(l) {
      c(only_colours(l), if (!is.null(l$panels)) list(panels = lapply(l$panels, only_colours)))
    })
  )
}

coloured_fields <- c(
  "colours", "outline", "no_data", "hatch", "colour", "rim", "key", "casing", "halo", "second",
  "inks", "halos", "ink"
)

# Of a layer, a panel, a key or an entry: its colours, as arrays where they are one for each class.
only_colours <- function(x, fields = coloured_fields) {
  x <- Filter(Negate(is.null), x[intersect(names(x), fields)])
  # The corners of a symbol have the same name as the outline of areas.
  x <- x[!(names(x) == "outline" & vapply(x, is.list, NA))]
  if (!is.null(x$ink)) x$ink <- I(lapply(x$ink, I))
  for (field in intersect(names(x), c("colours", "inks", "halos"))) x[[field]] <- I(x[[field]])
  for (field in intersect(names(x), c("no_data", "hatch", "key", "second"))) {
    x[[field]] <- only_colours(x[[field]], c("colour", "colours", "no_data"))
  }
  x
}
