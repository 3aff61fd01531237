# The same verbs on a table that lies in a database (package dbplyr): what reduces rows becomes a
# query there, and only its few rows come here. Checks are queries of one row.

is_lazy <- function(x) inherits(x, "tbl_lazy")

# The rows of a lazy table; any other table as it is.
fetch_lazy <- function(data, call = rlang::caller_env()) {
  if (!is_lazy(data)) return(data)
  out <- ask_lazy(dplyr::collect(data), call)
  out[] <- lapply(out, function(x) if (inherits(x, "integer64")) whole_numbers(x) else x)
  out
}

# A failure in the database is an error of Ochre's, with the database's words.
ask_lazy <- function(code, call = rlang::caller_env()) {
  need_package("dbplyr", "Working on a table of a database", call)
  tryCatch(code, error = function(e) {
    if (inherits(e, "ochre_error")) rlang::cnd_signal(e)
    words <- conditionMessage(if (!is.null(e$parent)) e$parent else e)
    ochre_abort(
      "database",
      sprintf(
        "The database refuses the query: %s.",
        strip_period(gsub("\\s+", " ", substr(words, 1, 300)))
      ),
      call = call
    )
  })
}

# One row of aggregates, by which a column is judged without fetching it. The greatest value of a
# column that also holds text is text, also in SQLite.
lazy_column <- function(data, column, arg, counts = FALSE, call = rlang::caller_env()) {
  # Some engines take a result for the column of its name: here and below results have names of
  # their own.
  seen <- ask_lazy(
    dplyr::collect(dplyr::summarise(
      data,
      ochre_least = min(.data[[column]], na.rm = TRUE),
      ochre_most = max(.data[[column]], na.rm = TRUE)
    )),
    call
  )
  check_extremes(seen$ochre_least, seen$ochre_most, arg, column, counts, call)
}

check_extremes <- function(least, most, arg, column, counts = FALSE, call = rlang::caller_env()) {
  odd <- if (is.character(most)) most else if (is.character(least)) least
  if (!is.null(odd) && !is.na(odd) || is.logical(most) && !is.na(most)) {
    ochre_abort(
      "column", sprintf("`%s` names the column `%s`, which is not numeric.", arg, column),
      if (!is.null(odd)) sprintf("It holds, for example, \"%s\".", odd), arg = arg, column = column,
      call = call
    )
  }
  least <- suppressWarnings(as.numeric(least))
  if (counts && !is.na(least) && least < 0) {
    ochre_abort(
      "column", sprintf("`%s` is negative somewhere (the least is %s).", column, format(least)),
      "A count cannot be; look for a mark of missing values such as -99.", column = column,
      call = call
    )
  }
}

lazy_sums <- function(data, value, weight, by, name, call = rlang::caller_env()) {
  lazy_column(data, value, "value", call = call)
  if (!is.null(weight)) lazy_column(data, weight, "weight", counts = TRUE, call = call)
  lost <- lapply(by, function(column) rlang::expr(is.na(.data[[!!column]])))
  lost <- Reduce(function(a, b) rlang::expr(!!a | !!b), lost)
  gone <- rlang::expr(is.na(.data[[!!value]]))
  if (!is.null(weight)) gone <- rlang::expr(!!gone | is.na(.data[[!!weight]]))
  counted <- dplyr::summarise(
    data,
    ochre_areas = sum(dplyr::if_else(!!lost, 1L, 0L), na.rm = TRUE),
    ochre_rows = sum(dplyr::if_else(!!gone, 1L, 0L), na.rm = TRUE)
  )
  counted <- ask_lazy(dplyr::collect(counted), call)
  known <- dplyr::filter(data, !(!!lost))
  known <- dplyr::group_by(known, !!!rlang::syms(by))
  if (isTRUE(counted$ochre_areas > 0)) warn_lost_groups(as.numeric(counted$ochre_areas), by)
  sum <- if (is.null(weight)) {
    rlang::expr(sum(1.0 * .data[[!!value]], na.rm = TRUE))
  } else {
    lazy_mean(value, weight, gone)
  }
  lost_rows <- rlang::expr(sum(dplyr::if_else(!!gone, 1L, 0L), na.rm = TRUE))
  # The sum gets the name of a column only in a select of its own.
  out <- dplyr::summarise(known, ochre_sum = !!sum, ochre_missing = !!lost_rows, .groups = "drop")
  out <- dplyr::collapse(out)
  names <- c("ochre_sum", "ochre_missing")
  out <- dplyr::rename(out, !!!stats::setNames(names, c(name, paste0(name, "_missing"))))
  if (isTRUE(counted$ochre_rows > 0)) {
    what <- if (is.null(weight)) "sums" else "means"
    warn_lost_values(as.numeric(counted$ochre_rows), value, name, what)
  }
  out
}

# A weighted mean of the rows where nothing is gone.
lazy_mean <- function(value, weight, gone) {
  product <- rlang::expr(
    dplyr::if_else(!!gone, NA_real_, 1.0 * .data[[!!value]] * .data[[!!weight]])
  )
  whole <- rlang::expr(dplyr::if_else(!!gone, NA_real_, 1.0 * .data[[!!weight]]))
  rlang::expr(sum(!!product, na.rm = TRUE) / nullif(sum(!!whole, na.rm = TRUE), 0.0))
}

warn_lost_values <- function(count, value, name, what) {
  ochre_warn(
    "missing",
    sprintf(
      "`%s` is missing in %s; the %s leave them out.", value, count_words(count, "row"), what
    ),
    sprintf("The column `%s_missing` counts them.", name), column = value
  )
}

lazy_keep_latest <- function(data, period, by, value, call = rlang::caller_env()) {
  known <- dplyr::filter(data, !is.na(.data[[period]]))
  for (column in by) known <- dplyr::filter(known, !is.na(.data[[column]]))
  if (!is.null(value)) known <- dplyr::filter(known, !is.na(.data[[value]]))
  groups <- dplyr::group_by(known, !!!rlang::syms(by))
  last <- if (has_windows(data)) {
    dplyr::ungroup(dplyr::filter(groups, .data[[period]] == max(.data[[period]], na.rm = TRUE)))
  } else {
    ends <- dplyr::summarise(groups, ochre_last = max(.data[[period]], na.rm = TRUE),
                             .groups = "drop")
    lazy_within(known, c(by, period), ends)
  }
  twice <- dplyr::filter(
    dplyr::count(last, !!!rlang::syms(by), name = "ochre_rows"),
    .data$ochre_rows > 1L
  )
  twice <- ask_lazy(dplyr::collect(utils::head(twice, 6)), call)
  if (nrow(twice)) refuse_two_latest(shown_key(key_of(twice, by)), by, call)
  periods <- ask_lazy(
    dplyr::collect(dplyr::count(last, .data[[period]], name = "ochre_rows")),
    call
  )
  order <- order(periods[[1]])
  tell_latest(period, as.character(periods[[1]])[order], as.numeric(periods$ochre_rows)[order])
  last
}

lazy_stack <- function(data, others, period, when, layout) {
  parts <- lapply(seq_along(when), function(i) {
    columns <- lapply(layout[[i]], function(column) {
      if (is.na(column)) NA else rlang::sym(column)
    })
    dplyr::transmute(data, !!!rlang::syms(others), !!period := !!when[i], !!!columns)
  })
  Reduce(dplyr::union_all, parts)
}

# A new column computed in the database.
lazy_rate <- function(data, count, population, per, name, call = rlang::caller_env()) {
  lazy_column(data, count, "count", call = call)
  lazy_column(data, population, "population", counts = TRUE, call = call)
  dplyr::mutate(
    data,
    !!name := !!as.numeric(per) * .data[[count]] / nullif(.data[[population]], 0L)
  )
}

lazy_share <- function(data, count, total, name, call = rlang::caller_env()) {
  for (column in c(count, total)) {
    lazy_column(
      data,
      column,
      if (column == count) "count" else "total",
      counts = TRUE,
      call = call
    )
  }
  more <- ask_lazy(
    dplyr::collect(utils::head(
      dplyr::transmute(
        dplyr::filter(data, .data[[count]] > .data[[total]]),
        a = .data[[count]],
        b = .data[[total]]
      ),
      1
    )),
    call
  )
  if (nrow(more)) {
    ochre_abort(
      "column",
      sprintf(
        "`%s` is larger than `%s` somewhere (%s of %s).", count, total, format(more$a),
        format(more$b)
      ),
      "Is one of them a column of another period or group?", call = call
    )
  }
  dplyr::mutate(data, !!name := 1.0 * .data[[count]] / nullif(.data[[total]], 0L))
}

lazy_change <- function(data, before, after, kind, name, call = rlang::caller_env()) {
  for (column in c(before, after)) {
    lazy_column(data, column, if (column == before) "before" else "after", call = call)
  }
  if (kind == "absolute") {
    return(dplyr::mutate(data, !!name := .data[[after]] - .data[[before]]))
  }
  # Not every engine knows abs() in capitals.
  size <- rlang::expr(dplyr::if_else(.data[[!!before]] < 0, -.data[[!!before]], .data[[!!before]]))
  dplyr::mutate(
    data,
    !!name := (1.0 * .data[[after]] - .data[[before]]) / nullif(!!size, 0L)
  )
}

# Areas and their sums as sum_ages_core() gives them, from one query; the ages and their totals from
# another of one row an age group.
lazy_sum_ages <- function(data, columns, standard, method, call = rlang::caller_env()) {
  count <- columns$count
  population <- columns$population
  age <- columns$age
  area <- columns$area
  lazy_column(data, count, "count", counts = TRUE, call = call)
  lazy_column(data, population, "population", counts = TRUE, call = call)
  known <- dplyr::filter(data, !is.na(.data[[age]]))
  for (column in area) known <- dplyr::filter(known, !is.na(.data[[column]]))
  ages <- lazy_ages(known, count, population, age, call)
  totals <- function() {
    list(count = as.numeric(ages$ochre_count), population = as.numeric(ages$ochre_population))
  }
  weight <- standard_of(standard, age, as_key(ages[[age]]), totals, method, call)
  if (method == "direct") weight <- weight / sum(weight)
  # The weight of a row: one branch for each age group.
  cases <- Map(
    function(a, w) rlang::expr(.data[[!!age]] == !!a ~ !!w),
    as.list(ages[[age]]),
    as.list(as.numeric(weight))
  )
  rows <- dplyr::mutate(
    known,
    ochre_w = dplyr::case_when(!!!unname(cases)),
    ochre_d = 1.0 * .data[[count]],
    ochre_n = 1.0 * .data[[population]]
  )
  sums <- lazy_area_sums(rows, area, age, call)
  check_lazy_ages_once(sums, area, call)
  wanted <- c("count", "population", "weight", "direct", "spread", "expected")
  own <- lapply(sums[paste0("ochre_", wanted)], as.numeric)
  list(areas = sums[area], sums = stats::setNames(own, wanted))
}

# The sums of each age group, checked.
lazy_ages <- function(known, count, population, age, call) {
  broken <- rlang::expr(.data[[count]] != floor(.data[[count]]))
  empty <- rlang::expr(.data[[population]] == 0L & .data[[count]] > 0L)
  ages <- ask_lazy(
    dplyr::collect(dplyr::summarise(
      dplyr::group_by(known, .data[[age]]),
      ochre_count = sum(1.0 * .data[[count]], na.rm = TRUE),
      ochre_population = sum(1.0 * .data[[population]], na.rm = TRUE),
      ochre_part = sum(dplyr::if_else(!!broken, 1L, 0L), na.rm = TRUE),
      ochre_nobody = sum(dplyr::if_else(!!empty, 1L, 0L), na.rm = TRUE),
      .groups = "drop"
    )),
    call
  )
  part <- sum(as.numeric(ages$ochre_part))
  nobody <- sum(as.numeric(ages$ochre_nobody))
  if (part) {
    ochre_abort(
      "column", sprintf("`%s` is not a whole number in %s.", count, count_words(part, "row")),
      "Limits are those of a count; weighted numbers have no limits here.", call = call
    )
  }
  if (nobody) {
    rows <- count_words(nobody, "row")
    ochre_abort(
      "column", sprintf("`%s` counts in %s where `%s` is zero.", count, rows, population),
      "Are the two of different years or places?", call = call
    )
  }
  ages
}

# The sums of each area over its age groups: `ochre_d` are the cases, `ochre_n` the people,
# `ochre_w` the weight of the age group.
lazy_area_sums <- function(rows, area, age, call) {
  # A sum with a missing part is missing, as it is here.
  strict <- function(x) {
    rlang::expr(dplyr::if_else(
      sum(dplyr::if_else(is.na(!!x), 1L, 0L), na.rm = TRUE) > 0L,
      NA_real_,
      sum(!!x, na.rm = TRUE)
    ))
  }
  d <- rlang::expr(ochre_d)
  n <- rlang::expr(ochre_n)
  w <- rlang::expr(ochre_w)
  sums <- dplyr::summarise(
    dplyr::group_by(rows, !!!rlang::syms(area)),
    ochre_rows = n(),
    ochre_ages = dplyr::n_distinct(.data[[age]]),
    ochre_count = !!strict(d),
    ochre_population = !!strict(n),
    ochre_weight = !!strict(w),
    ochre_direct = !!strict(rlang::expr(!!w * !!d / nullif(!!n, 0.0))),
    ochre_spread = !!strict(rlang::expr(!!w * !!w * !!d / nullif(!!n * !!n, 0.0))),
    ochre_expected = !!strict(rlang::expr(!!w * !!n)),
    .groups = "drop"
  )
  ask_lazy(dplyr::collect(dplyr::arrange(sums, !!!rlang::syms(area))), call)
}

check_lazy_ages_once <- function(sums, area, call) {
  twice <- which(as.numeric(sums$ochre_rows) > as.numeric(sums$ochre_ages))
  if (!length(twice)) return(invisible())
  ochre_abort(
    "duplicates",
    sprintf(
      "%s have an age group twice: %s.", count_words(length(twice), "area"),
      list_words(shown_key(key_of(sums[twice, ], area)))
    ),
    "Sum them first, keep one period, or name both: area = c(area, period).", call = call
  )
}

# Words of SQL and columns of these queries.
utils::globalVariables(c("nullif", "ochre_d", "ochre_n", "ochre_w"))
