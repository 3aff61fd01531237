# How borders between areas look.

#' How borders between areas look
#'
#' For `shade_areas(borders = )` and `shade_pairs(borders = )`. Left alone, borders are as wide as
#' the areas allow: at most a tenth of the land is border, so that thousands of small areas keep
#' their colours, and borders come back where a reader zooms in.
#'
#' @param colour One colour, `#RRGGBB` or a name that R knows; `NULL` (default) for that of the
#'   ground.
#' @param width Width in CSS pixels (1/96 inch), from 0 (no borders) to 10: one number; always
#'   drawn so. `NULL` (default) for at most 0.75, less where areas are small.
#' @param between Column, bare or as text: between areas that differ in it, such as a county's
#'   state, thicker borders are drawn, whatever their size. `NULL` (default) for none.
#' @param ... Not used. `color` works wherever there is `colour`; other names are refused, with the
#'   name to use.
#' @return A list of class `ochre_border_style`.
#' @section Errors: `ochre_error_argument`.
#' @examples
#' border_style(width = 0)
#' border_style(between = region)
#' @export
border_style <- function(colour = NULL, width = NULL, between = NULL, ...) {
  if (...length()) return(call_by_own_names(match.call()))
  if (!is.null(colour)) colour <- check_colour(colour, "colour")
  check_number(width, "width", min = 0, max = 10, null = TRUE)
  between <- later_column(rlang::enquo(between), "between")
  structure(list(colour = colour, width = width, between = between), class = "ochre_border_style")
}

check_borders <- function(borders, data, call = rlang::caller_env()) {
  borders <- check_style(borders, "borders", border_style, call)
  if (!is.null(borders$between)) check_column(data, borders$between, "borders", call = call)
  borders
}

# Thicker borders between larger units are a layer of lines over the areas.
with_borders_between <- function(layers) {
  unlist(lapply(layers, function(layer) {
    between <- layer$borders$between
    if (is.null(between)) return(list(layer))
    lines <- inner_borders(layer$data, by = !!between)["geometry"]
    if (!nrow(lines)) return(list(layer))
    fields <- list(
      data = lines,
      colour = layer$borders$colour,
      width = 1,
      dash = FALSE,
      casing = FALSE,
      arrow = FALSE,
      legend = words_of(between),
      show = layer$show
    )
    list(layer, new_layer("lines", fields))
  }), recursive = FALSE)
}
