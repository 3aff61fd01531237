# A layer of a sheet as a value. Every field of its kind is there; NULL says that nobody asked for
# it. The verbs fill them, and R/plan-*.R resolves them.

# What each kind of layer is, for all that ask: `fields`, what a sheet says of it; `part`, where the
# contract says what a plan holds of it; `is`, on which the rest depends:
#   outlines    drawn from lines of the topology    shaded  areas with classes
#   marks       places with symbols of a size       listed  each has a name in tables and searches
#   from_points made of places                      strip   its classes stand in a strip
#   surface     reaches beyond its places           inked   its own colours take the opacity
#   strokes     drawn along its outlines            words   stands over all else, in no legend
# What is made of a kind is a function that ends in its name, see for_kind(): resolve_areas() of a
# plan, figure_areas() and legend_areas() of a figure, first_areas() of the first picture of a page,
# words_areas() of a printed sheet.
#
# `data` is the table; fields that name columns hold their names. `written` is where the layer
# stands in a sheet file, `show` what show_layer() says.
layer_kinds <- list(
  areas = list(
    part = "area_layer", is = c("outlines", "shaded", "listed", "strip"),
    fields = c(
      "value", "second", "steps", "second_steps", "ramp", "reverse", "hatch", "hatch_label", "by",
      "own_steps", "borders", "fill", "legend", "hover", "popup", "format", "field_formats"
    )
  ),
  symbols = list(
    part = "symbol_layer", is = c("marks", "listed", "from_points"),
    fields = c(
      "at", "by", "size", "second", "scale", "shape", "size_steps", "sizes", "span", "overlap",
      "group", "zoomed", "colour", "colour_by", "steps", "ramp", "colour_legend", "legend", "hover",
      "popup", "format", "field_formats"
    )
  ),
  lines = list(
    part = "line_layer", is = c("outlines", "strokes", "listed", "inked"),
    fields = c(
      "colour", "colour_by", "steps", "ramp", "colour_legend", "width", "size", "zoomed", "widest",
      "width_steps", "dash", "casing", "arrow", "unlisted", "legend", "hover", "popup", "format",
      "field_formats"
    )
  ),
  labels = list(
    part = "name_layer", is = c("words", "inked"),
    fields = c(
      "at", "text", "priority", "scale", "zoomed", "colour", "halo", "bold", "legend", "hover",
      "popup", "format", "field_formats"
    )
  ),
  density = list(
    part = "density_layer", is = c("surface", "from_points", "strip"),
    fields = c(
      "at", "kernel", "weight", "value", "steps", "ramp", "reverse", "opacity", "legend", "hover",
      "popup", "format"
    )
  ),
  heat = list(
    part = "heat_layer", is = c("surface", "from_points", "strip"),
    fields = c("at", "radius", "weight", "ramp", "reverse", "opacity", "legend", "hover", "popup")
  )
)

kinds_are <- function(kinds, what) {
  vapply(kinds, function(kind) what %in% layer_kinds[[kind]]$is, NA, USE.NAMES = FALSE)
}
layer_is <- function(layer, what) isTRUE(kinds_are(layer$kind, what))
layers_are <- function(layers, what) vapply(layers, layer_is, NA, what)

# The function that does something for a kind of layer.
for_kind <- function(does, kind) get(paste(does, kind, sep = "_"), topenv(), mode = "function")

new_layer <- function(kind, fields) {
  known <- c("data", layer_kinds[[kind]]$fields, "show", "written")
  stopifnot(kind %in% names(layer_kinds), all(names(fields) %in% known))
  layer <- stats::setNames(vector("list", length(known)), known)
  layer[names(fields)] <- fields
  c(list(kind = kind), layer)
}

# The sheet with one more layer.
with_layer <- function(sheet, kind, fields) {
  sheet$layers <- c(sheet$layers, list(new_layer(kind, fields)))
  sheet
}
