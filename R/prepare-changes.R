# Counts by codes that are no longer in use, carried over to those that are.

#' Carry counts over to new codes
#'
#' After mergers and splits of areas last year's table has other codes than this year's boundaries. A table of
#' changes says which code became which: a merger has several rows with one `to`, a split several with
#' one `from`, whose weights say how its counts are shared out.
#'
#' @param data A data frame with the old codes.
#' @param by Column of the codes, bare or as text.
#' @param changes A data frame with columns `from`, `to` and, where something was split, `weight`: a fraction; those of
#'   one `from` add up to 1. Codes that it does not name stay as they are. Changes are made once, all at the same time.
#' @param counts Names of the columns of counts: a character vector; numeric.
#' @param within Columns in which codes stand once, such as a period or age group: a character vector; `NULL` (default) for none.
#' @return A tibble with one row for each new code (and value of `within`): `by`, `within`, and `counts` (double). Where one of the
#'   parts is missing, so is the sum. Other columns are left out, because they cannot be added, and a message says so; sums and what was
#'   moved are said too.
#' @section Errors: `ochre_error_changes` when weights of a code do not add up to 1 or a change stands twice (field `codes`);
#'   `ochre_error_column`; `ochre_error_argument`.
#' @examples
#' changes <- data.frame(from = c("11", "12", "13", "13"), to = c("20", "20", "21", "22"), weight = c(1, 1, 0.6, 0.4))
#' move_counts(data.frame(code = c("10", "11", "12", "13"), visits = c(5, 10, 20, 30)), code, changes, "visits")
#' @export
move_counts <- function(data, by, changes, counts, within = NULL) {
  check_table(data, "data")
  by <- column_name(rlang::enquo(by), data, "by")
  counts <- unlist(counts)
  within <- unlist(within)
  check_column(data, c(counts, within), "counts")
  for (column in counts) check_numeric(data, column, "counts")
  changes <- check_changes(changes)
  key <- as_key(data[[by]])
  hits <- split(seq_len(nrow(changes)), factor(changes$from, unique(changes$from)))
  to <- match(key, names(hits))
  times <- ifelse(is.na(to), 1L, lengths(hits)[ifelse(is.na(to), 1, to)])
  row <- rep(seq_along(key), times)
  change <- rep(NA_integer_, length(row))
  moved <- !is.na(to)[row]
  change[moved] <- unlist(hits[to[!is.na(to)]], use.names = FALSE)
  parts <- data[row, c(within, counts), drop = FALSE]
  code <- ifelse(moved, changes$to[change], key[row])
  weight <- ifelse(moved, changes$weight[change], 1)
  parts[[by]] <- code
  group <- group_rows(parts, c(by, within))
  if (any(group$index < 0)) ochre_warn("missing", sprintf("Left out %s without %s.", count_words(sum(group$index < 0), "row"), list_words(c(by, within))))
  index <- factor(ifelse(group$index < 0, NA, group$index + 1L), seq_along(group$first))
  out <- tibble::as_tibble(as.list(parts[group$first, c(by, within), drop = FALSE]), .name_repair = "unique_quiet")
  for (column in counts) out[[column]] <- rowsum_by(as.numeric(parts[[column]]) * weight, index)
  dropped <- setdiff(names(data), c(by, within, counts))
  ochre_tell(paste(c(sprintf("Moved counts of %s to %s.", count_words(length(unique(key[!is.na(to)])), "code"), count_words(length(unique(code[moved])), "code")),
                     if (length(dropped)) sprintf("Left out %s, which cannot be added.", list_words(dropped))), collapse = " "))
  out
}

check_changes <- function(changes, call = rlang::caller_env()) {
  check_table(changes, "changes", call = call)
  check_column(changes, c("from", "to"), "changes", call = call)
  out <- tibble::tibble(from = as_key(changes$from), to = as_key(changes$to), weight = if ("weight" %in% names(changes)) check_counts(changes, "weight", "changes", call = call) else 1)
  if (anyNA(out)) ochre_abort("changes", sprintf("`changes` has a missing value in row %d.", which(!stats::complete.cases(out))[1]), "Each row needs `from` and `to`, and `weight` where there is that column.", call = call)
  twice <- duplicated(out[c("from", "to")])
  if (any(twice)) ochre_abort("changes", sprintf("`changes` names the change from `%s` to `%s` twice.", out$from[twice][1], out$to[twice][1]), codes = out$from[twice], call = call)
  sums <- rowsum(out$weight, out$from)[, 1]
  odd <- names(sums)[abs(sums - 1) > 1e-6]
  if (length(odd)) {
    ochre_abort("changes", sprintf("The weights of `%s` add up to %s, not to 1%s.", odd[1], format(sums[[odd[1]]]), if (length(odd) > 1) sprintf(" (and those of %s)", count_words(length(odd) - 1, "other code")) else ""),
                "A split needs a `weight` for each part, such as its share of the people.", codes = odd, call = call)
  }
  out
}
