# What a map shows in words, for those who do not see it: title, each variable's range with where it lies, and
# how many areas have no data. The sheet's own text takes its place.

describe_map <- function(sheet, layers) {
  if (!is.null(sheet$alt)) return(sheet$alt)
  words <- wording$now
  parts <- vapply(layers, function(layer) {
    f <- layer$facts
    if (is.null(f)) return("")
    lost <- if (!is.null(layer$no_data) && layer$no_data$count > 0) sprintf(words$alt_lost, layer$no_data$count_label, format_number(sum(lengths(lapply(layer$panels %||% list(layer), function(p) p$class))), 0))
    paste(c(f, lost), collapse = " ")
  }, "")
  paste(c(sprintf(words$alt_map, strip_period(sheet$title)), if (!is.null(sheet$subtitle)) paste0(strip_period(sheet$subtitle), "."), parts[nzchar(parts)]), collapse = " ")
}

# One sentence on the range of a variable: the least and the greatest of the rows that are shown.
range_fact <- function(value, shown, data, legend, format, by = NULL) {
  rows <- which(shown & is.finite(value))
  if (!length(rows)) return(NULL)
  ends <- rows[c(which.min(value[rows]), which.max(value[rows]))]
  name <- name_column(data)
  who <- if (is.na(name)) rep(NA, 2) else as.character(data[[name]][ends])
  if (!is.null(by)) who <- ifelse(is.na(who), as.character(data[[by]][ends]), paste0(who, ", ", as.character(data[[by]][ends])))
  said <- format_field(value, NULL, format)[ends]
  sprintf(wording$now$alt_range, legend, paste0(said[1], if (!is.na(who[1])) sprintf(" (%s)", who[1])), paste0(said[2], if (!is.na(who[2])) sprintf(" (%s)", who[2])))
}

# Categories with their counts.
category_fact <- function(labels, counts, legend) sprintf("%s: %s.", legend, paste(labels, counts, collapse = ", "))
