# Likely partners of keys without one: for the audit to name, and for a table that a person
# confirms. Nothing here matches anything.

# For each key the likeliest partner among `known`, and why: a tibble with `suggestion` and
# `reason`, both NA where nothing is near. `words` also compares names word by word.
suggest_partner <- function(key, known, words = TRUE) {
  out <- tibble::tibble(suggestion = rep(NA_character_, length(key)), reason = NA_character_)
  known <- known[!is.na(known)]
  if (!length(known) || !length(key)) return(out)
  # A key with letters and one without are never the same.
  letters <- grepl("[[:alpha:]]", key)
  lettered <- grepl("[[:alpha:]]", known)
  for (reason in names(suggest_rules)) {
    for (with in c(TRUE, FALSE)) {
      open <- which(is.na(out$suggestion) & !is.na(key) & letters == with)
      among <- known[lettered == with]
      if (!length(open) || !length(among)) next
      at <- match(suggest_rules[[reason]](key[open]), suggest_rules[[reason]](among))
      hit <- !is.na(at)
      out$suggestion[open[hit]] <- among[at[hit]]
      out$reason[open[hit]] <- reason
    }
  }
  still <- function() which(is.na(out$suggestion) & !is.na(key) & letters)
  if (words) {
    open <- still()
    free <- setdiff(known[lettered], out$suggestion)
    found <- partner_by_words(key[open], free)
    out$suggestion[open] <- free[found$at]
    out$reason[open] <- found$reason
  }
  open <- still()
  near <- nearest_keys(key[open], setdiff(known[lettered], out$suggestion))
  out$suggestion[open] <- near
  out$reason[open[!is.na(near)]] <- "near spelling"
  out
}

suggest_rules <- list(
  "leading zeros" = function(x) sub("^0+(?=.)", "", x, perl = TRUE),
  "case" = function(key) lower_case(key),
  "accents" = function(x) stringi::stri_trans_general(x, "Any-Latin; Latin-ASCII"),
  "spacing or punctuation" = function(x) {
    stringi::stri_replace_all_regex(x, "[^\\p{L}\\p{N}\u001f]+", "")
  },
  "case, accents, spacing or zeros" = function(x) tidy_key(x),
  "and, saint or word order" = function(x) tidy_words(x)
)

# Why two keys were taken as one; NA when no rule says.
suggest_pairs <- function(a, b) {
  out <- rep(NA_character_, length(a))
  for (reason in names(suggest_rules)) {
    out[is.na(out) & suggest_rules[[reason]](a) == suggest_rules[[reason]](b)] <- reason
  }
  out
}

# The nearest spelling by edits and swaps of neighbours, up to a quarter of the letters, where no
# other is as near. Only keys that share three letters in a row are compared, and no more than
# `most` pairs for each key. Short codes differ by one letter from many others, so they have none.
nearest_keys <- function(key, known, most = 400) {
  out <- rep(NA_character_, length(key))
  if (!length(key) || !length(known)) return(out)
  a <- tidy_key(key)
  b <- tidy_key(known)
  pairs <- sharing_pairs(a, b, most)
  far <- count_edits(a[pairs$a], b[pairs$b])
  code <- function(x) grepl("^[[:upper:][:digit:]]{1,5}$", x)
  near <- far <= pmax(1, nchar(a[pairs$a]) %/% 4) &
    !(code(key)[pairs$a] & code(known)[pairs$b]) &
    telling_of(key)[pairs$a] == telling_of(known)[pairs$b]
  best <- only_best(data.frame(a = pairs$a, b = pairs$b, rank = far)[near, ])
  out[best$a] <- known[best$b]
  out
}

# Pairs of texts that share parts of three letters; of too many those that share the most.
sharing_pairs <- function(a, b, most) {
  parts <- function(x) {
    padded <- paste0("^", x, "$")
    n <- pmax(nchar(padded) - 2L, 1L)
    at <- sequence(n)
    i <- rep(seq_along(x), n)
    part <- substring(rep(padded, n), at, at + 2L)
    number <- match(part, unique(part))
    once <- !duplicated((number - 1) * length(x) + i)
    data.frame(i = i[once], part = part[once])
  }
  pa <- parts(a)
  pb <- parts(b)
  group <- split(pb$i, pb$part)
  # A part that a large share of names has says nothing.
  group <- group[lengths(group) <= max(50, length(b) %/% 20)]
  pa <- pa[pa$part %in% names(group), ]
  hits <- group[pa$part]
  pairs <- data.frame(a = rep(pa$i, lengths(hits)), b = unlist(hits, use.names = FALSE))
  if (!nrow(pairs)) return(list(a = integer(), b = integer()))
  id <- (pairs$a - 1) * length(b) + pairs$b
  counted <- rle(sort(id))
  i <- as.integer((counted$values - 1) %/% length(b) + 1)
  order <- order(i, -counted$lengths)
  rank <- sequence(rle(i[order])$lengths)
  chosen <- order[rank <= most]
  list(a = i[chosen], b = as.integer((counted$values[chosen] - 1) %% length(b) + 1))
}

# Partners by another text column of the boundaries, among its rows `free`: `row` and `reason`.
suggest_by_columns <- function(keys, boundaries, free, own) {
  out <- tibble::tibble(row = rep(NA_integer_, length(keys)), reason = NA_character_)
  for (column in other_texts(boundaries, own)) {
    open <- which(is.na(out$row) & !is.na(keys))
    free <- setdiff(free, out$row)
    if (!length(open) || !length(free)) break
    known <- as_key(boundaries[[column]])[free]
    found <- suggest_partner(keys[open], known[!known %in% known[duplicated(known)]])
    hit <- which(!is.na(found$suggestion) & found$reason != "near spelling")
    at <- free[match(found$suggestion[hit], known)]
    once <- !at %in% at[duplicated(at)]
    out$row[open[hit[once]]] <- at[once]
    out$reason[open[hit[once]]] <- sprintf("by `%s`", column)
  }
  out
}

# Other columns of texts that name each row nearly once.
other_texts <- function(table, own) {
  texts <- setdiff(names(table), c("geometry", own))
  texts <- texts[vapply(table[texts], is.character, NA)]
  telling <- function(x) length(unique(x[!is.na(x)])) > 0.9 * length(x)
  texts[vapply(table[texts], telling, NA)]
}

#' Suggest partners for keys that have none
#'
#' Makes the table that [join_statistics()] takes as `aliases`: edit it, write `yes` in the column
#' `confirmed` where a suggestion is right (or put the right key into `boundaries`), `left out` for
#' a key that has no area on purpose, and pass it back. The command `ochre suggest` writes it as
#' CSV.
#'
#' @inheritParams join_statistics
#' @return A tibble with one row for each key of the statistics without a partner: `statistics`
#'   and `boundaries` (the two keys as text, the second `NA` where nothing is near), `confirmed`
#'   (`NA`), `similarity` (share of letters that stay, from 0 to 1), `reason`, `rows` (how many
#'   rows have the key) and `free`, whether the suggested area has no partner yet.
#' @section Errors: Those of [join_statistics()].
#' @examples
#' areas <- read_boundaries(ochre_demo("districts.geojson"))
#' beds <- data.frame(district = c("Ilmathwenn", "Port Peluminmar"), beds = c(12, 60))
#' suggest_matches(areas, beds, by = c(name = "district"))
#' @export
suggest_matches <- function(boundaries, statistics, by, match = "tidied", aliases = NULL) {
  refuse_missing(missing(by), "by", rlang::current_env())
  check_table(boundaries, "boundaries")
  check_table(statistics, "statistics", lazy = TRUE)
  statistics <- fetch_lazy(statistics)
  by <- key_columns(rlang::enquo(by), boundaries, statistics)
  check_choice(match, c("exact", "tidied"), "match")
  left <- parts_of(key_of(boundaries, by$boundaries))$first
  right <- key_of(statistics, by$statistics)
  found <- find_partners(left, right, match, check_aliases(aliases))
  alone <- setdiff(found$alone[!is.na(right[found$alone])], found$left_out)
  keys <- unique(right[alone])
  free <- which(is.na(found$stage))
  suggested <- suggest_free(keys, left[free], left[!is.na(found$stage)])
  open <- is.na(suggested$suggestion) | grepl("already$", suggested$reason)
  others <- suggest_by_columns(keys[open], boundaries, free, by$boundaries)
  others$suggestion <- left[others$row]
  better <- !is.na(others$row) & !others$suggestion %in% suggested$suggestion
  suggested[which(open)[better], ] <- others[better, c("suggestion", "reason")]
  a <- tidy_words(keys)
  b <- tidy_words(suggested$suggestion)
  tibble::tibble(
    statistics = shown_key(keys),
    boundaries = shown_key(suggested$suggestion),
    confirmed = NA_character_,
    similarity = round(1 - count_edits(a, b) / pmax(nchar(a), nchar(b), 1), 2),
    reason = suggested$reason,
    rows = count_keys(keys, right[alone]),
    free = is.na(found$stage)[match(suggested$suggestion, left)]
  )
}
