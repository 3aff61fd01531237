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
  at <- which(vapply(topology$layers, function(l) l$name == id, NA))[1]
  if (!length(topology$layers[[at]]$ring_arcs)) return(NULL)
  topology$step * call_core(border_spacing_core(topology, at))$spacing
}

# The width in CSS px where a map unit is so many of them; 0 for none. The edges of a line are
# blurred over part of a pixel, `blur` for both together. The viewer has the same rule in
# borderWidth().
border_width <- function(layer, scale, blur) {
  if (is.null(layer$spacing)) return(layer$border)
  room <- border_share * layer$spacing * scale - blur
  if (room < least_border) 0 else min(layer$border, room)
}
