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
                "Make it anew with resolve_sheet().", version = plan$version)
  }
  fault <- part_fault(plan, contract, contract, "the plan")
  if (is.null(fault)) return(plan)
  ochre_abort("plan", fault, "Make it anew with resolve_sheet().")
}

# The first field that is missing, unknown or of another type, in words; NULL when there is none.
part_fault <- function(value, schema, contract, place) {
  schema <- follow_refs(schema, contract, value)
  if (is.null(value)) {
    if (may_be_null(schema)) return(NULL)
    return(sprintf("%s is missing.", sentence(place)))
  }
  if (!is.null(schema$`x-form`)) return(topology_fault(value))
  types <- setdiff(unlist(schema$type), "null")
  if (!is.null(schema$properties)) return(fields_fault(value, schema, contract, place))
  if (!is_of_type(value, types, schema)) {
    return(sprintf("%s is not what it should be.", sentence(place)))
  }
  if (identical(types, "array") && is.list(value) && !is.null(schema$items)) {
    for (i in seq_along(value)) {
      inner <- sprintf("%s, entry %d", place, i)
      fault <- part_fault(value[[i]], schema$items, contract, inner)
      if (!is.null(fault)) return(fault)
    }
  }
  NULL
}

fields_fault <- function(value, schema, contract, place) {
  known <- names(schema$properties)
  if (!is.list(value)) return(sprintf("%s is not what it should be.", sentence(place)))
  lost <- setdiff(known, names(value))
  if (length(lost)) return(sprintf("%s lacks %s.", sentence(place), list_words(lost)))
  odd <- setdiff(names(value), known)
  if (length(odd)) {
    return(sprintf("%s has unknown fields: %s.", sentence(place), list_words(odd)))
  }
  for (field in known) {
    inner <- sprintf("`%s` of %s", field, place)
    fault <- part_fault(value[[field]], schema$properties[[field]], contract, inner)
    if (!is.null(fault)) return(fault)
  }
  NULL
}

# In R the arcs are flat vectors.
topology_fault <- function(value) {
  lost <- setdiff(topology_fields, names(value))
  if (length(lost)) sprintf("The topology of the plan lacks %s.", list_words(lost))
}

may_be_null <- function(schema) {
  "null" %in% unlist(schema$type) ||
    any(vapply(schema$enum, is.null, NA)) ||
    any(vapply(schema$anyOf, function(s) identical(s$type, "null"), NA))
}

is_of_type <- function(value, types, schema) {
  if (!is.null(schema$const)) return(identical(as.character(value), as.character(schema$const)))
  if (!is.null(schema$enum)) return(length(value) == 1 && value %in% unlist(schema$enum))
  any(vapply(types, holds_type, NA, value = value))
}

holds_type <- function(type, value) {
  switch(type,
    array = is.vector(value) || is.factor(value),
    object = is.list(value),
    string = is.character(value) && length(value) == 1,
    boolean = is.logical(value) && length(value) == 1,
    (is.numeric(value) || all(is.na(value))) && length(value) == 1
  )
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
plan_json <- function(plan, whole = FALSE) write_json(plan_content(plan, whole))

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
