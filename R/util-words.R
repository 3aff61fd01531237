# Words of messages: lists, counts, names in words, the word that was probably meant.

strip_period <- function(x) sub("\\.$", "", x)

sentence <- function(x) paste0(toupper(substr(x, 1, 1)), substring(x, 2))

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
  distance <- stringdist::stringdist(tolower(word), tolower(known), method = "osa")
  inside <- startsWith(tolower(known), tolower(word)) & nchar(word) >= 3
  distance[inside] <- pmin(distance[inside], 1)
  best <- which.min(distance)
  if (distance[best] <= nchar(word) %/% 3) known[best] else NULL
}

words_of <- function(column) sentence(gsub("[_.]+", " ", column))
