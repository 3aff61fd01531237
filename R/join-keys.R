# Keys that mean the same but are written differently.

# Without case, accents, spacing, punctuation and leading zeros.
tidy_key <- function(key) {
  key <- stringi::stri_trans_general(key, "Any-Latin; Latin-ASCII; Lower")
  key <- stringi::stri_replace_all_regex(key, "[^a-z0-9]+", "")
  sub("^0+(?=.)", "", key, perl = TRUE)
}

# Fills partners in where the tidied key is the only one on both sides.
match_tidied <- function(left, right, partner) {
  open_left <- which(is.na(partner) & !is.na(left))
  open_right <- setdiff(which(!is.na(right)), partner)
  a <- tidy_key(left[open_left])
  b <- tidy_key(right[open_right])
  only <- function(x) !x %in% x[duplicated(x)] & nzchar(x)
  at <- match(a, b)
  good <- !is.na(at) & only(a) & only(b)[ifelse(is.na(at), 1, at)]
  partner[open_left[good]] <- open_right[at[good]]
  partner
}

# For each key the likeliest partner among `known`, and why: a tibble with `suggestion` and
# `reason`, both NA where nothing is near.
suggest_partner <- function(key, known) {
  out <- tibble::tibble(suggestion = rep(NA_character_, length(key)), reason = NA_character_)
  known <- known[!is.na(known)]
  if (!length(known) || !length(key)) return(out)
  plain <- function(x) stringi::stri_trans_general(x, "Any-Latin; Latin-ASCII")
  rules <- list(
    "leading zeros" = function(x) sub("^0+(?=.)", "", x, perl = TRUE),
    "case" = tolower,
    "accents" = plain,
    "spacing or punctuation" = function(x) stringi::stri_replace_all_regex(x, "[^\\p{L}\\p{N}]+", ""),
    "case, accents, spacing or zeros" = tidy_key
  )
  for (reason in names(rules)) {
    open <- which(is.na(out$suggestion) & !is.na(key))
    at <- match(rules[[reason]](key[open]), rules[[reason]](known))
    hit <- !is.na(at)
    out$suggestion[open[hit]] <- known[at[hit]]
    out$reason[open[hit]] <- reason
  }
  open <- which(is.na(out$suggestion) & !is.na(key) & grepl("[[:alpha:]]", key))
  if (length(open)) {
    tidy <- tidy_key(key[open])
    near <- stringdist::amatch(tidy, tidy_key(known), method = "osa", maxDist = max(1, max(nchar(tidy)) %/% 4))
    far <- stringdist::stringdist(tidy, tidy_key(known)[near], method = "osa")
    hit <- !is.na(near) & far <= pmax(1, nchar(tidy) %/% 4)
    out$suggestion[open[hit]] <- known[near[hit]]
    out$reason[open[hit]] <- "near spelling"
  }
  out
}
