# Which rows have the same shape, by digests: a list of raw vectors is slow to compare.

# For each row the first with the same bytes (and group); rows without geometry are alone.
first_of_shape <- function(wkb, group = NULL) {
  key <- vapply(wkb, function(bytes) if (is.null(bytes)) "" else rlang::hash(bytes), "")
  none <- which(!nzchar(key))
  key[none] <- paste("none", none)
  if (!is.null(group)) key <- paste(key, group)
  match(key, key)
}
