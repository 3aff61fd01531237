#' Maps from statistics and boundaries
#'
#' Ochre joins tables to boundaries, classifies values into steps, and publishes choropleth and
#' proportional-symbol maps, as figures for print and as web pages that need no server.
#'
#' @section A first map:
#' ```r
#' areas  <- read_boundaries("districts.geojson")
#' visits <- read_statistics("visits.csv")
#' joined <- join_statistics(areas, visits, by = c(code = district))
#' rates  <- rate_per(joined, visits, population)
#' map_sheet("Hay fever follows the wind", source = "Orvane Health Office") |>
#'   shade_areas(rates, visits_per_1000, legend = "Visits per 1,000 residents") |>
#'   publish("map.html")
#' ```
#' [ochre_demo()] has the files. [start_sheet()], or `ochre start` on the command line, writes a
#' first sheet for two files of your own.
#'
#' @section Families of functions:
#' * Read: [read_boundaries()], [read_statistics()], [inspect_file()]
#' * Prepare a table: [sum_areas()], [rate_per()], [share_of()], [standardise_rate()],
#'   [steady_rate()], [hide_small()], [stack_periods()], [find_outliers()]
#' * Prepare boundaries: [check_boundaries()], [mend_boundaries()], [simplify_boundaries()],
#'   [merge_areas()]
#' * Join: [find_keys()], [join_statistics()], [join_audit()], [suggest_matches()],
#'   [count_in_areas()]
#' * Classify: [steps], [fit_steps()], [compare_steps()]
#' * Colour: [ramp_names()], [ramp_colours()], [check_ramp()], [seen_colours()]
#' * Map: [map_sheet()], [shade_areas()], [shade_pairs()], [place_symbols()], [draw_lines()],
#'   [write_labels()], [shade_density()], [shade_heat()], [lay_tiles()]
#' * Style: [number_format()], [legend_style()], [border_style()], [figure_style()],
#'   [page_style()], [map_locale()]
#' * Publish: [publish()], [publish_folder()], [as_figure()], [as_page()], [write_report()],
#'   [serve_maps()]
#'
#' @section Articles:
#' `browseVignettes("ochre")` lists them; `vignette("walk", "ochre")` goes from two files to a
#' map.
#' @concept map
#' @concept choropleth
#' @concept cartography
"_PACKAGE"

# Only what is small and always needed is imported; everything else is called with `::`, so
# that library(ochre) and `ochre --help` load nothing heavy. Package wk is loaded so that boundaries
# from readRDS() are the vectors that they were.

#' @useDynLib ochre, .registration = TRUE
#' @importFrom wk wk_crs
#' @keywords internal
#' @name ochre-internal
#' @noRd
NULL

# Packages are loaded when they are first used, so that starting costs little: of rlang these are
# words of its language.
utils::globalVariables(c(".data", ":="))
