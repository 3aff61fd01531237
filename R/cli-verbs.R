# `ochre verbs`: what a sheet file may say, from the schema that checks it.

command_verbs <- function(args) {
  given <- parse_command(
    "verbs",
    args,
    "[VERB]",
    paste0(
      "Lists the verbs of a sheet file; of one verb its arguments with types, defaults\nand ",
      "what they mean."
    ),
    list(),
    c(0, 1)
  )
  if (is.null(given)) return(0L)
  schema <- sheet_schema()
  groups <- verb_groups(schema)
  if (!length(given$args)) {
    cat(verb_list(groups), sep = "\n")
    return(0L)
  }
  verbs <- unlist(unname(groups), recursive = FALSE)
  wanted <- given$args
  if (!wanted %in% names(verbs)) {
    ochre_abort("argument", "There is no verb `{wanted}`.",
                did_you_mean(wanted, names(verbs), "Verbs"), arg = "VERB")
  }
  cat(verb_help(wanted, verbs[[wanted]], schema), sep = "\n")
  0L
}

verb_groups <- function(schema) {
  defs <- schema[["$defs"]]
  # Blocks are what functions make for an argument; other types are plain values.
  blocks <- Filter(function(d) identical(d$type, "object") && !is.null(d$properties), defs)
  blocks <- blocks[setdiff(names(blocks), c("step", "layer", "steps"))]
  top <- list(sheet = list(
    description = "The sheet itself",
    required = schema$required,
    properties = schema$properties
  ))
  list(
    `The sheet` = top,
    `Steps of a table` = defs$step$properties,
    Layers = defs$layer$properties,
    Classes = defs$steps$properties,
    Blocks = blocks
  )
}

verb_list <- function(groups) {
  wide <- max(nchar(unlist(lapply(groups, names))))
  one <- function(group) {
    verbs <- groups[[group]]
    what <- vapply(verbs, function(verb) verb$description, "")
    c("", paste0(group, ":"), sprintf("  %s  %s", format(names(verbs), width = wide), what))
  }
  c(unlist(lapply(names(groups), one))[-1], "", "Of one: ochre verbs shade_areas")
}

verb_help <- function(name, verb, schema) {
  properties <- verb$properties
  head <- paste0(name, ": ", verb$description)
  if (!length(properties)) return(c(head, "", "  takes nothing"))
  lines <- lapply(names(properties), function(key) {
    argument <- properties[[key]]
    default <- if (!is.null(argument$default)) paste0(", ", format_default(argument$default))
    needed <- if (key %in% unlist(verb$required)) ", needed"
    first <- paste0("  ", key, " (", verb_type(argument, schema), default, needed, ")")
    c(first, strwrap(argument$description, 92, indent = 6, exdent = 6))
  })
  c(head, "", unlist(lines))
}

format_default <- function(value) {
  shown <- if (is.logical(value)) lower_case(as.character(value)) else format(value)
  paste("default", shown)
}

# The type of an argument in a few words.
verb_type <- function(argument, schema) {
  name <- sub("^#/\\$defs/", "", argument[["$ref"]] %||% "")
  simple <- c(
    text = "text", flag = "true or false", number = "number", whole = "whole number",
    texts = "list of texts", numbers = "list of numbers", breaks = "list of numbers"
  )
  if (name %in% names(simple)) return(simple[[name]])
  if (nzchar(name)) return(name)
  if (!is.null(argument$enum)) return(paste(unlist(argument$enum), collapse = ", "))
  types <- unlist(argument$type)
  if (length(types)) paste(vapply(types, type_phrase, ""), collapse = " or ") else "any"
}
