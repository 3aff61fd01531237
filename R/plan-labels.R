# A layer of labels: what is written where, the most important first. Which of them find room
# depends on the size of the picture, so the renderers place them, by one rule
# (src/core/labels.hpp, viewer/src/labels.ts).

resolve_labels <- function(layer, on, setting) {
  symbols <- on$layers[layers_are(on$layers, "marks")]
  formats <- lapply(layer$field_formats, unclass)
  if (!is.null(layer$format)) {
    numeric <- names(layer$data)[vapply(layer$data, is.numeric, NA)]
    for (column in setdiff(numeric, names(formats))) formats[[column]] <- unclass(layer$format)
  }
  text <- fill_template(layer$text, layer$data, formats, setting$locale, blank = TRUE)
  frame <- on$map$frame
  room <- 0.02 * max(frame[["x1"]] - frame[["x0"]], frame[["y1"]] - frame[["y0"]])
  shown <- !is.na(text) & nzchar(trimws(text)) & is.finite(on$point$x) & is.finite(on$point$y)
  if (on$map$framed) {
    shown <- shown &
      on$point$x > frame[["x0"]] - room &
      on$point$x < frame[["x1"]] + room &
      on$point$y > frame[["y0"]] - room &
      on$point$y < frame[["y1"]] + room
  }
  rows <- which(shown)
  if (!is.null(layer$priority)) {
    rows <- rows[order(-as.numeric(layer$data[[layer$priority]])[rows], na.last = TRUE)]
  }
  written <- list(
    colour = layer$colour %||% ink_colour("text", setting$ground),
    halo = if (layer$halo) ink_colour("rim", setting$ground)
  )
  c(
    list(
      text = text[rows],
      x = on$point$x[rows],
      y = on$point$y[rows],
      row = rows,
      scale = layer$scale,
      bold = layer$bold,
      # Beside a point, in an area; and how large the symbol is that the text must keep clear of.
      centred = isTRUE(on$point$areas),
      r = symbol_radii(on$point$x[rows], on$point$y[rows], symbols)
    ),
    written,
    if (is.null(layer$colour)) {
      under <- areas_under(on$shape$lon, on$shape$lat, on$map)
      label_inks(written, under, rows, on$layers, setting$ground)
    }
  )
}

# Which area lies under each place, of the topmost layer that has one: the layer and the row, or 0.
areas_under <- function(lon, lat, map) {
  layer <- row <- integer(length(lon))
  for (k in rev(which(kinds_are(map$kinds, "shaded")))) {
    open <- which(layer == 0 & is.finite(lon) & is.finite(lat))
    if (!length(open)) break
    found <- call_core(locate_core(map$shapes[[k]]$wkb, lon[open], lat[open]))$row
    layer[open[!is.na(found)]] <- k
    row[open[!is.na(found)]] <- found[!is.na(found)]
  }
  list(layer = layer, row = row)
}

# The ink of each label on what lies under it: `inks` and `halos` are the colours in use, `ink`
# says which for each label in each panel, `over` the layer that this holds for, because a reader
# may switch it off; both are counted from 0.
label_inks <- function(written, under, rows, layers, ground) {
  over <- under$layer[rows]
  if (!any(over > 0)) return(NULL)
  panels <- max(1L, unlist(lapply(layers, function(l) length(l$panels))))
  colour <- lapply(seq_len(panels), function(p) {
    out <- rep(written$colour, length(rows))
    for (k in setdiff(unique(over), 0L)) {
      mine <- over == k
      fill <- fill_of(layers[[k]], p, ground)[under$row[rows][mine]]
      out[mine] <- ink_on(fill, written$colour, ground)
    }
    out
  })
  inks <- unique(c(written$colour, unlist(colour)))
  ink <- lapply(colour, function(one) match(one, inks) - 1L)
  # Light words have a dark halo and dark ones a light one.
  halos <- if (!is.null(written$halo)) {
    ifelse(inks == written$colour, written$halo, ink_on(inks, written$colour, ground))
  }
  list(inks = inks, halos = halos, ink = ink, over = over - 1L)
}

# The colour of each area in a panel, as faint as its layer is.
fill_of <- function(layer, panel, ground) {
  now <- in_panel(layer, min(panel, length(layer$panels)))
  fill <- c(now$no_data$colour, now$colours)[now$class + 1L]
  share <- layer$show$opacity %||% 1
  if (share == 1) fill else mix_colours(fill, ink_colour("ground", ground), share)
}

# The words' own ink where it has contrast enough (WCAG 2.2, 4.5), else the paper's, else black or
# white.
ink_on <- function(fill, own, ground) {
  known <- unique(fill)
  tried <- unique(c(own, ink_colour("rim", ground), "#000000", "#FFFFFF"))
  best <- vapply(
    known,
    function(f) {
      contrast <- vapply(tried, contrast_ratio, 0, b = f)
      tried[if (any(contrast >= 4.5)) which(contrast >= 4.5)[1] else which.max(contrast)]
    },
    ""
  )
  unname(best[match(fill, known)])
}

# The radius of the symbol that stands on each place, 0 where none does.
symbol_radii <- function(x, y, symbols) {
  out <- numeric(length(x))
  for (s in symbols) {
    at <- match(paste(x, y), paste(s$x, s$y))
    # Corners of a shape reach farther than the circle of its area.
    reach <- if (is.null(s$outline)) 1 else 1.3
    out <- pmax(out, ifelse(is.na(at), 0, reach * pmax(s$r, s$second$r %||% 0)[at]))
  }
  out
}
