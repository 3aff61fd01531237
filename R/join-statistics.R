# Joining statistics to boundaries. A left join on the boundaries that never multiplies areas
# and never stays silent about what found no partner. Which key is whose partner is settled in
# join-match.R, what is said of it in join-audit.R.

#' Join statistics to boundaries
#'
#' Each row of `boundaries` is kept once (with `period`, once for each period), in its order; the
#' columns of `statistics` are added to the row with the same key. Keys are compared as text, so
#' `12` and `"12"` are the same and `"012"` is another. When something has no partner a message
#' says so; [join_audit()] has the details. Several tables are joined one after the other.
#'
#' @param boundaries A tibble from [read_boundaries()], or any data frame with a `geometry`
#'   column, also one that was joined before.
#' @param statistics A data frame with at most one row an area (and period), or a lazy table, whose
#'   rows are fetched.
#' @param by The key columns, bare or as text: `c(code = district)` when `code` in the boundaries
#'   holds what `district` holds in the statistics, or one column when both have the same name;
#'   several where only together they name an area, `c(region = region, name = district)`.
#' @param match `"exact"` (default), or `"tidied"`: what has no partner otherwise is compared
#'   again after ignoring case, accents, spacing, punctuation and leading zeros; then with `&`
#'   as `and`, `Saint` as `St` and words in any order; then without a prefix that all codes of one
#'   side share. Only where the partner is the only one. The audit lists these matches. Near
#'   spellings are never matched, only suggested: see [suggest_matches()].
#' @param aliases A data frame with columns `statistics` and `boundaries`, both keys as text (of
#'   several columns joined with " / "): what has no exact partner gets the one named here. With a
#'   column `confirmed` only rows with `yes` in it count; `left out` in it says that the key has
#'   no area on purpose: the audit counts it apart.
#' @param period Column of `statistics` that names a period or group, bare or as text: then the
#'   result has one row an area and period, the first period's areas first, and a gap is `NA`.
#' @param unmatched How many areas and keys together may be without a partner before it is an
#'   error: a whole number, or a share of all below 1; `NULL` (default) for any number.
#' @param repeats What to do where several areas have one key that has statistics: `"refuse"`
#'   (default) is an error, `"share"` gives each part the numbers of the whole: nothing is divided,
#'   the audit says so, and the counts, ranks, bars and cards of a map count the whole once.
#' @return `boundaries` with the columns of `statistics` except the key. A column that both
#'   have gets the suffix `_statistics`. Areas without a partner have `NA`. A key that is
#'   missing matches nothing.
#' @section Errors: `ochre_error_duplicates` when a key occurs twice in the statistics, with
#'   `period` twice in one, or in the boundaries and has statistics (fields `side`, `keys`);
#'   `ochre_error_unmatched` when more than `unmatched` have no partner (field `audit`);
#'   `ochre_error_column` when a key column is not there;
#'   `ochre_error_alias` when an alias names no area, or none that is there;
#'   `ochre_error_argument`.
#' @examples
#' areas <- read_boundaries(ochre_demo("districts.geojson"))
#' visits <- read_statistics(ochre_demo("visits.csv"))
#' totals <- sum_areas(visits, visits, by = district)
#' joined <- join_statistics(areas, totals, by = c(code = district))
#' join_audit(joined)
#' @concept merge tables
#' @concept left join
#' @concept match codes
#' @export
join_statistics <- function(boundaries, statistics, by, match = "exact", aliases = NULL,
                            period = NULL, unmatched = NULL, repeats = "refuse") {
  refuse_missing(missing(by), "by", rlang::current_env())
  check_table(boundaries, "boundaries")
  check_table(statistics, "statistics", lazy = TRUE)
  geometry_of(boundaries, "boundaries")
  statistics <- fetch_lazy(statistics)
  by <- key_columns(rlang::enquo(by), boundaries, statistics)
  check_choice(match, c("exact", "tidied"), "match")
  period <- column_name(rlang::enquo(period), statistics, "period", null = TRUE)
  check_number(unmatched, "unmatched", min = 0, null = TRUE)
  check_choice(repeats, c("refuse", "share"), "repeats")
  parts <- parts_of(key_of(boundaries, by$boundaries))
  left <- parts$key
  right <- key_of(statistics, by$statistics, tidy = FALSE)
  found <- find_partners(parts$first, right, match, check_aliases(aliases))
  if (repeats == "refuse") refuse_parts(parts, found, by$boundaries)
  right <- found$key
  when <- periods_of(statistics, period)
  slots <- fill_slots(left, right, found, when, by$statistics)
  slots$row <- share_rows(slots$row, parts$of)
  found$stage <- found$stage[parts$of]

  out <- joined_columns(boundaries, statistics, by, when, slots)
  slots$empty <- sum(is.na(slots$row))
  keys <- list(left = left, right = right, found = found, slots = slots, by = by, when = when)
  keys$parts <- parts
  audit <- audit_join(keys, boundaries, statistics)
  attr(audit, "columns") <- setdiff(names(out), names(boundaries))
  attr(audit, "shared") <- repeats == "share"
  attr(out, "ochre_joins") <- c(attr(boundaries, "ochre_joins"), list(audit))
  attr(out, "ochre_made") <- c(attr(boundaries, "ochre_made"), attr(statistics, "ochre_made"))
  attr(out, "ochre_period") <- period %||% attr(boundaries, "ochre_period")
  if (!is.null(unmatched)) check_unmatched(audit, unmatched)
  tell_join(audit)
  out
}

# Areas whose key is that of an earlier row are parts of it: `key` of each row with marks for "no
# code" as missing, `missing` which marks those were; `first`, the key at its first row only; `of`,
# the first row with the same key.
parts_of <- function(key) {
  if (!anyDuplicated(key) && !any(grepl("^-9+$", key))) {
    return(list(key = key, first = key, of = seq_along(key), missing = character()))
  }
  rows <- count_keys(key, key)[match(key, key)]
  mark <- !is.na(key) & is_missing_code(key, rows)
  missing <- unique(key[mark])
  key[mark] <- NA
  of <- match(key, key, incomparables = NA)
  of[is.na(of)] <- seq_along(key)[is.na(of)]
  list(key = key, first = ifelse(of == seq_along(key), key, NA), of = of, missing = missing)
}

# Repeated keys of areas are refused where they would get the same numbers without being asked.
refuse_parts <- function(parts, found, column, call = rlang::caller_env()) {
  part <- which(parts$of != seq_along(parts$of))
  part <- part[!is.na(found$stage[parts$of[part]])]
  if (!length(part)) return(invisible())
  mend <- paste(
    "Merge these areas with merge_areas(), or say repeats = \"share\": then each part has the",
    "same numbers. Several key columns may be needed."
  )
  refuse_twice(unique(parts$key[part]), "boundaries", column, mend, call)
}

refuse_twice <- function(keys, side, column, mend, call) {
  many <- count_words(
    length(keys),
    "key that occurs twice or more",
    "keys that occur twice or more"
  )
  shown <- list_words(shown_key(keys))
  ochre_abort("duplicates", "{list_words(column)} has {many} in the {side}: {shown}.", mend,
              keys = shown_key(keys))
}

# The rows of the statistics for all parts of an area, period after period.
share_rows <- function(row, of) {
  if (!is.unsorted(of, strictly = TRUE)) return(row)
  n <- length(of)
  row[rep(seq_len(length(row) / n) - 1L, each = n) * n + of]
}

# Which row of the statistics goes to each area and period; none goes there twice.
fill_slots <- function(left, right, found, when, column, call = rlang::caller_env()) {
  slots <- call_core(fill_cells_core(
    found$area,
    when$index %||% integer(),
    when$place %||% integer(),
    length(left)
  ))
  if (slots$repeats > 0) refuse_repeats(right, found$area, when, column, call)
  alone <- found$alone
  if (length(alone)) {
    of_alone <- when
    of_alone["index"] <- list(when$index[alone])
    refuse_repeats(right[alone], seq_along(alone), of_alone, column, call)
  }
  slots
}

# The boundaries once for each period, with the columns of the statistics beside theirs.
joined_columns <- function(boundaries, statistics, by, when, slots) {
  period <- when$column
  added <- statistics[setdiff(names(statistics), c(by$statistics, period))]
  clash <- names(added) %in% names(boundaries)
  names(added)[clash] <- paste0(names(added)[clash], "_statistics")
  whole <- make.unique(c(names(boundaries), names(added)), sep = "_")
  names(added) <- whole[-seq_along(names(boundaries))]
  out <- repeat_rows(boundaries, length(when$known))
  if (!is.null(period)) {
    taken <- period %in% names(boundaries)
    own_name <- if (taken) paste0(period, "_statistics") else period
    out[[own_name]] <- take_column(when$known, times = 1L, each = nrow(boundaries))
  }
  for (name in names(added)) out[[name]] <- take_column(added[[name]], slots$row)
  move_geometry_last(out)
}

# The keys of a join: c(code = district), or one name where both tables have the same.
key_columns <- function(quo, boundaries, statistics, call = rlang::caller_env()) {
  expr <- rlang::quo_get_expr(quo)
  by <- if (rlang::is_call(expr, "c")) {
    lapply(lapply(as.list(expr)[-1], as_quosure_of, quo), named_columns, data = statistics)
  } else {
    named_columns(quo, statistics)
  }
  check_by(by, boundaries, statistics, call)
}

check_by <- function(by, boundaries, statistics, call = rlang::caller_env()) {
  if (is.list(by)) by <- unlist(by)
  if (!is.character(by) || !length(by) || anyNA(by)) {
    ochre_abort("argument", "`by` must name the key, such as c(code = \"district\").", arg = "by")
  }
  check_texts(c(by, names(by)), "by", call)
  left <- if (is.null(names(by))) unname(by) else ifelse(nzchar(names(by)), names(by), by)
  lost <- c(setdiff(left, names(boundaries)), setdiff(by, names(statistics)))
  pair <- if (length(lost)) best_pair(boundaries, statistics)
  if (!is.null(pair)) {
    ochre_abort("column", "`by` names the column `{lost[1]}`, which is not there.",
                "{by_words(pair)} would join {pair$tidied} of {pair$areas} areas.", arg = "by",
                column = lost[1])
  }
  check_column(boundaries, left, "by", call = call)
  check_column(statistics, unname(by), "by", call = call)
  list(boundaries = unname(left), statistics = unname(by))
}

# `index` of each row's period (from 0, -1 without one); `known`, the periods in order, and the
# `place` in it of each period's index.
periods_of <- function(statistics, period) {
  if (is.null(period)) return(list(index = NULL, known = NA))
  group <- group_rows(statistics, period)
  known <- statistics[[period]][group$first]
  order <- order(known, method = "radix")
  list(index = group$index, known = known[order], place = order(order) - 1L, column = period)
}

repeat_rows <- function(table, times) {
  if (times == 1) return(table)
  out <- tibble::new_tibble(lapply(table, take_column, times = times), nrow = nrow(table) * times)
  attr(out, "ochre_joins") <- attr(table, "ochre_joins")
  out
}

# Rows of a column, NA where `row` is; or the column so many times, each value so often.
take_column <- function(x, row = integer(), times = 0L, each = 1L) {
  # Other classes know best what their missing value is.
  plain <- is.null(dim(x)) &&
    (is.null(attr(x, "class")) || inherits(x, c("factor", "Date", "POSIXct", "wk_vctr"))) &&
    typeof(x) %in% c("logical", "integer", "double", "character", "list")
  if (plain) {
    call_core(take_rows_core(x, row, times, each))
  } else if (times > 0) {
    x[rep(seq_along(x), times, each = each)]
  } else {
    x[row]
  }
}

check_duplicates <- function(key, side, column, call = rlang::caller_env()) {
  twice <- unique(key[duplicated(key) & !is.na(key)])
  if (!length(twice)) return(invisible())
  mend <- if (side == "statistics") {
    paste0(
      "Bring them to one row an area first, for example with sum_areas(), or keep one period ",
      "or group; `period` names a column of several."
    )
  } else {
    "Bring it to one row a key first; several key columns may be needed."
  }
  refuse_twice(twice, side, column, mend, call)
}

refuse_repeats <- function(key, area, when, column, call = rlang::caller_env()) {
  if (is.null(when$index)) return(refuse_shared_area(key, area, column, call))
  index <- ifelse(when$index < 0, NA, when$index)
  cell <- ifelse(is.na(area) | is.na(key), NA, index * (length(key) + 1) + match(key, key))
  twice <- which(duplicated(cell) & !is.na(cell))
  if (!length(twice)) {
    cell <- index * (max(area, 0, na.rm = TRUE) + 1) + area
    twice <- which(duplicated(cell) & !is.na(cell))
  }
  if (!length(twice)) return(invisible())
  period <- when$known[when$place[when$index[twice] + 1] + 1]
  shown <- unique(sprintf("%s in %s", shown_key(key[twice]), format(period, trim = TRUE)))
  ochre_abort(
    "duplicates",
    sprintf(
      "%s has %s in one `%s`: %s.", list_words(column),
      count_words(length(shown), "key that occurs twice or more", "keys that occur twice or more"),
      when$column, list_words(shown)
    ),
    paste0("Bring them to one row an area and period first, for example with sum_areas(), or ",
           "keep one group."), side = "statistics", keys = shown_key(unique(key[twice])),
    rows = twice
  )
}

# Two keys may have come to one area by an alias.
refuse_shared_area <- function(key, area, column, call) {
  if (anyDuplicated(key[!is.na(key)])) return(check_duplicates(key, "statistics", column, call))
  same <- unique(area[duplicated(area) & !is.na(area)])
  if (!length(same)) return(invisible())
  keys <- shown_key(unique(key[area %in% same & !is.na(key)]))
  ochre_abort(
    "duplicates",
    "{list_words(column)} of the statistics go to one and the same area: {list_words(keys)}.",
    "Look at the aliases, or sum these rows first.", side = "statistics", keys = keys
  )
}

check_unmatched <- function(audit, limit, call = rlang::caller_env()) {
  counts <- attr(audit, "counts")
  alone <- counts[["boundaries_alone"]] + counts[["statistics_alone"]]
  most <- if (limit > 0 && limit < 1) {
    limit * (counts[["boundaries"]] + counts[["statistics"]])
  } else {
    limit
  }
  if (alone <= most) return(invisible())
  ochre_abort(
    "unmatched",
    sprintf(
      "%s and %s have no partner; %s may.",
      count_words(counts[["boundaries_alone"]], "area"),
      count_words(counts[["statistics_alone"]], "key"),
      if (most == 0) {
        "none"
      } else if (limit < 1) {
        paste(format(100 * limit), "% of all")
      } else {
        paste("at most", format(limit))
      }
    ), format(finish_audit(audit), most = 6), audit = finish_audit(audit)
  )
}
