# Checks a sheet's content against inst/schema/sheet.schema.json and says what is wrong in words
# that a journalist can act on. Of JSON Schema it knows what that file uses: type (also several),
# enum, properties, required, additionalProperties, items, their least and greatest numbers, those
# of numbers and lengths of texts, $ref.

sheet_schema <- function() {
  if (is.null(schema_kept$sheet)) {
    file <- system.file("schema", "sheet.schema.json", package = "ochre")
    schema_kept$sheet <- jsonlite::fromJSON(file, simplifyVector = FALSE)
  }
  schema_kept$sheet
}
schema_kept <- new.env()

# All faults of the content, each a list of `place` (see R/sheet-place.R), `what` and `mend`.
schema_faults <- function(content, schema, most = 20) {
  faults <- list()
  fail <- function(place, what, mend = NULL) {
    if (length(faults) < most) faults[[length(faults) + 1]] <<- list(
      place = place, what = what, mend = mend
    )
  }
  walk <- function(value, rule, place) {
    if (length(faults) >= most) return()
    if (!is.null(rule[["$ref"]])) rule <- schema[["$defs"]][[sub("^#/\\$defs/", "", rule[["$ref"]])]]
    if (!is.null(rule$enum) && !is_among(value, rule$enum)) {
      known <- vapply(rule$enum, format, "")
      mend <- if (is_type(value, "string")) did_you_mean(value, known, "Allowed") else sprintf(
        "Allowed: %s.", list_words(known)
      )
      return(fail(place, sprintf("%s is not allowed here", value_word(value)), mend))
    }
    if (!is.null(rule$type) && !is_type(value, rule$type)) {
      return(
        fail(place, sprintf("this must be %s, not %s", type_phrase(rule$type), value_word(value)))
      )
    }
    if (is_type(value, "string")) check_string(value, rule, place)
    if (is_type(value, "number")) check_range(value, rule, place)
    if (is_type(value, "object") && "object" %in% rule$type) walk_object(value, rule, place)
    else if (is_type(value, "array") && "array" %in% rule$type) walk_array(value, rule, place)
  }
  check_string <- function(value, rule, place) {
    if (nchar(value, "bytes") < (rule$minLength %||% 0)) fail(place, "this is empty")
    if (nchar(value) > (rule$maxLength %||% Inf)) {
      fail(
        place,
        sprintf(
          "this is %s long; at most %d may be", count_words(nchar(value), "character"),
          rule$maxLength
        )
      )
    }
  }
  check_range <- function(value, rule, place) {
    if (!is.finite(value)) fail(
      place, sprintf("%s is no number that can be used here", value_word(value))
    )
    else if (value < (rule$minimum %||% -Inf)) fail(
      place, sprintf("%s is too small; the least is %s", value_word(value), format(rule$minimum))
    )
    else if (value > (rule$maximum %||% Inf)) fail(
      place, sprintf("%s is too large; the most is %s", value_word(value), format(rule$maximum))
    )
  }
  walk_object <- function(value, rule, place) {
    keys <- names(value)
    known <- names(rule$properties)
    if (anyDuplicated(keys)) fail(
      place, sprintf("the key `%s` stands twice", keys[duplicated(keys)][1])
    )
    lost <- setdiff(unlist(rule$required), keys)
    for (key in lost) fail(
      place, sprintf("the key `%s` is missing", key),
      sprintf("Needed: %s.", list_words(unlist(rule$required), 12))
    )
    if (length(keys) < (rule$minProperties %||% 0)) fail(
      place, "this is empty", if (length(known)) sprintf("Keys: %s.", list_words(known, 12))
    )
    if (length(keys) > (rule$maxProperties %||% Inf)) {
      return(
        fail(
          place, sprintf("only one key may stand here, not %s", list_words(keys)),
          "Begin each with a dash of its own."
        )
      )
    }
    for (i in seq_along(keys)) {
      if (!nzchar(trimws(keys[i]))) {
        fail(place, "a key has no name")
        next
      }
      inner <- rule$properties[[keys[i]]] %||% if (is.list(
        rule$additionalProperties
      )) rule$additionalProperties
      if (is.null(inner)) fail(
        c(place, keys[i]), sprintf("`%s` is not a key here", keys[i]),
        did_you_mean(keys[i], known, "Keys")
      )
      else walk(value[[i]], inner, c(place, keys[i]))
    }
  }
  walk_array <- function(value, rule, place) {
    if (length(value) < (rule$minItems %||% 0)) fail(
      place, sprintf("this needs at least %s", count_words(rule$minItems, "entry", "entries"))
    )
    if (length(value) > (rule$maxItems %||% Inf)) fail(
      place, sprintf("this may have at most %s", count_words(rule$maxItems, "entry", "entries"))
    )
    for (i in seq_along(value)) walk(value[[i]], rule$items, c(place, i))
  }
  walk(content, schema, list())
  faults
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
    string = one && is.character(value), boolean = one && is.logical(value),
    number = one && is.numeric(value), integer = one && is.numeric(value) && isTRUE(value == round(value))
  )
}

type_phrase <- function(type) {
  if (length(type) > 1) return(paste(vapply(type, type_phrase, ""), collapse = " or "))
  switch(type, object = "a block of keys", array = "a list (lines that begin with a dash)", string = "text", boolean = "true or false", number = "a number", integer = "a whole number")
}

value_word <- function(value) {
  if (is.null(value)) "nothing" else if (is.list(value)) (if (is.null(names(value))) "a list" else "a block of keys")
  else if (length(value) > 1) "a list" else if (identical(value, "")) "an empty text" else paste0(
    "`", shorten(format(value)), "`"
  )
}
