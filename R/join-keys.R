# Which columns of two tables join best, found before anything is joined.

#' Find the key columns of two tables
#'
#' Compares every column that could be a key of the one table with every one of the other, as they
#' stand and tidied (see [join_statistics()]), and says which pairs find partners, best first.
#'
#' @param boundaries A tibble from [read_boundaries()], or any data frame.
#' @param statistics A data frame.
#' @param most How many pairs to give: one whole number.
#' @return A tibble of class `ochre_keys`, one row a pair: `boundaries` and `statistics`, the
#'   columns; `exact`, how many rows of the boundaries, whose key no other row has, find it as it
#'   stands, and `tidied`, how many after tidying; `areas`, the rows of the boundaries;
#'   `keys_share`, the share of the distinct keys of the statistics that find a row; `note`, what to
#'   know of the pair, or `NA`. No rows where nothing fits.
#' @section Errors: `ochre_error_argument`.
#' @examples
#' areas <- read_boundaries(ochre_demo("districts.geojson"))
#' visits <- read_statistics(ochre_demo("visits.csv"))
#' find_keys(areas, visits)
#' @export
find_keys <- function(boundaries, statistics, most = 5) {
  check_table(boundaries, "boundaries")
  check_table(statistics, "statistics")
  check_number(most, "most", min = 1, max = 1000, whole = TRUE)
  left <- key_candidates(boundaries)
  right <- key_candidates(statistics)
  left <- Filter(function(k) length(k$key) >= 0.6 * sum(k$rows), left)
  pairs <- unlist(lapply(left, function(a) lapply(right, function(b) key_pair(a, b))), FALSE)
  pairs <- Filter(Negate(is.null), pairs)
  out <- if (length(pairs)) do.call(rbind, unname(pairs)) else empty_pairs()
  out <- out[order(-out$score, -out$exact, -out$keys_share), ]
  # What is far behind the best is chance.
  out <- out[out$score >= 0.5 * max(out$score, 0) | !is.na(out$note), ]
  out <- utils::head(out[setdiff(names(out), "score")], most)
  structure(out, class = c("ochre_keys", class(out)))
}

# Columns that could be keys: their distinct `key`s, in how many `rows` each is, and those `tidy`.
key_candidates <- function(table) {
  found <- lapply(setdiff(names(table), "geometry"), function(column) {
    x <- table[[column]]
    whole <- is.numeric(x) && all_whole(x) && column_role(x, column) != "year"
    if (!(is.character(x) || is.factor(x) || whole)) return(NULL)
    key <- as_key(x)
    seen <- unique(key[!is.na(key)])
    rows <- count_keys(seen, key)
    missing <- is_missing_code(seen, rows)
    seen <- seen[!missing]
    if (length(seen) < 2) return(NULL)
    list(
      column = column,
      total = length(key),
      key = seen,
      rows = rows[!missing],
      tidy = tidy_key(tidy_words(seen)),
      bare = tidy_key(substring(seen, nchar(common_prefix(seen)) + 1)),
      sure = !is.numeric(x) || named_like_code(column)
    )
  })
  Filter(Negate(is.null), found)
}

empty_pairs <- function() {
  tibble::tibble(
    boundaries = character(), statistics = character(), exact = integer(), tidied = integer(),
    areas = integer(), keys_share = numeric(), note = character(), score = numeric()
  )
}

# A pair of columns; NULL where fewer than a tenth of the keys of either side find a partner.
key_pair <- function(a, b) {
  # A key of several rows has no partner of its own, so only keys that stand alone count.
  alone <- a$rows == 1
  exact <- a$key %in% b$key & alone
  # Also without letters that all codes of one side begin with, as the join does it.
  alike <- function(x, y) x$key %in% y$key | x$tidy %in% y$tidy | x$bare %in% y$bare
  tidied <- alike(a, b) & alone
  back <- alike(b, a)
  note <- level_note(a, b, tidied)
  if (sum(tidied) < 0.1 * min(length(a$key), length(b$key)) && is.na(note)) return(NULL)
  share <- sum(tidied) / a$total
  tibble::tibble(
    boundaries = a$column,
    statistics = b$column,
    exact = sum(exact),
    tidied = sum(tidied),
    areas = a$total,
    keys_share = mean(back),
    note = note,
    # Numbers that are not called codes may be counts that happen to be alike.
    score = share * sqrt(mean(back)) * if (a$sure && b$sure) 1 else 0.4
  )
}

# Codes of which the one begins with the other are of two levels.
level_note <- function(a, b, tidied) {
  if (mean(tidied) > 0.5) return(NA_character_)
  short <- function(x) if (length(unique(nchar(x))) == 1) nchar(x[1]) else NA
  long_a <- short(a$key)
  long_b <- short(b$key)
  coded <- function(x) all(grepl("[0-9]", x))
  if (is.na(long_a) || is.na(long_b) || !coded(a$key) || !coded(b$key)) return(NA_character_)
  if (long_a > long_b && mean(substr(a$key, 1, long_b) %in% b$key) > 0.8) {
    return(sprintf(
      "the areas' codes begin with those of the statistics: cut_code(first = %d)", long_b
    ))
  }
  if (long_b > long_a && mean(substr(b$key, 1, long_a) %in% a$key) > 0.8) {
    return(sprintf(
      "the codes of the statistics begin with the areas': cut_code(first = %d), then sum_areas()",
      long_a
    ))
  }
  NA_character_
}

# What stands for "no code" in a file: rows of nines below zero, and marks that repeat.
is_missing_code <- function(key, rows) {
  mark <- key %in% c(missing_marks, "--", "?", "none", "None", "0", "unknown")
  grepl("^-9+$", key) | (mark & rows > 1)
}

# The pair that would match most areas, where it matches most of them; NULL where none does.
best_pair <- function(boundaries, statistics) {
  found <- find_keys(boundaries, statistics, most = 1)
  if (nrow(found) && found$tidied > 0.6 * found$areas) found
}

by_words <- function(pair) {
  if (pair$boundaries == pair$statistics) return(sprintf("by = \"%s\"", pair$boundaries))
  plain <- grepl("^[[:alpha:].][[:alnum:]._]*$", pair$boundaries)
  name <- if (plain) pair$boundaries else sprintf("`%s`", pair$boundaries)
  sprintf("by = c(%s = \"%s\")", name, pair$statistics)
}

#' @export
format.ochre_keys <- function(x, ...) {
  if (!nrow(x)) return("No two columns have keys in common.")
  by <- vapply(seq_len(nrow(x)), function(i) by_words(x[i, ]), "")
  tidied <- ifelse(
    x$tidied > x$exact,
    sprintf(", %s of them as they stand, the rest tidied", format(x$exact, trim = TRUE)),
    ""
  )
  found <- sprintf(
    "  %s  %s of %s%s",
    format(by),
    format(x$tidied, big.mark = ",", trim = TRUE),
    vapply(x$areas, count_words, "", "row"),
    tidied
  )
  found <- paste0(found, ifelse(is.na(x$note), "", paste0("; ", x$note)))
  c("Columns that join, best first:", found)
}

#' @export
print.ochre_keys <- function(x, ...) {
  cat(format(x), sep = "\n")
  invisible(x)
}
