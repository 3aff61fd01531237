# New shapes from the borders that areas share: merged areas, borders between them, outlines.

#' Merge areas
#'
#' Areas with the same value of `by` become one; the borders between them fall away exactly,
#' because both sides share them vertex by vertex. Where they only nearly do, run
#' [mend_boundaries()] first.
#'
#' @param boundaries A tibble with a `geometry` column of areas.
#' @param by Column that says what belongs together, bare or as text.
#' @param sum Columns to add up, bare or as text, such as `c(a, b)`; numeric. A sum with a missing
#'   part is missing. `NULL` (default) for none.
#' @return A tibble with one row a value of `by`, in order of first appearance: `by`, the sums, the
#'   columns that are the same in all rows of each group, and `geometry`. Rows without a value are
#'   left out and said.
#'   A merged area has the sum of its parts' areas, to a billionth.
#' @section Errors: `ochre_error_column`, `ochre_error_geometry` when a geometry is not an area,
#' or when parts
#'   cross themselves or lie over each other, so that their sum is not the area of the whole
#'   (field `rows`), `ochre_error_argument`.
#' @examples
#' districts <- read_boundaries(ochre_demo("districts.geojson"))
#' merge_areas(districts, by = region, sum = population)
#' @concept dissolve
#' @concept union
#' @concept aggregate
#' @export
merge_areas <- function(boundaries, by, sum = NULL) {
  check_table(boundaries, "boundaries")
  by <- column_name(rlang::enquo(by), boundaries, "by")
  wkb <- geometry_of(boundaries, "boundaries")
  check_areas(wkb, "boundaries")
  sum <- column_names(rlang::enquo(sum), boundaries, "sum", null = TRUE)
  for (column in sum) check_numeric(boundaries, column, "sum")
  group <- groups_of(boundaries, by)
  # Nothing can be put together with itself.
  twice <- which(
    duplicated(first_of_shape(wkb, group$number)) & lengths(wkb) > 0 & !is.na(group$number)
  )
  if (length(twice)) abort_repeated(boundaries, twice, group$value[group$number[twice[1]]])
  merged <- call_core(merge_core(wkb, group$number, length(group$value)))
  if (length(merged$wrong)) {
    abort_unmergeable(
      boundaries,
      wkb,
      which(group$number %in% merged$wrong),
      group$value[merged$wrong]
    )
  }
  out <- stats::setNames(list(group$value), by)
  for (column in sum) {
    out[[column]] <- as.numeric(rowsum_by(
      boundaries[[column]],
      factor(group$number, seq_along(group$value))
    ))
  }
  first <- match(seq_along(group$value), group$number)
  for (column in setdiff(names(boundaries), c(by, sum, "geometry"))) {
    x <- boundaries[[column]]
    same <- is.atomic(x) && identical(
      x[first][group$number[!is.na(group$number)]],
      x[!is.na(group$number)]
    )
    if (same) out[[column]] <- x[first]
  }
  out <- tibble::as_tibble(out, .name_repair = "minimal")
  out$geometry <- wk::new_wk_wkb(merged$geometry, crs = wk::wk_crs_longlat())
  out
}

# Group numbers in order of first appearance; rows without a value belong to none.
groups_of <- function(boundaries, by) {
  if (is.null(by)) {
    return(list(number = seq_len(nrow(boundaries)), value = seq_len(nrow(boundaries))))
  }
  x <- boundaries[[by]]
  value <- unique(x[!is.na(x)])
  if (anyNA(x)) {
    ochre_warn("missing", "Left out {count_words(sum(is.na(x)), 'row')} without `{by}`.",
               rows = which(is.na(x)))
  }
  list(number = match(x, value, incomparables = NA), value = value)
}

# Of areas that could not be put together, says which rows are at fault and why.
abort_unmergeable <- function(boundaries, wkb, rows, groups, call = rlang::caller_env()) {
  found <- crossing_rows(wkb, rows)
  if (!length(found)) found <- rows
  who <- row_names_of(boundaries, found)
  ochre_abort(
    "geometry",
    c(
      sprintf(
        "%s cannot be merged: the whole would not have the area of its parts.", list_words(groups)
      ),
      sprintf(
        "%s over another area.",
        paste(
          list_words(who, mark = ""),
          if (length(who) == 1) "crosses itself or lies" else "cross themselves or lie"
        )
      )
    ),
    paste0("mend_boundaries() unties what crosses itself; of areas that lie over each other, ",
           "keep one. check_boundaries() names places."), arg = "boundaries", rows = found
  )
}

abort_repeated <- function(boundaries, rows, group, call = rlang::caller_env()) {
  ochre_abort(
    "geometry",
    sprintf(
      "`%s` cannot be merged: %s the shape of another row.", group,
      count_words(length(rows), "row has", "rows have")
    ),
    sprintf(
      "Keep one row for each area before, for example one period (see %s).",
      list_words(row_names_of(boundaries, utils::head(rows, 3)), mark = "")
    ), arg = "boundaries", rows = rows
  )
}

# Rows among these whose rings cross themselves or each other.
crossing_rows <- function(wkb, rows) {
  found <- call_core(check_core(wkb[rows], 1e-6))
  bad <- finding_kinds$what[found$kind] %in% c("bow_tie", "hole_outside", "overlap")
  sort(unique(rows[c(found$feature[bad], stats::na.omit(found$other[bad]))]))
}

row_names_of <- function(boundaries, rows) {
  id <- code_column(boundaries)
  key <- if (is.na(id)) NA else as_key(boundaries[[id]])[rows]
  ifelse(is.na(key), paste("row", rows), sprintf("%s (row %d)", key, rows))
}

check_areas <- function(wkb, arg, call = rlang::caller_env()) {
  shape <- call_core(extent_core(list(wkb), list(), ""))$shapes
  if (!shape %in% c("areas", "none")) ochre_abort("geometry", "`{arg}` holds {shape}, not areas.")
}

#' Borders and outlines as lines
#'
#' `inner_borders()` gives the borders that two areas share, each once; with `by` only those
#' between areas that differ in it, for example between regions. `outline()` gives the borders
#' without a neighbouring area: coasts and the edge of the country.
#'
#' @inheritParams merge_areas
#' @param by Column that says what belongs together, bare or as text; `NULL` (default) for each
#'   row by itself.
#' @return A tibble: for `inner_borders()` one row a pair of neighbours with columns `left` and
#'   `right` (values of `by`, or row numbers) and `geometry` of lines; for `outline()` one row
#'   with `geometry` (none when there is no area).
#' @section Errors: Those of [merge_areas()].
#' @examples
#' districts <- read_boundaries(ochre_demo("districts.geojson"))
#' inner_borders(districts, by = region)
#' outline(districts)
#' @export
inner_borders <- function(boundaries, by = NULL) {
  found <- borders_by(boundaries, rlang::enquo(by), FALSE)
  tibble::tibble(
    left = found$value[found$left],
    right = found$value[found$right],
    geometry = found$geometry
  )
}

#' @rdname inner_borders
#' @export
outline <- function(boundaries) {
  refuse_missing(missing(boundaries), "boundaries", rlang::current_env())
  tibble::tibble(geometry = borders_by(boundaries, rlang::quo(NULL), TRUE)$geometry)
}

borders_by <- function(boundaries, by, outer, call = rlang::caller_env()) {
  check_table(boundaries, "boundaries", call = call)
  by <- column_name(by, boundaries, "by", null = TRUE, call = call)
  wkb <- geometry_of(boundaries, "boundaries", call)
  check_areas(wkb, "boundaries", call)
  group <- groups_of(boundaries, by)
  # Of rows of one group that share a shape, such as periods, one draws the border.
  once <- !duplicated(first_of_shape(wkb, if (!is.null(by)) group$number))
  found <- call_core(border_lines_core(wkb[once], group$number[once], outer), call = call)
  list(
    value = group$value,
    left = found$left,
    right = found$right,
    geometry = wk::new_wk_wkb(found$geometry, crs = wk::wk_crs_longlat())
  )
}
