# How wide borders between areas are: so wide as was asked for where there is room, narrower where
# areas are small on the medium, and gone where they would hide the colours.

# Of the land at most this share is border.
border_share <- 0.1

# Narrower than this, in CSS px, a border is left out.
least_border <- 0.25

# What a layer of areas says of its borders. `spacing` is the land for each length of border, in
# map units; borders of a width that somebody asked for have none, and are always drawn.
plan_borders <- function(style, topology, id, setting) {
  list(
    outline = style$colour %||% ink_colour("outline", setting$ground),
    border = style$width %||% 0.75,
    spacing = if (is.null(style$width)) border_spacing(topology, id)
  )
}

border_spacing <- function(topology, id) {
  shape <- Filter(function(l) l$name == id, topology$layers)[[1]]
  if (!length(shape$ring_arcs)) return(NULL)
  x <- as.numeric(topology$x)
  y <- as.numeric(topology$y)
  n <- length(x)
  long <- sqrt((x[-1] - x[-n])^2 + (y[-1] - y[-n])^2)
  wide <- (x[-n] * y[-1] - x[-1] * y[-n]) / 2
  # From the end of one arc to the start of the next there is nothing.
  gaps <- topology$arc_end[-length(topology$arc_end)]
  long[gaps] <- 0
  wide[gaps] <- 0
  of_arc <- function(v) diff(c(0, c(0, cumsum(v))[topology$arc_end]))
  arc <- ifelse(shape$ring_arcs < 0, -shape$ring_arcs, shape$ring_arcs + 1L)
  land <- abs(sum(sign(shape$ring_arcs + 0.5) * of_arc(wide)[arc]))
  topology$step * land / sum(of_arc(long)[unique(arc)])
}

# The width in CSS px where a map unit is so many of them; 0 for none. The edges of a line are
# blurred over part of a pixel, `blur` for both together. The viewer has the same rule in
# borderWidth().
border_width <- function(layer, scale, blur) {
  if (is.null(layer$spacing)) return(layer$border)
  room <- border_share * layer$spacing * scale - blur
  if (room < least_border) 0 else min(layer$border, room)
}
