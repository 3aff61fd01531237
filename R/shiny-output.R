# Maps in a Shiny app: the output, what draws it, and what the reader does as inputs. A map that is
# on the screen is changed by R/shiny-live.R.

#' A map in a Shiny app
#'
#' `ochre_output()` is the place of a map in the app's page, `render_ochre()` draws a sheet there.
#' When what it reads has changed the map updates only what changed, and keeps the reader's view.
#'
#' @section Inputs:
#' Of a map `m` the server sees, each `NULL` until there is something to say:
#'
#' * `input$m_pointed`, `input$m_clicked`, `input$m_chosen`: the thing that is pointed at, the last
#'   one that was pressed, and the one whose values are open, by a press, a search or keys: a list
#'   of `layer` (its number), `name_of_layer`, `row` of the data of that layer (of areas with
#'   periods the number of the area), `code`, `name`, `value` (a number, in the period that is
#'   shown) and `text` (as the map writes it); `NULL` where nothing is.
#' * `input$m_seen`: `west`, `south`, `east`, `north` in degrees, of what is seen of the globe, and
#'   `zoom`, 1 for the whole map.
#' * `input$m_period`: the period that is shown, as the map writes it.
#' * `input$m_off`: the classes that the reader has switched off: a list of `layer` and `label`.
#'
#' @param id Name of the output: one text; within a module `ns("map")`.
#' @param width,height CSS sizes: texts, or numbers of pixels.
#' @param link Name of another output: the two maps move together, and what is pointed at in the one
#'   is marked in the other, by its code or name. They should be of one projection. `NULL` (default)
#'   for none.
#' @param expr An expression that gives a sheet from [map_sheet()], or a plan from
#'   [resolve_sheet()].
#' @return `ochre_output()` an element of a page; `render_ochre()` a function for an output of
#'   that name.
#' @section Errors: `ochre_error_package` when package shiny is missing; those of
#'   [resolve_sheet()], which Shiny shows in place of the map.
#' @seealso [live_map()] for changes of a map that is on the screen. Whole apps are in
#'   `system.file("examples", package = "ochre")`: `shiny-facts`, `shiny-live`, `shiny-filter` and
#'   `shiny-dashboard`.
#' @examples
#' if (interactive()) {
#'   areas <- read_boundaries(ochre_demo("districts.geojson"))
#'   ui <- shiny::fluidPage(ochre_output("map"), shiny::textOutput("said"))
#'   server <- function(input, output) {
#'     output$map <- render_ochre(
#'       map_sheet("People over 64") |> place_symbols(areas, size = population_65_plus)
#'     )
#'     output$said <- shiny::renderText(input$map_chosen$name)
#'   }
#'   shiny::shinyApp(ui, server)
#' }
#' @export
ochre_output <- function(id, width = "100%", height = "520px", link = NULL) {
  check_text(id, "id")
  check_text(link, "link", null = TRUE)
  check_page_size(width, "width")
  check_page_size(height, "height")
  need_package("shiny", "A map in an app")
  place <- htmlwidgets::shinyWidgetOutput(id, "ochre", width, height, package = "ochre")
  held <- htmltools::htmlDependency(
    "ochre-held", as.character(utils::packageVersion("ochre")), "htmlwidgets/lib/ochre",
    script = "ochre-held.js", package = "ochre", all_files = FALSE
  )
  place[[1]] <- htmltools::tagAppendAttributes(place[[1]], `data-link` = link)
  htmltools::attachDependencies(place, held, append = TRUE)
}

#' @rdname ochre_output
#' @export
render_ochre <- function(expr) {
  need_package("shiny", "A map in an app")
  read_inputs()
  make <- shiny::quoToFunction(rlang::enquo0(expr), "render_ochre")
  shown <- function() first_page(make())
  htmlwidgets::shinyRenderWidget(quote(shown()), ochre_output, environment(), quoted = TRUE)
}

# What is drawn first, or anew from its expression. A change that came before the map was on the
# screen is what is drawn.
first_page <- function(sheet) {
  session <- shiny::getDefaultReactiveDomain()
  held <- held_map(session, shiny::getCurrentOutputInfo(session)$name)
  plan <- held$waiting %||% resolve_with(sheet, held$cache)
  held$waiting <- NULL
  widget <- as_page(plan)
  keep_shown(held, plan)
  widget$x$stamp <- held$stamp
  widget
}

# What a session knows of the map of an output: its `plan`, the `stamp` of that, a `cache`.
held_map <- function(session, key) {
  maps <- session$userData$ochre_maps
  if (is.null(maps)) maps <- session$userData$ochre_maps <- new.env(parent = emptyenv())
  if (is.null(maps[[key]])) {
    maps[[key]] <- new.env(parent = emptyenv())
    maps[[key]]$cache <- new_cache(held = 4L)
  }
  maps[[key]]
}

keep_shown <- function(held, plan) {
  held$plan <- plan
  held$stamp <- (held$stamp %||% 0L) + 1L
}

# ---- what the reader does ------------------------------------------------------------------------

# Numbers of layers and things become what the data say of them.
read_inputs <- function() {
  shiny::registerInputHandler("ochre.thing", told_thing, force = TRUE)
  shiny::registerInputHandler("ochre.seen", told_seen, force = TRUE)
  shiny::registerInputHandler("ochre.period", told_period, force = TRUE)
  shiny::registerInputHandler("ochre.off", told_off, force = TRUE)
}

# The plan of the map that an input is of.
plan_told_of <- function(session, name) {
  session$userData$ochre_maps[[sub("_[a-z]+$", "", name)]]$plan
}

told_thing <- function(value, session, name) {
  plan <- plan_told_of(session, name)
  layer <- if (length(value$layer)) plan$layers[[value$layer + 1]]
  if (is.null(layer)) return(NULL)
  item <- value$item + 1
  now <- in_panel(layer, value$panel + 1)
  at <- function(field) {
    of <- field[item]
    if (length(of) && !is.na(of)) of
  }
  list(
    layer = value$layer + 1L,
    name_of_layer = layer$name,
    row = as.integer(if (is.null(layer$row)) item else layer$row[item]),
    code = at(layer$codes),
    name = at(layer$names),
    value = value$value %||% at(now$numbers),
    text = value$text %||% at(now$values)
  )
}

# In degrees: of the corners and the middles of the sides, where they are on the globe.
told_seen <- function(value, session, name) {
  plan <- plan_told_of(session, name)
  if (is.null(plan)) return(NULL)
  box <- unlist(value$frame)
  # What is seen beyond the edges of the map is nowhere.
  frame <- plan$frame
  box <- c(
    max(box[1], frame[["x0"]]), max(box[2], frame[["y0"]]),
    min(box[3], frame[["x1"]]), min(box[4], frame[["y1"]])
  )
  grid <- box_grid(box)
  places <- Map(function(x, y) call_core(inverse_core(x, y, plan$projection)), grid$x, grid$y)
  lon <- vapply(places, function(p) p$lon, 0)
  lat <- vapply(places, function(p) p$lat, 0)
  seen <- is.finite(lon) & is.finite(lat)
  if (!any(seen)) return(list(zoom = value$zoom))
  list(
    west = min(lon[seen]), south = min(lat[seen]), east = max(lon[seen]), north = max(lat[seen]),
    zoom = value$zoom
  )
}

# Corners, sides and middle of a box.
box_grid <- function(box) {
  expand.grid(x = seq(box[1], box[3], length.out = 5), y = seq(box[2], box[4], length.out = 5))
}

told_period <- function(value, session, name) {
  plan_told_of(session, name)$panels[value + 1]
}

told_off <- function(value, session, name) {
  plan <- plan_told_of(session, name)
  unlist(lapply(value, function(off) {
    layer <- plan$layers[[off[[1]] + 1]]
    labels <- (layer$key %||% layer)$labels
    lapply(unlist(off[[2]]), function(k) {
      list(layer = off[[1]] + 1L, label = if (k == 0) layer$no_data$label else labels[k])
    })
  }), recursive = FALSE)
}
