# What a map shows in words, for those who do not see it: title, each variable's range with where
# it lies, and how many areas have no data. The sheet's own text takes its place.

describe_map <- function(sheet, layers, locale) {
  if (!is.null(sheet$alt)) return(sheet$alt)
  parts <- vapply(
    layers,
    function(layer) {
      f <- layer$facts
      if (is.null(f)) return("")
      lost <- if (!is.null(layer$no_data) && layer$no_data$count > 0) {
        sprintf(
          locale$alt_lost,
          layer$no_data$count_label,
          format_number(
            sum(lengths(lapply(layer$panels %||% list(layer), function(p) p$class))),
            0,
            locale = locale
          )
        )
      }
      paste(c(f, lost), collapse = " ")
    },
    ""
  )
  paste(
    c(
      sprintf(locale$alt_map, strip_period(sheet$title)),
      if (!is.null(sheet$subtitle)) paste0(strip_period(sheet$subtitle), "."),
      parts[nzchar(parts)]
    ),
    collapse = " "
  )
}

# One sentence on the range of a variable: the least and the greatest of the rows that are shown.
range_fact <- function(value, shown, layer, format, locale) {
  rows <- which(shown & is.finite(value))
  if (!length(rows)) return(NULL)
  ends <- rows[c(which.min(value[rows]), which.max(value[rows]))]
  who <- row_names(layer, ends)
  if (!is.null(layer$by)) {
    panel <- as.character(layer$data[[layer$by]][ends])
    who <- ifelse(is.na(who), panel, paste0(who, ", ", panel))
  }
  said <- format_field(value, NULL, format, locale)[ends]
  said <- ifelse(is.na(who), said, sprintf("%s (%s)", said, who))
  sprintf(locale$alt_range, layer$legend, said[1], said[2])
}

row_names <- function(layer, rows) {
  name <- name_column(layer$data)
  if (is.na(name)) rep(NA, length(rows)) else as.character(layer$data[[name]][rows])
}

# Categories with their counts.
category_fact <- function(labels, counts, legend) {
  sprintf("%s: %s.", legend, paste(labels, counts, collapse = ", "))
}
