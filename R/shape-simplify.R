# Lighter boundaries. What is kept is asked for by a share, a length on the ground, or the size of
# the file that will be published.

#' Make boundaries lighter
#'
#' Takes out the vertices that count least, while borders that areas share stay shared. A vertex
#' counts as much as the triangle that it makes with its neighbours, measured on the globe; narrow
#' spikes count less than broad bends of the same area. Vertices go in one order, whatever is
#' asked for, so that a lighter result is always a part of a heavier one. One stays where without
#' it a border would cross another, an island would lie on the wrong side of a coast, or an area
#' would vanish; and, as long as others can go instead, where an area would come to differ from
#' its size by more than 8 %.
#'
#' @param boundaries A tibble with a `geometry` column of areas or lines, from
#'   [read_boundaries()]. Run [mend_boundaries()] before, if neighbours' borders only nearly meet:
#'   [check_boundaries()] says so.
#' @param keep Share of the vertices to keep: one number from 0 to 1, met to one vertex; a message
#'   says so where that few cannot be reached.
#' @param tolerance Or the smallest detail to keep, in metres on the ground: one number. A triangle
#'   with less than the area of a square of half this side goes.
#' @param budget Or the size of the file: a number of bytes or a text such as `"500 kB"`. The most
#'   detailed boundaries that fit are kept.
#' @param for_file What the budget is for: `"page"` (default), the page that [publish()] writes,
#'   `"geojson"` or `"topojson"`, the file that [write_boundaries()] writes with all columns.
#' @param shape How much a vertex's shape weighs against its area: one number from 0 (area alone)
#'   to 1; default 0.5.
#' @param drop_below Islands and ponds smaller than this go: one number, km²; 0 (default) keeps
#'   all. The largest part of each area stays, and so does a part that borders on another area.
#' @param vanish `TRUE` lets an area go whose largest part is below `drop_below`; its row stays,
#'   with an empty geometry.
#' @return `boundaries` with lighter geometry, in the same order. A message says how many vertices
#'   are left, and how many areas differ in size by more than a tenth. Points stay as they are.
#' @section Errors: `ochre_error_argument` when not exactly one of `keep`, `tolerance` and
#' `budget` is
#'   given; `ochre_error_budget` when not even the lightest form fits (fields `budget`, `least`,
#'   in bytes); `ochre_error_geometry`.
#' @source Visvalingam, M., Whyatt, J.D. (1993) Line generalisation by repeated elimination of
#'   points, The Cartographic Journal 30(1), 46-51. Zhou, S., Jones, C.B. (2005) Shape-aware line
#'   generalisation with weighted effective area, Developments in Spatial Data Handling, 369-380.
#' @examples
#' districts <- read_boundaries(ochre_demo("districts.geojson"))
#' simplify_boundaries(districts, keep = 0.2)
#' simplify_boundaries(districts, budget = "60 kB", for_file = "geojson")
#' @concept simplify
#' @concept generalise
#' @export
simplify_boundaries <- function(boundaries, keep = NULL, tolerance = NULL, budget = NULL,
                                for_file = "page", shape = 0.5, drop_below = 0, vanish = FALSE) {
  check_table(boundaries, "boundaries")
  given <- c(keep = !is.null(keep), tolerance = !is.null(tolerance), budget = !is.null(budget))
  if (sum(given) != 1) {
    ochre_abort("argument", "Give one of `keep`, `tolerance` and `budget`.",
                "For example budget = \"500 kB\".", arg = "keep")
  }
  check_number(keep, "keep", min = 0, max = 1, null = TRUE)
  check_number(tolerance, "tolerance", min = 0, max = 1e6, null = TRUE)
  check_choice(for_file, c("page", "geojson", "topojson"), "for_file")
  check_number(shape, "shape", min = 0, max = 1)
  check_number(drop_below, "drop_below", min = 0)
  check_flag(vanish, "vanish")
  bytes <- if (given[["budget"]]) check_bytes(budget, "budget") else 0
  wkb <- geometry_of(boundaries, "boundaries")
  area <- ((tolerance %||% 0) / 2)^2
  size <- if (bytes) file_sizer(boundaries, for_file) else function(geometry) 0
  done <- call_core(simplify_core(
    wkb, keep %||% -1, area, shape, drop_below * 1e6, vanish, bytes, size
  ))
  if (bytes && done$bytes > bytes) refuse_boundaries(bytes, done$bytes, for_file)
  ochre_tell(paste(lighter_words(done, keep, bytes), collapse = "\n"))
  boundaries$geometry <- wk::new_wk_wkb(done$geometry, crs = wk::wk_crs_longlat())
  boundaries
}

refuse_boundaries <- function(budget, least, for_file, call = rlang::caller_env()) {
  page <- if (for_file == "page") {
    sprintf("The page's script and style alone take %s.", size_words(page_overhead()))
  }
  ochre_abort(
    "budget",
    paste0("The boundaries do not fit in {size_words(budget)}: the lightest form has ",
           "{size_words(least)}."),
    c("Raise the budget, leave out columns, or drop small islands with `drop_below`.", page),
    budget = budget, least = least
  )
}

# What simplification did, in sentences.
lighter_words <- function(done, keep, bytes) {
  kept <- sprintf(
    "Kept %s of %s vertices (%s)",
    format(done$after, big.mark = ","),
    format(done$before, big.mark = ","),
    percent_words(done$after / max(done$before, 1))
  )
  if (bytes) kept <- sprintf("%s, %s of %s", kept, size_words(done$bytes), size_words(bytes))
  if (done$dropped) {
    kept <- sprintf("%s, without %s", kept, count_words(done$dropped, "small part"))
  }
  if (done$vanished) kept <- sprintf("%s, %s gone", kept, count_words(done$vanished, "area"))
  least <- if (!is.null(keep) && done$least > keep * done$before + 1) {
    sprintf(
      paste0(
        "%s is the least that can be kept: with fewer vertices borders would cross or areas ",
        "would vanish."
      ),
      percent_words(done$least / done$before)
    )
  }
  changed <- if (done$changed) {
    sprintf(
      "%s in size by more than a tenth.",
      count_words(done$changed, "area differs", "areas differ")
    )
  }
  c(paste0(kept, "."), least, changed)
}

percent_words <- function(x) {
  paste0(format(signif(100 * x, 2), trim = TRUE, drop0trailing = TRUE), " %")
}

# "500 kB", "1.5 MB" or a number, as bytes.
check_bytes <- function(x, arg, call = rlang::caller_env()) {
  if (is.character(x) && length(x) == 1) {
    parts <- regmatches(
      x,
      regexec("^\\s*([0-9]+(\\.[0-9]+)?)\\s*(bytes|byte|B|kB|KB|MB|GB)?\\s*$", x)
    )[[1]]
    if (length(parts)) {
      x <- as.numeric(parts[2]) * c(
        bytes = 1, byte = 1, B = 1, kB = 1e3, KB = 1e3, MB = 1e6, GB = 1e9
      )[[if (nzchar(parts[4])) parts[4] else "B"]]
    }
  }
  if (!is.numeric(x) || length(x) != 1 || is.na(x) || x <= 0) {
    ochre_abort("argument", "`{arg}` must be a size such as \"500 kB\", not {describe(x)}.",
                "Units are B, kB, MB and GB.")
  }
  x
}

# A function that tells how many bytes a file with this geometry would have.
file_sizer <- function(boundaries, for_file) {
  if (for_file == "page") {
    fixed <- page_overhead()
    projection <- NULL
    tried <- 0
    return(function(geometry) {
      tried <<- tried + 1
      signal_progress("Fitting the budget", min(tried, 15), 16)
      if (is.null(projection)) {
        projection <<- call_core(extent_core(list(geometry), list(), ""))$places[[1]]$projection
      }
      fixed + topology_bytes(call_core(topology_core(
        list(layer1 = geometry),
        projection,
        grid_levels,
        list()
      )))
    })
  }
  texts <- property_texts(boundaries)
  tried <- 0
  function(geometry) {
    tried <<- tried + 1
    signal_progress("Fitting the budget", min(tried, 15), 16)
    if (for_file == "topojson") {
      return(nchar(
        call_core(topojson_text_core(geometry, "\"boundaries\"", texts, default_digits))$text,
        "bytes"
      ))
    }
    path <- tempfile("ochre-")
    on.exit(remove_path(path))
    call_core(write_geojson_core(path, geometry, texts, default_digits))$bytes
  }
}

# Bytes of borders in a page.
topology_bytes <- function(topology) {
  packed <- call_core(packed_topology_core(topology))
  sum(nchar(c(packed$arcs, unlist(packed$layers)), "bytes"))
}
