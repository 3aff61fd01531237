# Counts by codes that are no longer in use, carried over to those that are.

#' Carry counts over to new codes
#'
#' After mergers and splits of areas last year's table has other codes than this year's
#' boundaries. A table of changes says which code became which: a merger has several rows with one
#' `to`, a split several with one `from`, whose weights say how its counts are shared out.
#'
#' @param data A data frame with the old codes.
#' @param by Column of the codes, bare or as text.
#' @param changes A data frame with columns `from`, `to` and, where something was split, `weight`:
#'   a fraction; those of one `from` add up to 1. Codes that it does not name stay as they are.
#'   Changes are made once, all at the same time.
#' @param counts Columns of counts, bare or as text, such as `c(a, b)`; numeric.
#' @param within Columns in which codes stand once, such as a period or age group, bare or as text;
#'   `NULL` (default) for none.
#' @return A tibble with one row for each new code (and value of `within`): `by`, `within`, and
#'   `counts` (double). Where one of the parts is missing, so is the sum. Other columns are left
#'   out, because they cannot be added, and a message says so; sums and what was moved are said
#'   too.
#' @section Errors: `ochre_error_changes` when weights of a code do not add up to 1 or a change
#' stands twice (field `codes`);
#'   `ochre_error_column`; `ochre_error_argument`.
#' @examples
#' changes <- data.frame(
#'   from = c("11", "12", "13", "13"),
#'   to = c("20", "20", "21", "22"),
#'   weight = c(1, 1, 0.6, 0.4)
#' )
#' move_counts(
#'   data.frame(code = c("10", "11", "12", "13"), visits = c(5, 10, 20, 30)),
#'   code,
#'   changes,
#'   visits
#' )
#' @export
move_counts <- function(data, by, changes, counts, within = NULL) {
  refuse_missing(missing(changes), "changes", rlang::current_env())
  check_table(data, "data")
  by <- column_name(rlang::enquo(by), data, "by")
  counts <- column_names(rlang::enquo(counts), data, "counts")
  within <- column_names(rlang::enquo(within), data, "within", null = TRUE)
  for (column in counts) check_numeric(data, column, "counts")
  changes <- check_changes(changes)
  moves <- moved_rows(as_key(data[[by]]), changes)
  parts <- data[moves$row, c(within, counts), drop = FALSE]
  parts[[by]] <- moves$code
  group <- group_rows(parts, c(by, within))
  warn_lost_groups(sum(group$index < 0), c(by, within))
  index <- factor(ifelse(group$index < 0, NA, group$index + 1L), seq_along(group$first))
  out <- tibble::as_tibble(
    as.list(parts[group$first, c(by, within), drop = FALSE]),
    .name_repair = "unique_quiet"
  )
  for (column in counts) {
    out[[column]] <- rowsum_by(as.numeric(parts[[column]]) * moves$weight, index)
  }
  dropped <- setdiff(names(data), c(by, within, counts))
  told <- sprintf(
    "Moved counts of %s to %s.",
    count_words(moves$from, "code"),
    count_words(moves$to, "code")
  )
  lost <- if (length(dropped)) sprintf("Left out %s, which cannot be added.", list_words(dropped))
  ochre_tell(paste(c(told, lost), collapse = " "))
  out
}

# Each row once for each code that it goes to: `row`, `code` and `weight`; and how many codes `from`
# which and `to` which something moved.
moved_rows <- function(key, changes) {
  hits <- split(seq_len(nrow(changes)), factor(changes$from, unique(changes$from)))
  to <- match(key, names(hits))
  known <- !is.na(to)
  times <- ifelse(known, lengths(hits)[ifelse(known, to, 1)], 1L)
  row <- rep(seq_along(key), times)
  moved <- known[row]
  change <- rep(NA_integer_, length(row))
  change[moved] <- unlist(hits[to[known]], use.names = FALSE)
  code <- ifelse(moved, changes$to[change], key[row])
  list(
    row = row,
    code = code,
    weight = ifelse(moved, changes$weight[change], 1),
    from = length(unique(key[known])),
    to = length(unique(code[moved]))
  )
}

warn_lost_groups <- function(count, columns) {
  if (!count) return(invisible())
  ochre_warn("missing", "Left out {count_words(count, 'row')} without {list_words(columns)}.")
}

check_changes <- function(changes, call = rlang::caller_env()) {
  check_table(changes, "changes", call = call)
  check_column(changes, c("from", "to"), "changes", call = call)
  weighted <- "weight" %in% names(changes)
  out <- tibble::tibble(
    from = as_key(changes$from),
    to = as_key(changes$to),
    weight = if (weighted) check_counts(changes, "weight", "changes", call = call) else 1
  )
  if (anyNA(out)) {
    row <- which(!stats::complete.cases(out))[1]
    ochre_abort("changes", "`changes` has a missing value in row {row}.",
                "Each row needs `from` and `to`, and `weight` where there is that column.")
  }
  twice <- duplicated(out[c("from", "to")])
  if (any(twice)) {
    from <- out$from[twice]
    ochre_abort("changes",
                "`changes` names the change from `{from[1]}` to `{out$to[twice][1]}` twice.",
                codes = from)
  }
  check_shares(out, call)
  out
}

# The parts of a code are a whole.
check_shares <- function(changes, call) {
  sums <- rowsum(changes$weight, changes$from)[, 1]
  odd <- names(sums)[abs(sums - 1) > 1e-6]
  if (!length(odd)) return(invisible())
  others <- if (length(odd) > 1) {
    sprintf(" (and those of %s)", count_words(length(odd) - 1, "other code"))
  }
  ochre_abort(
    "changes",
    sprintf(
      "The weights of `%s` add up to %s, not to 1%s.", odd[1], format(sums[[odd[1]]]),
      others %||% ""
    ), "A split needs a `weight` for each part, such as its share of the people.", codes = odd
  )
}
