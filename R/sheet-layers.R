# The layer verbs. Each checks its columns at once, so that a wrong name is refused on the line
# where it stands, and adds one entry to the sheet.

#' Shade areas by a value in steps
#'
#' @param sheet A sheet from [map_sheet()].
#' @param data A tibble with a `geometry` column of areas, such as [join_statistics()] gives.
#' @param value The column to shade by, bare or as text; numeric, or with [steps_categories()] texts. Missing and infinite values
#'   are drawn as "no data".
#' @param steps How to form classes: see [steps_quantile()]. Default five quantiles.
#' @param ramp The colours: one of [ramp_names()], or colours of your own (`#RRGGBB` or names that R knows), one a class; two or three are taken as the ends
#'   (and middle) of a ramp. Own colours are checked, and a warning `ochre_warning_ramp` says what fails (see [check_ramp()]). `NULL`
#'   (default) takes `madder`, around a midpoint `woad_madder`, for categories `meadow`.
#' @param reverse `TRUE` turns the ramp round.
#' @param legend Title of the legend: one text; by default the column's name in words.
#' @param hover Label beside the pointer: a template such as `"{name}: {rate|1}"`; see Templates.
#'   By default the area's name and value.
#' @param hatch Column that says which areas are uncertain or hidden, bare or as text: `TRUE`, or any text such as the reason that [hide_small()] leaves.
#'   Those areas carry a hatch instead of a colour, and a legend entry of their own. `NULL` (default) for none.
#' @param hatch_label What the hatch means: one text.
#' @param format How the numbers are written, from [number_format()]: unit, decimals, percentages; in legend, hover label and popup alike. `NULL` (default) for plain numbers.
#' @param popup Fields shown on a click: `c("Label" = column, "Label" = "{template}")`; see
#'   Templates. A column without a label keeps its own name. `NULL` (default) for none.
#' @return The sheet with one more layer.
#' @section Templates:
#' Text in which `{column}` stands for the value of that column in the same row.
#' `{column|1}` rounds to one decimal, `{column|+1}` also shows a plus, `{column|1%}` multiplies
#' by 100 and adds a percent sign. `{{` and `}}` stand for braces. Without a format whole numbers
#' have no decimals, the layer's own value has those of the legend, other numbers have as many
#' as they need up to two. At a missing value the text reads "no data" and ends; a popup leaves
#' out a field of which nothing is known.
#' @section Errors: `ochre_error_column` when a column is not there or not numeric;
#'   `ochre_error_template` for a broken template; `ochre_error_argument`.
#' @examples
#' areas <- read_boundaries(ochre_demo("districts.geojson"))
#' map_sheet("People over 64") |>
#'   shade_areas(rate_per(areas, population_65_plus, population, 100, name = "share"),
#'               value = share, hover = "{name}: {share|1} %")
#' @export
shade_areas <- function(sheet, data, value, steps = steps_quantile(5), ramp = NULL, reverse = FALSE,
                        legend = NULL, hover = NULL, popup = NULL, hatch = NULL, hatch_label = "Uncertain or hidden", format = NULL) {
  check_sheet(sheet)
  check_table(data, "data")
  geometry_of(data, "data")
  check_one_period(data)
  hatch <- column_name(rlang::enquo(hatch), data, "hatch", null = TRUE)
  check_text(hatch_label, "hatch_label")
  if (!is.null(hatch) && is.numeric(data[[hatch]])) ochre_abort("column", sprintf("`hatch` names the column `%s`, which is numeric.", hatch), "Name one of TRUE and FALSE, or of reasons, such as flag_unsteady() makes.", arg = "hatch", column = hatch)
  value <- column_name(rlang::enquo(value), data, "value")
  check_steps(steps, "steps")
  if (steps$method != "categories") check_numeric(data, value, "value")
  if (!is.null(steps$weight)) check_counts(data, check_column(data, steps$weight, "steps"), "steps")
  ramp <- check_ramp_wish(ramp)
  check_flag(reverse, "reverse")
  check_text(legend, "legend", null = TRUE)
  with_layer(sheet, list(
    kind = "areas", data = data, value = value, steps = steps, ramp = ramp, reverse = reverse,
    legend = legend %||% words_of(value), hover = check_template(hover, data, "hover"),
    popup = popup_fields(rlang::enquo(popup), data), hatch = hatch, hatch_label = hatch_label, format = check_format(format)
  ))
}

#' Shade areas by two values at once
#'
#' Each area gets the colour of its class in both variables, from a square of colours. The legend is that square, with the breaks along
#' its sides and the number of areas in each field. Two or three classes of each variable; a reader cannot hold more.
#'
#' @inheritParams shade_areas
#' @param first,second The two columns, bare or as text; numeric. The first rises upward in the legend, the second to the right. An area with one of
#'   them missing is drawn as "no data".
#' @param steps How to form classes of `first`: see [steps_quantile()]; 2 or 3 classes. Default three quantiles.
#' @param second_steps The same for `second`; `NULL` (default) as `steps`.
#' @param ramp One of `ramp_names("square")`.
#' @param legend Titles of the two sides: two texts; `NULL` (default) for the columns' names in words.
#' @return The sheet with one more layer.
#' @inheritSection shade_areas Templates
#' @section Errors: `ochre_error_column`; `ochre_error_template`; `ochre_error_argument`, also when resolved and the variables do not have 2 or 3 classes alike.
#' @examples
#' areas <- read_boundaries(ochre_demo("districts.geojson"))
#' areas <- density_per_km2(rate_per(areas, population_65_plus, population, 100, name = "old"), population)
#' map_sheet("Old and dense") |> shade_pairs(areas, old, population_per_km2)
#' @export
shade_pairs <- function(sheet, data, first, second, steps = steps_quantile(3), second_steps = NULL, ramp = "woad_and_madder",
                        legend = NULL, hover = NULL, popup = NULL) {
  check_sheet(sheet)
  check_table(data, "data")
  geometry_of(data, "data")
  check_one_period(data)
  first <- column_name(rlang::enquo(first), data, "first")
  second <- column_name(rlang::enquo(second), data, "second")
  check_numeric(data, first, "first")
  check_numeric(data, second, "second")
  check_steps(steps, "steps")
  second_steps <- second_steps %||% steps
  check_steps(second_steps, "second_steps")
  check_choice(ramp, ramp_names("square"), "ramp")
  legend <- unlist(legend) %||% words_of(c(first, second))
  if (!is.character(legend) || length(legend) != 2 || anyNA(legend)) ochre_abort("argument", "`legend` must be two texts, one for each variable.", arg = "legend")
  with_layer(sheet, list(
    kind = "areas", data = data, value = first, second = second, steps = steps, second_steps = second_steps, ramp = ramp,
    legend = legend, hover = check_template(hover, data, "hover"), popup = popup_fields(rlang::enquo(popup), data)
  ))
}

#' Place symbols sized by a value
#'
#' Circles whose area is proportional to the value. The largest is as large as the symbols allow
#' to be told apart; small ones are drawn over large ones.
#'
#' @inheritParams shade_areas
#' @param data A tibble with a `geometry` column of points, or of areas, whose symbols stand at their
#'   label points (see [label_points()]); or a data frame with columns named
#'   `longitude` and `latitude` (or `lon`, `lat`), in degrees.
#' @param size The column that sets the size, bare or as text; numeric, not negative. Rows whose
#'   value is missing or zero get no symbol, and a warning `ochre_warning_symbols` says how many.
#' @param colour Colour of the symbols: a column, bare or as text, whose values colour them (texts as categories, numbers in steps); or one
#'   colour that R knows; `NULL` (default) for Ochre's own.
#' @param scale `"area"` (default): the area of a circle is in proportion to the value. `"perceptual"`: large ones a little larger, because readers see them
#'   as too small (Flannery). `"radius"`: the radius in proportion, which exaggerates, so a warning `ochre_warning_radius` says so.
#' @param steps,ramp For a colour column: how to form classes (default five quantiles, or categories) and the colours, as in [shade_areas()].
#' @param colour_legend Title of the colours' legend: one text; by default the column's name in words.
#' @return The sheet with one more layer. Symbols that lie off the map are left out when it is
#'   resolved, and a warning `ochre_warning_off_map` names them.
#' @inheritSection shade_areas Templates
#' @source Flannery, J.J. (1971) The relative effectiveness of some common graduated point symbols in the presentation of quantitative
#'   data, Cartographica 8, 96-109.
#' @section Errors: `ochre_error_column` when a column is not there, not numeric, or has negative
#'   values (field `rows`); `ochre_error_template`; `ochre_error_argument`.
#' @export
place_symbols <- function(sheet, data, size, colour = NULL, legend = NULL, hover = NULL, popup = NULL, format = NULL, scale = "area", steps = NULL, ramp = NULL, colour_legend = NULL) {
  check_sheet(sheet)
  check_table(data, "data")
  check_one_period(data)
  size <- column_name(rlang::enquo(size), data, "size")
  values <- check_numeric(data, size, "size")
  if (any(values < 0, na.rm = TRUE)) {
    ochre_abort("column", sprintf("`size` names the column `%s`, which is negative in %s.", size, count_words(sum(values < 0, na.rm = TRUE), "row")),
                "The area of a circle cannot show a value below zero; shade areas instead.", rows = which(values < 0))
  }
  check_text(legend, "legend", null = TRUE)
  check_text(colour_legend, "colour_legend", null = TRUE)
  check_choice(scale, c("area", "perceptual", "radius"), "scale")
  if (scale == "radius") ochre_warn("radius", sprintf("With a radius in proportion, twice `%s` looks four times as large.", size), "scale = \"area\" shows amounts as they are.")
  by <- colour_column(rlang::enquo(colour), data)
  if (!is.null(by$column)) {
    steps <- steps %||% if (is.numeric(data[[by$column]])) steps_quantile(5) else steps_categories()
    check_steps(steps, "steps")
    if (steps$method != "categories") check_numeric(data, by$column, "colour")
  }
  with_layer(sheet, list(
    kind = "symbols", data = data, size = size, at = point_columns(data), colour = by$colour, by = by$column, steps = steps, ramp = check_ramp_wish(ramp), scale = scale,
    colour_legend = colour_legend %||% if (!is.null(by$column)) words_of(by$column),
    legend = legend %||% words_of(size), hover = check_template(hover, data, "hover"), popup = popup_fields(rlang::enquo(popup), data), format = check_format(format)
  ))
}

# `colour` names a column of the data, or is a colour.
colour_column <- function(quo, data, call = rlang::caller_env()) {
  if (rlang::quo_is_null(quo)) return(list())
  expr <- rlang::quo_get_expr(quo)
  name <- if (is.symbol(expr) && as.character(expr) %in% names(data)) as.character(expr) else {
    value <- tryCatch(rlang::eval_tidy(quo), error = function(e) if (is.symbol(expr)) check_column(data, as.character(expr), "colour", call = call) else rlang::cnd_signal(e))
    check_text(value, "colour", null = TRUE, call = call)
    if (!isTRUE(value %in% names(data))) return(list(colour = check_colour(value, "colour", call)))
    value
  }
  list(column = name)
}

#' Draw lines
#'
#' @inheritParams shade_areas
#' @param data A tibble with a `geometry` column of lines (the outlines of areas are drawn too).
#' @param colour One colour that R knows; `NULL` (default) for Ochre's own.
#' @param width Width in points (1/72 inch) in a figure and CSS pixels in a page: one number.
#' @param dash `TRUE` for dashes.
#' @param legend What the lines are: one text; `NULL` (default) leaves them out of the legend.
#' @param hover Label beside the pointer, as in [shade_areas()]; `NULL` (default) for none.
#' @return The sheet with one more layer.
#' @inheritSection shade_areas Templates
#' @section Errors: `ochre_error_argument`; `ochre_error_template`.
#' @export
draw_lines <- function(sheet, data, colour = NULL, width = 1, dash = FALSE, legend = NULL, hover = NULL) {
  check_sheet(sheet)
  check_table(data, "data")
  geometry_of(data, "data")
  check_number(width, "width", min = 0.1, max = 20)
  check_flag(dash, "dash")
  check_text(legend, "legend", null = TRUE)
  with_layer(sheet, list(kind = "lines", data = data, colour = check_colour(colour, "colour"), width = width, dash = dash,
                        legend = legend, hover = check_template(hover, data, "hover")))
}

check_ramp_wish <- function(ramp, call = rlang::caller_env()) {
  if (is.null(ramp)) return(NULL)
  ramp <- as.character(unlist(ramp))
  if (length(ramp) > 1) return(check_colours(ramp, "ramp", call))
  check_choice(ramp, ramp_names(), "ramp", call)
  ramp
}

# A table joined by periods has each area several times; drawn over each other only the last would be seen.
check_one_period <- function(data, call = rlang::caller_env()) {
  period <- attr(data, "ochre_period")
  if (is.null(period) || is.null(data[[period]])) return(invisible())
  known <- unique(data[[period]])
  if (length(known) < 2) return(invisible())
  ochre_abort("argument", sprintf("`data` has each area %d times, once for each `%s`; a layer shows one.", length(known), period),
              sprintf("Keep one, for example keep_where(%s, \"%s\").", period, format(known[length(known)])), arg = "data", call = call)
}

check_colour <- function(colour, arg, call = rlang::caller_env()) {
  if (is.null(colour)) return(NULL)
  check_text(colour, arg, call = call)
  tryCatch(farver::encode_colour(farver::decode_colour(colour)), error = function(e) {
    ochre_abort("argument", sprintf("`%s` is `%s`, which is no colour.", arg, colour), "Write it as #RRGGBB or a name from colours().", arg = arg, call = call)
  })
}

point_columns <- function(data, call = rlang::caller_env()) {
  if ("geometry" %in% names(data)) return(NULL)
  find <- function(known) which(tolower(names(data)) %in% known)
  lon <- find(c("longitude", "lon", "long"))
  lat <- find(c("latitude", "lat"))
  if (length(lon) != 1 || length(lat) != 1) {
    ochre_abort("column", "The data have no geometry, and no columns `longitude` and `latitude`.",
                "Rename the columns that hold the degrees.", arg = "data", call = call)
  }
  check_numeric(data, names(data)[lon], "data", call = call)
  check_numeric(data, names(data)[lat], "data", call = call)
  names(data)[c(lon, lat)]
}

words_of <- function(column) sentence(gsub("[_.]+", " ", column))
