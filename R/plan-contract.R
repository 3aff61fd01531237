# The contract of a plan, inst/schema/plan.schema.json: parts are made by it, a plan that comes
# from elsewhere is checked by it, and it says how a plan is written for a page.

plan_contract <- function() {
  file <- system.file("schema", "plan.schema.json", package = "ochre", mustWork = TRUE)
  jsonlite::read_json(file)
}

# The shared borders of a plan in R: arcs as flat vectors on an integer grid.
topology_fields <- c("x0", "y0", "step", "x", "y", "arc_end", "layers")

# A part of a plan with all its fields, those not given as NULL. `part` is a name under `$defs`;
# NULL is the plan itself.
new_part <- function(setting, part, fields) {
  contract <- setting$contract
  properties <- (if (is.null(part)) contract else contract$`$defs`[[part]])$properties
  stopifnot(all(names(fields) %in% names(properties)), !anyDuplicated(names(fields)))
  out <- stats::setNames(vector("list", length(properties)), names(properties))
  fixed <- Filter(function(p) !is.null(p$const), properties)
  out[names(fixed)] <- lapply(fixed, function(p) p$const)
  out[names(fields)] <- fields
  out
}

# What a layer shows in one panel: fields that a panel leaves open are the layer's.
in_panel <- function(layer, panel) {
  if (is.null(layer$panels)) return(layer)
  own <- Filter(Negate(is.null), layer$panels[[panel]])
  layer[names(own)] <- own
  layer
}

# ---- checking ------------------------------------------------------------------------------

check_plan <- function(plan, call = rlang::caller_env(2)) {
  contract <- plan_contract()
  version <- contract$properties$version$const
  if (!identical(as.numeric(plan$version), as.numeric(version))) {
    found <- if (is.null(plan$version)) "none" else format(plan$version)
    ochre_abort("plan", "The plan is of version {found}, and this Ochre draws version {version}.",
                "Make it again with resolve_sheet().", version = plan$version)
  }
  fault <- plan_fault(plan, contract)
  if (is.null(fault)) return(plan)
  ochre_abort("plan", fault, "Make it again with resolve_sheet().")
}

# The first thing in a plan that breaks its contract, in words; NULL when there is none.
plan_fault <- function(plan, contract) {
  callCC(function(found) {
    look <- list(contract = contract, found = found, plan = new.env())
    check_part(plan, contract, look, "the plan")
    NULL
  })
}

check_value <- function(value, schema, look, place) {
  said <- schema
  schema <- follow_refs(schema, look$contract, value)
  fail <- function(what) look$found(paste(sentence(place), what))
  if (is.null(value)) return(if (!may_be_null(schema)) fail("is missing."))
  if (!is.null(schema$`x-form`)) {
    if (!is_topology(value)) fail("is incomplete.")
  } else if (!is.null(schema$properties)) {
    if (!is.list(value)) fail("has an unexpected value.")
    check_part(value, schema, look, place)
  } else if ("array" %in% unlist(schema$type)) {
    if (!is.vector(unclass(value))) fail("has an unexpected value.")
    check_array(value, said, look, place)
  } else if ("object" %in% unlist(schema$type)) {
    if (!is.list(value)) fail("has an unexpected value.")
    one <- schema$additionalProperties
    if (is.list(one)) check_array(value, list(items = one), look, place)
  } else if (!are_of_type(value, schema) || length(value) != 1) {
    fail("has an unexpected value.")
  }
}

# A part with its counts of entries by the words of the contract: those of a layer hold for all
# within it, others for one part.
check_part <- function(value, schema, look, place) {
  fields <- schema$properties
  fail <- function(what, names) look$found(paste(sentence(place), what, list_words(names)))
  lost <- setdiff(names(fields), names(value))
  if (length(lost)) fail("lacks", lost)
  odd <- setdiff(names(value), names(fields))
  if (length(odd)) fail("has unknown fields:", odd)
  look$above <- look$part
  look$part <- new.env()
  if (!is.null(fields$kind) || is.null(look$layer)) look$layer <- new.env()
  inner <- function(field) sprintf("`%s` of %s", field, place)
  for (field in names(fields)) check_value(value[[field]], fields[[field]], look, inner(field))
  for (field in names(fields)) check_most(value[[field]], fields[[field]], look, inner(field))
}

counts_of <- function(word, look) {
  switch(word, panel = look$plan, feature = , row = look$layer, look$part)
}

check_array <- function(value, schema, look, place) {
  n <- length(value)
  fail <- function(what) look$found(paste(sentence(place), what))
  if (n < (schema$minItems %||% 0) || n > (schema$maxItems %||% Inf)) fail("has the wrong length.")
  word <- schema$`x-each`
  if (!is.null(word)) {
    counts <- counts_of(word, look)
    counts[[word]] <- counts[[word]] %||% n
    if (n != counts[[word]]) fail(sprintf("must have %d entries, not %d.", counts[[word]], n))
  }
  if (!is.list(value)) {
    if (!are_of_type(value, schema$items)) fail("has an unexpected value.")
    return()
  }
  for (i in seq_along(value)) {
    check_value(value[[i]], schema$items, look, sprintf("entry %d of %s", i, place))
  }
}

# Numbers that count the entries of others, once these are known.
check_most <- function(value, schema, look, place) {
  while (is.null(schema$`x-of`) && !is.null(schema$items)) schema <- schema$items
  word <- schema$`x-of`
  if (is.null(word) || is.null(value)) return()
  most <- counts_of(word, look)[[word]] %||% look$above[[word]] %||% Inf
  if (any(unlist(value) > most, na.rm = TRUE)) {
    look$found(sprintf("%s has a number above %d.", sentence(place), most))
  }
}

# In R the arcs are flat vectors.
is_topology <- function(value) {
  is.list(value) && all(topology_fields %in% names(value)) &&
    length(value$x) == length(value$y) && identical(
      as.numeric(max(0, value$arc_end)), as.numeric(length(value$x))
    )
}

may_be_null <- function(schema) {
  "null" %in% unlist(schema$type) ||
    any(vapply(schema$enum, is.null, NA)) ||
    any(vapply(schema$anyOf, function(s) identical(s$type, "null"), NA))
}

# Is each entry of a vector what a schema allows? One that is missing is null.
are_of_type <- function(value, schema) {
  if (is.list(value)) return(FALSE)
  known <- value[!is.na(value)]
  if (!length(known)) return(!length(value) || may_be_null(schema))
  if (length(known) < length(value) && !may_be_null(schema)) return(FALSE)
  if (!is.null(schema$const)) return(all(known == schema$const))
  if (!is.null(schema$enum)) return(all(known %in% unlist(schema$enum)))
  of_type <- vapply(setdiff(unlist(schema$type), "null"), holds_type, NA, value = known)
  any(of_type) && in_bounds(known, schema)
}

holds_type <- function(type, value) {
  switch(type,
    string = is.character(value) || is.factor(value),
    boolean = is.logical(value),
    number = is.numeric(value),
    integer = is.numeric(value) && all(value == round(value)),
    FALSE
  )
}

in_bounds <- function(value, schema) {
  if (!is.null(schema$pattern)) return(all(grepl(schema$pattern, value)))
  if (!is.numeric(value)) return(TRUE)
  all(value >= (schema$minimum %||% -Inf)) && all(value <= (schema$maximum %||% Inf))
}

# The part that a schema refers to; of several the one whose kind is the value's.
follow_refs <- function(schema, contract, value) {
  null <- may_be_null(schema)
  choices <- c(schema$allOf, schema$anyOf, if (!is.null(schema$`$ref`)) list(schema))
  choices <- Filter(function(s) !identical(s$type, "null"), choices)
  if (!length(choices)) return(schema)
  parts <- lapply(choices, function(s) {
    if (is.null(s$`$ref`)) s else contract$`$defs`[[sub("#/$defs/", "", s$`$ref`, fixed = TRUE)]]
  })
  kinds <- lapply(parts, function(p) p$properties$kind$const)
  of_kind <- if (is.list(value)) which(vapply(kinds, identical, NA, value$kind))
  part <- parts[[if (length(of_kind)) of_kind[1] else 1]]
  if (null) part$type <- c(part$type, "null")
  part
}

# ---- writing -------------------------------------------------------------------------------

# The plan by its contract. Values stand in it only where a table or bars show them, or new ones
# come.
plan_content <- function(plan, whole = FALSE) {
  contract <- plan_contract()
  shown <- whole || plan$page$table || plan$page$bars > 0 || !is.null(plan$page$live)
  drop <- function(schema) {
    (!whole && isFALSE(schema$`x-page`)) || (isTRUE(schema$`x-table`) && !shown)
  }
  write_part(unclass(plan), contract, contract, drop)
}

write_json <- function(content) {
  as.character(jsonlite::toJSON(
    content,
    auto_unbox = TRUE, null = "null", na = "null", digits = NA, json_verbatim = TRUE
  ))
}

write_part <- function(value, schema, contract, drop) {
  if (is.null(value)) return(NULL)
  said <- schema
  schema <- follow_refs(schema, contract, value)
  if (!is.null(schema$`x-form`)) {
    return(call_core(packed_topology_core(value)))
  }
  if (!is.null(schema$properties)) return(write_fields(value, schema, contract, drop))
  if ("array" %in% unlist(schema$type)) return(write_array(value, schema, contract, drop))
  if (is.list(value)) return(value)
  rounded(unname(value), said)
}

write_fields <- function(value, schema, contract, drop) {
  properties <- schema$properties
  # What a table would show is null without one; what only a figure needs is not there.
  page <- !vapply(properties, function(p) drop(p) && !isTRUE(p$`x-table`), NA)
  fields <- names(properties)[page]
  out <- lapply(fields, function(field) {
    if (drop(properties[[field]])) return(NULL)
    write_part(value[[field]], properties[[field]], contract, drop)
  })
  stats::setNames(out, fields)
}

# I() keeps a vector of one an array.
write_array <- function(value, schema, contract, drop) {
  value <- unname(value)
  if (!is.list(value)) return(I(rounded(value, schema)))
  I(lapply(value, write_part, schema$items, contract, drop))
}

rounded <- function(value, schema) {
  if (!is.numeric(value)) return(value)
  # Open ends of classes are no numbers of JSON.
  value[!is.finite(value)] <- NA
  if (!is.null(schema$`x-decimals`)) return(round(value, schema$`x-decimals`))
  if (!is.null(schema$`x-figures`)) return(signif(value, schema$`x-figures`))
  value
}
