# Writes vignettes/plan-fields.Rmd, the table of a plan's fields, from the contract.
contract <- jsonlite::read_json("inst/schema/plan.schema.json")

type_word <- function(schema) {
  refs <- c(list(schema), schema$allOf, schema$anyOf)
  part <- unlist(lapply(refs, function(s) s$`$ref`))
  types <- unique(unlist(lapply(refs, function(s) s$type)))
  null <- "null" %in% types || any(vapply(schema$enum, is.null, NA))
  word <- if (length(part)) {
    sprintf("`%s`", sub("#/$defs/", "", part[1], fixed = TRUE))
  } else if (!is.null(schema$const)) {
    sprintf("`%s`", schema$const)
  } else if (!is.null(schema$enum)) {
    paste(sprintf("`%s`", unlist(schema$enum)), collapse = ", ")
  } else if ("array" %in% types) {
    paste("array of", item_word(schema$items))
  } else {
    setdiff(types, "null")[1]
  }
  if (null) paste(word, "or null") else word
}

item_word <- function(items) {
  parts <- c(list(items), items$anyOf)
  refs <- unlist(lapply(parts, function(s) s$`$ref`))
  if (length(refs)) {
    return(paste(sprintf("`%s`", sub("#/$defs/", "", refs, fixed = TRUE)), collapse = ", "))
  }
  if (!is.null(items$enum)) return(paste(sprintf("`%s`", unlist(items$enum)), collapse = ", "))
  types <- setdiff(unlist(items$type), "null")
  if (identical(types, "array")) return(paste("arrays of", item_word(items$items)))
  paste0(types[1], "s")
}

rows <- function(properties) {
  figure <- vapply(properties, function(p) isFALSE(p$`x-page`), NA)
  said <- vapply(properties, function(p) p$description %||% "", "")
  sprintf(
    "| `%s` | %s | %s%s |",
    names(properties),
    vapply(properties, type_word, ""),
    said,
    ifelse(figure, " *Figures only.*", "")
  )
}

`%||%` <- function(a, b) if (is.null(a)) b else a
head <- c("| field | type | what it holds |", "|---|---|---|")
parts <- Filter(function(p) length(p$properties), contract$`$defs`)
sections <- unlist(lapply(names(parts), function(name) {
  part <- parts[[name]]
  c("", sprintf("## `%s`", name), "", part$description, "", head, rows(part$properties))
}))
text <- c(
  "---",
  "title: \"The fields of a plan\"",
  "output: rmarkdown::html_vignette",
  "vignette: >",
  "  %\\VignetteIndexEntry{The fields of a plan}",
  "  %\\VignetteEngine{knitr::rmarkdown}",
  "  %\\VignetteEncoding{UTF-8}",
  "---",
  "",
  "<!-- Made from inst/schema/plan.schema.json by tools/document-plan.R; do not edit. -->",
  "",
  contract$description,
  "",
  "Layers are drawn in their order, the first lowest. Classes are counted from 1 in the order of",
  "their labels; class 0 has no data.",
  "",
  head,
  rows(contract$properties),
  sections
)
writeLines(enc2utf8(text), "vignettes/plan-fields.Rmd", useBytes = TRUE)
