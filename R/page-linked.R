# Two maps in one page that move together.

#' Two maps side by side that move together
#'
#' Before and after, or two variables of the same areas: one page with two maps. Who moves, zooms,
#' points at an area or goes to another period in one does so in both. On a phone they lie side by
#' side, and a swipe or a press on a name goes from one to the other.
#'
#' @param left,right Two sheets from [map_sheet()] or plans from [resolve_sheet()], in the same
#'   projection and language; their titles name them. Areas are the same where their codes are, or
#'   their names where they have no codes. A legend without a place stands below its map. A warning
#'   `ochre_warning_linked` says where both use the same colours for different values.
#' @param title What stands over both: one text.
#' @return A list of class `ochre_linked` for [publish()] with a path that ends in `.html` and for
#'   [as_page()].
#' @section Errors: `ochre_error_sheet` when the maps differ in projection, insets or language;
#'   those of [resolve_sheet()].
#' @examples
#' areas <- read_boundaries(ochre_demo("districts.geojson"))
#' areas <- rate_per(areas, population_0_14, population, 100, name = "young")
#' areas <- rate_per(areas, population_65_plus, population, 100, name = "old")
#' young <- map_sheet("Under 15, percent") |> shade_areas(areas, young, ramp = "madder")
#' old <- map_sheet("Over 64, percent") |> shade_areas(areas, old, ramp = "verdigris")
#' pair <- link_maps(young, old, title = "Who lives in Orvane")
#' publish(pair, file.path(tempdir(), "pair.html"))
#' @export
link_maps <- function(left, right, title) {
  refuse_missing(missing(left), "left", rlang::current_env())
  refuse_missing(missing(right), "right", rlang::current_env())
  check_text(title, "title")
  plans <- lapply(list(left, right), function(sheet) below_by_default(resolve_sheet(sheet)))
  refuse_unlike(plans[[1]], plans[[2]], rlang::current_env())
  warn_same_colours(plans[[1]], plans[[2]])
  frames <- vapply(plans, function(p) p$frame[c("x0", "y0", "x1", "y1")], numeric(4))
  frame <- c(
    x0 = min(frames[1, ]), y0 = min(frames[2, ]), x1 = max(frames[3, ]), y1 = max(frames[4, ])
  )
  plans <- lapply(plans, function(p) {
    p$frame <- frame
    p
  })
  # One field seeks in both.
  plans[[2]]$page$search <- FALSE
  structure(list(title = title, plans = plans), class = "ochre_linked")
}

below_by_default <- function(plan) {
  plan$style$legend$place <- plan$style$legend$place %||% "below"
  plan
}

refuse_unlike <- function(left, right, call) {
  labels <- function(plan) lapply(plan$insets, `[[`, "label")
  unlike <- c(
    projection = !identical(left$projection, right$projection),
    insets = !identical(labels(left), labels(right)),
    language = !identical(left$locale, right$locale)
  )
  if (!any(unlike)) return(invisible())
  what <- names(which(unlike))[1]
  ochre_abort(
    "sheet", "The two maps differ in {what}.",
    switch(
      what, projection = "Give both the same areas, or the same `projection` and `centre`.",
      insets = "Give both the same `inset`, or none.", language = "Give both the same `locale`."
    )
  )
}

# One colour for two things misleads who looks from one map to the other.
warn_same_colours <- function(left, right) {
  shaded <- function(plan) {
    found <- Filter(function(l) layer_is(l, "shaded") && length(l$labels) > 1, plan$layers)
    if (length(found)) in_panel(found[[1]], length(found[[1]]$panels))
  }
  one <- shaded(left)
  other <- shaded(right)
  alike <- !is.null(one) && !is.null(other) && identical(one$colours, other$colours)
  if (!alike || identical(one$labels, other$labels)) return(invisible())
  ochre_warn(
    "linked", "The two maps have the same colours, and they stand for different values.",
    "Give both the same steps, as in steps_at(c(0, 10, 20, 30)), or one of them another ramp."
  )
}

linked_text <- function(linked) {
  ids <- linked_ids
  first <- Map(
    function(plan, id) page_first(plan, list(tag = "section", id = id, level = 2)),
    linked$plans,
    ids
  )
  title <- sprintf("<h1 class=\"ochre-linked-title\">%s</h1>", htmltools::htmlEscape(linked$title))
  body <- c(
    "<main class=\"ochre-linked ochre-whole\">", title,
    "<div class=\"ochre-linked-names\">",
    sprintf(
      "<button type=\"button\" disabled>%s</button>",
      htmltools::htmlEscape(vapply(linked$plans, function(p) p$title, ""))
    ),
    "</div>",
    "<div class=\"ochre-strip-of-maps\">", unlist(first), "</div></main>",
    unlist(Map(plan_script, linked$plans, ids))
  )
  # What stands around the maps has the colours of the first.
  style <- unlist(Map(first_style, linked$plans[c(1, 1, 2)], c(".ochre-linked", paste0("#", ids))))
  page_document(linked$title, linked$plans, body, style)
}

linked_ids <- c("ochre-left", "ochre-right")
