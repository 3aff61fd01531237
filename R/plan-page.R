# What a page shows beside the map: which parts it has, totals, and the values of its table.

plan_page <- function(sheet, layers) {
  style <- unclass(sheet$page)
  areas <- Filter(function(l) l$kind == "areas", layers)
  count <- sum(vapply(areas, function(l) length(l$names), 0L))
  style$search <- style$search %||% (count > 12)
  style$layers <- style$layers %||% (length(layers) > 1)
  # Numbers with names; a table of two variables has the words of both.
  style$table <- style$table && any(vapply(areas, function(l) !is.null(l$names), NA))
  style$download <- style$download && style$table
  c(style, list(cards_shown = page_cards(sheet, layers)))
}

# The totals of the first shaded layer, for each panel: a label and a value in words.
page_cards <- function(sheet, layers) {
  at <- which(vapply(sheet$layers, function(l) l$kind == "areas" && is.null(l$second) && l$steps$method != "categories", NA))[1]
  if (!length(sheet$page$cards) || is.na(at)) return(NULL)
  layer <- sheet$layers[[at]]
  plan <- layers[[at]]
  parts <- plan$panels %||% list(plan)
  lapply(parts, function(p) {
    value <- p$numbers
    steps <- list(breaks = p$breaks %||% plan$breaks, digits = p$digits %||% plan$digits)
    format <- own_format(layer_format(layer), steps, unlist(lapply(parts, function(one) one$numbers)))
    known <- which(is.finite(value))
    say <- function(v) format_field(v, NULL, format)
    cards <- lapply(sheet$page$cards, function(card) {
      if (!length(known)) return(list(label = wording$now$page[[card]], value = wording$now$no_data))
      top <- known[which.max(value[known])]
      switch(card, sum = list(label = wording$now$page$sum, value = say(sum(value[known]))), mean = list(label = wording$now$page$mean, value = say(mean(value[known]))),
             highest = list(label = paste(c(wording$now$page$highest, plan$names[top]), collapse = ": "), value = say(value[top])))
    })
    cards
  })
}

# The colours of a plan on the other ground, for readers who follow their own; the rest of it is the same.
plan_colours <- function(plan) {
  keep <- c("colours", "outline", "no_data", "hatch", "colour", "rim", "key", "casing", "halo", "second", "inks", "halos", "ink")
  # Of a layer, a panel, a key or an entry: its colours, as arrays where they are one for each class.
  one <- function(x, fields = keep) {
    x <- Filter(Negate(is.null), x[intersect(names(x), fields)])
    stats::setNames(lapply(names(x), function(n) if (is.list(x[[n]])) one(x[[n]], c("colour", "colours", "no_data")) else if (n %in% c("colours", "inks", "halos", "ink")) I(x[[n]]) else x[[n]]), names(x))
  }
  list(inks = plan$inks, layers = lapply(plan$layers, function(l) c(one(l), if (!is.null(l$panels)) list(panels = lapply(l$panels, one)))))
}
