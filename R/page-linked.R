# Two maps in one page that move together.

#' Two maps side by side that move together
#'
#' Before and after, or two variables of the same areas: one page with two maps. Who moves, zooms,
#' points at an area or goes to another period in one does so in both. On a phone they lie side by
#' side, and a swipe or a press on a name goes from one to the other.
#'
#' @param left,right Two sheets from [map_sheet()] or plans from [resolve_sheet()], in the same
#'   projection and language; their titles name them. Areas are the same where their codes are, or
#'   their names where they have no codes. A legend without a place stands below its map.
#' @param title What stands over both: one text.
#' @return A list of class `ochre_linked` for [publish()] with a path that ends in `.html` and for
#'   [as_page()].
#' @section Errors: `ochre_error_sheet` when the maps differ in projection, insets or language;
#'   those of [resolve_sheet()].
#' @examples
#' areas <- read_boundaries(ochre_demo("districts.geojson"))
#' young <- map_sheet("Under 15") |> shade_areas(areas, population_0_14)
#' old <- map_sheet("Over 64") |> shade_areas(areas, population_65_plus)
#' pair <- suppressWarnings(link_maps(young, old, title = "Who lives in Orvane"))
#' publish(pair, file.path(tempdir(), "pair.html"))
#' @export
link_maps <- function(left, right, title) {
  check_text(title, "title")
  plans <- lapply(list(left, right), function(sheet) below_by_default(resolve_sheet(sheet)))
  refuse_unlike(plans[[1]], plans[[2]], rlang::current_env())
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
  if (!identical(left$projection, right$projection)) {
    ochre_abort(
      "sheet",
      "The two maps differ in projection.",
      "Give both the same areas, or the same `projection` and `centre`.",
      call = call
    )
  }
  if (!identical(labels(left), labels(right))) {
    ochre_abort(
      "sheet",
      "The two maps differ in insets.",
      "Give both the same `inset`, or none.",
      call = call
    )
  }
  if (!identical(left$locale, right$locale)) {
    ochre_abort(
      "sheet",
      "The two maps differ in language.",
      "Give both the same `locale`.",
      call = call
    )
  }
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
  style <- unlist(Map(first_style, linked$plans, paste0("#", ids)))
  page_document(linked$title, linked$plans, body, style)
}

linked_ids <- c("ochre-left", "ochre-right")
