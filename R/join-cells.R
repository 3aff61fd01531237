# Points of a table in a database into areas, where they lie: a grid of cells over the areas
# (src/core/cover.hpp) goes there. Cells wholly within one area are settled by a join on whole
# numbers; only points in border cells travel, and are looked up one by one.

# What is known of each area's points, in the order of `boundaries`: how many there are (`rows`),
# and of `value` how many are `known`, their `sum`, `least` and `most`; `outside` lie in no area,
# `nowhere` have no coordinates.
lazy_in_areas <- function(points, boundaries, id, value = NULL, call = rlang::caller_env()) {
  areas <- areas_for_points(boundaries, call)
  id_column(boundaries, id, call)
  at <- position_columns(colnames(points), call)
  there <- survey_points(points, at, value, call)
  cover <- call_core(cover_core(areas, there$rows), call = call)
  known <- placed_points(points, at, value)
  found <- new_tally(nrow(boundaries))
  if (there$far > 0) {
    far <- dplyr::filter(known, !!beyond_180())
    found <- tally_points(found, far, areas, call, there$far)
  }
  near <- dplyr::filter(known, !!in_box(cover$box))
  found <- if (length(cover$side)) {
    tally_cells(found, near, cover, areas, call)
  } else {
    tally_points(found, near, areas, call)
  }
  placed <- sum(found$rows)
  found$outside <- there$rows - there$nowhere - placed
  if (found$outside < 0) refuse_changed(placed, there$rows - there$nowhere, call)
  found$nowhere <- there$nowhere
  found
}

# How many points there are, how many without coordinates, and beyond 180°.
survey_points <- function(points, at, value, call) {
  # The types that the engine gives; SQLite takes any value in any column.
  types <- dplyr::select(points, dplyr::all_of(unique(c(at, value))))
  types <- ask_lazy(dplyr::collect(utils::head(types, 1)), call)
  loose <- inherits(dbplyr::remote_con(points), "SQLiteConnection")
  for (column in c(at, value)) {
    arg <- if (column %in% at) "points" else "value"
    if (loose) {
      lazy_column(points, column, arg, call = call)
    } else {
      check_extremes(types[[column]][1], types[[column]][1], arg, column, call = call)
    }
  }
  gone <- rlang::expr(is.na(.data$ochre_lon) | is.na(.data$ochre_lat))
  count <- function(test) rlang::expr(sum(dplyr::case_when(!!test ~ 1L, TRUE ~ 0L), na.rm = TRUE))
  seen <- ask_lazy(dplyr::collect(dplyr::summarise(
    placed_points(points, at, NULL),
    ochre_rows = n(), ochre_nowhere = !!count(gone), ochre_far = !!count(beyond_180())
  )), call)
  number <- function(x) if (is.na(x)) 0 else as.numeric(x)
  list(rows = number(seen$ochre_rows), nowhere = number(seen$ochre_nowhere),
       far = number(seen$ochre_far))
}

# A place there has two names.
beyond_180 <- function() rlang::expr(.data$ochre_lon <= -180 | .data$ochre_lon >= 180)

# A little less than the box of the grid, so that no rounding leads out of it.
in_box <- function(box) {
  less <- (box[3:4] - box[1:2]) * 1e-5
  low <- pmax(box[1:2] + less, c(-180, -Inf))
  high <- pmin(box[3:4] - less, c(180, Inf))
  rlang::expr(
    .data$ochre_lon > !!low[1] & .data$ochre_lon < !!high[1] &
      .data$ochre_lat > !!low[2] & .data$ochre_lat < !!high[2]
  )
}

placed_points <- function(points, at, value) {
  columns <- list(ochre_lon = rlang::sym(at[1]), ochre_lat = rlang::sym(at[2]))
  if (!is.null(value)) columns$ochre_value <- rlang::expr(1.0 * !!rlang::sym(value))
  dplyr::collapse(dplyr::transmute(points, !!!columns))
}

cells_to_lend <- function(cover) {
  data.frame(ochre_level = cover$level, ochre_cell = cover$cell, ochre_area = cover$area)
}

# ---- in the engine -------------------------------------------------------------------------------

# Level by level: points in the border cells of one are grouped by the cells of the next. Those of
# the first are kept there, so that all rows are gone through twice, whatever comes after.
tally_cells <- function(found, near, cover, areas, call) {
  con <- dbplyr::remote_con(near)
  cells <- lend_table(con, cells_to_lend(cover), c("ochre_level", "ochre_cell"), call)
  on.exit(cells$give_back())
  origin <- cover$box
  per <- cover$per_degree
  left <- dplyr::collapse(dplyr::mutate(
    near,
    ochre_x = as.integer(floor((.data$ochre_lon - !!origin[1]) * !!per[1])),
    ochre_y = as.integer(floor((.data$ochre_lat - !!origin[2]) * !!per[2]))
  ))
  expected <- NULL
  for (k in seq_along(cover$side)) {
    left <- with_cells(left, cover$side[k], cover$side[length(cover$side)])
    here <- dplyr::filter(cells$table, .data$ochre_level == !!(k - 1L))
    sums <- ask_lazy(dplyr::collect(sums_by_area(left, here)), call)
    refuse_changed(sum(as.numeric(sums$ochre_rows_all)), expected, call)
    if (anyNA(sums$ochre_area)) ochre_abort("internal", "A point is in no cell.", call = call)
    found <- tally_settled(found, sums)
    expected <- sum(as.numeric(sums$ochre_rows_all)[as.integer(sums$ochre_area) < 0])
    border <- dplyr::select(dplyr::filter(here, .data$ochre_area < 0L), "ochre_cell")
    left <- dplyr::collapse(lazy_within(left, "ochre_cell", border))
    if (k == 1) {
      kept <- keep_there(dplyr::select(left, -"ochre_cell"), call)
      on.exit(kept$give_back(), add = TRUE)
      left <- kept$table
    }
  }
  tally_points(found, left, areas, call, expected)
}

# The cell of each point on a level; columns and rows of the last level are cut to whole numbers, so
# that levels never disagree. Shares of powers of two are exact.
with_cells <- function(points, side, last) {
  share <- side / last
  dplyr::collapse(dplyr::mutate(
    points,
    ochre_cell = as.integer(floor(.data$ochre_x * !!share)) +
      !!side * as.integer(floor(.data$ochre_y * !!share))
  ))
}

# First by cells, where the rows lie, then by areas.
sums_by_area <- function(points, cells) {
  valued <- "ochre_value" %in% colnames(points)
  first <- list(ochre_rows = rlang::expr(n()))
  then <- list(ochre_rows = rlang::expr(sum(.data$ochre_rows, na.rm = TRUE)))
  if (valued) {
    first$ochre_known <- rlang::expr(
      sum(dplyr::if_else(is.na(.data$ochre_value), 0L, 1L), na.rm = TRUE)
    )
    first$ochre_sum <- rlang::expr(sum(.data$ochre_value, na.rm = TRUE))
    first$ochre_least <- rlang::expr(min(.data$ochre_value, na.rm = TRUE))
    first$ochre_most <- rlang::expr(max(.data$ochre_value, na.rm = TRUE))
    for (name in c("ochre_known", "ochre_sum")) {
      then[[name]] <- rlang::expr(sum(.data[[!!name]], na.rm = TRUE))
    }
    then$ochre_least <- rlang::expr(min(.data$ochre_least, na.rm = TRUE))
    then$ochre_most <- rlang::expr(max(.data$ochre_most, na.rm = TRUE))
  }
  by_cell <- dplyr::summarise(dplyr::group_by(points, .data$ochre_cell), !!!first,
                              .groups = "drop")
  cells <- dplyr::select(cells, "ochre_cell", "ochre_area")
  placed <- dplyr::collapse(dplyr::left_join(by_cell, cells, by = "ochre_cell"))
  # The results get other names than the columns that they are made of.
  names(then) <- paste0(names(then), "_all")
  dplyr::summarise(dplyr::group_by(placed, .data$ochre_area), !!!then, .groups = "drop")
}

# ---- tallies -------------------------------------------------------------------------------------

new_tally <- function(count) {
  zero <- numeric(count)
  list(rows = zero, known = zero, sum = zero, least = zero + Inf, most = zero - Inf)
}

tally_settled <- function(found, sums) {
  area <- as.integer(sums$ochre_area)
  rows <- as.numeric(sums$ochre_rows_all)
  own <- area > 0
  at <- area[own]
  found$rows[at] <- found$rows[at] + rows[own]
  if (!"ochre_sum_all" %in% names(sums)) return(found)
  known <- as.numeric(sums$ochre_known_all)[own]
  plain <- function(x, if_none) {
    x <- as.numeric(x)[own]
    ifelse(known == 0 | is.na(x), if_none, x)
  }
  found$known[at] <- found$known[at] + known
  found$sum[at] <- found$sum[at] + plain(sums$ochre_sum_all, 0)
  found$least[at] <- pmin(found$least[at], plain(sums$ochre_least_all, Inf))
  found$most[at] <- pmax(found$most[at], plain(sums$ochre_most_all, -Inf))
  found
}

# Points that travel.
tally_points <- function(found, points, areas, call, expected = NULL) {
  columns <- intersect(c("ochre_lon", "ochre_lat", "ochre_value"), colnames(points))
  points <- ask_lazy(dplyr::collect(dplyr::select(points, dplyr::all_of(columns))), call)
  refuse_changed(nrow(points), expected, call)
  lon <- as.numeric(points$ochre_lon)
  row <- call_core(locate_core(areas, lon, as.numeric(points$ochre_lat)), call = call)$row
  count <- length(found$rows)
  found$rows <- found$rows + tabulate(row, count)
  if (!"ochre_value" %in% columns) return(found)
  value <- as.numeric(points$ochre_value)
  known <- which(!is.na(row) & !is.na(value))
  sums <- sum_by_row(row[known], value[known], count)
  found$known <- found$known + sums$known
  found$sum <- found$sum + ifelse(sums$known == 0, 0, sums$sum)
  found$least <- pmin(found$least, sums$least, na.rm = TRUE)
  found$most <- pmax(found$most, sums$most, na.rm = TRUE)
  found
}

# What one query counted, the next must find.
refuse_changed <- function(seen, expected, call) {
  if (is.null(expected) || seen == expected) return(invisible())
  ochre_abort(
    "database",
    sprintf(
      "The table changed while it was counted: it first had %s points to look at, then %s.",
      format(expected, big.mark = ","), format(seen, big.mark = ",")
    ),
    "Try again, within a transaction (DBI::dbWithTransaction()) if the database has them.",
    call = call
  )
}

tell_lazy_outside <- function(found) {
  if (!found$outside && !found$nowhere) return(invisible())
  parts <- c(
    if (found$outside) {
      count_words(found$outside, "point lies in none of the areas",
                  "points lie in none of the areas")
    },
    if (found$nowhere) {
      count_words(found$nowhere, "point has no coordinates", "points have no coordinates")
    }
  )
  ochre_warn(
    "outside",
    paste0(paste(parts, collapse = "; "), "."),
    "Is `longitude` east, `latitude` north, and both in degrees?"
  )
}

utils::globalVariables("n")
