# Writes inst/schema/sheet.schema.json: the verbs and types of inst/schema/verbs.yml, with the
# defaults of the functions' arguments and the first sentence of their help. Fails where the
# arguments of a function and those of its verb differ.
library(ochre)
# `n` is a name here, not a flag.
word <- function(x) if (x %in% c("true", "false")) x == "true" else x
handlers <- list(seq = function(x) x, `bool#yes` = word, `bool#no` = word)
said <- yaml::yaml.load_file("inst/schema/verbs.yml", handlers = handlers)

# ---- help ----------------------------------------------------------------------------------------

plain <- function(rd) {
  text <- paste(unlist(rd), collapse = "")
  trimws(gsub("\\s+", " ", gsub("\\\\u([0-9a-f]{4})", "", text)))
}
first_sentence <- function(text) {
  sub("^(.*?[.:])( [A-Z`\"].*|)$", "\\1", sub("(?<=[.]) .*$", "", text, perl = TRUE))
}
pages <- lapply(list.files("man", "[.]Rd$", full.names = TRUE), tools::parse_Rd)
tag <- function(part) sub("^\\\\", "", attr(part, "Rd_tag"))
parts_of <- function(page, name) Filter(function(part) tag(part) == name, page)
page_of <- function(verb) {
  for (page in pages) {
    if (verb %in% vapply(parts_of(page, "alias"), plain, "")) return(page)
  }
  stop(verb, " has no page of help")
}
help_of <- function(page) {
  items <- Filter(function(part) tag(part) == "item", parts_of(page, "arguments")[[1]])
  names <- lapply(items, function(item) strsplit(plain(item[[1]]), ", *")[[1]])
  texts <- vapply(items, function(item) first_sentence(plain(item[[2]])), "")
  stats::setNames(rep(texts, lengths(names)), unlist(names))
}

# What a verb does: what its page says after its name, or the page's title.
title_of <- function(verb, page) {
  said <- plain(c(parts_of(page, "description"), parts_of(page, "details")))
  found <- regmatches(said, regexec(paste0("\\b", verb, "\\(\\):? ([a-z][^.;]*)"), said))[[1]]
  if (length(found) < 2) return(plain(parts_of(page, "title")[[1]]))
  text <- trimws(sub(":.*$", "", sub(", and `?[a-z_]+\\(\\).*$", "", found[2])))
  if (nchar(text) > 64) text <- sub("(, | \\().*$", "", text)
  paste0(stringi::stri_trans_toupper(substr(text, 1, 1)), substring(text, 2))
}

# ---- types ---------------------------------------------------------------------------------------

ref <- function(name) list(`$ref` = paste0("#/$defs/", name))
# The name of a type, a list of words of which one is meant, or a schema whose parts may be names.
type_of <- function(type) {
  if (is.character(type)) {
    if (!type %in% c(names(said$types), names(said$blocks))) stop("There is no type ", type)
    return(ref(type))
  }
  if (is.null(names(type))) return(list(enum = type))
  for (key in intersect(c("items", "additionalProperties"), names(type))) {
    if (is.character(type[[key]])) type[[key]] <- type_of(type[[key]])
  }
  if (is.list(type$additionalProperties)) {
    inner <- type$additionalProperties
    inner$properties <- inner$properties
    type$additionalProperties <- inner
  }
  if (!is.null(type$properties)) type$properties <- lapply(type$properties, type_of_part)
  names(type)[names(type) == "is"] <- "description"
  if (!is.null(type$with)) {
    type <- c(type[names(type) != "with"], block(type$with)[-1])
  }
  if (!is.null(type$one_of)) {
    type <- utils::modifyList(one_of(type$one_of), type[names(type) != "one_of"])
  }
  type
}
type_of_part <- function(type) if (is.list(type) && !is.null(type$type)) type else type_of(type)

# ---- verbs ---------------------------------------------------------------------------------------

# The arguments that a sheet does not write: the table so far, or the sheet.
unwritten <- function(verb) {
  c("sheet", ochre:::main_argument(verb))
}

arguments_of <- function(verb, kind) {
  all <- formals(getExportedValue("ochre", verb))
  layered <- kind %in% c("layers", "classes", "blocks", "map")
  reads <- startsWith(verb, "read_")
  drop <- if (layered) "sheet" else if (reads) character() else unwritten(verb)
  all[setdiff(names(all), c("...", drop, said$only_in_r[[verb]]))]
}

verb_schema <- function(verb, kind) {
  types <- said[[kind]][[verb]]
  known <- arguments_of(verb, kind)
  differ <- c(setdiff(names(known), names(types)), setdiff(names(types), names(known)))
  if (length(differ)) stop(verb, "() and its verb differ in ", paste(differ, collapse = ", "))
  page <- page_of(verb)
  help <- help_of(page)
  needed <- names(known)[vapply(known, function(x) is.symbol(x) && !nzchar(as.character(x)), NA)]
  argument <- function(name) {
    type <- type_of(types[[name]])
    value <- if (name %in% needed) NULL else known[[name]]
    plain <- !is.null(value) && is.atomic(value) && length(value) == 1 && !is.na(value)
    if (plain) type$default <- value
    if (!name %in% names(help)) stop(verb, "() says nothing of `", name, "`")
    type$description <- help[[name]]
    type
  }
  out <- list(type = "object", description = title_of(verb, page), additionalProperties = FALSE)
  if (length(needed)) out$required <- as.list(needed)
  properties <- lapply(stats::setNames(nm = names(types)), argument)
  out$properties <- if (length(properties)) properties else stats::setNames(list(), character())
  out
}
block <- function(verb) verb_schema(verb, "blocks")

limit <- function(help) list(type = "number", minimum = 0L, description = help)

one_of <- function(kind) {
  verbs <- names(said[[kind]])
  list(
    type = "object", minProperties = 1L, maxProperties = 1L, additionalProperties = FALSE,
    properties = lapply(stats::setNames(nm = verbs), verb_schema, kind = kind)
  )
}

# ---- the whole -----------------------------------------------------------------------------------

sheet <- verb_schema("map_sheet", "map")
properties <- c(
  list(ochre = list(enum = list(1L), description = "Version of this format.")),
  sheet$properties,
  list(
    tables = list(
      type = "object",
      minProperties = 1L,
      description = paste(
        "Named tables, each a list of steps. A step works on what the one before it made."
      ),
      additionalProperties = list(type = "array", minItems = 1L, items = ref("step"))
    ),
    layers = list(
      type = "array", minItems = 1L, items = ref("layer"),
      description = "What is drawn, from below to the top."
    ),
    values = list(
      type = "object",
      description = paste(
        "Named values: $(name) in a text stands for them. --set name=value and the environment",
        "(OCHRE_VALUE_NAME) change them."
      ),
      additionalProperties = list(type = c("string", "number", "boolean"))
    ),
    each = list(
      type = "object", minProperties = 1L, maxProperties = 1L,
      description = "One map for each value of a name: a list of them, or a column of a file.",
      additionalProperties = list(
        type = c("array", "object"), minItems = 1L,
        items = list(type = c("string", "number")),
        additionalProperties = FALSE,
        properties = list(
          file = list(type = "string", description = "A path seen from the sheet's folder."),
          column = list(type = "string", description = "All values of this column, each once.")
        )
      )
    ),
    fail_if = list(
      type = "object",
      description = paste(
        "Limits: a build that goes beyond one fails and leaves the files of before. Shares are",
        "from 0 to 1, and compare with the record of the last build."
      ),
      additionalProperties = FALSE,
      properties = list(
        gone = limit("Areas that were there and are gone."),
        new = limit("Areas that are new."),
        class_changed = limit("Share of areas in another class."),
        total_changed = limit("Share by which the sum of values differs, up or down."),
        no_data = limit("Share of areas without data."),
        older = limit("Files that are older than those read before.")
      )
    ),
    budget = list(
      type = "string",
      description = paste(
        "Size that the page may have, such as 500 kB; boundaries are made lighter until it fits."
      )
    ),
    publish = list(
      type = "array",
      items = list(type = "string", minLength = 1L, maxLength = 255L),
      description = "Files to write, seen from the sheet's folder."
    )
  )
)
defs <- c(
  lapply(said$types, type_of),
  lapply(stats::setNames(nm = names(said$blocks)), block),
  list(step = one_of("tables"), layer = one_of("layers"))
)
schema <- list(
  `$schema` = "https://json-schema.org/draft/2020-12/schema",
  title = "An Ochre sheet",
  description = paste(
    "A map as a file: words, tables made step by step, layers, and where to publish. Verbs and",
    "arguments are those of the R functions of the same name."
  ),
  type = "object",
  additionalProperties = FALSE,
  required = list("ochre", "title", "tables", "layers"),
  properties = properties,
  `$defs` = defs
)
json <- jsonlite::toJSON(schema, auto_unbox = TRUE, pretty = 2, digits = NA, null = "null")
writeLines(enc2utf8(as.character(json)), "inst/schema/sheet.schema.json", useBytes = TRUE)
