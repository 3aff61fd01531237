# A layer of symbols: which are drawn where, how large, in which colours.

plan_symbols <- function(layer, shape, point, frame, framed, projection, panels = NULL) {
  value <- as.numeric(layer$data[[layer$size]])
  halves <- if (!is.null(layer$second)) as.numeric(layer$data[[layer$second]])
  layer$hover <- layer$hover %||% paste0(default_hover(layer$data, layer$size), if (!is.null(layer$second)) sprintf(", {%s}", layer$second))
  amount <- pmax(abs(value), halves %||% 0, na.rm = TRUE)
  shown <- is.finite(amount) & amount > 0 & is.finite(point$x) & is.finite(point$y) & (is.null(halves) | is.finite(value))
  if (any(!shown)) {
    ochre_warn("symbols", sprintf("%s no symbol: the size or the place is missing, or the size is zero.", count_words(sum(!shown), "row gets", "rows get")),
               rows = which(!shown))
  }
  if (framed) shown <- shown & !off_map(layer, shape, point, frame, shown, projection)
  # Large symbols first, so that small ones lie over them.
  rows <- which(shown)
  rows <- rows[order(-amount[rows])]
  layer$data <- layer$data[rows, , drop = FALSE]
  at <- list(x = point$x[rows], y = point$y[rows])
  panel <- if (!is.null(layer$by)) panel_of_rows(layer, panels)
  sizes <- symbol_sizes(layer, abs(value[rows]), halves[rows], at, frame, panel)
  formats <- sized_formats(layer, c(layer$size, layer$second), layer$size_steps)
  c(list(
    legend = layer$legend, facts = range_fact(value[rows], rep(TRUE, length(rows)), layer$data, layer$legend, formats[[layer$size]], layer$by), row = rows, panel = panel, shape = layer$shape, group = layer$group,
    colour = layer$colour %||% ink_colour("symbol"), opacity = c(order = 0.85, transparent = 0.5, move = 0.9)[[layer$overlap]], rim = ink_colour("rim"), key = sign_key(layer, value[rows]) %||% colour_key(layer)
  ), move_apart(at, sizes, layer$overlap), sizes, plan_texts(layer, Filter(Negate(is.null), formats)))
}

# How the radius grows with the value. Flannery, J.J. (1971) The relative effectiveness of some common graduated point
# symbols in the presentation of quantitative data, Cartographica 8, 96-109: readers see large circles as too small.
symbol_scales <- c(area = 0.5, perceptual = 0.5716, radius = 1)

# Outlines of the shapes in units of a radius: all have the area of the circle with that radius.
symbol_outlines <- list(
  circle = NULL,
  square = list(x = c(-1, 1, 1, -1) * sqrt(pi) / 2, y = c(-1, -1, 1, 1) * sqrt(pi) / 2),
  triangle = { side <- sqrt(4 * pi / sqrt(3)); list(x = c(-0.5, 0.5, 0) * side, y = c(-1, -1, 2) * side * sqrt(3) / 6) },
  bar = NULL
)

# Radii of the symbols and of the legend's marks. The largest is the largest at which they are told apart.
symbol_sizes <- function(layer, value, halves, at, frame, panel) {
  if (!length(value)) return(list(r = numeric(), sizes = list(labels = character(), r = numeric())))
  grow <- if (layer$shape == "bar") 0.5 else symbol_scales[[layer$scale]]
  followed <- sizes_of(if (is.null(halves)) value else c(value, ifelse(is.na(halves), 0, halves)), layer$size_steps, layer$format)
  relative <- (followed$value / followed$top)^grow
  n <- length(value)
  whole <- if (is.null(halves)) relative else pmax(relative[seq_len(n)], relative[n + seq_len(n)])
  side <- sqrt((frame[["x1"]] - frame[["x0"]]) * (frame[["y1"]] - frame[["y0"]]))
  # Symbols of different panels do not meet; the fullest panel decides.
  groups <- if (is.null(panel)) list(seq_len(n)) else split(seq_len(n), panel)
  share <- if (layer$overlap == "order") 0.03 else 0.12
  largest <- min(
    vapply(
      groups,
      function(i) call_core(
        largest_radius_core(at$x[i], at$y[i], whole[i], 0.01 * side, 0.045 * side, share)
      ),
      0
    )
  )
  marks <- list(labels = followed$labels, r = largest * (followed$marks / followed$top)^grow)
  out <- list(r = whole * largest, sizes = marks, outline = symbol_outlines[[layer$shape]])
  if (layer$shape == "bar") out <- c(out, bar_sizes(out$r, marks$r))
  if (!is.null(halves)) {
    out$second <- list(r = relative[n + seq_len(n)] * largest, colour = ink_colour("second"), labels = words_of(c(layer$size, layer$second)))
    out$r <- relative[seq_len(n)] * largest
  }
  out
}

# Bars of one width, as large as the circles would be, so that the height is in proportion to the value; the tallest is nine times as high as wide.
bar_sizes <- function(r, marks) {
  width <- max(r) * sqrt(pi / 9)
  list(bar = list(width = width, height = pi * r^2 / width, marks = pi * marks^2 / width))
}

# Where symbols stand: on their places, or gently moved apart, with where each came from.
move_apart <- function(at, sizes, overlap) {
  if (overlap != "move" || length(at$x) < 2) return(at)
  r <- pmax(sizes$r, sizes$second$r %||% 0)
  moved <- call_core(displace_core(at$x, at$y, r, 0.06 * max(r), 2.5 * max(r)))
  if (!moved$all) {
    ochre_warn(
      "crowded",
      sprintf(
        "%s are too many to be moved apart; some still overlap.",
        count_words(length(at$x), "symbol")
      ),
      "Make them smaller, group them with group = TRUE, or lay them over each other with overlap = \"transparent\"."
    )
  }
  list(x = moved$x, y = moved$y, from = list(x = at$x, y = at$y))
}

# Values below zero have a colour of their own.
sign_key <- function(layer, value) {
  if (!any(value < 0) || !is.null(layer$colour_by)) return(NULL)
  class <- ifelse(value < 0, 1L, 2L)
  zero <- format_field(0, NULL, layer$format)
  list(legend = layer$legend, class = class, labels = c(sprintf(wording$now$under, zero), sprintf(wording$now$over, zero)), colours = c(ink_colour("second"), layer$colour %||% ink_colour("symbol")),
       count_labels = format_number(tabulate(class, 2), 0), no_data = no_data_entry(0L))
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
    swapped <- within(call_core(project_core(shape$lat[out], shape$lon[out], projection)))
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
