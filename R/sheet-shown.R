# Which columns of its data a layer shows. What is published with a map holds these, and what is
# asked for by name; a table may have others that are nobody's business.

# What of a layer names a column, apart from its texts.
column_fields <- c("value", "second", "by", "hatch", "size", "colour_by", "weight", "priority")

shown_columns <- function(layer, fields = NULL) {
  data <- layer$data
  templates <- unlist(layer[c("hover", "popup", "text")])
  in_texts <- lapply(templates, function(text) {
    unlist(lapply(parse_template(text), `[[`, "column"))
  })
  names <- c(
    code_column(data), name_column(data), region_column(layer, name_column(data)),
    unlist(layer[column_fields]), layer$at, unlist(in_texts), fields
  )
  intersect(names(data), names)
}

region_words <- c("region", "state", "province", "county", "department", "country")

# The column that thicker borders tell, or one with a name of such units.
region_column <- function(layer, name) {
  is_text <- vapply(layer$data, function(x) is.character(x) || is.factor(x), NA)
  known <- setdiff(names(layer$data)[is_text], name)
  c(layer$borders$between, known[match(region_words, lower_case(known), nomatch = 0)], NA)[1]
}

# Fields to publish beside those that are shown: each a column of one of the layers.
check_fields <- function(fields, sheets, call = rlang::caller_env()) {
  if (is.null(fields)) return(NULL)
  fields <- check_texts(fields, "fields", call)
  sheets <- Filter(function(s) inherits(s, "ochre_sheet"), sheets)
  layers <- unlist(lapply(sheets, function(s) s$layers), recursive = FALSE)
  known <- unique(unlist(lapply(layers, function(l) names(l$data))))
  lost <- setdiff(fields, setdiff(known, "geometry"))
  if (!length(lost)) return(fields)
  ochre_abort("column", "`fields` names the column `{lost[1]}`, which no layer has.",
              did_you_mean(lost[1], setdiff(known, "geometry"), "Columns"), arg = "fields")
}
