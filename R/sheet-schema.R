# Checks a sheet's content against inst/schema/sheet.schema.json and says what is wrong in words
# that a journalist can act on. Of JSON Schema it knows what that file uses: type (also several),
# enum, properties, required, additionalProperties, items, their least and greatest numbers, those
# of numbers and lengths of texts, $ref.

sheet_schema <- function() {
  file <- system.file("schema", "sheet.schema.json", package = "ochre", mustWork = TRUE)
  jsonlite::read_json(file)
}

# The content as the schema means it: a single value where a list may stand is a list of one, and
# Inf is a number where numbers are wanted.
fit_content <- function(value, rule, schema) {
  if (!is.null(rule[["$ref"]])) {
    rule <- schema[["$defs"]][[sub("^#/\\$defs/", "", rule[["$ref"]])]]
  }
  types <- unlist(rule$type)
  if (!is.null(rule$pattern) && is_type(value, "string") && grepl(rule$pattern, value)) {
    return(as.numeric(value))
  }
  single <- is.atomic(value) && length(value) == 1 && is.null(names(value))
  if (single && identical(types, "array")) value <- list(value)
  if (is_type(value, "array") && "array" %in% types) {
    value[] <- lapply(value, fit_content, rule = rule$items, schema = schema)
  } else if (is_type(value, "object") && "object" %in% types) {
    for (i in seq_along(value)) {
      inner <- rule$properties[[names(value)[i]]] %||% rule$additionalProperties
      if (is.list(inner)) value[i] <- list(fit_content(value[[i]], inner, schema))
    }
  }
  value
}

# All faults of the content, each a list of `place` (see R/sheet-place.R), `what` and `mend`.
schema_faults <- function(content, schema, most = 20) {
  look <- list(faults = list(), most = most, schema = schema)
  walk_value(look, content, schema, list())$faults
}

# Adds a fault, while there are not too many.
fail_at <- function(look, place, what, mend = NULL) {
  if (length(look$faults) < look$most) {
    look$faults <- c(look$faults, list(list(place = place, what = what, mend = mend)))
  }
  look
}

walk_value <- function(look, value, rule, place) {
  if (length(look$faults) >= look$most) return(look)
  if (!is.null(rule[["$ref"]])) {
    rule <- look$schema[["$defs"]][[sub("^#/\\$defs/", "", rule[["$ref"]])]]
  }
  if (!is.null(rule$enum) && !is_among(value, rule$enum)) {
    what <- sprintf("%s is not allowed here", value_word(value))
    return(fail_at(look, place, what, allowed_words(value, rule$enum)))
  }
  if (!is.null(rule$type) && !is_type(value, rule$type)) {
    what <- sprintf("this must be %s, not %s", type_phrase(rule$type), value_word(value))
    return(fail_at(look, place, what))
  }
  if (is_type(value, "string")) look <- walk_string(look, value, rule, place)
  if (is_type(value, "number")) look <- walk_number(look, value, rule, place)
  if (is_type(value, "object") && "object" %in% rule$type) {
    return(walk_object(look, value, rule, place))
  }
  if (is_type(value, "array") && "array" %in% rule$type) {
    return(walk_array(look, value, rule, place))
  }
  look
}

allowed_words <- function(value, allowed) {
  known <- vapply(allowed, format, "")
  if (is_type(value, "string")) return(did_you_mean(value, known, "Allowed"))
  sprintf("Allowed: %s.", list_words(known))
}

walk_string <- function(look, value, rule, place) {
  if (!is.null(rule$pattern) && !grepl(rule$pattern, value)) {
    return(fail_at(look, place, sprintf("%s is no number", value_word(value))))
  }
  if (nchar(value, "bytes") < (rule$minLength %||% 0)) {
    look <- fail_at(look, place, "this is empty")
  }
  if (nchar(value) <= (rule$maxLength %||% Inf)) return(look)
  long <- count_words(nchar(value), "character")
  what <- sprintf("this is %s long; at most %d may be", long, rule$maxLength)
  fail_at(look, place, what)
}

walk_number <- function(look, value, rule, place) {
  said <- value_word(value)
  what <- if (!is.finite(value) && is.null(rule$pattern)) {
    sprintf("%s is no number that can be used here", said)
  } else if (value < (rule$minimum %||% -Inf)) {
    sprintf("%s is too small; the least is %s", said, format(rule$minimum))
  } else if (value > (rule$maximum %||% Inf)) {
    sprintf("%s is too large; the most is %s", said, format(rule$maximum))
  }
  if (is.null(what)) look else fail_at(look, place, what)
}

walk_object <- function(look, value, rule, place) {
  keys <- names(value)
  known <- names(rule$properties)
  required <- unlist(rule$required)
  if (anyDuplicated(keys)) {
    twice <- keys[duplicated(keys)][1]
    look <- fail_at(look, place, sprintf("the key `%s` stands twice", twice))
  }
  needed <- sprintf("Needed: %s.", list_words(required, 12))
  for (key in setdiff(required, keys)) {
    look <- fail_at(look, place, sprintf("the key `%s` is missing", key), needed)
  }
  if (length(keys) < (rule$minProperties %||% 0)) {
    mend <- if (length(known)) sprintf("Keys: %s.", list_words(known, 12))
    look <- fail_at(look, place, "this is empty", mend)
  }
  if (length(keys) > (rule$maxProperties %||% Inf)) {
    what <- sprintf("only one key may stand here, not %s", list_words(keys))
    return(fail_at(look, place, what, "Begin each with a dash of its own."))
  }
  for (i in seq_along(keys)) look <- walk_key(look, keys[i], value[[i]], rule, place)
  look
}

walk_key <- function(look, key, value, rule, place) {
  if (!nzchar(trimws(key))) return(fail_at(look, place, "a key has no name"))
  inner <- rule$properties[[key]]
  if (is.null(inner) && is.list(rule$additionalProperties)) inner <- rule$additionalProperties
  place <- c(place, key)
  if (!is.null(inner)) return(walk_value(look, value, inner, place))
  what <- sprintf("`%s` is not a key here", key)
  known <- names(rule$properties)
  near <- nearest_word(key, known)
  all <- sprintf("Keys: %s.", list_words(known, Inf))
  fail_at(look, place, what, if (is.null(near)) all else sprintf("Did you mean `%s`?", near))
}

walk_array <- function(look, value, rule, place) {
  entries <- function(n) count_words(n, "entry", "entries")
  if (length(value) < (rule$minItems %||% 0)) {
    look <- fail_at(look, place, sprintf("this needs at least %s", entries(rule$minItems)))
  }
  if (length(value) > (rule$maxItems %||% Inf)) {
    look <- fail_at(look, place, sprintf("this may have at most %s", entries(rule$maxItems)))
  }
  for (i in seq_along(value)) look <- walk_value(look, value[[i]], rule$items, c(place, i))
  look
}

is_among <- function(value, known) {
  any(vapply(known, function(e) isTRUE(all.equal(e, value, check.attributes = FALSE)), NA))
}

is_type <- function(value, type) {
  if (length(type) > 1) return(any(vapply(type, is_type, NA, value = value)))
  one <- is.atomic(value) && length(value) == 1 && is.null(names(value))
  switch(type,
    object = is.list(value) && (length(value) == 0 || !is.null(names(value))),
    array = is.list(value) && is.null(names(value)),
    string = one && is.character(value),
    boolean = one && is.logical(value),
    number = one && is.numeric(value),
    integer = one && is.numeric(value) && isTRUE(value == round(value))
  )
}

type_phrase <- function(type) {
  if (length(type) > 1) return(paste(vapply(type, type_phrase, ""), collapse = " or "))
  switch(type,
    object = "a block of keys",
    array = "a list (lines that begin with a dash)",
    string = "text",
    boolean = "true or false",
    number = "a number",
    integer = "a whole number"
  )
}

value_word <- function(value) {
  if (is.null(value)) {
    "nothing"
  } else if (is.list(value)) {
    (if (is.null(names(value))) "a list" else "a block of keys")
  } else if (length(value) > 1) {
    "a list"
  } else if (identical(value, "")) {
    "an empty text"
  } else {
    paste0("`", shorten(format(value)), "`")
  }
}
