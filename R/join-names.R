# Likely partners of names by their words: abbreviated words, words that one side adds, one word in
# two forms. Nothing here matches anything.

# Words that say nothing about which place is meant.
filler_words <- c(
  "the", "of", "and", "a", "an", "la", "le", "les", "l", "el", "los", "las", "de", "del", "della",
  "di", "da", "do", "dos", "du", "des", "d", "et", "y", "e", "der", "die", "das", "den", "und",
  "von", "i", "w", "z"
)

# Words that tell one place from another of the same name: never just left out.
telling_words <- c(
  "north", "south", "east", "west", "northern", "southern", "eastern", "western", "upper",
  "lower", "new", "old", "great", "greater", "little", "inner", "outer", "central", "middle",
  "nord", "sud", "est", "ouest", "ober", "unter", "neu", "norte", "sur", "este", "oeste", "nova",
  "nuevo", "nueva", "nouveau", "nouvelle", "haut", "haute", "bas", "basse", "excluding", "other",
  "rest", "without"
)

# Those of each name, as one text.
telling_of <- function(name) {
  words <- stringi::stri_extract_all_words(plain_key(name))
  of <- rep(seq_along(words), lengths(words))
  words <- as.character(unlist(words))
  told <- words %in% telling_words
  out <- rep("", length(name))
  each <- split(words[told], of[told])
  sorted <- function(w) paste(sort(w, method = "radix"), collapse = " ")
  out[as.integer(names(each))] <- vapply(each, sorted, "")
  out
}

# How sure each way is, the surest first.
word_reasons <- c(
  "the same words", "abbreviated words", "a name within the other", "another form of a word"
)

# For each key the position among `known` of the only likely partner, `at`, and why, `reason`.
partner_by_words <- function(key, known) {
  out <- list(at = rep(NA_integer_, length(key)), reason = rep(NA_character_, length(key)))
  a <- name_words(key)
  b <- name_words(known)
  pairs <- pairs_by_words(a, b)
  if (!length(pairs$a)) return(out)
  found <- Map(function(i, j) compare_names(a[[i]], b[[j]]), pairs$a, pairs$b)
  rank <- vapply(found, `[[`, 0, "rank")
  keep <- is.finite(rank)
  pairs <- data.frame(a = pairs$a, b = pairs$b, rank = rank)[keep, ]
  # The surest way first; who has a partner by it is out for the others.
  for (way in seq_along(word_reasons)) {
    open <- is.na(out$at[pairs$a]) & !pairs$b %in% out$at
    now <- only_best(pairs[open & floor(pairs$rank) == way, ])
    out$at[now$a] <- now$b
    out$reason[now$a] <- word_reasons[way]
  }
  out
}

# Pairs of which each is the other's single best.
only_best <- function(pairs) {
  if (!nrow(pairs)) return(pairs)
  best <- function(side) {
    least <- stats::ave(pairs$rank, pairs[[side]], FUN = min)
    at_best <- pairs$rank == least
    at_best & stats::ave(as.numeric(at_best), pairs[[side]], FUN = sum) == 1
  }
  pairs[best("a") & best("b"), ]
}

# Of each name its words, and which of them a period marks as abbreviated.
name_words <- function(name) {
  text <- stringi::stri_replace_all_regex(plain_key(name), "\u001f|&", " ")
  text <- stringi::stri_replace_all_regex(text, "(?<=\\b[a-z])[.](?=[a-z]\\b)", "")
  found <- stringi::stri_extract_all_regex(text, "[a-z0-9]+[.]?", omit_no_match = TRUE)
  lapply(found, function(words) {
    short <- endsWith(words, ".")
    words <- sub(".", "", words, fixed = TRUE)
    keep <- !words %in% filler_words
    if (!any(keep)) keep[] <- TRUE
    list(words = words[keep], short = short[keep])
  })
}

# Pairs of names with a word that begins alike; of too many those that share the most.
pairs_by_words <- function(a, b, most = 30) {
  starts <- function(names) {
    n <- lengths(lapply(names, `[[`, "words"))
    words <- unlist(lapply(names, `[[`, "words"), use.names = FALSE)
    unique(data.frame(i = rep(seq_along(names), n), start = substr(words, 1, 3)))
  }
  pa <- starts(a)
  pb <- starts(b)
  group <- split(pb$i, pb$start)
  group <- group[lengths(group) <= max(50, length(b) %/% 10)]
  pa <- pa[pa$start %in% names(group), ]
  if (!nrow(pa)) return(list(a = integer(), b = integer()))
  hits <- group[pa$start]
  pairs <- data.frame(a = rep(pa$i, lengths(hits)), b = unlist(hits, use.names = FALSE))
  id <- rle(sort((pairs$a - 1) * length(b) + pairs$b))
  i <- as.integer((id$values - 1) %/% length(b) + 1)
  order <- order(i, -id$lengths)
  chosen <- order[sequence(rle(i[order])$lengths) <= most]
  list(a = i[chosen], b = as.integer((id$values[chosen] - 1) %% length(b) + 1))
}

# How two names go together: the way as a whole number, as in word_reasons, and a fraction for the
# words left over; Inf where they do not.
compare_names <- function(a, b) {
  no <- list(rank = Inf)
  if (length(a$words) > length(b$words)) {
    swap <- a
    a <- b
    b <- swap
  }
  left <- rep(TRUE, length(b$words))
  way <- 1
  for (i in seq_along(a$words)) {
    kinds <- word_kind(a$words[i], a$short[i], b$words, b$short)
    kinds[!left] <- Inf
    best <- which.min(kinds)
    if (!is.finite(kinds[best])) return(no)
    left[best] <- FALSE
    way <- max(way, kinds[best])
  }
  extra <- b$words[left]
  if (any(extra %in% telling_words) || any(grepl("[0-9]", extra))) return(no)
  if (any(b$short[left] & nchar(extra) == 1)) return(no)
  # What is left over must be less than what both have, or stand after it.
  if (length(extra) && left[1] && length(extra) > length(a$words)) return(no)
  if (length(extra)) way <- max(way, 3)
  # A letter more or less is a spelling.
  if (way == 4 && !length(extra) && abs(sum(nchar(a$words)) - sum(nchar(b$words))) < 2) return(no)
  list(rank = way + length(extra) / 100)
}

# For a word and each of several: 1 the same, 2 one is short for the other, 4 two forms of one
# word, Inf neither.
word_kind <- function(word, short, others, others_short) {
  n <- nchar(word)
  m <- nchar(others)
  starts <- startsWith(others, word) | startsWith(rep(word, length(others)), others)
  shorter <- ifelse(n < m, short, others_short)
  least <- pmin(n, m)
  kind <- rep(Inf, length(others))
  kind[starts & (least >= 4 | (least == 3 & abs(n - m) == 1))] <- 4
  kind[starts & shorter] <- 2
  ends <- substr(word, n, n) == substring(others, m) & substr(word, 1, 1) == substr(others, 1, 1)
  kind[ends & shorter & least <= 3] <- 2
  kind[others == word] <- 1
  kind
}
