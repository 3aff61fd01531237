# What a column of numbers is, decided once: a measure that can be shown with thousands marks and
# perhaps added up, a year, or a code. Names and values are looked at, because a file does not say.

# "count" (whole and not negative: can be added), "number", "year", "code"; for other columns
# "text", "yes/no" or "date".
column_role <- function(x, name) {
  if (is.logical(x)) return("yes/no")
  if (inherits(x, c("Date", "POSIXt"))) return("date")
  if (!is.numeric(x) || !is.null(attr(x, "class")) && !inherits(x, "integer64")) {
    return(if (named_like_code(name)) "code" else "text")
  }
  if (!all_whole(x)) return("number")
  if (named_like_code(name)) return("code")
  ends <- suppressWarnings(c(min(x, na.rm = TRUE), max(x, na.rm = TRUE)))
  if (!all(is.finite(ends))) ends <- suppressWarnings(range(x, na.rm = TRUE, finite = TRUE))
  if (!all(is.finite(ends))) return("number")
  if (named_like_year(name) && ends[1] >= 1000 && ends[2] < 3000) return("year")
  if (ends[1] >= 1800 && ends[2] <= 2200) return("year")
  if (ends[1] < 0 || named_like_order(name)) "number" else "count"
}

# The first thousand tell most columns of fractions.
all_whole <- function(x) {
  if (is.integer(x)) return(TRUE)
  whole <- function(v) all(v == round(v) | !is.finite(v), na.rm = TRUE)
  whole(utils::head(x, 1000)) && whole(x)
}

# "district_code", "FIPS", "GEOID", "KTNR", "schluessel"; not "covid" or "number".
named_like_code <- function(name) {
  word <- paste0(
    "(code|codes|id|ids|key|keys|zip|postcode|postal_code|fips|geoid|ags|ars|nuts|insee|plz|nr",
    "|iso|teryt|schl(ue|\u00fc)ssel)"
  )
  grepl(paste0("(^|[_. -])", word, "[0-9]?$"), lower_case(name), perl = TRUE) |
    grepl("[a-z](Code|Id|ID|Key|Nr|NR)$|^[A-Z0-9_]{2,}(CODE|ID|NR|FIPS)$", name, perl = TRUE)
}

named_like_year <- function(name) {
  word <- "(year|years|yr|jahr|ann\u00e9e|annee|an|a\u00f1o|anio|ano|rok)"
  grepl(paste0("(^|[_. -])", word, "([_. -]|$)"), lower_case(name), perl = TRUE)
}

# Numbers that say an order or a part of a name, not an amount.
named_like_order <- function(name) {
  pattern <- "(^|[_. -])(period|month|rank|class|row|week|day|quarter)$|_missing$"
  grepl(pattern, lower_case(name), perl = TRUE)
}

# How a column is written that has no format of its own: years and codes without thousands marks.
plain_format <- function(x, name, role = column_role(x, name)) {
  if (is.numeric(x) && role %in% c("year", "code")) list(marks = FALSE)
}

# The column that tells areas apart: one called so, else the key of the last join by one column; NA
# where there is none.
code_column <- function(data) {
  keys <- lapply(attr(data, "ochre_joins"), function(audit) attr(audit, "by")$boundaries)
  single <- rev(unlist(keys[lengths(keys) == 1]))
  known <- c(intersect(c("code", "id"), names(data)), setdiff(single, name_column(data)))
  intersect(known, names(data))[1]
}

name_column <- function(data) {
  is_text <- vapply(data, function(x) is.character(x) || is.factor(x), NA)
  if ("name" %in% names(data)) "name" else names(data)[is_text][1]
}
