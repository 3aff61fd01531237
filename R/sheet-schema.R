# Checks a sheet's content against inst/schema/sheet.schema.json and says what is wrong in words
# that a journalist can act on. Of JSON Schema it knows what that file uses: type, enum,
# properties (type may be a list), required, additionalProperties, items, the least and greatest numbers of them, $ref.

sheet_schema <- function() jsonlite::fromJSON(system.file("schema", "sheet.schema.json", package = "ochre"), simplifyVector = FALSE)

check_schema <- function(content, schema, file, call = rlang::caller_env()) {
  fail <- function(path, what, mend = NULL) {
    ochre_abort("sheet", sprintf("`%s`%s: %s.", file, if (nzchar(path)) paste0(", ", path) else "", what), mend, file = file, path = path, call = call)
  }
  walk <- function(value, rule, path) {
    if (!is.null(rule[["$ref"]])) rule <- schema[["$defs"]][[sub("^#/\\$defs/", "", rule[["$ref"]])]]
    if (!is.null(rule$enum) && !any(vapply(rule$enum, function(e) isTRUE(all.equal(e, value, check.attributes = FALSE)), NA))) {
      known <- vapply(rule$enum, format, "")
      fail(path, sprintf("%s is not allowed here", value_word(value)), if (is.character(value)) did_you_mean(value, known, "Allowed") else sprintf("Allowed: %s.", list_words(known)))
    }
    if (!is.null(rule$type) && !is_type(value, rule$type)) {
      fail(path, sprintf("this must be %s, not %s", type_phrase(rule$type), value_word(value)))
    }
    if (is_type(value, "object") && "object" %in% rule$type) walk_object(value, rule, path)
    else if (is_type(value, "array") && "array" %in% rule$type) walk_array(value, rule, path)
  }
  walk_object <- function(value, rule, path) {
    keys <- names(value)
    below <- function(key) if (nzchar(path)) paste0(path, ".", key) else key
    known <- names(rule$properties)
    for (key in keys) {
      inner <- rule$properties[[key]] %||% if (is.list(rule$additionalProperties)) rule$additionalProperties
      if (is.null(inner)) fail(path, sprintf("`%s` is not a key here", key), did_you_mean(key, known, "Keys"))
      walk(value[[key]], inner, below(key))
    }
    if (anyDuplicated(keys)) fail(path, sprintf("the key `%s` stands twice", keys[duplicated(keys)][1]))
    lost <- setdiff(unlist(rule$required), keys)
    if (length(lost)) fail(path, sprintf("the key `%s` is missing", lost[1]), if (length(known)) sprintf("Needed: %s.", list_words(unlist(rule$required), 12)))
    if (length(keys) < (rule$minProperties %||% 0)) fail(path, "this is empty", if (length(known)) sprintf("Keys: %s.", list_words(known, 12)))
    if (length(keys) > (rule$maxProperties %||% Inf)) fail(path, sprintf("only one key may stand here, not %s", list_words(keys)), "Begin each with a dash of its own.")
  }
  walk_array <- function(value, rule, path) {
    if (length(value) < (rule$minItems %||% 0)) fail(path, sprintf("this needs at least %s", count_words(rule$minItems, "entry", "entries")))
    for (i in seq_along(value)) walk(value[[i]], rule$items, sprintf("%s[%d]", path, i))
  }
  walk(content, schema, "")
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
  else if (length(value) > 1) "a list" else paste0("`", format(value), "`")
}
