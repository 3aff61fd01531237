# The verb for symbols on places: sized by a value, or all alike.

#' Place symbols, sized by a value or all alike
#'
#' Symbols whose area is proportional to a value. The largest is as large as the symbols allow
#' to be told apart; small ones are drawn over large ones. Without `size` all are alike: dots or
#' pins that say where something is.
#'
#' @inheritParams shade_areas
#' @param data A tibble with a `geometry` column of points, or of areas, whose symbols stand at
#'   their label points (see [label_points()]); or a data frame with columns named `longitude` and
#'   `latitude` (or `lon`, `lat`), in degrees.
#' @param size The column that sets the size, bare or as text; numeric. Rows whose value is
#'   missing or zero get no symbol, and a warning `ochre_warning_symbols` says how many. Values
#'   below zero are sized by how far they are from it and get a colour of their own, unless
#'   `colour` names a column. `NULL` (default) makes all alike.
#' @param second Another column, bare or as text; numeric, not negative. Each circle is then
#'   split: its left half is sized by `size`, its right half by `second`. `NULL` (default) for
#'   whole symbols.
#' @param colour Colour of the symbols: a column, bare or as text, whose values colour them (texts
#'   as categories, numbers in steps); or one colour that R knows; `NULL` (default) for Ochre's
#'   own.
#' @param shape `"circle"` (default), `"square"`, `"triangle"`, `"pin"`, whose tip is on its place,
#'   or `"bar"`, which stands on its place and is all of one width.
#' @param scale `"area"` (default): the area of a symbol is in proportion to the value.
#'   `"perceptual"`: large ones a little larger, because readers see them as too small (Flannery).
#'   `"radius"`: the radius in proportion, which exaggerates, so a warning `ochre_warning_radius`
#'   says so. Of bars the height is in proportion.
#' @param size_steps How to form classes of size, such as `steps_natural(4)`: all symbols of a
#'   class are as large as its mean asks for. `NULL` (default) sizes each by its own value.
#' @param sizes Diameters in CSS pixels of the smallest and the largest symbol on a map of about
#'   720 by 720 pixels, with which they grow and shrink: two numbers, the first may be 0; without
#'   `size` one number. `NULL` (default) begins at zero and ends where symbols can be told apart.
#' @param span Values that the sizes span: two rising numbers. Values below the first are drawn as
#'   the smallest, values above the second as the largest, and the legend says so. `NULL` (default)
#'   spans from zero to the greatest value. Where the smallest size or value is above zero, sizes
#'   are no longer in proportion, so a warning `ochre_warning_sizes` says so.
#' @param overlap What becomes of symbols that overlap: `"order"` (default) draws small ones over
#'   large ones, `"transparent"` lets the lower ones shine through, `"move"` moves them gently
#'   apart, and a line leads from each that was moved to its place.
#' @param group `TRUE` draws symbols that lie near each other as one counted circle in a page,
#'   which opens as the reader comes nearer. A figure draws all of them.
#' @param grow How symbols grow as the reader zooms in: [by_zoom()] of factors that begin with 1
#'   at the whole map; the legend grows with them. `NULL` (default) keeps their size.
#' @param steps,ramp For a colour column: how to form classes (default five quantiles, or
#'   categories) and the colours, as in [shade_areas()].
#' @param colour_legend Title of the colours' legend: one text; by default the column's name in
#'   words.
#' @param ... Not used. `color` works wherever there is `colour`; other names are refused, with the
#'   name to use.
#' @return The sheet with one more layer. Symbols outside the map are left out when it is
#'   resolved, and a warning `ochre_warning_off_map` names them.
#' @inheritSection shade_areas Templates
#' @source Flannery, J.J. (1971) The relative effectiveness of some common graduated point symbols
#'   in the presentation of quantitative data, Cartographica 8, 96-109.
#' @section Errors: `ochre_error_column` when a column is not there, not numeric, or negative
#' where it cannot be shown
#'   (field `rows`); `ochre_error_template`; `ochre_error_argument`.
#' @concept proportional symbol
#' @concept graduated symbol
#' @concept bubble map
#' @export
place_symbols <- function(sheet, data, size = NULL, colour = NULL, legend = NULL, hover = NULL,
                          popup = NULL, format = NULL, scale = "area", steps = NULL, ramp = NULL,
                          colour_legend = NULL, shape = "circle", second = NULL,
                          size_steps = NULL, overlap = "order", by = NULL, field_formats = NULL,
                          group = FALSE, grow = NULL, sizes = NULL, span = NULL, ...) {
  if (...length()) return(call_by_own_names(match.call()))
  check_sheet(sheet)
  check_table(data, "data")
  size <- column_name(rlang::enquo(size), data, "size", null = TRUE)
  if (!is.null(size)) check_numeric(data, size, "size")
  second <- column_name(rlang::enquo(second), data, "second", null = TRUE)
  by <- panel_column(rlang::enquo(by), data)
  for (text in c("legend", "colour_legend")) check_text(get(text), text, null = TRUE)
  check_choice(scale, names(symbol_scales), "scale")
  check_choice(shape, names(symbol_outlines), "shape")
  check_flag(group, "group")
  grow <- check_grow(grow)
  check_choice(overlap, c("order", "transparent", "move"), "overlap")
  if (scale == "radius" && shape != "bar") warn_radius(size)
  if (!is.null(size_steps)) size_steps <- as_steps(size_steps, "size_steps")
  sizes <- check_sizes(sizes, plain = is.null(size))
  span <- check_span(span)
  bar <- if (shape == "bar") shape
  check_sized(size, list(second = second, size_steps = size_steps, span = span, bar = bar))
  check_one_scale(size_steps, sizes, span)
  colours <- colour_column(rlang::enquo(colour), data)
  if (!is.null(second)) check_split(data, size, second, shape, size_steps, colours)
  check_size_counts(data, size, c(colours$column, second, size_steps$method))
  steps <- colour_steps(colours$column, data, steps)
  if (!is.null(colours$column)) colour_legend <- colour_legend %||% words_of(colours$column)
  sized <- list(
    size = size, second = second, scale = scale, shape = shape, size_steps = size_steps,
    overlap = overlap, group = group, zoomed = if (!is.null(grow)) list(size = grow),
    sizes = sizes, span = span
  )
  coloured <- list(
    colour = colours$colour, colour_by = colours$column, steps = steps,
    ramp = check_ramp_wish(ramp), colour_legend = colour_legend
  )
  said <- list(
    legend = legend %||% symbol_title(c(size, second), colour_legend),
    hover = check_template(hover, data, "hover"),
    popup = popup_fields(rlang::enquo(popup), data),
    format = check_format(format),
    field_formats = check_field_formats(field_formats, data)
  )
  with_layer(sheet, "symbols", c(
    list(data = data, at = point_columns(data), by = by), sized, coloured, said
  ))
}

# With colours, halves or classes of size values below zero have no form.
check_size_counts <- function(data, size, other, call = rlang::caller_env()) {
  if (!is.null(size) && length(other)) check_counts(data, size, "size", call = call)
}

# Without a size the colours' title stands for the layer.
symbol_title <- function(sizes, colour_legend) {
  if (length(sizes)) paste(words_of(sizes), collapse = ", ") else colour_legend
}

check_sizes <- function(sizes, plain, call = rlang::caller_env()) {
  if (is.null(sizes)) return(NULL)
  sizes <- unlist(sizes)
  wanted <- if (plain) 1 else 2
  good <- is.numeric(sizes) && length(sizes) == wanted && all(is.finite(sizes))
  if (!good || any(sizes < 0) || sizes[wanted] < 1 || any(sizes > 400) || is.unsorted(sizes)) {
    words <- if (plain) {
      "one diameter in pixels from 1 to 400, because all symbols are alike"
    } else {
      "the diameters of the smallest and the largest symbol in pixels, up to 400"
    }
    ochre_abort("argument", "`sizes` must be {words}, not {describe(sizes)}.",
                if (plain) "For example sizes = 8." else "For example sizes = c(4, 60).",
                arg = "sizes")
  }
  sizes
}

check_span <- function(span, call = rlang::caller_env()) {
  if (is.null(span)) return(NULL)
  span <- unlist(span)
  if (is.numeric(span) && length(span) == 2 && all(is.finite(span)) && span[1] >= 0 &&
      span[2] > span[1]) {
    return(span)
  }
  ochre_abort("argument",
              "`span` must be two rising numbers, not below zero, not {describe(span)}.",
              "For example span = c(0, 1000).", arg = "span")
}

# What only symbols with a size have.
check_sized <- function(size, given, call = rlang::caller_env()) {
  given <- names(Filter(Negate(is.null), given))
  if (!is.null(size) || !length(given)) return(invisible())
  arg <- sub("^bar$", "shape", given[1])
  ochre_abort("argument",
              sprintf("`%s` needs a `size`.", if (given[1] == "bar") "shape = \"bar\"" else arg),
              "Name the column that sizes the symbols.", arg = arg)
}

check_one_scale <- function(size_steps, sizes, span, call = rlang::caller_env()) {
  if (is.null(size_steps) || (is.null(sizes) && is.null(span))) return(invisible())
  ochre_abort("argument",
              "`size_steps` has sizes of its own, which `sizes` and `span` cannot change.",
              "Leave out one of them.", arg = if (is.null(span)) "sizes" else "span")
}

# How symbols grow as the reader comes nearer: from the size that they have on the whole map.
check_grow <- function(grow, call = rlang::caller_env()) {
  if (is.null(grow)) return(NULL)
  grow <- check_by_zoom(grow, "grow", 0.1, 20, call = call)
  if (grow$zooms[1] == 1 && grow$values[1] == 1) return(grow)
  ochre_abort("argument", "`grow` must begin with 1 at zoom 1.",
              "For example by_zoom(c(1, 8), c(1, 3)).", arg = "grow")
}

warn_radius <- function(size) {
  ochre_warn("radius", "With a radius in proportion, twice `{size}` looks four times as large.",
             "scale = \"area\" shows amounts as they are.")
}

check_split <- function(data, size, second, shape, size_steps, colours,
                        call = rlang::caller_env()) {
  check_counts(data, second, "second", call = call)
  if (shape != "circle") {
    ochre_abort("argument", "Only circles can be split, not the shape `{shape}`.",
                "Leave out `shape` or `second`.", arg = "shape")
  }
  if (!is.null(size_steps) || !is.null(colours$column)) {
    ochre_abort("argument", "The halves of split circles have colours and sizes of their own.",
                "Leave out `size_steps` and a column for `colour`, or `second`.", arg = "second")
  }
}

# How the radius grows with the value. Flannery, J.J. (1971) The relative effectiveness of some
# common graduated point symbols in the presentation of quantitative data, Cartographica 8,
# 96-109: readers see large circles as too small.
symbol_scales <- c(area = 0.5, perceptual = 0.5716, radius = 1)

# Outlines of the shapes in units of a radius: all have the area of the circle with that radius.
symbol_outlines <- list(
  circle = NULL,
  square = list(x = c(-1, 1, 1, -1) * sqrt(pi) / 2, y = c(-1, -1, 1, 1) * sqrt(pi) / 2),
  triangle = {
    side <- sqrt(4 * pi / sqrt(3))
    list(x = c(-0.5, 0.5, 0) * side, y = c(-1, -1, 2) * side * sqrt(3) / 6)
  },
  pin = {
    # A round head, whose tangents meet on the place.
    high <- 2.2
    side <- acos(1 / high)
    turn <- seq(-pi / 2 + side, 3 * pi / 2 - side, length.out = 41)
    x <- c(0, cos(turn))
    y <- c(0, high + sin(turn))
    area <- abs(sum(x * c(y[-1], y[1]) - c(x[-1], x[1]) * y)) / 2
    list(x = x * sqrt(pi / area), y = y * sqrt(pi / area))
  },
  bar = NULL
)
