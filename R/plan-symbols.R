# A layer of symbols: which are drawn where, how large, in which colours.

# Large symbols first, so that small ones lie over them.
plan_symbols <- function(layer, shape, point, frame, framed, projection) {
  value <- as.numeric(layer$data[[layer$size]])
  layer$hover <- layer$hover %||% default_hover(layer$data, layer$size)
  shown <- is.finite(value) & value > 0 & is.finite(point$x) & is.finite(point$y)
  if (any(!shown)) {
    ochre_warn("symbols", sprintf("%s no symbol: the size or the place is missing, or the size is zero.", count_words(sum(!shown), "row gets", "rows get")),
               rows = which(!shown))
  }
  if (framed) shown <- shown & !off_map(layer, shape, point, frame, shown, projection)
  rows <- which(shown)
  rows <- rows[order(-value[rows])]
  side <- sqrt((frame[["x1"]] - frame[["x0"]]) * (frame[["y1"]] - frame[["y0"]]))
  grow <- symbol_scales[[layer$scale]]
  relative <- (value[rows] / max(value[rows], 0))^grow
  largest <- if (length(rows)) largest_radius_core(point$x[rows], point$y[rows], relative, 0.01 * side, 0.045 * side, 0.03) else 0
  marks <- if (length(rows)) round_sizes(max(value[rows])) else numeric()
  colour <- layer$colour %||% ink_colour("symbol")
  layer$data <- layer$data[rows, , drop = FALSE]
  c(list(
    legend = layer$legend, facts = range_fact(value[rows], rep(TRUE, length(rows)), layer$data, layer$legend, unclass(layer$format)), x = point$x[rows], y = point$y[rows], r = relative * largest, row = rows, colour = colour,
    sizes = list(labels = format_field(marks, NULL, layer$format), r = largest * (marks / max(value[rows], 0))^grow), key = symbol_key(layer)
  ), plan_texts(layer, if (!is.null(layer$format)) stats::setNames(list(unclass(layer$format)), layer$size) else list()))
}

# How the radius grows with the value. Flannery, J.J. (1971) The relative effectiveness of some common graduated point
# symbols in the presentation of quantitative data, Cartographica 8, 96-109: readers see large circles as too small.
symbol_scales <- c(area = 0.5, perceptual = 0.5716, radius = 1)

# Classes of the column that colours the symbols, in the order in which they are drawn; NULL when one colour does.
symbol_key <- function(layer) {
  if (is.null(layer$by)) return(NULL)
  value <- layer$data[[layer$by]]
  steps <- fit_steps(value, layer$steps)
  class <- class_of(steps, value)
  class[is.na(class)] <- 0L
  list(legend = layer$colour_legend, class = class, labels = steps$labels, colours = layer_colours(list(ramp = layer$ramp, reverse = FALSE, value = layer$by), steps), count_labels = format_number(steps$counts, 0),
       no_data = list(label = wording$now$no_data, colour = no_data_colour(), count = sum(class == 0L), count_label = format_number(sum(class == 0L), 0)))
}

# Round values for the legend's circles: the largest 1, 2 or 5 times a power of ten that occurs,
# then about a third and a tenth of it.
round_sizes <- function(top) {
  round_down <- function(v) { unit <- 10^floor(log10(v)); unit * max(c(1, 2, 5)[c(1, 2, 5) * unit <= v * (1 + 1e-12)]) }
  unique(c(round_down(top), round_down(top / 3.5), round_down(top / 12)))
}

off_map <- function(layer, shape, point, frame, shown, projection) {
  room <- 0.08 * max(frame[["x1"]] - frame[["x0"]], frame[["y1"]] - frame[["y0"]])
  within <- function(p) p$x > frame[["x0"]] - room & p$x < frame[["x1"]] + room & p$y > frame[["y0"]] - room & p$y < frame[["y1"]] + room
  out <- shown & !within(point)
  if (any(out)) {
    swapped <- within(project_core(shape$lat[out], shape$lon[out], projection))
    name <- name_column(layer$data)
    who <- if (is.na(name)) paste("row", which(out)) else paste0(layer$data[[name]][out], " (row ", which(out), ")")
    zero <- abs(shape$lon[out]) < 0.01 & abs(shape$lat[out]) < 0.01
    ochre_warn("off_map", sprintf("%s off the map and left out: %s.", count_words(sum(out), "symbol lies", "symbols lie"), list_words(who, mark = "")),
               c(if (any(swapped %in% TRUE)) sprintf("Longitude and latitude look swapped in %s.", list_words(who[swapped %in% TRUE], mark = "")),
                 if (any(zero)) sprintf("Longitude and latitude are zero in %s.", list_words(who[zero], mark = ""))),
               rows = which(out), swapped = which(out)[swapped %in% TRUE])
  }
  out
}
