# Changes of a map that is on a reader's screen, from the server of a Shiny app. Only what is other
# travels (R/page-changes.R), and the reader's view stays.

#' Change a map that is on the screen
#'
#' `live_map()` names the map of an output; the other functions change it for the reader of this
#' session, without drawing it anew. They give the map back, so that they can be piped.
#'
#' * `change_map()` shows another sheet: other values, steps, colours, words, layers. Where only
#'   classes, colours, sizes and texts differ, only these travel; else the map is made anew in
#'   the same view. What was projected and measured before is not again.
#' * `change_values()` gives a map with [live_values()] new numbers, which the page itself classes
#'   and writes: the lightest way, for many changes a second.
#' * `look_at()` moves the view: to an area, to a box in degrees, to a zoom, or home.
#' * `show_period()` shows a period, `choose_area()` opens what a click would, `mark_areas()` marks
#'   several, until it is called again.
#'
#' A change before the map is on the screen, as in a tab that is not open yet, is what is drawn when
#' it comes; the others do nothing then. Where a connection was lost and comes back, the map is as
#' it was.
#'
#' @param id Name of the output: one text, without the module's prefix.
#' @param session The session; by default that of the code that runs.
#' @param map From `live_map()`.
#' @param sheet A sheet from [map_sheet()], or a plan from [resolve_sheet()].
#' @param values Numbers with the codes of areas (or their names, where they have no codes) as
#'   names; `NA` for an area without a value. Areas that are not named keep theirs.
#' @param time When the values were right: a date-time; `NULL` for now.
#' @param area Code of an area or symbol of the main layer, or its name: one text; `NULL` for none.
#'   Of `mark_areas()` several.
#' @param view A box in degrees as four numbers (west, south, east, north), or the code or name of
#'   an area, as in [page_style()]; `NULL` for the whole map.
#' @param zoom 1 for the whole map, 2 for twice as large: one number.
#' @param period One of the map's periods, as it writes them: one text; or its number.
#' @return The map, invisibly: a list of class `ochre_live_map`.
#' @section Errors: `ochre_error_argument`; of `change_map()` those of [resolve_sheet()].
#' @seealso [ochre_output()]
#' @examples
#' if (interactive()) {
#'   areas <- read_boundaries(ochre_demo("districts.geojson"))
#'   ui <- shiny::fluidPage(shiny::sliderInput("n", "Classes", 2, 9, 5), ochre_output("map"))
#'   server <- function(input, output) {
#'     sheet <- function(n) {
#'       map_sheet("Residents") |> shade_areas(areas, population, steps = steps_quantile(n))
#'     }
#'     output$map <- render_ochre(sheet(5))
#'     shiny::observe(change_map(live_map("map"), sheet(input$n)))
#'   }
#'   shiny::shinyApp(ui, server)
#' }
#' @export
live_map <- function(id, session = shiny::getDefaultReactiveDomain()) {
  check_text(id, "id")
  if (!is.function(tryCatch(session$ns, error = function(e) NULL))) {
    ochre_abort("argument", "A map can only be changed within the server of an app.",
                "Call it in an observer, or give `session`.", arg = "session")
  }
  key <- session$ns(id)
  map <- structure(list(key = key, session = session), class = "ochre_live_map")
  send_whole_when_asked(map)
  map
}

#' @rdname live_map
#' @export
change_map <- function(map, sheet) {
  held <- held_of(map)
  plan <- resolve_with(sheet, held$cache, rlang::current_env())
  if (is.null(held$plan)) {
    held$waiting <- plan
    return(invisible(map))
  }
  before <- held$stamp
  # Of values that came while it was open R does not know.
  alone <- is.null(held$plan$page$live) && is.null(plan$page$live)
  changes <- page_changes(if (alone) held$plan, plan)
  if (is.null(changes)) return(invisible(map))
  keep_shown(held, plan)
  tell_map(map, "change", given = changes, from = before, stamp = held$stamp)
}

#' @rdname live_map
#' @export
change_values <- function(map, values, time = NULL) {
  held <- held_of(map)
  values <- check_new_values(values)
  if (!is.null(held$plan) && is.null(held$plan$page$live)) {
    ochre_abort("argument", "The map takes no new values.",
                "Give its sheet `page = page_style(live = live_values())`, or use change_map().",
                arg = "map")
  }
  document <- list(
    values = lapply(as.list(values), function(v) if (is.na(v)) NULL else v),
    time = format(time %||% Sys.time(), "%Y-%m-%dT%H:%M:%SZ", tz = "UTC")
  )
  tell_map(map, "values", given = write_json(document))
}

#' @rdname live_map
#' @export
look_at <- function(map, view = NULL, zoom = NULL) {
  held <- held_of(map)
  view <- check_view(view)
  check_number(zoom, "zoom", min = 0.5, max = 200, null = TRUE)
  box <- if (!is.null(held$plan)) first_view(view, held$plan, held$plan$layers)
  tell_map(map, "look", given = Filter(Negate(is.null), list(box = box, zoom = zoom)))
}

#' @rdname live_map
#' @export
show_period <- function(map, period) {
  held <- held_of(map)
  panels <- held$plan$panels
  at <- if (is.numeric(period)) as.integer(period) else match(period, panels)
  if (!is.null(held$plan) && !isTRUE(at >= 1 && at <= length(panels))) {
    ochre_abort("argument", "The map has no period {describe(period)}.",
                if (length(panels)) "Its periods: {list_words(panels, 12)}.", arg = "period")
  }
  tell_map(map, "period", given = at - 1L)
}

#' @rdname live_map
#' @export
choose_area <- function(map, area = NULL) {
  held <- held_of(map)
  check_text(area, "area", null = TRUE)
  check_things(area, held$plan)
  tell_map(map, "choose", given = area)
}

#' @rdname live_map
#' @export
mark_areas <- function(map, area = NULL) {
  held <- held_of(map)
  check_things(check_texts(area, "area"), held$plan)
  tell_map(map, "mark", given = I(as.character(area)))
}

# ---- inside --------------------------------------------------------------------------------------

held_of <- function(map, call = rlang::caller_env()) {
  refuse_missing(missing(map), "map", call)
  if (inherits(map, "ochre_live_map")) return(held_map(map$session, map$key))
  ochre_abort("argument", "`map` must come from live_map(), not be {describe(map)}.",
              "Start with live_map(\"map\"), with the name of the output.", arg = "map")
}

tell_map <- function(map, what, ...) {
  map$session$sendCustomMessage("ochre", list(id = map$key, what = what, ...))
  invisible(map)
}

# A page that does not have the plan which a change is of asks for the whole.
send_whole_when_asked <- function(map) {
  held <- held_map(map$session, map$key)
  if (isTRUE(held$answers)) return(invisible())
  held$answers <- TRUE
  root <- map$session$rootScope()
  shiny::observeEvent(root$input[[paste0(map$key, "_again")]], {
    if (!is.null(held$plan)) {
      tell_map(map, "whole", given = page_json(held$plan), stamp = held$stamp)
    }
  }, domain = root)
}

check_new_values <- function(values, call = rlang::caller_env()) {
  named <- !is.null(names(values)) && all(nzchar(names(values)))
  if (is.numeric(values) && named && !any(is.infinite(values))) return(values)
  ochre_abort("argument", "`values` must be numbers with the codes of areas as names.",
              "For example c(`0101` = 12.5, `0102` = NA).", arg = "values")
}

# Codes, or names, that no area or symbol of the main layer has; as viewer/src/items.ts finds it.
check_things <- function(things, plan, call = rlang::caller_env()) {
  if (is.null(plan) || !length(things)) return(invisible())
  of <- function(kind) Filter(function(l) l$kind == kind && !is.null(l$names), plan$layers)
  layer <- c(of("areas"), of("symbols"))[1][[1]]
  known <- c(layer$codes, layer$names)
  lost <- setdiff(things, known)
  if (!length(lost)) return(invisible())
  ochre_abort("argument", "The map has nothing with the code or name {list_words(lost)}.",
              if (length(known)) did_you_mean(lost[1], stats::na.omit(known), "There are"),
              arg = "area")
}
