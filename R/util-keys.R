# Keys of rows as texts, one way everywhere.

# Whole numbers are written out in full: 100000, not 1e+05.
as_key <- function(x) {
  if (is.numeric(x) && is.null(attr(x, "class"))) {
    key <- if (is.integer(x)) {
      sprintf("%d", x)
    } else if (all_whole(x[!is.na(x)])) {
      sprintf("%.0f", x)
    } else {
      trimws(formatC(as.numeric(x), format = "fg", digits = 15, width = 1, decimal.mark = "."))
    }
    key[is.na(x)] <- NA
    return(key)
  }
  key <- enc2utf8(as.character(x))
  if (!all(nzchar(key))) key[!nzchar(key)] <- NA
  key
}

key_of <- function(table, columns, tidy = TRUE) {
  # Only keys without a partner are looked at for their encoding; most long tables have none.
  if (!tidy && length(columns) == 1 && is.character(table[[columns]])) return(table[[columns]])
  keys <- lapply(columns, function(column) as_key(table[[column]]))
  if (length(keys) == 1) return(keys[[1]])
  lost <- Reduce(`|`, lapply(keys, is.na))
  out <- do.call(paste, c(keys, sep = key_mark))
  out[lost] <- NA
  out
}

shown_key <- function(key) gsub(key_mark, " / ", key, fixed = TRUE)

# Several key columns as one text; the mark between them occurs in no file.
key_mark <- "\u001f"
