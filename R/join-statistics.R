# Joining statistics to boundaries. A left join on the boundaries that never multiplies areas
# and never stays silent about what found no partner.

#' Join statistics to boundaries
#'
#' Each row of `boundaries` is kept once, in its order; the columns of `statistics` are added
#' to the row with the same key. Keys are compared as text, so `12` and `"12"` are the same
#' and `"012"` is another. When something has no partner a message says so; [join_audit()]
#' has the details.
#'
#' @param boundaries A tibble from [read_boundaries()], or any data frame with a `geometry`
#'   column.
#' @param statistics A data frame with at most one row an area.
#' @param by The key columns: `c(code = "district")` when `code` in the boundaries holds what
#'   `district` holds in the statistics, or one text when both have the same name.
#' @param match `"exact"` (default), or `"tidied"`: what does not match exactly is compared
#'   again without regard to case, accents, spacing, punctuation and leading zeros, where the
#'   partner is the only one. The audit lists these matches.
#' @return `boundaries` with the columns of `statistics` except the key. A column that both
#'   have gets the suffix `_statistics`. Areas without a partner have `NA`. A key that is
#'   missing matches nothing.
#' @section Errors: `ochre_error_duplicates` when a key occurs twice on either side (fields
#'   `side`, `keys`); `ochre_error_column` when a key column is not there;
#'   `ochre_error_argument`.
#' @examples
#' areas <- read_boundaries(ochre_demo("districts.geojson"))
#' visits <- read_statistics(ochre_demo("visits.csv"))
#' totals <- sum_areas(visits, visits, by = district)
#' joined <- join_statistics(areas, totals, by = c(code = "district"))
#' join_audit(joined)
#' @export
join_statistics <- function(boundaries, statistics, by, match = "exact") {
  check_table(boundaries, "boundaries")
  check_table(statistics, "statistics")
  geometry_of(boundaries, "boundaries")
  by <- check_by(by, boundaries, statistics)
  check_choice(match, c("exact", "tidied"), "match")
  left <- as_key(boundaries[[by$boundaries]])
  right <- as_key(statistics[[by$statistics]])
  check_duplicates(left, "boundaries", by$boundaries)
  check_duplicates(right, "statistics", by$statistics)

  partner <- match(left, right, incomparables = NA)
  tidied <- integer()
  if (match == "tidied") {
    found <- match_tidied(left, right, partner)
    tidied <- which(is.na(partner) & !is.na(found))
    partner <- found
  }
  added <- statistics[setdiff(names(statistics), by$statistics)]
  clash <- names(added) %in% names(boundaries)
  names(added)[clash] <- paste0(names(added)[clash], "_statistics")
  out <- boundaries
  for (name in names(added)) out[[name]] <- added[[name]][partner]
  out <- out[c(setdiff(names(out), "geometry"), "geometry")]
  attr(out, "ochre_join") <- audit_join(left, right, partner, tidied, by)
  tell_join(attr(out, "ochre_join"))
  out
}

check_by <- function(by, boundaries, statistics, call = rlang::caller_env()) {
  if (is.list(by)) by <- unlist(by)
  if (!is.character(by) || length(by) != 1 || is.na(by)) {
    ochre_abort("argument", "`by` must name one key, such as c(code = \"district\").", arg = "by", call = call)
  }
  left <- if (is.null(names(by)) || !nzchar(names(by))) unname(by) else names(by)
  check_column(boundaries, left, "by", call = call)
  check_column(statistics, unname(by), "by", call = call)
  list(boundaries = left, statistics = unname(by))
}

# Whole numbers are written out in full: 100000, not 1e+05.
as_key <- function(x) {
  if (is.numeric(x)) {
    key <- formatC(as.numeric(x), format = "fg", digits = 15, width = 1)
    key[is.na(x)] <- NA
    return(trimws(key))
  }
  key <- enc2utf8(as.character(x))
  key[!nzchar(key)] <- NA
  key
}

check_duplicates <- function(key, side, column, call = rlang::caller_env()) {
  twice <- unique(key[duplicated(key) & !is.na(key)])
  if (!length(twice)) return(invisible())
  mend <- if (side == "statistics") "Bring them to one row an area first, for example with sum_areas(), or keep one period or group."
          else "Merge these areas or remove the repeated rows."
  ochre_abort("duplicates", sprintf("`%s` has %s in the %s: %s.", column,
                                    count_words(length(twice), "key that occurs twice or more", "keys that occur twice or more"),
                                    side, list_words(twice)),
              mend, side = side, keys = twice, call = call)
}
