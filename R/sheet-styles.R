# Wishes for the legend and the figure that a sheet carries, so that a daily build looks the same
# each day.

#' How the legend of a map looks
#'
#' For `map_sheet(legend = )`.
#'
#' @param place Where it stands: `"beside"` or `"below"` the map, `"inside"` in a corner of the
#'   map where it covers no data (beside it when there is none, which for a figure a message says),
#'   or `"none"`. `NULL` (default) is beside the map, and below it in a figure
#'   narrower than 110 mm. On a narrow screen a page always has it below.
#' @param counts `TRUE` (default) shows how many areas or places each class has.
#' @param histogram `TRUE` draws a histogram of the values in the colours of their classes above
#'   them.
#' @return A list of class `ochre_legend_style`.
#' @section Errors: `ochre_error_argument`.
#' @examples
#' legend_style("below", counts = FALSE)
#' @concept legend
#' @export
legend_style <- function(place = NULL, counts = TRUE, histogram = FALSE) {
  if (!is.null(place)) check_choice(place, c("beside", "below", "inside", "none"), "place")
  check_flag(counts, "counts")
  check_flag(histogram, "histogram")
  structure(
    list(place = place, counts = counts, histogram = histogram),
    class = "ochre_legend_style"
  )
}

#' How a figure looks
#'
#' For `map_sheet(figure = )`, followed by [as_figure()] and by [publish()] for `.png`, `.svg` and
#' `.pdf`.
#'
#' @param size `"screen"` (default, 8 inches wide), `"column"` (one column of a page, 85 mm),
#'   `"wide"` (both columns, 175 mm), `"full page"` (175 by 240 mm), or width, or width and
#'   height, in millimetres: one or two numbers. Without a height the map's shape gives it. Words
#'   keep their size in points whatever the size.
#' @param text Size of the running text in points: one number; `NULL` (default) 7 in a column, 8
#'   on a page, else 10.
#' @param scale_bar `TRUE` draws a scale bar, right at the map's middle.
#' @param north `TRUE` draws a mark that points north where it stands.
#' @param bars How many areas with the highest values are shown as a ranked bar chart beside the
#'   map: one whole number; 0 (default) for none.
#' @param columns Small maps in a row: one whole number; `NULL` (default) for as many as fit well.
#' @param transparent `TRUE` leaves out the page's colour behind the map.
#' @return A list of class `ochre_figure_style`.
#' @section Errors: `ochre_error_argument`.
#' @examples
#' figure_style("column", scale_bar = TRUE)
#' figure_style(c(120, 90), bars = 8)
#' @export
figure_style <- function(size = "screen", text = NULL, scale_bar = FALSE, north = FALSE,
                         bars = 0, columns = NULL, transparent = FALSE) {
  size <- unlist(size)
  if (is.character(size)) {
    check_choice(size, names(figure_sizes), "size")
  } else if (!is.numeric(size) ||
      !length(size) %in% 1:2 ||
      anyNA(size) ||
      any(size < 40 | size > 2500)) {
    ochre_abort(
      "argument",
      paste0("`size` must be {list_words(names(figure_sizes))}, or one or two numbers of ",
             "millimetres from 40 to 2500, not {describe(size)}."), arg = "size"
    )
  }
  check_number(text, "text", min = 4, max = 40, null = TRUE)
  for (flag in c("scale_bar", "north", "transparent")) check_flag(get(flag), flag)
  check_number(bars, "bars", min = 0, max = 40, whole = TRUE)
  check_number(columns, "columns", min = 1, max = 20, whole = TRUE, null = TRUE)
  known <- if (is.character(size)) {
    figure_sizes[[size]]
  } else {
    list(
      mm = size,
      text = if (size[1] < 110) {
        7
      } else if (size[1] < 200) {
        8
      } else {
        10
      }
    )
  }
  structure(
    list(
      mm = known$mm, text = text %||% known$text, scale_bar = scale_bar, north = north,
      bars = bars, columns = columns, transparent = transparent
    ),
    class = "ochre_figure_style"
  )
}

figure_sizes <- list(
  screen = list(mm = 203.2, text = 10),
  column = list(mm = 85, text = 7),
  wide = list(mm = 175, text = 8),
  `full page` = list(mm = c(175, 240), text = 8)
)

# A style as such, or the same words as a list from a sheet file.
check_style <- function(style, arg, make, call = rlang::caller_env()) {
  if (inherits(style, class(make())[1])) return(style)
  if (is.null(style)) return(make())
  if (is.list(style) && !is.object(style)) return(make_with(make, style, arg, call))
  ochre_abort("argument", "`{arg}` must come from {sub('s$', '', arg)}_style().")
}
