# Likely partners of keys without one: for the audit to name, and for a table that a person
# confirms. Nothing here matches anything.

# For each key the likeliest partner among `known`, and why: a tibble with `suggestion` and
# `reason`, both NA where nothing is near.
suggest_partner <- function(key, known) {
  out <- tibble::tibble(suggestion = rep(NA_character_, length(key)), reason = NA_character_)
  known <- known[!is.na(known)]
  if (!length(known) || !length(key)) return(out)
  # A key with letters and one without are never the same.
  letters <- grepl("[[:alpha:]]", key)
  lettered <- grepl("[[:alpha:]]", known)
  for (reason in names(suggest_rules)) for (with in c(TRUE, FALSE)) {
    open <- which(is.na(out$suggestion) & !is.na(key) & letters == with)
    among <- known[lettered == with]
    if (!length(open) || !length(among)) next
    at <- match(suggest_rules[[reason]](key[open]), suggest_rules[[reason]](among))
    hit <- !is.na(at)
    out$suggestion[open[hit]] <- among[at[hit]]
    out$reason[open[hit]] <- reason
  }
  open <- which(is.na(out$suggestion) & !is.na(key) & letters)
  near <- nearest_keys(key[open], known[lettered])
  out$suggestion[open] <- near
  out$reason[open[!is.na(near)]] <- "near spelling"
  out
}

suggest_rules <- list(
  "leading zeros" = function(x) sub("^0+(?=.)", "", x, perl = TRUE),
  "case" = tolower,
  "accents" = function(x) stringi::stri_trans_general(x, "Any-Latin; Latin-ASCII"),
  "spacing or punctuation" = function(x) stringi::stri_replace_all_regex(x, "[^\\p{L}\\p{N}\u001f]+", ""),
  "case, accents, spacing or zeros" = function(x) tidy_key(x),
  "and, saint or word order" = function(x) tidy_words(x)
)

# Why two keys were taken as one; NA when no rule says.
suggest_pairs <- function(a, b) {
  out <- rep(NA_character_, length(a))
  for (reason in names(suggest_rules)) out[is.na(out) & suggest_rules[[reason]](a) == suggest_rules[[reason]](b)] <- reason
  out
}

# The nearest spelling by edits and swaps of neighbours, up to a quarter of the letters. Only keys that share
# three letters in a row are compared, and no more than `most` pairs for each key.
nearest_keys <- function(key, known, most = 400) {
  out <- rep(NA_character_, length(key))
  if (!length(key) || !length(known)) return(out)
  a <- tidy_key(key)
  b <- tidy_key(known)
  pairs <- sharing_pairs(a, b, most)
  far <- stringdist::stringdist(a[pairs$a], b[pairs$b], method = "osa")
  near <- far <= pmax(1, nchar(a[pairs$a]) %/% 4)
  order <- order(pairs$a[near], far[near], pairs$b[near])
  best <- which(near)[order]
  best <- best[!duplicated(pairs$a[best])]
  out[pairs$a[best]] <- known[pairs$b[best]]
  out
}

# Pairs of texts that share parts of three letters; of too many those that share the most.
sharing_pairs <- function(a, b, most) {
  parts <- function(x) {
    padded <- paste0("^", x, "$")
    n <- pmax(nchar(padded) - 2L, 1L)
    at <- sequence(n)
    unique(data.frame(i = rep(seq_along(x), n), part = substring(rep(padded, n), at, at + 2L)))
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

#' Suggest partners for keys that have none
#'
#' Makes the table that [join_statistics()] takes as `aliases`: edit it, write `yes` in the column
#' `confirmed` where a suggestion is right (or put the right key into `boundaries`), `left out` for
#' a key that has no area on purpose, and pass it back. The command `ochre suggest` writes it as
#' CSV.
#'
#' @inheritParams join_statistics
#' @return A tibble with one row for each key of the statistics without a partner: `statistics` and `boundaries` (the two keys as
#'   text, the second `NA` where nothing is near), `confirmed` (`NA`), `similarity` (share of letters that stay, from 0 to
#'   1), `reason`, `rows` (how many rows have the key) and `free`, whether the suggested area has no partner yet.
#' @section Errors: Those of [join_statistics()].
#' @examples
#' areas <- read_boundaries(ochre_demo("districts.geojson"))
#' beds <- data.frame(district = c("Ilmathwenn", "Port Peluminmar"), beds = c(12, 60))
#' suggest_matches(areas, beds, by = c(name = "district"))
#' @export
suggest_matches <- function(boundaries, statistics, by, match = "tidied", aliases = NULL) {
  check_table(boundaries, "boundaries")
  check_table(statistics, "statistics", lazy = TRUE)
  statistics <- fetch_lazy(statistics)
  by <- check_by(by, boundaries, statistics)
  check_choice(match, c("exact", "tidied"), "match")
  left <- key_of(boundaries, by$boundaries)
  right <- key_of(statistics, by$statistics)
  found <- find_partners(left, right, match, check_aliases(aliases))
  alone <- setdiff(found$alone[!is.na(right[found$alone])], found$left_out)
  keys <- unique(right[alone])
  suggested <- suggest_free(keys, left[is.na(found$stage)], left[!is.na(found$stage)])
  a <- tidy_words(keys)
  b <- tidy_words(suggested$suggestion)
  tibble::tibble(
    statistics = shown_key(keys), boundaries = shown_key(suggested$suggestion), confirmed = NA_character_,
    similarity = round(1 - stringdist::stringdist(a, b, method = "osa") / pmax(nchar(a), nchar(b), 1), 2), reason = suggested$reason, rows = count_keys(keys, right[alone]),
    free = is.na(found$stage)[match(suggested$suggestion, left)]
  )
}
