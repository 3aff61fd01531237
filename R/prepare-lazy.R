# The same verbs on a table that lies in a database (package dbplyr): what reduces rows becomes a
# query there, whose few rows come here; what adds a column or keeps rows stays there, once a query
# of one row has looked at what it takes. How columns are read there is in engine.R.

# The rows of a lazy table that a verb needs whole, which is said.
fetch_whole <- function(data, call = rlang::caller_env()) {
  if (!is_lazy(data)) return(data)
  out <- fetch_lazy(plain_rows(data, call), call)
  ochre_tell("Fetched {count_words(nrow(out), 'row')} from the database.")
  out
}

# Sums by area in one query, which also counts what the checks need; means where there is a weight.
lazy_sums <- function(data, value, weight, by, name, call = rlang::caller_env()) {
  rows <- plain_rows(data, call)
  numbers <- numbers_there(rows, c(value = value, weight = weight), "weight", call)
  x <- numbers$value$number
  gone <- rlang::expr(is.na(!!x))
  sums <- list(ochre_sum = rlang::expr(sum(!!x, na.rm = TRUE)))
  if (!is.null(weight)) {
    w <- numbers$weight$number
    sums <- list(
      ochre_sum = rlang::expr(sum(!!x * !!w, na.rm = TRUE)),
      ochre_weight = rlang::expr(sum(dplyr::if_else(!!gone, NA_real_, !!w), na.rm = TRUE))
    )
    gone <- rlang::expr(!!gone | is.na(!!w))
  }
  sums$ochre_missing <- count_there(gone)
  sums <- c(list(ochre_rows = rlang::expr(n())), sums, checks_there(numbers))
  got <- dplyr::summarise(dplyr::group_by(rows, !!!rlang::syms(by)), !!!sums, .groups = "drop")
  got <- fetch_lazy(got, call)
  refuse_numbers(got, numbers, call)
  known <- stats::complete.cases(lapply(got[by], as_key))
  warn_lost_groups(sum(as.numeric(got$ochre_rows)[!known]), by)
  got <- in_key_order(got[known, ], by)
  missing <- as.numeric(got$ochre_missing)
  result <- as.numeric(got$ochre_sum)
  if (is.null(weight)) {
    result[missing == as.numeric(got$ochre_rows)] <- NA
  } else {
    whole <- as.numeric(got$ochre_weight)
    result <- ifelse(whole > 0, result / whole, NA_real_)
  }
  out <- list(
    result = result, missing = missing, name = name, value = value,
    what = if (is.null(weight)) "sums" else "means"
  )
  summed_areas(got, by, list(first = seq_len(nrow(got)), lost = integer()), out)
}

lazy_keep_latest <- function(data, period, by, value, call = rlang::caller_env()) {
  rows <- plain_rows(data, call)
  type <- types_there(rows, c(period, by, value), call)
  con <- dbplyr::remote_con(rows)
  for (column in c(period, by)) rows <- dplyr::filter(rows, !!known_there(column, type, con))
  if (!is.null(value)) rows <- dplyr::filter(rows, !!known_there(value, type, con, empty = TRUE))
  groups <- dplyr::group_by(rows, !!!rlang::syms(by))
  when <- in_byte_order(period, type, con)
  last <- if (has_windows(con)) {
    last <- dplyr::filter(groups, !!when == max(!!when, na.rm = TRUE))
    # Two rows of its last period are enough to refuse an area.
    dplyr::filter(last, dplyr::row_number() <= 2L)
  } else {
    ends <- dplyr::summarise(groups, ochre_last = max(!!when, na.rm = TRUE), .groups = "drop")
    lazy_within(rows, c(by, period), ends)
  }
  out <- in_key_order(fetch_lazy(dplyr::ungroup(last), call), by)
  key <- key_of(out, by)
  twice <- unique(key[duplicated(key)])
  if (length(twice)) refuse_two_latest(shown_key(twice), by, call)
  tell_latest(out[[period]], period)
  out
}

# Rows with given values, as a condition: what the column holds is compared as it is there.
lazy_keep_where <- function(data, column, is, call = rlang::caller_env()) {
  rows <- plain_rows(data, call)
  type <- types_there(rows, column, call)[[column]]
  con <- dbplyr::remote_con(rows)
  x <- rlang::sym(column)
  keep <- if (is_sqlite(con)) {
    # Each value has its own type there, whatever its column was declared as.
    numbers <- values_there(as_key(is), 0, column, call)
    rlang::expr(
      typeof(!!x) == "text" & !!x %in% !!as_key(is) | typeof(!!x) != "text" & !!x %in% !!numbers
    )
  } else {
    rlang::expr(!!x %in% !!values_there(as_key(is), type, column, call))
  }
  if (anyNA(as_key(is))) {
    keep <- rlang::expr(!!keep | !(!!known_there(column, stats::setNames(list(type), column), con)))
  }
  counted <- fetch_lazy(dplyr::summarise(
    rows, ochre_rows = n(), ochre_kept = !!count_there(keep)
  ), call)
  kept <- sum(as.numeric(counted$ochre_kept), na.rm = TRUE)
  if (!kept) {
    seen <- fetch_lazy(utils::head(dplyr::distinct(rows, !!x), 1000), call)
    warn_nothing_kept(column, is, as_key(seen[[1]]))
  }
  tell_kept(kept, as.numeric(counted$ochre_rows), column, is)
  dplyr::filter(rows, !!keep)
}

# Values to look for, given as keys, as what the column holds.
values_there <- function(keys, type, column, call) {
  keys <- keys[!is.na(keys)]
  if (is.character(type)) return(keys)
  if (inherits(type, "Date")) {
    return(keys[!is.na(as.Date(keys, optional = TRUE, format = "%Y-%m-%d"))])
  }
  if (is.logical(type)) return(as.logical(keys[keys %in% c("TRUE", "FALSE")]))
  if (is.numeric(type) && !is.object(type)) {
    number <- suppressWarnings(as.numeric(keys))
    return(number[as_key(number) %in% keys])
  }
  ochre_abort("column",
              "Values of `{column}` (type `{class(type)[1]}`) cannot be compared in the database.",
              "Filter with dplyr::filter(), or fetch the rows with dplyr::collect() first.")
}

lazy_stack <- function(data, others, period, when, layout, call = rlang::caller_env()) {
  rows <- plain_rows(data, call)
  stacked <- unlist(layout)[!is.na(unlist(layout))]
  type <- types_there(rows, stacked, call)
  numbers <- stacked[vapply(type[stacked], is.numeric, NA)]
  names(numbers) <- rep("columns", length(numbers))
  look_there(rows, numbers_there(rows, numbers, character(), call), call = call)
  for (name in names(layout[[1]])) {
    columns <- unlist(lapply(layout, `[[`, name))
    check_one_kind(unlist(lapply(type[columns[!is.na(columns)]], kind_of_column)), name, call)
  }
  parts <- lapply(seq_along(when), function(i) {
    columns <- lapply(layout[[i]], function(column) {
      if (is.na(column)) NA else rlang::sym(column)
    })
    dplyr::transmute(rows, !!!rlang::syms(others), !!period := !!when[i], !!!columns)
  })
  Reduce(dplyr::union_all, parts)
}

# A new column computed in the database, once a query has looked at what it is made of.
lazy_rate <- function(data, count, population, per, name, call = rlang::caller_env()) {
  rows <- plain_rows(data, call)
  numbers <- numbers_there(rows, c(count = count, population = population), "population", call)
  look_there(rows, numbers, call = call)
  top <- numbers$count$number
  dplyr::mutate(rows, !!name := !!as.numeric(per) * !!top / nullif(!!numbers$population$number, 0))
}

lazy_share <- function(data, count, total, name, call = rlang::caller_env()) {
  rows <- plain_rows(data, call)
  numbers <- numbers_there(rows, c(count = count, total = total), c("count", "total"), call)
  top <- numbers$count$number
  base <- numbers$total$number
  more <- count_there(rlang::expr(!!top > !!base))
  more <- look_there(rows, numbers, list(ochre_more = more), call)
  if (isTRUE(as.numeric(more$ochre_more) > 0)) {
    ochre_abort(
      "column",
      "`{count}` is larger than `{total}` in {count_words(as.numeric(more$ochre_more), 'row')}.",
      "Is one of them a column of another period or group?"
    )
  }
  dplyr::mutate(rows, !!name := !!top / nullif(!!base, 0))
}

lazy_change <- function(data, before, after, kind, name, call = rlang::caller_env()) {
  rows <- plain_rows(data, call)
  numbers <- numbers_there(rows, c(before = before, after = after), character(), call)
  look_there(rows, numbers, call = call)
  old <- numbers$before$number
  change <- rlang::expr(!!numbers$after$number - !!old)
  if (kind == "relative") {
    # Not every engine knows abs() in capitals.
    size <- rlang::expr(dplyr::if_else(!!old < 0, -!!old, !!old))
    change <- rlang::expr((!!change) / nullif(!!size, 0))
  }
  dplyr::mutate(rows, !!name := !!change)
}

# Areas and their sums as sum_ages_core() gives them, from one query; the ages and their totals from
# another of one row an age group.
lazy_sum_ages <- function(data, columns, standard, method, call = rlang::caller_env()) {
  age <- columns$age
  area <- columns$area
  rows <- plain_rows(data, call)
  con <- dbplyr::remote_con(rows)
  numbers <- numbers_there(rows, unlist(columns[c("count", "population")]),
                           c("count", "population"), call)
  type <- types_there(rows, c(age, area), call)
  known <- rows
  for (column in c(age, area)) known <- dplyr::filter(known, !!known_there(column, type, con))
  found <- in_snapshot(con, call = call, function() {
    all <- fetch_lazy(dplyr::summarise(rows, ochre_rows = n()), call)$ochre_rows
    ages <- lazy_ages(known, numbers, age, call)
    totals <- function() {
      list(count = as.numeric(ages$ochre_count), population = as.numeric(ages$ochre_population))
    }
    check_age_values(ages[[age]], age, call)
    weight <- standard_of(standard, age, as_key(ages[[age]]), totals, method, call)
    if (method == "direct") weight <- weight / sum(weight)
    sums <- lazy_area_sums(known, numbers, columns, ages[[age]], weight, call)
    list(all = as.numeric(all), ages = ages, sums = sums)
  })
  sums <- found$sums
  refuse_changed(sum(as.numeric(sums$ochre_rows)), sum(as.numeric(found$ages$ochre_rows)), call)
  check_lazy_ages_once(sums, area, call)
  warn_lost_ages(found$all - sum(as.numeric(sums$ochre_rows)))
  wanted <- c("count", "population", "weight", "direct", "spread", "expected")
  own <- lapply(sums[paste0("ochre_", wanted)], as.numeric)
  list(areas = sums[area], sums = stats::setNames(own, wanted))
}

# The sums of each age group, checked.
lazy_ages <- function(known, numbers, age, call) {
  d <- numbers$count$number
  n <- numbers$population$number
  ages <- fetch_lazy(dplyr::summarise(
    dplyr::group_by(known, .data[[age]]),
    ochre_rows = n(),
    ochre_count = sum(!!d, na.rm = TRUE),
    ochre_population = sum(!!n, na.rm = TRUE),
    ochre_part = !!count_there(rlang::expr(!!d != floor(!!d))),
    ochre_nobody = !!count_there(rlang::expr(!!n == 0 & !!d > 0)),
    !!!checks_there(numbers),
    .groups = "drop"
  ), call)
  refuse_numbers(ages, numbers, call)
  part <- sum(as.numeric(ages$ochre_part))
  nobody <- sum(as.numeric(ages$ochre_nobody))
  count <- numbers$count$column
  if (part) {
    ochre_abort("column", "`{count}` is not a whole number in {count_words(part, 'row')}.",
                "Limits are those of a count; weighted numbers have no limits here.")
  }
  if (nobody) {
    rows <- count_words(nobody, "row")
    people <- numbers$population$column
    ochre_abort("column", "`{count}` counts in {rows} where `{people}` is zero.",
                "Are the two of different years or places?")
  }
  ages
}

# Queries name each age group, and SQL may not write a fraction exactly as it is stored.
check_age_values <- function(ages, age, call) {
  if (!is.numeric(ages) || all(ages == round(ages) & abs(ages) < 2^53)) return(invisible())
  ochre_abort("column", "Age groups in `{age}` must be text or whole numbers in a database.",
              "Cast them to text, or fetch the rows with dplyr::collect() first.", column = age)
}

# The sums of each area over its age groups, with the weight of each.
lazy_area_sums <- function(known, numbers, columns, ages, weight, call) {
  # One branch for each age group.
  cases <- Map(
    function(a, w) rlang::expr(.data[[!!columns$age]] == !!a ~ !!w),
    as.list(ages), as.list(as.numeric(weight))
  )
  rows <- dplyr::mutate(
    known,
    ochre_w = dplyr::case_when(!!!unname(cases)),
    ochre_d = !!numbers$count$number,
    ochre_n = !!numbers$population$number
  )
  # A sum with a missing part is missing, as it is here.
  strict <- function(x) {
    rlang::expr(dplyr::if_else(
      !!count_there(rlang::expr(is.na(!!x))) > 0L, NA_real_, sum(!!x, na.rm = TRUE)
    ))
  }
  d <- rlang::expr(ochre_d)
  n <- rlang::expr(ochre_n)
  w <- rlang::expr(ochre_w)
  sums <- dplyr::summarise(
    dplyr::group_by(rows, !!!rlang::syms(columns$area)),
    ochre_rows = n(),
    ochre_ages = dplyr::n_distinct(.data[[columns$age]]),
    ochre_count = !!strict(d),
    ochre_population = !!strict(n),
    ochre_weight = !!strict(w),
    ochre_direct = !!strict(rlang::expr(!!w * !!d / nullif(!!n, 0.0))),
    ochre_spread = !!strict(rlang::expr(!!w * !!w * !!d / nullif(!!n * !!n, 0.0))),
    ochre_expected = !!strict(rlang::expr(!!w * !!n)),
    .groups = "drop"
  )
  in_key_order(fetch_lazy(sums, call), columns$area)
}

check_lazy_ages_once <- function(sums, area, call) {
  twice <- which(as.numeric(sums$ochre_rows) > as.numeric(sums$ochre_ages))
  if (!length(twice)) return(invisible())
  ochre_abort(
    "duplicates",
    sprintf(
      "%s have an age group twice: %s.", count_words(length(twice), "area"),
      list_words(shown_key(key_of(sums[twice, ], area)))
    ), "Sum them first, keep one period, or name both: area = c(area, period)."
  )
}

# Words of SQL and columns of these queries.
utils::globalVariables(c("n", "nullif", "ochre_d", "ochre_n", "ochre_w"))
