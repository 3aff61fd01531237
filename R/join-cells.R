# Points of a table in a database into areas, where they lie: a grid of cells over the areas
# (src/core/cover.hpp) goes there. Cells wholly within one area are settled by a join on whole
# numbers; only points in border cells travel, and are looked up one by one.

# What is known of each area's points, in the order of `boundaries`: how many there are (`rows`),
# and of `value` how many are `known`, their `sum`, `least` and `most`; `outside` lie in no area,
# `nowhere` have no coordinates.
lazy_in_areas <- function(points, boundaries, id, value = NULL, call = rlang::caller_env()) {
  areas <- areas_for_points(boundaries, call)
  points <- plain_rows(points, call)
  con <- dbplyr::remote_con(points)
  columns <- positions_there(points, value, call)
  in_snapshot(con, call = call, function() {
    counted <- list(ochre_rows = rlang::expr(n()))
    rows <- as.numeric(look_there(points, columns, counted, call)$ochre_rows)
    job <- list(
      con = con,
      lon = columns$lon$number,
      lat = columns$lat$number,
      value = columns$value$number,
      areas = areas,
      cover = call_core(cover_core(areas, rows), call = call),
      call = call
    )
    found <- new_tally(nrow(boundaries))
    found <- if (length(job$cover$side)) {
      tally_cells(found, points, job, rows)
    } else {
      tally_points(found, points, job, rows)
    }
    if (length(job$cover$side)) tell_travelled(found$travelled, rows)
    found$outside <- rows - found$nowhere - sum(found$rows)
    found
  })
}

# Numbers for the place of a point, `lon` and `lat`, and for its `value`.
positions_there <- function(points, value, call) {
  value <- if (!is.null(value)) numbers_there(points, c(value = value), character(), call)
  shape <- shape_column(points, types_there(points, colnames(points), call), call)
  at <- if (is.null(shape)) {
    at <- position_columns(colnames(points), call)
    numbers_there(points, c(points = at[1], points = at[2]), character(), call)
  } else {
    lapply(c("ST_X", "ST_Y"), function(one) {
      number <- rlang::call2(one, shape_there(shape))
      list(column = shape$column, arg = "points", counts = FALSE, number = number)
    })
  }
  c(stats::setNames(at, c("lon", "lat")), value)
}

tell_travelled <- function(travelled, rows) {
  if (travelled <= 0.1 * rows) return(invisible())
  ochre_tell(
    paste0("Fetched {format(travelled, big.mark = ',')} of {format(rows, big.mark = ',')} ",
           "points: they lie close to borders and were located one by one.")
  )
}

# ---- in the engine -------------------------------------------------------------------------------

# A little less than the box of the grid, so that no rounding leads out of it.
in_box <- function(job) {
  box <- job$cover$box
  less <- (box[3] - box[1]) * 1e-5
  low <- max(box[1] + less, -180)
  high <- min(box[3] - less, 180)
  rlang::expr(!!job$lon > !!low & !!job$lon < !!high & !!at_height(job))
}

at_height <- function(job) {
  box <- job$cover$box
  less <- (box[4] - box[2]) * 1e-5
  rlang::expr(!!job$lat > !!(box[2] + less) & !!job$lat < !!(box[4] - less))
}

# A place there has two names.
beyond_180 <- function(job) {
  rlang::expr((!!job$lon <= -180 | !!job$lon >= 180) & !!at_height(job))
}

# The cell of a point in the box, on a level. A level's cells for a degree are four times those of
# the level before, to the last digit that is written, so that levels never disagree.
cell_within <- function(job, k) {
  origin <- job$cover$box
  per <- job$cover$per_degree[, k]
  side <- job$cover$side[k]
  column <- whole_part(rlang::expr((!!job$lon - !!origin[1]) * !!per[1]), job$con)
  row <- whole_part(rlang::expr((!!job$lat - !!origin[2]) * !!per[2]), job$con)
  rlang::expr(!!column + !!side * !!row)
}

# After the cells of the first level come three for points that have none: those without a place,
# beyond 180 degrees, and outside of the box.
cell_of_any <- function(job) {
  none <- as.integer(job$cover$side[1]^2) + 0:2
  rlang::expr(case_when(
    !!in_box(job) ~ !!cell_within(job, 1),
    is.na(!!job$lon) | is.na(!!job$lat) ~ !!none[1],
    !!beyond_180(job) ~ !!none[2],
    TRUE ~ !!none[3]
  ))
}

# What a cell has in place of an area.
in_no_area <- 0L
on_border <- -1L
no_place <- -2L
far_off <- -3L

# The cells of a level; with those of the first go the three for points that have none.
cells_to_lend <- function(cover, k) {
  on <- cover$level == k - 1
  none <- if (k == 1) list(cell = cover$side[1]^2 + 0:2, area = c(no_place, far_off, in_no_area))
  data.frame(ochre_cell = c(cover$cell[on], none$cell), ochre_area = c(cover$area[on], none$area))
}

# Level by level: points in the border cells of one are grouped by the cells of the next.
tally_cells <- function(found, points, job, rows) {
  call <- job$call
  whole <- job
  lent <- list()
  on.exit(for (one in lent) one$give_back())
  levels <- length(job$cover$side)
  near <- points
  expected <- rows
  for (k in seq_len(levels)) {
    key <- function(cell) group_key(cell, job$cover$side[k]^2 + 2, job$con)
    own <- cells_to_lend(job$cover, k)
    cells <- lend_table(job$con, own, "ochre_cell", call)
    lent <- c(lent, list(cells))
    cell <- if (k == 1) cell_of_any(job) else cell_within(job, k)
    sums <- ask_lazy(dplyr::collect(sums_by_area(near, key(cell), cells$table, job)), call)
    refuse_changed(sum(as.numeric(sums$ochre_rows_all)), expected, call)
    if (anyNA(sums$ochre_area)) ochre_abort("internal", "A point is in no cell.")
    found <- tally_settled(found, sums)
    if (k == 1) far <- rows_marked(sums, far_off)
    expected <- rows_marked(sums, on_border)
    if (k == 1) near <- dplyr::filter(near, !!in_box(job))
    near <- if (is_postgres(job$con)) {
      lazy_among(near, cell_within(job, k), own$ochre_cell[own$ochre_area == on_border])
    } else {
      border <- dplyr::filter(cells$table, .data$ochre_area == !!on_border)
      border <- dplyr::transmute(border, ochre_key = !!key(quote(.data$ochre_cell)))
      lazy_within(near, key(cell_within(job, k)), border)
    }
    if (k < levels) {
      kept <- keep_there(counted_columns(near, job), call)
      lent <- c(lent, list(kept))
      near <- kept$table
      job <- job_of_counted(job)
    }
  }
  found <- tally_points(found, near, job, expected)
  if (far) tally_far(found, points, whole, far) else found
}

# Where longitudes run from 0 to 360 those beyond 180 are turned back there; few are looked up here.
tally_far <- function(found, points, job, far) {
  beyond <- dplyr::filter(points, !!beyond_180(job))
  # Those that were turned back once lie beyond for good.
  if (far < 1000 || isTRUE(job$turned)) return(tally_points(found, beyond, job, far))
  job$turned <- TRUE
  job$lon <- rlang::expr(case_when(!!job$lon > 0 ~ !!job$lon - 360, TRUE ~ !!job$lon + 360))
  beyond <- counted_columns(beyond, job)
  tally_cells(found, plain_rows(beyond, job$call), job_of_counted(job), far)
}

counted_columns <- function(points, job) {
  columns <- list(ochre_lon = job$lon, ochre_lat = job$lat)
  dplyr::transmute(points, !!!columns, !!!c(list(ochre_value = job$value))[!is.null(job$value)])
}

job_of_counted <- function(job) {
  job$lon <- rlang::sym("ochre_lon")
  job$lat <- rlang::sym("ochre_lat")
  if (!is.null(job$value)) job$value <- rlang::sym("ochre_value")
  job
}

# First by cells, where the rows lie, then by areas.
sums_by_area <- function(points, cell, cells, job) {
  first <- list(ochre_rows = rlang::expr(n()))
  then <- list(ochre_rows = rlang::expr(sum(.data$ochre_rows, na.rm = TRUE)))
  if (!is.null(job$value)) {
    value <- job$value
    first$ochre_known <- rlang::expr(sum(if_else(is.na(!!job$value), 0L, 1L), na.rm = TRUE))
    first$ochre_sum <- rlang::expr(sum(!!value, na.rm = TRUE))
    first$ochre_least <- rlang::expr(min(!!value, na.rm = TRUE))
    first$ochre_most <- rlang::expr(max(!!value, na.rm = TRUE))
    for (name in c("ochre_known", "ochre_sum")) {
      then[[name]] <- rlang::expr(sum(.data[[!!name]], na.rm = TRUE))
    }
    then$ochre_least <- rlang::expr(min(.data$ochre_least, na.rm = TRUE))
    then$ochre_most <- rlang::expr(max(.data$ochre_most, na.rm = TRUE))
  }
  by_cell <- dplyr::transmute(
    summarise_at_once(points, cell, first),
    !!!rlang::syms(names(first)),
    ochre_cell = as.integer(.data$ochre_key)
  )
  cells <- dplyr::select(cells, "ochre_cell", "ochre_area")
  placed <- dplyr::collapse(dplyr::left_join(by_cell, cells, by = "ochre_cell"))
  # The results get other names than the columns that they are made of.
  names(then) <- paste0(names(then), "_all")
  dplyr::summarise(dplyr::group_by(placed, .data$ochre_area), !!!then, .groups = "drop")
}

# ---- tallies -------------------------------------------------------------------------------------

new_tally <- function(count) {
  zero <- numeric(count)
  list(
    rows = zero, known = zero, sum = zero, least = zero + Inf, most = zero - Inf, nowhere = 0,
    travelled = 0
  )
}

rows_marked <- function(sums, mark) {
  sum(as.numeric(sums$ochre_rows_all)[as.integer(sums$ochre_area) == mark])
}

tally_settled <- function(found, sums) {
  area <- as.integer(sums$ochre_area)
  rows <- as.numeric(sums$ochre_rows_all)
  found$nowhere <- found$nowhere + rows_marked(sums, no_place)
  own <- area > in_no_area
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
tally_points <- function(found, points, job, expected) {
  points <- ask_lazy(dplyr::collect(counted_columns(points, job)), job$call)
  refuse_changed(nrow(points), expected, job$call)
  found$travelled <- found$travelled + nrow(points)
  lon <- as.numeric(points$ochre_lon)
  lat <- as.numeric(points$ochre_lat)
  found$nowhere <- found$nowhere + sum(is.na(lon) | is.na(lat))
  row <- call_core(locate_core(job$areas, lon, lat), call = job$call)$row
  count <- length(found$rows)
  found$rows <- found$rows + tabulate(row, count)
  if (is.null(job$value)) return(found)
  value <- as.numeric(points$ochre_value)
  known <- which(!is.na(row) & !is.na(value))
  sums <- sum_by_row(row[known], value[known], count)
  found$known <- found$known + sums$known
  found$sum <- found$sum + ifelse(sums$known == 0, 0, sums$sum)
  found$least <- pmin(found$least, sums$least, na.rm = TRUE)
  found$most <- pmax(found$most, sums$most, na.rm = TRUE)
  found
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
  ochre_warn("outside", "{paste(parts, collapse = '; ')}.",
             "Is `longitude` east, `latitude` north, and both in degrees?")
}

utils::globalVariables(c("n", "case_when", "if_else"))
