# The verbs that shade areas. Like every layer verb they check their columns at once, so that a
# wrong name is refused on the line where it stands, and add one entry to the sheet.

#' Shade areas by classes of a value, or in one colour
#'
#' Without `value` all areas have one colour: plain land that other layers lie on.
#'
#' @param sheet A sheet from [map_sheet()].
#' @param data A tibble with a `geometry` column of areas, such as [join_statistics()] gives.
#' @param value The column to shade by, bare or as text; numeric, or with [steps_categories()]
#'   texts. Missing and infinite values are drawn as "no data". `NULL` (default) for one colour.
#' @param steps How to form classes: see [steps_quantile()]. Default five quantiles.
#' @param ramp The colours: one of [ramp_names()], or colours of your own (`#RRGGBB` or names that
#'   R knows), one a class; two or three are taken as the ends (and middle) of a ramp. Own colours
#'   are checked, and a warning `ochre_warning_ramp` says what fails (see [check_ramp()]). A named
#'   vector, `c(closed = "#8c2f39")`, changes the colour of those classes only, by their label or
#'   category. `NULL` (default) takes `madder`, around a midpoint `woad_madder`, for categories
#'   `meadow`.
#' @param reverse `TRUE` turns the ramp round.
#' @param legend Title of the legend: one text; by default the column's name in words.
#' @param hover Label beside the pointer: a template such as `"{name}: {rate|1}"`; see Templates.
#'   By default the area's name and value.
#' @param hatch Column that says which areas are uncertain or hidden, bare or as text: `TRUE`, or
#'   any text such as the reason that [hide_small()] leaves. Those areas carry a hatch instead of
#'   a colour, and a legend entry of their own; they count in no number of the map, neither breaks,
#'   ranks and totals nor its words. `NULL` (default) for none.
#' @param hatch_label What the hatch means: one text; `NULL` (default) says "Uncertain or hidden" in
#'   the map's language.
#' @param format How the numbers are written, from [number_format()]: unit, decimals, percentages;
#'   in legend, hover label and popup alike. `NULL` (default) for plain numbers.
#' @param by Column of periods or groups, bare or as text, when `data` have each area once for
#'   each: a figure then has a small map for each, a page a choice between them. An area without a
#'   row for one of them has no data there. `NULL` (default) takes the periods of a table that
#'   [join_statistics()] joined by periods, and else one map.
#' @param own_steps `FALSE` (default): the same classes in all maps, formed from all values, so
#'   that maps can be compared. `TRUE`: classes of its own for each. The legend says which.
#' @param field_formats Formats of other columns that `hover` and `popup` show: a named list, such
#'   as `list(population = number_format(unit = "people"))`. `NULL` (default) for none.
#' @param popup Fields shown on a click: `c("Label" = column, "Label" = "{template}")`; see
#'   Templates. A column without a label keeps its own name. `NULL` (default) for none.
#' @param borders How borders between areas look, from [border_style()].
#' @param fill Colour of areas without a `value`: one colour that R knows; `NULL` (default) for
#'   Ochre's colour of land.
#' @param ... Not used. `color` works wherever there is `colour`; other names are refused, with the
#'   name to use.
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
#' @concept choropleth
#' @concept thematic map
#' @concept tooltip
#' @concept hover label
#' @concept small multiples
#' @concept facets
#' @export
shade_areas <- function(sheet, data, value = NULL, steps = steps_quantile(5), ramp = NULL,
                        reverse = FALSE, legend = NULL, hover = NULL, popup = NULL, hatch = NULL,
                        hatch_label = NULL, format = NULL, by = NULL, own_steps = FALSE,
                        field_formats = NULL, borders = border_style(), fill = NULL, ...) {
  if (...length()) return(call_by_own_names(match.call()))
  check_sheet(sheet)
  check_table(data, "data")
  data <- with_polygons(data)
  if (rlang::quo_is_null(rlang::enquo(value))) {
    said <- list(
      legend = legend, hover = hover, popup = popup_fields(rlang::enquo(popup), data),
      field_formats = field_formats, borders = borders, fill = fill
    )
    given <- setdiff(names(match.call())[-1], c("sheet", "data", "value", names(said)))
    return(shade_plain(sheet, data, said, given))
  }
  check_no_fill(fill)
  by <- panel_column(rlang::enquo(by), data)
  check_flag(own_steps, "own_steps")
  hatch <- hatch_column(rlang::enquo(hatch), data)
  check_text(hatch_label, "hatch_label", null = TRUE)
  value <- column_name(rlang::enquo(value), data, "value")
  steps <- as_steps(steps, "steps")
  if (steps$method != "categories") check_numeric(data, value, "value")
  check_step_weight(steps, data)
  ramp <- check_ramp_wish(ramp)
  check_flag(reverse, "reverse")
  check_text(legend, "legend", null = TRUE)
  with_layer(
    sheet,
    "areas",
    list(
      data = data,
      value = value,
      steps = steps,
      ramp = ramp,
      reverse = reverse,
      legend = legend %||% words_of(value),
      hover = check_template(hover, data, "hover"),
      popup = popup_fields(rlang::enquo(popup), data),
      hatch = hatch,
      hatch_label = hatch_label,
      format = check_format(format),
      by = by,
      own_steps = own_steps,
      borders = check_borders(borders, data),
      field_formats = check_field_formats(field_formats, data)
    )
  )
}

check_step_weight <- function(steps, data, call = rlang::caller_env()) {
  if (is.null(steps$weight)) return(invisible())
  weight <- check_column(data, steps$weight, "steps", call = call)
  check_counts(data, weight, "steps", call = call)
}

# Areas of one colour. `given` names arguments that only a value gives a meaning.
shade_plain <- function(sheet, data, said, given, call = rlang::caller_env()) {
  if (length(given)) {
    ochre_abort("argument", "`{given[1]}` needs a `value`.",
                "Name the column to shade by, or leave it out for areas of one colour.",
                arg = given[1])
  }
  check_one_period(data, call)
  check_text(said$legend, "legend", null = TRUE, call = call)
  fill <- if (!is.null(said$fill)) check_colour(said$fill, "fill", call)
  fields <- list(
    data = data,
    fill = fill,
    legend = said$legend,
    hover = check_template(said$hover, data, "hover", call = call),
    popup = said$popup,
    borders = check_borders(said$borders, data, call = call),
    field_formats = check_field_formats(said$field_formats, data, call = call)
  )
  # The classes of a layer without a variable: one, whose members are all alike.
  with_layer(sheet, "areas", c(fields, list(steps = steps_categories(), own_steps = FALSE)))
}

check_no_fill <- function(fill, call = rlang::caller_env()) {
  if (is.null(fill)) return(invisible())
  ochre_abort("argument", "`fill` is for areas without a `value`; those with one have a `ramp`.",
              "Leave out one of them.", arg = "fill")
}

hatch_column <- function(quo, data, call = rlang::caller_env()) {
  hatch <- column_name(quo, data, "hatch", null = TRUE, call = call)
  if (!is.null(hatch) && is.numeric(data[[hatch]])) {
    ochre_abort("column", "`hatch` names the column `{hatch}`, which is numeric.",
                "Name one of TRUE and FALSE, or of reasons, such as flag_unsteady() makes.",
                arg = "hatch", column = hatch)
  }
  hatch
}

#' Shade areas by two values at once
#'
#' Each area gets the colour of its class in both variables, from a square of colours. The legend
#' is that square, with the breaks along its sides and the number of areas in each field. Two or
#' three classes of each variable; a reader cannot hold more.
#'
#' @inheritParams shade_areas
#' @param first,second The two columns, bare or as text; numeric. The first rises upward in the
#'   legend, the second to the right. An area with one of them missing is drawn as "no data".
#' @param steps How to form classes of `first`: see [steps_quantile()]; 2 or 3 classes. Default
#'   three quantiles.
#' @param second_steps The same for `second`; `NULL` (default) as `steps`.
#' @param ramp One of `ramp_names("square")`.
#' @param legend Titles of the two sides: two texts; `NULL` (default) for the columns' names in
#'   words.
#' @return The sheet with one more layer.
#' @inheritSection shade_areas Templates
#' @section Errors: `ochre_error_column`; `ochre_error_template`; `ochre_error_argument`, also
#' when resolved and the variables do not have 2 or 3 classes alike.
#' @examples
#' areas <- read_boundaries(ochre_demo("districts.geojson"))
#' areas <- density_per_km2(
#'   rate_per(areas, population_65_plus, population, 100, name = "old"),
#'   population
#' )
#' map_sheet("Old and dense") |> shade_pairs(areas, old, population_per_km2)
#' @concept bivariate
#' @concept bivariate choropleth
#' @export
shade_pairs <- function(sheet, data, first, second, steps = steps_quantile(3),
                        second_steps = NULL, ramp = "woad_and_madder", legend = NULL,
                        hover = NULL, popup = NULL, borders = border_style(), ...) {
  if (...length()) return(call_by_own_names(match.call()))
  check_sheet(sheet)
  check_table(data, "data")
  data <- with_polygons(data)
  check_one_period(data)
  first <- column_name(rlang::enquo(first), data, "first")
  second <- column_name(rlang::enquo(second), data, "second")
  check_numeric(data, first, "first")
  check_numeric(data, second, "second")
  steps <- as_steps(steps, "steps")
  second_steps <- as_steps(second_steps %||% steps, "second_steps")
  check_choice(ramp, ramp_names("square"), "ramp")
  legend <- unlist(legend) %||% words_of(c(first, second))
  if (!is.character(legend) || length(legend) != 2 || anyNA(legend)) {
    ochre_abort("argument", "`legend` must be two texts, one for each variable.", arg = "legend")
  }
  with_layer(
    sheet,
    "areas",
    list(
      data = data,
      value = first,
      second = second,
      steps = steps,
      second_steps = second_steps,
      ramp = ramp,
      borders = check_borders(borders, data),
      legend = legend,
      hover = check_template(hover, data, "hover"),
      popup = popup_fields(rlang::enquo(popup), data)
    )
  )
}

# Areas are polygons: of a collection that holds points or lines beside them, only these are shaded.
with_polygons <- function(data, call = rlang::caller_env()) {
  wkb <- as.list(geometry_of(data, "data", call))
  attributes(wkb) <- NULL
  mixed <- which(wk::wk_meta(wk::wkb(wkb))$geometry_type %in% 7L)
  found <- lapply(mixed, function(k) {
    parts <- wk::wk_flatten(wk::wkb(wkb[k]), max_depth = depth_limit())
    parts <- parts[wk::wk_meta(parts)$geometry_type %in% 3L]
    if (length(parts)) unclass(wk::wk_collection(parts, 6L))[[1]]
  })
  kept <- lengths(found) > 0
  if (!any(kept)) return(data)
  wkb[mixed[kept]] <- found[kept]
  data$geometry <- wk::new_wk_wkb(wkb, crs = wk::wk_crs_longlat())
  ochre_tell(sprintf(
    "%s points or lines beside polygons; only the polygons are shaded.",
    count_words(sum(kept), "area also has", "areas also have")
  ))
  data
}
