# From sheet to plan: project, find shared borders, classify, colour and put every text into
# words, once. A plan is plain data; the figure and the page read nothing else. What it holds is
# said in inst/schema/plan.schema.json.

#' Resolve a sheet into a plan
#'
#' @param sheet A sheet with at least one layer.
#' @return A list of class `ochre_plan`, with the fields of the contract
#'   `system.file("schema", "plan.schema.json", package = "ochre")`: words and inks; `projection`,
#'   picked from the extent unless the sheet names one; `frame`, the map's extent in map units
#'   (about metres) as `x0`, `y0`, `x1`, `y1`; `topology`, shared borders as arcs on an integer
#'   grid; `layers`, each with its `kind`, legend entries, classes, colours and texts; and more.
#'   Every field is there; `NULL` means unused. The article "How a value travels"
#'   has a table of all fields.
#' @section Errors: `ochre_error_sheet` when there is no layer or nothing to draw;
#'   `ochre_error_plan` for a plan of another version or with a field missing; the errors of
#'   [fit_steps()].
#' @export
resolve_sheet <- function(sheet) resolve_with(sheet, NULL, rlang::current_env())

# With a `cache` what was projected and measured before is not again.
resolve_with <- function(sheet, cache, call = rlang::caller_env()) {
  plain_numbers()
  refuse_missing(missing(sheet), "sheet", rlang::current_env())
  if (inherits(sheet, "ochre_plan")) return(check_plan(sheet, call))
  check_sheet(sheet, call)
  on <- function(ground) resolve_on(sheet, new_setting(sheet$locale, ground, cache), call)
  if (sheet$ground != "follow") return(on(sheet$ground))
  said <- character()
  plan <- withCallingHandlers(on("light"), ochre_warning = function(w) said <<- c(said, w$what))
  plan$dark <- plan_colours(resolve_dark(on, said))
  plan
}

# What was said about the light page holds for the dark one; only what is new is said.
resolve_dark <- function(on, said) {
  say_new <- function(w) {
    if (!w$what %in% said) {
      kind <- sub("^ochre_warning_", "", class(w)[1])
      ochre_warn(kind, "On the dark page: {w$what}", w$mend)
    }
    rlang::cnd_muffle(w)
  }
  withCallingHandlers(suppressMessages(on("dark")), ochre_warning = say_new)
}

# On one ground. All that the steps need of language and colours is in `setting`.
resolve_on <- function(sheet, setting, call) {
  if (!length(sheet$layers)) {
    ochre_abort("sheet", "The sheet has no layers.",
                "Add one with shade_areas(), place_symbols() or draw_lines().")
  }
  sheet$layers <- with_live(sheet, call)
  sheet$layers <- with_borders_between(sheet$layers)
  map <- place_on_globe(sheet, setting)
  grid <- grid_layer(sheet, map, setting)
  if (!is.null(grid)) {
    sheet$layers <- c(list(grid), sheet$layers)
    map <- with_lines_below(map, grid)
  }
  map <- lay_out_map(map, setting)
  map$frame <- widen_for_surfaces(map, sheet$layers)
  layers <- plan_layers(sheet, map, setting)
  map$frame <- widen_for_symbols(map$frame, layers)
  plan_whole(sheet, map, layers, setting)
}

plan_layers <- function(sheet, map, setting) {
  layers <- vector("list", length(sheet$layers))
  # Labels come last: they keep clear of the symbols.
  for (i in order(kinds_are(map$kinds, "words"))) {
    layer <- sheet$layers[[i]]
    on <- list(shape = map$shapes[[i]], point = map$points[[i]], map = map, layers = layers)
    fields <- in_layer(sheet, layer, for_kind("resolve", layer$kind)(layer, on, setting))
    common <- list(
      id = map$ids[i],
      name = layer_name(layer, setting$locale),
      show = layer$show,
      zoomed = plan_zoomed(layer$zoomed, setting)
    )
    named <- if (!layer_is(layer, "marks")) layer_names(layer, map$shapes[[i]])
    if (layer_is(layer, "shaded")) {
      named <- c(named, plan_borders(layer$borders, map$topology, map$ids[i], setting))
    }
    layers[[i]] <- new_part(setting, layer_kinds[[layer$kind]]$part, c(common, named, fields))
    signal_progress("Resolving layers", i, length(sheet$layers))
  }
  layers
}

# What is of one kind of layer only: `on` has its `shape` and its places (`point`), the `map`, and
# the `layers` that are resolved so far.
resolve_areas <- function(layer, on, setting) {
  if (!is.null(layer$second)) return(plan_pairs(layer, setting))
  if (is.null(on$shape$rows)) return(plan_areas(layer, on$shape$wkb, setting))
  plan_area_panels(layer, on$shape, setting)
}

plan_zoomed <- function(zoomed, setting) {
  if (!length(zoomed)) return(NULL)
  zoomed <- lapply(zoomed, unclass)
  if (!is.null(zoomed$width)) zoomed$width$values <- zoomed$width$values * pixels_of_points
  new_part(setting, "zoomed", zoomed)
}

# Lines that only help the others are in no list of layers.
layer_name <- function(layer, locale) {
  if (isTRUE(layer$unlisted)) return("")
  paste(layer$legend %||% locale$page[[paste0("layer_", layer$kind)]], collapse = ", ")
}

# Errors of a layer that comes from a file say where it stands there.
in_layer <- function(sheet, layer, code) {
  text <- attr(sheet, "text")
  if (is.null(text) || is.null(layer$written)) return(code)
  in_sheet(text, layer$written, text$content$layers[[layer$written[[2]]]][[1]], code)
}

# What names each thing in a drawing, a search and a table: its name, its code, and the larger unit
# that tells it from others of its name.
layer_names <- function(layer, shape = NULL) {
  if (!layer_is(layer, "listed")) return(NULL)
  rows <- if (!is.null(shape$rows)) first_known(shape$rows)
  rows <- rows %||% seq_len(nrow(layer$data))
  text <- function(column) {
    if (!is.na(column)) enc2utf8(as.character(layer$data[[column]]))[rows]
  }
  name <- name_column(layer$data)
  # A line or a place is named by a column of that name only.
  if (!layer_is(layer, "shaded") && !identical(name, "name")) name <- NA
  list(
    names = text(name),
    codes = text(code_column(layer$data)),
    regions = text(region_column(layer, name))
  )
}

# Of a matrix of rows the first that is known in each line.
first_known <- function(rows) apply(rows, 1, function(r) r[!is.na(r)][1])

# The plan from its parts.
plan_whole <- function(sheet, map, layers, setting) {
  locale <- setting$locale
  bars <- sheet$figure$bars
  said <- list(
    locale = locale$code,
    alt = describe_map(sheet, layers, locale),
    title = sheet$title,
    subtitle = sheet$subtitle,
    source = if (!is.null(sheet$source)) sprintf(locale$source, sheet$source),
    source_link = sheet$source_link,
    note = sheet$note,
    words = locale$page,
    marks = locale[c("decimal", "thousands")],
    panels = period_words(map$panels, locale)
  )
  looks <- list(
    version = setting$contract$properties$version$const,
    ground = setting$ground,
    inks = as.list(plan_inks(setting$ground)),
    style = list(legend = unclass(sheet$legend), figure = unclass(sheet$figure)),
    page = plan_page(sheet, map, layers, setting),
    backdrops = plan_backdrops(sheet$backdrops, map, setting),
    overlays = plan_backdrops(sheet$overlays, map, setting)
  )
  drawn <- list(
    projection = map$projection,
    frame = map$frame,
    insets = lapply(map$insets, `[`, c("frame", "label", "projection")),
    topology = map$topology,
    layers = layers,
    scale_bar = plan_scale_bar(map$frame, map$projection, locale),
    ranking = if (bars > 0) rank_areas(sheet, layers, locale)
  )
  structure(new_part(setting, NULL, c(said, looks, drawn)), class = "ochre_plan")
}

# The ranked bars of the first layer of areas.
rank_areas <- function(sheet, layers, locale) {
  first <- which(layers_are(layers, "shaded"))[1]
  if (is.na(first)) return(NULL)
  plan_ranking(sheet$layers[[first]], layers[[first]], sheet$figure$bars, locale)
}
