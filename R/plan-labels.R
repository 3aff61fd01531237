# A layer of labels: what is written where, the most important first. Which of them find room depends on the size of
# the picture, so the renderers place them, by one rule (src/core/labels.hpp, viewer/src/labels.ts).

plan_labels <- function(layer, point, framed, frame, symbols) {
  formats <- lapply(layer$field_formats, unclass)
  if (!is.null(layer$format)) for (column in setdiff(names(layer$data)[vapply(layer$data, is.numeric, NA)], names(formats))) formats[[column]] <- unclass(layer$format)
  text <- fill_template(layer$text, layer$data, formats, blank = TRUE)
  room <- 0.02 * max(frame[["x1"]] - frame[["x0"]], frame[["y1"]] - frame[["y0"]])
  shown <- !is.na(text) & nzchar(trimws(text)) & is.finite(point$x) & is.finite(point$y)
  if (framed) shown <- shown & point$x > frame[["x0"]] - room & point$x < frame[["x1"]] + room & point$y > frame[["y0"]] - room & point$y < frame[["y1"]] + room
  rows <- which(shown)
  if (!is.null(layer$priority)) rows <- rows[order(-as.numeric(layer$data[[layer$priority]])[rows], na.last = TRUE)]
  list(legend = NULL, text = text[rows], x = point$x[rows], y = point$y[rows], row = rows, scale = layer$scale, colour = layer$colour %||% ink_colour("text"), halo = if (layer$halo) ink_colour("rim"), bold = layer$bold,
       # Beside a point, in an area; and how large the symbol is that the text must keep clear of.
       centred = isTRUE(point$areas), r = symbol_radii(point$x[rows], point$y[rows], symbols))
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
