# A layer of a sheet as a value. Every field of its kind is there; NULL says that nobody asked for
# it. The verbs fill them, and R/plan-*.R resolves them.

# `data` is the table; fields that name columns hold their names. `written` is where the layer
# stands in a sheet file, `show` what show_layer() says.
layer_fields <- list(
  areas = c(
    "value", "second", "steps", "second_steps", "ramp", "reverse", "hatch", "hatch_label", "by",
    "own_steps", "borders", "fill", "legend", "hover", "popup", "format", "field_formats"
  ),
  symbols = c(
    "at", "by", "size", "second", "scale", "shape", "size_steps", "sizes", "span", "overlap",
    "group", "zoomed",
    "colour", "colour_by", "steps", "ramp", "colour_legend", "legend", "hover", "popup", "format",
    "field_formats"
  ),
  lines = c(
    "colour", "colour_by", "steps", "ramp", "colour_legend", "width", "size", "zoomed", "widest",
    "width_steps", "dash", "casing", "arrow", "unlisted", "legend", "hover", "popup", "format",
    "field_formats"
  ),
  labels = c(
    "at", "text", "priority", "scale", "zoomed", "colour", "halo", "bold", "legend", "hover",
    "popup", "format", "field_formats"
  ),
  density = c(
    "at", "kernel", "weight", "value", "steps", "ramp", "reverse", "opacity", "legend", "hover",
    "popup", "format"
  ),
  heat = c(
    "at", "radius", "weight", "ramp", "reverse", "opacity", "legend", "hover", "popup"
  )
)

new_layer <- function(kind, fields) {
  known <- c("data", layer_fields[[kind]], "show", "written")
  stopifnot(kind %in% names(layer_fields), all(names(fields) %in% known))
  layer <- stats::setNames(vector("list", length(known)), known)
  layer[names(fields)] <- fields
  c(list(kind = kind), layer)
}

# The sheet with one more layer.
with_layer <- function(sheet, kind, fields) {
  sheet$layers <- c(sheet$layers, list(new_layer(kind, fields)))
  sheet
}
