# The page as it stands before its script runs, and for readers whose browser runs none: title,
# a picture of the map as SVG in the frame that the live map takes, the legend, the source; and the
# table of its values. All is plain markup in the places that the viewer fills; every text from data
# is escaped.

# `as` says what element it is, with which id, and of which level its title.
page_first <- function(plan, as = list(tag = "main", id = "ochre-map", level = 1)) {
  escape <- htmltools::htmlEscape
  right_to_left <- grepl("^(ar|he|fa|ur|yi|dv|ps|sd|ug|ckb)(-|$)", plan$locale)
  place <- plan$style$legend$place %||% "beside"
  c(
    sprintf(
      "<%s id=\"%s\" class=\"ochre-map %s%s\" lang=\"%s\" dir=\"%s\">",
      as$tag,
      as$id,
      if (as$tag == "main") "ochre-whole" else "ochre-embedded",
      if (identical(plan$ground, "dark")) " ochre-dark" else "",
      htmltools::htmlEscape(plan$locale, attribute = TRUE),
      if (right_to_left) "rtl" else "ltr"
    ),
    "<div class=\"ochre-page\">",
    "<header class=\"ochre-head\"><div class=\"ochre-titles\">",
    sprintf("<h%d class=\"ochre-title\">%s</h%d>", as$level, escape(plan$title), as$level),
    if (!is.null(plan$subtitle)) {
      sprintf("<p class=\"ochre-subtitle\">%s</p>", escape(plan$subtitle))
    },
    "</div><div class=\"ochre-controls\">", first_controls(plan), "</div></header>",
    sprintf("<div class=\"ochre-body ochre-legend-%s\">", place),
    "<div class=\"ochre-middle-column\"><div class=\"ochre-stage\">",
    first_map(plan),
    sprintf("</div>%s</div>", if (length(plan$panels) > 1) first_periods() else ""),
    "<aside class=\"ochre-legend\"><div class=\"ochre-legend-inner\">",
    "<div class=\"ochre-legend-parts\">",
    if (place != "none") first_legend(plan),
    "</div></div></aside></div>",
    "<footer class=\"ochre-foot\">",
    if (!is.null(plan$note)) sprintf("<p>%s</p>", escape(plan$note)),
    if (!is.null(plan$source)) sprintf("<p>%s</p>", first_source(plan, escape)),
    sprintf("</footer></div></%s>", as$tag),
    if (plan$page$table) {
      c("<noscript><div class=\"ochre-plain-table\">", first_table(plan), "</div></noscript>")
    }
  )
}

# What the script will fill has its room already.
first_periods <- function() "<div class=\"ochre-periods ochre-awaited\"></div>"

first_controls <- function(plan) {
  words <- plan$words
  word <- function(key) htmltools::htmlEscape(words[[key]], attribute = TRUE)
  named <- any(vapply(plan$layers, function(l) !is.null(l$names), NA))
  c(
    if (plan$page$search || !is.null(plan$page$places)) {
      sprintf(
        paste0(
          "<div class=\"ochre-search\"><input type=\"search\" disabled placeholder=\"%s\" ",
          "aria-label=\"%s\"></div>"
        ),
        word("search_hint"),
        word("search")
      )
    },
    if (plan$page$table && named) {
      sprintf("<button type=\"button\" disabled>%s</button>", word("table"))
    }
  )
}

# The colours of the page and of its first picture, as the reader's ground wants them. `within`
# selects the map.
first_style <- function(plan, within = ".ochre-map") {
  frame <- plan$frame
  shape <- (frame[["x1"]] - frame[["x0"]]) / (frame[["y1"]] - frame[["y0"]])
  light <- paste0(
    ground_style(plan$inks, within),
    sprintf("%s{--shape:%s}", within, signif(shape, 6))
  )
  if (is.null(plan$dark)) return(light)
  fills <- lapply(seq_along(plan$dark$layers), function(i) {
    layer <- plan$dark$layers[[i]]
    colours <- c(layer$no_data$colour %||% "none", unlist(layer$colours), layer$colour)
    k <- seq_along(colours) - 1
    c(
      sprintf("%s .f%dk%d{fill:%s}", within, i, k, colours),
      if (length(layer$colour)) sprintf("%s .l%d{stroke:%s}", within, i, layer$colour),
      if (is.character(layer$outline)) sprintf("%s .o%d{stroke:%s}", within, i, layer$outline)
    )
  })
  paste0(
    light,
    "@media (prefers-color-scheme:dark){",
    ground_style(plan$dark$inks, within),
    paste(unlist(fills), collapse = ""),
    "}"
  )
}

ground_style <- function(inks, within) {
  sprintf(
    "html{background:%s}%s{--paper:%s;--ink:%s;--soft:%s;--faint:%s}",
    inks$ground, within, inks$ground, inks$text, inks$soft, inks$faint
  )
}

first_source <- function(plan, escape) {
  if (is.null(plan$source_link)) return(escape(plan$source))
  address <- htmltools::htmlEscape(plan$source_link, attribute = TRUE)
  sprintf("<a href=\"%s\" rel=\"noopener noreferrer\">%s</a>", address, escape(plan$source))
}

# The legend as the viewer sets it, without its drawings.
first_legend <- function(plan) {
  layers <- Filter(function(l) has_legend(l) && shown_at_first(l), plan$layers)
  unlist(lapply(layers, function(layer) {
    entries <- first_entries(layer, length(plan$panels))
    if (!length(entries$colours)) return(NULL)
    # One entry of the same name needs no title.
    title <- if (!identical(as.character(entries$labels), layer$legend)) layer$legend
    c(
      sprintf("<section class=\"ochre-legend-part ochre-legend-%s\">", layer$kind),
      if (!is.null(title)) {
        sprintf("<h2 class=\"ochre-legend-title\">%s</h2>", htmltools::htmlEscape(title))
      },
      if (!is.null(layer$legend_note)) {
        sprintf("<p class=\"ochre-legend-note\">%s</p>", htmltools::htmlEscape(layer$legend_note))
      },
      "<ul class=\"ochre-classes\">",
      first_rows(layer, entries, plan$style$legend$counts),
      "</ul></section>"
    )
  }))
}

first_rows <- function(layer, entries, counts) {
  count <- if (counts && !is.null(entries$counts)) {
    sprintf("<span class=\"ochre-class-count\">%s</span>", entries$counts)
  }
  sprintf(
    paste0(
      "<li class=\"ochre-class\"><svg class=\"ochre-swatch\" aria-hidden=\"true\">",
      "<rect width=\"100%%\" %s opacity=\"%s\" fill=\"%s\"/></svg>",
      "<span class=\"ochre-class-label\">%s</span>%s</li>"
    ),
    if (layer_is(layer, "strokes")) "y=\"40%\" height=\"20%\"" else "height=\"100%\"",
    with_opacity(layer)$opacity %||% 1,
    entries$colours,
    htmltools::htmlEscape(entries$labels),
    count %||% ""
  )
}

# The colours of a layer and what they stand for: its classes, or its name.
first_entries <- function(layer, panel) {
  # The swatch itself is as solid as the layer.
  layer["opacity"] <- list(NULL)
  if (layer_is(layer, "strip")) return(legend_entries(in_panel(layer, panel)))
  if (!is.null(layer$key)) return(legend_entries(layer$key))
  list(colours = layer$colour, labels = layer$legend)
}

# Names and values of each layer that has them; with panels those of the last. End tags are left
# out, as HTML allows: with many areas they are half of the table.
first_table <- function(plan) {
  unlist(lapply(seq_along(plan$layers), function(i) {
    layer <- plan$layers[[i]]
    if (identical(plan$sections$layer, i - 1L)) return(first_sections_table(plan))
    values <- in_panel(layer, length(layer$panels))$values
    if (is.null(layer$names) || is.null(values)) return(NULL)
    caption <- paste(c(layer$legend, utils::tail(plan$panels, 1)), collapse = ", ")
    lost <- layer$no_data$label %||% ""
    c(
      sprintf("<table><caption>%s</caption>", htmltools::htmlEscape(caption)),
      sprintf(
        "<tr><th>%s<td>%s",
        htmltools::htmlEscape(layer$names),
        htmltools::htmlEscape(ifelse(is.na(values), lost, values))
      ),
      "</table>"
    )
  }))
}

# Areas that come in sections are not in the page: the file that has all of them is.
first_sections_table <- function(plan) {
  if (is.null(plan$sections$table)) return(NULL)
  words <- fill_word(plan$words$save_all, plan$sections$areas)
  sprintf(
    "<p><a href=\"%s\" download>%s</a></p>",
    htmltools::htmlEscape(plan$sections$table, attribute = TRUE), htmltools::htmlEscape(words)
  )
}
