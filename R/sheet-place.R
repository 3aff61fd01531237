# Where in the text of a sheet something stands, for errors. A place is a list of keys and numbers,
# such as list("layers", 1, "shade_areas"). The parser of YAML does not say lines; but of the lines
# up to one it says whether the place is there yet.

place_words <- function(place) {
  parts <- vapply(
    place,
    function(part) {
      if (is.numeric(part)) sprintf("[%d]", as.integer(part)) else paste0(".", part)
    },
    ""
  )
  sub("^\\.", "", paste(parts, collapse = ""))
}

# The number of the line with which a place begins, or else that of what holds it; NA for the whole.
line_of <- function(lines, place) {
  while (length(place)) {
    key <- place[[length(place)]]
    for (k in grep(if (is.numeric(key)) "-" else key, lines, fixed = TRUE)) {
      if (has_place(tryCatch(parse_yaml(lines[seq_len(k)]), error = function(e) NULL), place)) {
        return(k)
      }
    }
    place <- place[-length(place)]
  }
  NA_integer_
}

has_place <- function(content, place) {
  for (key in place) {
    if (!is.list(content) || !(if (is.numeric(key)) {
          key <= length(content)
        } else {
          key %in% names(content)
        })) {
      return(FALSE)
    }
    content <- content[[key]]
  }
  TRUE
}

# "line 12, layers[1].shade_areas".
place_and_line <- function(lines, place) {
  line <- line_of(lines, place)
  paste(
    c(if (!is.na(line)) sprintf("line %d", line), if (length(place)) place_words(place)),
    collapse = ", "
  )
}
