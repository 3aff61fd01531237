# From sheet to plan: project, find shared borders, classify, colour and put every text into
# words, once. A plan is plain data; the figure and the page read nothing else.

plan_version <- 1L
grid_levels <- 32768L

#' Resolve a sheet into a plan
#'
#' @param sheet A sheet with at least one layer.
#' @return A list of class `ochre_plan`: `version`; the words `title`, `subtitle`, `source`,
#'   `note`; `projection` (`name`, `lon0`, `lat0`); `frame`, the map's extent in map units (about
#'   metres) as `x0`, `y0`, `x1`, `y1`; `topology`, shared borders as arcs on an integer grid; and
#'   `layers`, each with its `kind`, legend entries, classes, colours and texts.
#' @section Errors: `ochre_error_sheet` when there is no layer or nothing to draw; the errors of
#'   [fit_steps()].
#' @export
resolve_sheet <- function(sheet) {
  if (inherits(sheet, "ochre_plan")) return(sheet)
  check_sheet(sheet)
  if (!length(sheet$layers)) ochre_abort("sheet", "The sheet has no layers.", "Add one with shade_areas(), place_symbols() or draw_lines().")
  shapes <- lapply(sheet$layers, layer_geometry)
  world <- call_core(extent_core(lapply(shapes, function(s) s$wkb)))
  if (world$empty) ochre_abort("sheet", "None of the layers has a geometry to draw.", "Look at the `geometry` column.")
  drawn <- vapply(sheet$layers, function(l) l$kind != "symbols", NA)
  # The projection suits what is drawn as areas and lines; stray points must not pull at it.
  if (any(drawn) && !all(drawn)) {
    fixed <- call_core(extent_core(lapply(shapes[drawn], function(s) s$wkb)))
    if (!fixed$empty) world[c("extent", "projection")] <- fixed[c("extent", "projection")]
  }
  projection <- world$projection
  ids <- paste0("layer", seq_along(sheet$layers))
  topology <- call_core(topology_core(stats::setNames(lapply(shapes[drawn], function(s) s$wkb), ids[drawn]), projection, grid_levels))
  points <- lapply(which(!drawn), function(i) project_core(shapes[[i]]$lon, shapes[[i]]$lat, projection))
  frame <- plan_frame(topology, points)

  layers <- lapply(seq_along(sheet$layers), function(i) {
    layer <- sheet$layers[[i]]
    plan <- switch(layer$kind,
      areas = plan_areas(layer, topology, match(i, which(drawn))),
      lines = plan_lines(layer),
      symbols = plan_symbols(layer, shapes[[i]], points[[match(i, which(!drawn))]], frame, any(drawn), projection)
    )
    signal_progress("Resolving layers", i, length(sheet$layers))
    c(list(kind = layer$kind, id = ids[i]), plan)
  })
  frame <- widen_for_symbols(frame, layers)
  structure(list(
    version = plan_version, title = sheet$title, subtitle = sheet$subtitle,
    source = if (!is.null(sheet$source)) paste0("Source: ", sheet$source), note = sheet$note,
    projection = projection, frame = frame, topology = topology, layers = layers
  ), class = "ochre_plan")
}

layer_geometry <- function(layer) {
  if (layer$kind != "symbols") return(list(wkb = geometry_of(layer$data, "data")))
  if (is.null(layer$at)) {
    p <- call_core(points_core(geometry_of(layer$data, "data")))
    rows <- seq_len(nrow(layer$data))
    first <- match(rows, p$feature)
    return(list(lon = p$lon[first], lat = p$lat[first], wkb = geometry_of(layer$data, "data")))
  }
  lon <- as.numeric(layer$data[[layer$at[1]]])
  lat <- as.numeric(layer$data[[layer$at[2]]])
  keep <- is.finite(lon) & is.finite(lat)
  list(lon = lon, lat = lat, wkb = unclass(wk::as_wkb(wk::xy(lon[keep], lat[keep]))))
}

plan_frame <- function(topology, points) {
  x <- if (length(topology$x)) topology$x0 + topology$step * range(topology$x) else range(unlist(lapply(points, function(p) p$x)), na.rm = TRUE)
  y <- if (length(topology$y)) topology$y0 + topology$step * range(topology$y) else range(unlist(lapply(points, function(p) p$y)), na.rm = TRUE)
  # A single point or a straight line still needs room on both sides.
  grow <- function(v) if (diff(v) > 0) v else v + c(-1, 1) * max(diff(x), diff(y), 1000) / 2
  x <- grow(x)
  y <- grow(y)
  c(x0 = x[1], y0 = y[1], x1 = x[2], y1 = y[2])
}

widen_for_symbols <- function(frame, layers) {
  for (l in layers[vapply(layers, function(l) l$kind == "symbols" && length(l$x) > 0, NA)]) {
    frame <- c(x0 = min(frame[["x0"]], l$x - l$r), y0 = min(frame[["y0"]], l$y - l$r), x1 = max(frame[["x1"]], l$x + l$r), y1 = max(frame[["y1"]], l$y + l$r))
  }
  frame
}

# Texts of one layer: a hover label for each row, and popup fields as one vector a field.
plan_texts <- function(layer, digits = list()) {
  popup <- if (length(layer$popup)) lapply(unname(layer$popup), fill_template, data = layer$data, digits = digits, blank = TRUE)
  list(hover = if (!is.null(layer$hover)) fill_template(layer$hover, layer$data, digits),
       popup = if (!is.null(popup)) list(labels = names(layer$popup), fields = popup))
}

name_column <- function(data) {
  is_text <- vapply(data, function(x) is.character(x) || is.factor(x), NA)
  if ("name" %in% names(data)) "name" else names(data)[is_text][1]
}

# The label that stands where none was asked for: name and value.
default_hover <- function(data, value) {
  name <- name_column(data)
  if (is.na(name)) paste0("{", value, "}") else paste0("{", name, "}: {", value, "}")
}

#' @export
format.ochre_plan <- function(x, ...) {
  c(paste0("Plan: ", x$title), sprintf("  projection: %s, centre %.2f\u00b0, %.2f\u00b0", x$projection$name, x$projection$lon0, x$projection$lat0),
    sprintf("  topology: %s, %s", count_words(length(x$topology$arc_end), "arc"), count_words(length(x$topology$x), "point")),
    unlist(lapply(x$layers, function(l) c(
      sprintf("  %s: %s", l$kind, l$legend %||% "(not in the legend)"),
      if (l$kind == "areas") sprintf("    %s  %s  %d", l$colours, l$labels, l$counts),
      if (l$kind == "areas" && l$no_data$count) sprintf("    %s  %s  %d", l$no_data$colour, l$no_data$label, l$no_data$count)
    ))))
}

#' @export
print.ochre_plan <- function(x, ...) {
  cat(format(x), sep = "\n")
  invisible(x)
}
