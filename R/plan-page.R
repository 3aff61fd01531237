# What a page shows beside the map: which parts it has, totals, and the values of its table.

plan_page <- function(sheet, layers, setting) {
  style <- unclass(sheet$page)
  areas <- Filter(function(l) l$kind == "areas", layers)
  count <- sum(vapply(areas, function(l) length(l$names), 0L))
  named <- any(vapply(areas, function(l) !is.null(l$names), NA))
  style$search <- style$search %||% (count > 12)
  listed <- vapply(layers, function(l) nzchar(l$name), NA)
  style$layers <- style$layers %||% (sum(listed) > 1)
  style$table <- style$table && named
  style$download <- style$download && style$table
  style["cards"] <- list(page_cards(sheet, layers, setting$locale))
  new_part(setting, "page", style)
}

# The totals of the first shaded layer, for each panel: a label and a value in words.
page_cards <- function(sheet, layers, locale) {
  counted <- function(l) {
    l$kind == "areas" && is.null(l$second) && l$steps$method != "categories"
  }
  first <- which(vapply(sheet$layers, counted, NA))[1]
  if (!length(sheet$page$cards) || is.na(first)) return(NULL)
  plan <- layers[[first]]
  parts <- plan$panels %||% list(plan)
  all <- unlist(lapply(parts, function(one) one$numbers))
  lapply(parts, function(p) {
    steps <- list(breaks = p$breaks %||% plan$breaks, digits = p$digits %||% plan$digits)
    format <- own_format(layer_format(sheet$layers[[first]]), steps, all)
    say <- function(v) format_field(v, NULL, format, locale)
    lapply(sheet$page$cards, page_card, value = p$numbers, names = plan$names, say = say,
           locale = locale)
  })
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
