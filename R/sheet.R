# The sheet: the whole map as a small declarative value. Making one reads nothing, projects
# nothing and draws nothing; it keeps what was asked for. Layers are added by the verbs in
# the other sheet- files, and plan-resolve.R turns the whole into a plan.

#' Start a map
#'
#' @param title What the map shows: one text.
#' @param subtitle,source,note More words around the map, each one text or `NULL` (default).
#'   The source is shown with "Source:" before it.
#' @param source_link Address to which the source leads in a page: one text, `http` or `https`;
#'   `NULL` (default) for none.
#' @param projection How the globe is laid flat: one of `"fitted"` (default: picked from the
#'   extent of the areas and lines, and said by the plan), `"azimuthal equal-area"`,
#'   `"equal-area conic"`, `"world equal-area"`, `"transverse Mercator"`, `"web Mercator"`,
#'   `"equirectangular"`; its centre and parallels are fitted to the data. Shaded areas are honest
#'   in an equal-area projection only; a warning `ochre_warning_projection` says so where another
#'   would mislead.
#' @param inset Distant parts to draw in insets: a list of boxes
#'   `c(west, south, east, north)` in degrees, whose names are the labels; what lies whole in a
#'   box moves there. `TRUE` finds them, `FALSE` has none. `NULL` (default) finds them where the
#'   land would fill little of the map with them and much more without, and a message says so. A
#'   label says when an inset has another scale than the map.
#' @param centre Longitude of the map's middle, in degrees: one number. `NULL` (default) is the
#'   middle of the data; of a map of the whole world the meridian that is nearest to 0 and whose
#'   opposite cuts the least land.
#' @param leave_out What is not drawn: `"specks"`, far-off parts with less than 0.2 % of the land,
#'   `"poles"`, land beyond 60 degrees south or 84 degrees north; a message counts them. `NULL`
#'   (default) draws all.
#' @param graticule Degrees between lines of longitude and latitude: one number; `NULL` (default)
#'   draws none.
#' @param outline `TRUE` draws the outline of the globe round a map of the whole world.
#' @param locale Language of the map's own words and number marks: `"en"` (default), `"de"`,
#'   `"fr"`, `"es"`, `"pl"`, or what [map_locale()] gives.
#' @param alt What the map shows, for those who do not see it: one text; `NULL` (default) lets the
#'   map say its title, ranges and missing values itself.
#' @param ground `"light"` (default), `"dark"`, or in a page `"follow"`, which takes what each
#'   reader has set (a figure is light then): what the map is drawn on. Ramps, lines and words
#'   change with it.
#' @param legend How the legend looks, from [legend_style()]; `NULL` (default) as it comes.
#' @param figure How a figure looks, from [figure_style()]; `NULL` (default) as it comes.
#' @param page What a reader can do with a page, from [page_style()]; `NULL` (default) as it comes.
#' @return A list of class `ochre_sheet`, to be given to [shade_areas()], [place_symbols()],
#'   [draw_lines()], [write_labels()], [shade_density()] and [shade_heat()], perhaps to
#'   [lay_tiles()], and then to [publish()], [as_figure()] or [as_page()].
#' @section Errors: `ochre_error_argument`.
#' @examples
#' map_sheet("Hay-fever visits per 1,000 residents", source = "Orvane Health Office")
#' @concept projection
#' @concept inset
#' @concept alt text
#' @concept text alternative
#' @concept title
#' @export
map_sheet <- function(title, subtitle = NULL, source = NULL, note = NULL, projection = "fitted",
                      inset = NULL, locale = "en", alt = NULL, ground = "light", legend = NULL,
                      figure = NULL, page = NULL, centre = NULL, leave_out = NULL,
                      graticule = NULL, outline = FALSE, source_link = NULL) {
  check_text(title, "title")
  check_text(subtitle, "subtitle", null = TRUE)
  check_text(source, "source", null = TRUE)
  check_text(note, "note", null = TRUE)
  check_text(alt, "alt", null = TRUE)
  check_choice(projection, projection_names, "projection")
  check_choice(ground, c("light", "dark", "follow"), "ground")
  check_number(centre, "centre", min = -180, max = 180, null = TRUE)
  check_number(graticule, "graticule", min = 0.1, max = 90, null = TRUE)
  check_flag(outline, "outline")
  leave_out <- check_texts(leave_out, "leave_out")
  for (word in leave_out) check_choice(word, c("specks", "poles"), "leave_out")
  structure(
    list(
      title = title,
      subtitle = subtitle,
      source = source,
      source_link = check_source_link(source, source_link),
      note = note,
      projection = projection,
      inset = check_insets(inset),
      centre = centre,
      leave_out = leave_out,
      graticule = graticule,
      outline = outline,
      locale = check_locale(locale),
      alt = alt,
      ground = ground,
      legend = check_style(legend, "legend", legend_style),
      figure = check_style(figure, "figure", figure_style),
      page = check_style(page, "page", page_style),
      backdrops = list(),
      overlays = list(),
      layers = list()
    ),
    class = "ochre_sheet"
  )
}

check_source_link <- function(source, link, call = rlang::caller_env()) {
  if (is.null(link)) return(NULL)
  check_text(link, "source_link", call = call)
  if (is.null(source)) {
    ochre_abort("argument", "`source_link` needs a `source`, whose words lead there.",
                arg = "source_link")
  }
  check_tile_address(link, "source_link", character(), call)
}

projection_names <- c(
  "fitted", "azimuthal equal-area", "equal-area conic", "world equal-area",
  "transverse Mercator", "web Mercator", "equirectangular"
)

check_sheet <- function(sheet, call = rlang::caller_env()) {
  refuse_missing(missing(sheet), "sheet", call)
  if (!inherits(sheet, "ochre_sheet")) {
    ochre_abort("argument", "`sheet` must come from map_sheet(), not be {describe(sheet)}.",
                "Start with map_sheet(\"A title\").", arg = "sheet")
  }
  invisible(sheet)
}

#' @export
format.ochre_sheet <- function(x, ...) {
  layers <- vapply(x$layers, layer_words, "")
  backdrops <- vapply(x$backdrops, function(b) {
    paste(c(sprintf("  backdrop: %s", b$name), b$attribution), collapse = ", ")
  }, "")
  c(
    paste0("Sheet: ", x$title),
    if (length(layers)) paste0("  ", seq_along(layers), ". ", layers) else "  no layers yet",
    backdrops
  )
}

# A layer of a sheet in a line.
layer_words <- function(layer) {
  more <- for_kind("words", layer$kind)(layer)
  paste0(layer$kind, ": ", count_words(nrow(layer$data), "row"), more)
}

words_symbols <- function(layer) {
  if (is.null(layer$size)) ", all alike" else sprintf(", sized by `%s`", layer$size)
}
words_lines <- words_labels <- function(layer) NULL
words_density <- function(layer) sprintf(", kernel %s m", format_number(layer$kernel, 0))
words_heat <- function(layer) sprintf(", radius %s px", format_number(layer$radius, 0))
words_areas <- function(layer) {
  if (is.null(layer$value)) return(" of one colour")
  if (!is.null(layer$second)) {
    return(sprintf(" of `%s` and `%s`, ramp %s", layer$value, layer$second, layer$ramp))
  }
  n <- layer$steps$n
  classes <- if (is.na(n)) "classes" else count_words(n, "class", "classes")
  ramp <- if (length(layer$ramp) > 1) "of own colours" else layer$ramp %||% "by default"
  sprintf(" of `%s`, %s %s, ramp %s", layer$value, layer$steps$method, classes, ramp)
}
