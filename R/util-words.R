# Words of messages: lists, counts, names in words, the word that was probably meant.

strip_period <- function(x) sub("\\.$", "", x)

sentence <- function(x) paste0(upper_case(substr(x, 1, 1)), substring(x, 2))

# While the caller runs, numbers in files do not depend on the session's options.
plain_numbers <- function(frame = rlang::caller_env()) {
  rlang::local_options(OutDec = ".", scipen = 0, digits = 7, .frame = frame)
}

# Case conversion and case-insensitive patterns by English rules: R's own depend on the session's
# language, and in Turkish the lower case of "I" is not "i".
lower_case <- function(x) stringi::stri_trans_tolower(x, locale = "en")
upper_case <- function(x) stringi::stri_trans_toupper(x, locale = "en")
has_pattern <- function(x, pattern) {
  stringi::stri_detect_regex(x, pattern, case_insensitive = TRUE) %in% TRUE
}

# Alphabetical order, the same on every machine; numbers within words by their value.
sort_words <- function(x) stringi::stri_sort(x, locale = "en", numeric = TRUE)

# "`a`, `b` and 3 more"
words_named <- 5
list_words <- function(x, most = words_named, mark = "`") {
  shown <- paste0(mark, utils::head(x, most), mark)
  if (length(x) > most) {
    return(paste0(paste(shown, collapse = ", "), " and ", length(x) - most, " more"))
  }
  if (length(x) < 2) return(shown)
  paste0(paste(shown[-length(shown)], collapse = ", "), " and ", shown[length(shown)])
}

count_words <- function(n, one, many = paste0(one, "s")) {
  paste(format(n, big.mark = ",", trim = TRUE), if (n == 1) one else many)
}

# At most so many letters, the last one an ellipsis where some are left out.
shorten <- function(text, most = 60) {
  ifelse(nchar(text) > most, paste0(substr(text, 1, most - 1), "\u2026"), text)
}

# The known word nearest to one that is not known, or NULL when none is near.
nearest_word <- function(word, known) {
  if (!length(known) || length(word) != 1 || is.na(word) || !nzchar(word)) return(NULL)
  distance <- count_edits(lower_case(word), lower_case(known))
  inside <- startsWith(lower_case(known), lower_case(word)) & nchar(word) >= 3
  distance[inside] <- pmin(distance[inside], 1)
  best <- which.min(distance)
  if (distance[best] <= nchar(word) %/% 3) known[best] else NULL
}

# Edits and swaps of neighbours between texts, letter by letter whatever the session's letters are.
count_edits <- function(a, b) {
  letters_of <- function(x) stringi::stri_enc_toutf32(stringi::stri_enc_toutf8(x, validate = TRUE))
  far <- stringdist::seq_dist(letters_of(a), letters_of(b), method = "osa")
  far[is.na(a) | is.na(b)] <- NA
  far
}

words_of <- function(column) sentence(gsub("[_.]+", " ", column))

size_words <- function(bytes) {
  unit <- c("bytes", "kB", "MB", "GB")
  k <- min(3, max(0, floor(log10(max(bytes, 1)) / 3)))
  paste(format(signif(bytes / 1000^k, 3), trim = TRUE, drop0trailing = TRUE), unit[k + 1])
}
