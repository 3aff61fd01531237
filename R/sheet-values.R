# Named values of a sheet: `$(name)` in its texts. Its key `values` names them with what they are by
# themselves; the environment (OCHRE_VALUE_NAME) and those who build it (--set name=value) change
# them. Its key `each` makes one map for each of several.

value_mark <- "\\$\\(([A-Za-z][A-Za-z0-9_]*)\\)"

# The content with values in place of their names. `given` is a named list or character vector.
fill_values <- function(content, given, file, call) {
  own <- content$values
  # What is none the schema says.
  if (!is.null(own) && !are_values(own)) return(content)
  if (!is.null(content$each)) check_each(content$each, file, call)
  refuse_strange_values(given, c(names(own), names(content$each)), file, call)
  for (name in names(own)) {
    text <- given[[name]] %||% environment_value(name)
    if (!is.null(text)) own[[name]] <- value_like(own[[name]], text, name, call)
  }
  values <- c(own, each_value(content, given, file, call))
  content$values <- own
  for (part in setdiff(names(content), c("values", "each"))) {
    content[[part]] <- fill_part(content[[part]], values, part == "publish", file, call)
  }
  content
}

environment_value <- function(name) {
  variable <- paste0("OCHRE_VALUE_", upper_case(name))
  text <- Sys.getenv(variable, NA)
  if (is.na(text)) return(NULL)
  check_text(text, variable)
  enc2utf8(text)
}

# As the sheet has it: a number where it has a number. Texts keep their zeros.
value_like <- function(own, text, name, call) {
  if (!is.character(text) || is.character(own)) return(text)
  made <- if (is.logical(own)) {
    if (lower_case(text) %in% c("true", "false")) lower_case(text) == "true"
  } else {
    number <- suppressWarnings(as.numeric(text))
    if (!is.na(number)) number
  }
  if (!is.null(made)) return(if (is.integer(own) && made == round(made)) as.integer(made) else made)
  ochre_abort(
    "argument",
    paste0("The value `{name}` is \"{text}\", and the sheet has a ",
           "{if (is.logical(own)) 'flag' else 'number'} there."),
    if (is.logical(own)) "Give true or false." else "Give a number, with a point for decimals.",
    arg = name
  )
}

refuse_strange_values <- function(given, known, file, call) {
  strange <- setdiff(names(given), known)
  if (!length(strange)) return(invisible())
  mend <- if (length(known)) {
    did_you_mean(strange[1], known, "Values")
  } else {
    "Name it there: values: {year: 2031}, and write $(year) where it belongs."
  }
  ochre_abort("argument", "The sheet `{file}` has no value `{strange[1]}`.", mend, arg = strange[1])
}

# A text that is a name alone becomes the value itself; within a text, and in paths to be written,
# values are words.
fill_part <- function(part, values, is_path, file, call) {
  if (is.list(part)) {
    part[] <- lapply(part, fill_part, values, is_path, file, call)
    return(part)
  }
  if (!is.character(part)) return(part)
  names <- regmatches(part, gregexpr(value_mark, part))[[1]]
  for (mark in unique(names)) {
    name <- substr(mark, 3, nchar(mark) - 1)
    if (!name %in% names(values)) {
      ochre_abort("sheet", "`{file}` has `{mark}`, and there is no value `{name}`.",
                  did_you_mean(name, names(values), "Values"))
    }
    if (identical(part, mark) && !is_path) return(values[[name]])
    word <- as.character(values[[name]])
    if (is_path) word <- path_word(word, name, file, call)
    part <- gsub(mark, word, part, fixed = TRUE)
  }
  part
}

# A value as a part of a file's name; one that begins with a dot would lead to another folder or
# hide the file.
file_word <- function(text) {
  plain <- stringi::stri_trans_general(text, "Any-Latin; Latin-ASCII; Lower")
  gsub("^[-.]+|[-.]+$", "", gsub("[^a-z0-9._]+", "-", plain))
}

path_word <- function(value, name, file, call) {
  word <- file_word(value)
  if (nzchar(word)) return(word)
  ochre_abort("sheet",
              "`$({name})` names a file, and its value \"{value}\" has no letter or digit.",
              "Give a value that can name a file.", file = file)
}

# All values that a map is made with, wherever they were set.
used_values <- function(text, given) {
  c(text$content$values, given[setdiff(names(given), names(text$content$values))])
}

# ---- one map for each ----------------------------------------------------------------------------

# The value that a map of a sheet with `each` is made for; NULL without `each`.
each_value <- function(content, given, file, call) {
  name <- names(content$each)
  if (is.null(name)) return(NULL)
  if (!is.null(given[[name]])) return(given[name])
  ochre_abort("sheet", "`{file}` makes a map for each `{name}`, and it is not said which.",
              "Build all with read_sheets() or `ochre build`, or give one: --set {name}=\u2026")
}

# All values of `each`, as texts; NULL where the sheet makes one map.
each_values <- function(text, call = rlang::caller_env()) {
  each <- text$each
  if (is.null(each)) return(NULL)
  name <- names(each)
  values <- if (is.null(each[[1]]$column)) unlist(each[[1]]) else column_values(each[[1]], text)
  values <- unique(as.character(values[!is.na(values)]))
  words <- file_word(values)
  if (!length(values)) ochre_abort("sheet", "`each` of `{text$file}` has no values.")
  twice <- which(duplicated(words) | !nzchar(words))[1]
  if (!is.na(twice)) {
    ochre_abort("sheet",
                "Two maps of `{text$file}` would have one name: that of \"{values[twice]}\".",
                "File names take letters and digits only; use a code in place of the name.")
  }
  stats::setNames(values, rep(name, length(values)))
}

column_values <- function(from, text) {
  path <- beside(text$file, from$file)
  table <- suppressMessages(suppressWarnings(
    tryCatch(read_boundaries(path), ochre_error = function(e) read_statistics(path))
  ))
  check_column(table, from$column, "each")
  table[[from$column]]
}

#' Read all maps of a sheet
#'
#' A sheet file may make one map for each of several: `each: {region: [Hesper, Varn]}`, or `each:
#' {region: {file: districts.geojson, column: region}}` for all that a column holds. Its texts have
#' `$(region)` where the value belongs, in `publish` too, as in `region-$(region).html` (there in
#' small letters, with a dash for what is no letter or digit). Other named values stand under
#' `values: {year: 2031}`; the environment variable `OCHRE_VALUE_YEAR`, or `values` here, sets them,
#' and the command's `--set year=2032`.
#'
#' @inheritParams read_sheet
#' @return A list of sheets as [read_sheet()] gives them, named by their values; a list of one for a
#'   sheet without `each`. The first error ends it.
#' @section Errors: Those of [read_sheet()].
#' @examples
#' sheets <- read_sheets(ochre_demo("map.ochre.yml"))
#' @export
read_sheets <- function(file, values = list()) {
  check_text(file, "file")
  values <- check_values(values)
  each <- sheet_each(file)
  single <- is.null(each$each) || names(each$each) %in% names(values)
  all <- if (single) list(NULL) else split_each(each_values(each))
  lapply(all, function(one) read_sheet(file, c(values, one)))
}

# Named by themselves.
split_each <- function(all) {
  stats::setNames(lapply(seq_along(all), function(i) as.list(all[i])), unname(all))
}

# What a file says of `each`, before anything else is looked at.
sheet_each <- function(file, call = rlang::caller_env()) {
  content <- sheet_content(file, sheet_lines(file, call), call)
  each <- if (is.list(content)) content$each
  if (!is.null(each)) check_each(each, file, call)
  list(each = each, file = file)
}

check_each <- function(each, file, call) {
  one <- is.list(each) && length(each) == 1 && !is.null(names(each))
  from <- if (one) each[[1]]
  listed <- one && is.null(names(from)) && length(from) && all(lengths(from) == 1)
  column <- one && setequal(names(from), c("file", "column"))
  if (listed || column) return(invisible())
  ochre_abort(
    "sheet", "`each` of `{file}` cannot be read.",
    "As in {{region: [Hesper, Varn]}}, or {{region: {{file: districts.csv, column: region}}}}."
  )
}

check_values <- function(values, call = rlang::caller_env()) {
  if (is.atomic(values)) values <- as.list(values)
  if (!length(values) || are_values(values)) return(values)
  ochre_abort("argument", "`values` must be a list of single values with names.",
              "For example list(year = 2031).", arg = "values")
}

are_values <- function(values) {
  single <- function(v) is.atomic(v) && length(v) == 1 && !is.na(v)
  is.list(values) && !is.null(names(values)) && all(nzchar(names(values))) &&
    !anyDuplicated(names(values)) && all(vapply(values, single, NA))
}
