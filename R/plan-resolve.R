# From sheet to plan: project, find shared borders, classify, colour and put every text into
# words, once. A plan is plain data; the figure and the page read nothing else.

plan_version <- 3L
grid_levels <- 32768L

#' Resolve a sheet into a plan
#'
#' @param sheet A sheet with at least one layer.
#' @return A list of class `ochre_plan`: `version`; `ground` and `inks`, the page's colours; `style`, the wishes for legend and figure; `panels`, labels of the maps for periods or groups, or `NULL`; the words `title`, `subtitle`, `source`,
#'   `note`; `projection` (`name`, `lon0`, `lat0`, `lat1`, `lat2`), picked from the extent unless the
#'   sheet names one; `insets`, each with its `frame`, `label` and `projection`; `frame`, the map's extent in map units (about
#'   metres) as `x0`, `y0`, `x1`, `y1`; `topology`, shared borders as arcs on an integer grid; and
#'   `layers`, each with its `kind`, legend entries, classes, colours and texts; `backdrops`, what may lie under them in a page.
#' @section Errors: `ochre_error_sheet` when there is no layer or nothing to draw;
#'   `ochre_error_plan` for a plan of another version; the errors of [fit_steps()].
#' @export
resolve_sheet <- function(sheet) {
  if (inherits(sheet, "ochre_plan")) return(check_plan(sheet))
  check_sheet(sheet)
  on <- function(ground) with_ground(ground, with_wording(sheet$locale, resolve_checked(sheet)))
  if (sheet$ground != "follow") return(on(sheet$ground))
  said <- character()
  plan <- withCallingHandlers(on("light"), ochre_warning = function(w) said <<- c(said, w$what))
  plan$dark <- plan_colours(resolve_dark(on, said))
  plan
}

# What was said about the light page holds for the dark one; only what is new is said.
resolve_dark <- function(on, said) {
  withCallingHandlers(
    suppressMessages(on("dark")),
    ochre_warning = function(w) {
      if (!w$what %in% said) ochre_warn(
        sub("^ochre_warning_", "", class(w)[1]), paste("On the dark page:", w$what), w$mend
      )
      rlang::cnd_muffle(w)
    }
  )
}

check_plan <- function(plan, call = rlang::caller_env(2)) {
  if (!identical(plan$version, plan_version)) {
    ochre_abort(
      "plan",
      sprintf(
        "The plan is of version %s, and this Ochre draws version %d.",
        format(plan$version %||% "none"), plan_version
      ),
      "Make it anew with resolve_sheet().", version = plan$version, call = call
    )
  }
  lacking <- setdiff(
    c("title", "projection", "frame", "topology", "layers", "inks", "style"), names(plan)
  )
  if (length(lacking)) {
    ochre_abort(
      "plan", sprintf("The plan lacks %s.", list_words(lacking)),
      "Make it anew with resolve_sheet().", call = call
    )
  }
  plan
}

resolve_checked <- function(sheet, call = rlang::caller_env(2)) {
  if (!length(sheet$layers)) ochre_abort("sheet", "The sheet has no layers.", "Add one with shade_areas(), place_symbols() or draw_lines().", call = call)
  panels <- panel_labels(sheet$layers)
  shapes <- lapply(sheet$layers, layer_geometry, panels = panels)
  kinds <- vapply(sheet$layers, function(l) l$kind, "")
  drawn <- kinds %in% c("areas", "lines")
  wkb <- lapply(shapes, function(s) s$wkb)
  # The projection suits what is drawn as areas and lines; stray points must not pull at it.
  ground <- if (any(drawn) && any(lengths(unlist(wkb[drawn], recursive = FALSE)) > 0)) wkb[drawn] else wkb
  insets <- if (isTRUE(sheet$inset)) find_insets(ground) else sheet$inset
  world <- call_core(extent_core(ground, lapply(insets, function(i) i$box), backdrop_projection(sheet)))
  if (world$empty) ochre_abort("sheet", "None of the layers has a geometry to draw.", "Look at the `geometry` column, and at the boxes of `inset`.")
  projection <- world$places[[1]]$projection
  warn_projection(projection, world$places[[1]]$extent, sheet$layers)
  full <- !vapply(world$places[-1], is.null, NA)
  if (any(!full)) ochre_warn("inset", sprintf("Nothing lies whole in the box of %s.", count_words(sum(!full), "inset")), "A box is west, south, east, north, in degrees.")
  insets <- if (any(full)) place_insets(insets[full], world$places[c(TRUE, full)], ground)

  ids <- paste0("layer", seq_along(sheet$layers))
  topology <- call_core(topology_core(stats::setNames(wkb[drawn], ids[drawn]), projection, grid_levels, insets %||% list()))
  points <- lapply(which(!drawn), function(i) project_points(shapes[[i]]$lon, shapes[[i]]$lat, projection, insets))
  frame <- plan_frame(topology, points, insets)

  # Labels come last: they keep clear of the symbols.
  layers <- vector("list", length(sheet$layers))
  for (i in order(vapply(sheet$layers, function(l) l$kind == "labels", NA))) {
    layer <- sheet$layers[[i]]
    point <- if (!drawn[i]) c(points[[match(i, which(!drawn))]], list(areas = shapes[[i]]$areas))
    plan <- in_layer(sheet, layer, switch(layer$kind,
      areas = if (!is.null(layer$second)) plan_pairs(layer) else if (is.null(shapes[[i]]$rows)) plan_areas(layer, wkb[[i]]) else plan_area_panels(layer, shapes[[i]]),
      lines = plan_lines(layer),
      symbols = plan_symbols(layer, shapes[[i]], point, frame, any(drawn), projection, panels),
      density = plan_density(layer, point, frame, projection),
      heat = plan_heat(layer, point, frame),
      labels = plan_labels(layer, point, any(drawn), frame, layers, areas_under(shapes[[i]]$lon, shapes[[i]]$lat, kinds, wkb))
    ))
    signal_progress("Resolving layers", i, length(sheet$layers))
    layers[[i]] <- c(list(kind = layer$kind, id = ids[i], name = paste(layer$legend %||% wording$now$page[[paste0("layer_", layer$kind)]], collapse = ", "), show = layer$show, zoomed = layer$zoomed), area_names(layer, shapes[[i]]), plan)
  }
  frame <- widen_for_symbols(frame, layers)
  backdrops <- plan_backdrops(sheet, projection, frame)
  structure(list(
    version = plan_version, ground = look$ground, page = plan_page(sheet, layers),
    inks = as.list(plan_inks()),
    style = list(legend = unclass(sheet$legend), figure = unclass(sheet$figure)),
    backdrops = backdrops, panels = panels, words = wording$now$page,
    marks = wording$now[c("decimal", "thousands")], locale = wording$now$code, title = sheet$title,
    subtitle = sheet$subtitle,
    source = if (!is.null(sheet$source)) sprintf(wording$now$source, sheet$source), note = sheet$note,
    projection = projection, frame = frame, insets = lapply(insets, function(i) list(frame = i$frame, label = i$label, projection = i$projection)),
    alt = describe_map(sheet, layers), scale_bar = plan_scale_bar(frame, projection), ranking = if (sheet$figure$bars > 0) rank_areas(sheet, layers), topology = topology, layers = layers
  ), class = "ochre_plan")
}

# Errors of a layer that comes from a file say where it stands there.
in_layer <- function(sheet, layer, code) {
  text <- attr(sheet, "text")
  if (is.null(text) || is.null(layer$written)) code else in_sheet(
    text, layer$written, text$content$layers[[layer$written[[2]]]][[1]], code
  )
}

# The ranked bars of the first layer of areas.
rank_areas <- function(sheet, layers) {
  first <- which(vapply(layers, function(l) l$kind == "areas", NA))[1]
  if (!is.na(first)) plan_ranking(sheet$layers[[first]], layers[[first]], sheet$figure$bars)
}

# What names each area in a drawing, a search and a table: its name, and its code or else its row.
area_names <- function(layer, shape) {
  if (layer$kind != "areas") return(NULL)
  rows <- if (is.null(shape$rows)) seq_len(nrow(layer$data)) else apply(shape$rows, 1, function(r) r[!is.na(r)][1])
  text <- function(column) if (!is.na(column)) enc2utf8(as.character(layer$data[[column]]))[rows]
  list(names = text(name_column(layer$data)), codes = text(intersect(c("code", "id"), names(layer$data))[1]))
}

layer_geometry <- function(layer, panels = NULL) {
  if (layer$kind == "areas" && !is.null(layer$by)) return(panel_areas(layer, panels))
  if (layer$kind %in% c("areas", "lines")) return(list(wkb = geometry_of(layer$data, "data")))
  if (is.null(layer$at)) {
    wkb <- geometry_of(layer$data, "data")
    # A symbol of an area stands where its label would.
    if (call_core(extent_core(list(wkb), list(), ""))$shapes == "areas") {
      p <- call_core(label_points_core(wkb))
      return(list(lon = p$lon, lat = p$lat, wkb = point_wkb(p$lon, p$lat), areas = TRUE))
    }
    p <- call_core(points_core(wkb))
    rows <- seq_len(nrow(layer$data))
    first <- match(rows, p$feature)
    return(list(lon = p$lon[first], lat = p$lat[first], wkb = wkb))
  }
  lon <- as.numeric(layer$data[[layer$at[1]]])
  lat <- as.numeric(layer$data[[layer$at[2]]])
  keep <- is.finite(lon) & is.finite(lat)
  list(lon = lon, lat = lat, wkb = unclass(wk::as_wkb(wk::xy(lon[keep], lat[keep]))))
}

plan_frame <- function(topology, points, insets = NULL) {
  x <- if (length(topology$x)) topology$x0 + topology$step * range(topology$x) else range(unlist(lapply(points, function(p) p$x)), na.rm = TRUE)
  y <- if (length(topology$y)) topology$y0 + topology$step * range(topology$y) else range(unlist(lapply(points, function(p) p$y)), na.rm = TRUE)
  for (i in insets) {
    x <- range(x, i$frame[c("x0", "x1")])
    y <- range(y, i$frame[["y0"]], i$frame[["y1"]] + 0.03 * diff(y))  # room for the label
  }
  # A single point or a straight line still needs room on both sides.
  grow <- function(v) if (diff(v) > 0) v else v + c(-1, 1) * max(diff(x), diff(y), 1000) / 2
  x <- grow(x)
  y <- grow(y)
  c(x0 = x[1], y0 = y[1], x1 = x[2], y1 = y[2])
}

widen_for_symbols <- function(frame, layers) {
  for (l in layers[vapply(layers, function(l) l$kind == "symbols" && length(l$x) > 0, NA)]) {
    r <- pmax(l$r, l$second$r %||% 0)
    frame <- c(x0 = min(frame[["x0"]], l$x - r), y0 = min(frame[["y0"]], l$y - r), x1 = max(frame[["x1"]], l$x + r), y1 = max(frame[["y1"]], l$y + (l$bar$height %||% r)))
  }
  frame
}

# Texts of one layer: a hover label for each row, and popup fields as one vector a field.
plan_texts <- function(layer, digits = list()) {
  kinds <- attr(layer$popup, "kinds") %||% rep("text", length(layer$popup))
  words <- attr(layer$popup, "words")
  popup <- if (length(layer$popup)) lapply(seq_along(layer$popup), function(i) {
    if (kinds[i] == "text") fill_template(layer$popup[[i]], layer$data, digits, blank = TRUE) else fill_address(layer$popup[[i]], layer$data, kinds[i], attr(layer$popup, "folders")[i])
  })
  texts <- if (any(kinds != "text")) lapply(words, function(w) if (!is.null(w)) fill_template(w, layer$data, digits, blank = TRUE))
  list(hover = if (!is.null(layer$hover)) fill_template(layer$hover, layer$data, digits),
       popup = if (!is.null(popup)) list(labels = names(layer$popup), kinds = kinds, fields = popup, texts = texts))
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
  c(paste0("Plan: ", x$title), paste0("  projection: ", projection_words(x$projection)),
    vapply(x$insets, function(i) sprintf("  inset: %s, %s", if (nzchar(i$label)) i$label else "at the map's scale", projection_words(i$projection)), ""),
    vapply(x$backdrops, function(b) sprintf("  backdrop: %s%s", b$name, switch(b$kind, plain = "", tiles = sprintf(", tiles of %s in %s", origin_of(b$url), count_words(length(b$levels), "level")), picture = sprintf(", a picture bent over %s", count_words(b$cells^2, "cell")))), ""),
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

projection_words <- function(p) {
  if (p$name == "web Mercator" && p$lon0 == 0) return(p$name)
  sprintf("%s, centre %s %s%s", p$name, degrees_word(p$lat0, "N", "S"), degrees_word(p$lon0, "E", "W"),
          if (p$name == "equal-area conic") sprintf(", standard parallels %s and %s", degrees_word(p$lat1, "N", "S"), degrees_word(p$lat2, "N", "S")) else "")
}
