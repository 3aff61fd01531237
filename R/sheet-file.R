# A sheet as a YAML file: checked against the schema, then run with the same verbs as in R. Nothing
# in the file is evaluated as code: columns and tables are names, the rest are plain values.

#' Read a sheet from a YAML file
#'
#' The file holds the same words as R: `tables`, each a list of steps (`read_boundaries`,
#' `read_statistics`, `mend_boundaries`, `simplify_boundaries`, `merge_areas`, `sum_areas`, `keep_where`, `rate_per`,
#' `standardise_rate`, `look_up`, `join_statistics` and the other verbs between reading and drawing), and `layers` (`shade_areas`,
#' `place_symbols`, `draw_lines`, `write_labels`, `shade_density`, `shade_heat`, `show_layer` for the one before, and the backdrops `lay_tiles`, `lay_wmts`, `lay_picture` and
#' `lay_plain`), with their arguments as keys. Paths are seen from the file's
#' folder. The JSON Schema in `system.file("schema/sheet.schema.json", package = "ochre")` says
#' all that a file may hold.
#'
#' @param file Path of a sheet: one text.
#' @return A list of class `ochre_sheet`, as [map_sheet()] and the layer verbs make it, with three
#'   attributes: `publish`, the paths to write, `budget`, the size that a page may have, and `audits`, a named list of the audits of its
#'   joins.
#' @section Errors: `ochre_error_sheet` when the file is not YAML or holds what the schema does not
#'   allow (field `path` says where); the errors of the verbs it names.
#' @examples
#' sheet <- read_sheet(ochre_demo("map.ochre.yml"))
#' sheet
#' @export
read_sheet <- function(file) {
  check_text(file, "file")
  content <- load_sheet(file)
  tables <- make_tables(content, file)
  sheet <- do.call(map_sheet, content[intersect(names(content), c("title", "subtitle", "source", "note", "projection", "inset", "locale", "alt", "ground", "legend", "figure", "page"))])
  for (i in seq_along(content$layers)) {
    verb <- names(content$layers[[i]])
    where <- sprintf("layers[%d].%s", i, verb)
    arguments <- content$layers[[i]][[1]]
    if (!is.null(arguments$data)) arguments$data <- find_table(arguments$data, tables, file, where)
    if (is.list(arguments$popup)) arguments$popup <- lapply(arguments$popup, function(field) if (is.list(field) && !is.null(field$picture)) c(field, list(folder = dirname(file))) else field)
    for (path in intersect(c("file", "world", "capabilities"), names(arguments))) arguments[[path]] <- beside(file, arguments[[path]])
    for (steps in intersect(c("steps", "second_steps", "size_steps", "width_steps"), names(arguments))) arguments[[steps]] <- in_sheet(file, paste0(where, ".", steps), run_verb(names(arguments[[steps]]), arguments[[steps]][[1]]))
    sheet <- in_sheet(file, where, run_verb(verb, c(list(sheet = sheet), arguments)))
  }
  structure(sheet, publish = file.path(dirname(file), unlist(content$publish)), budget = content$budget, audits = audits_of(tables))
}

load_sheet <- function(file) {
  text <- paste(readLines(check_file(file), encoding = "UTF-8", warn = FALSE), collapse = "\n")
  content <- tryCatch(yaml::yaml.load(text, eval.expr = FALSE, handlers = list(seq = function(x) x, int = as_plain_int, `bool#yes` = as_plain_flag, `bool#no` = as_plain_flag)), error = function(e) {
    ochre_abort("sheet", sprintf("`%s` is not valid YAML: %s.", file, sub("^\\(<text>\\) *", "", trimws(conditionMessage(e)))),
                "Look at this line and the one above for a missing colon, quote or space.", file = file)
  })
  check_schema(content, sheet_schema(), file)
  content
}

# 010 is the number ten to a reader, not eight.
as_plain_int <- function(x) as.integer(sub("^([-+]?)0+(?=[0-9])", "\\1", gsub("[_,]", "", x), perl = TRUE))

# Only true and false are flags: `n`, `yes` and `off` are words.
as_plain_flag <- function(x) if (tolower(x) %in% c("true", "false")) tolower(x) == "true" else x

# `on_join` sees the name of the table and the arguments of each join before it is made, and may change them.
make_tables <- function(content, file, on_join = function(name, arguments) arguments) {
  tables <- list()
  for (name in names(content$tables)) {
    table <- NULL
    steps <- content$tables[[name]]
    for (i in seq_along(steps)) {
      verb <- names(steps[[i]])
      where <- sprintf("tables.%s[%d].%s", name, i, verb)
      arguments <- steps[[i]][[1]]
      main <- main_argument(verb)
      for (other in setdiff(intersect(names(arguments), table_arguments), main)) arguments[[other]] <- find_table(arguments[[other]], tables, file, where)
      for (list in intersect(c("text", "sum"), names(arguments))) arguments[[list]] <- unlist(arguments[[list]])
      if (startsWith(verb, "read_")) {
        arguments$file <- beside(file, arguments$file)
        if (!is.null(arguments$request)) arguments$request <- in_sheet(file, paste0(where, ".request"), run_verb("service_request", arguments$request))
      } else if (verb == "join_statistics") {
        arguments <- on_join(name, arguments)
      } else if (is.null(table)) {
        ochre_abort("sheet", sprintf("`%s`, %s: there is no table to work on yet.", file, where), "Begin with a read_\u2026 or join_statistics step.", file = file, path = where)
      } else {
        arguments <- c(stats::setNames(list(table), main), arguments)
      }
      table <- in_sheet(file, where, run_verb(verb, arguments))
    }
    tables[[name]] <- table
    signal_progress("Making tables", length(tables), length(content$tables))
  }
  tables
}

# What a verb calls the table that it works on, and the names of arguments that are other tables.
boundary_verbs <- c("mend_boundaries", "simplify_boundaries", "merge_areas", "inner_borders", "outline", "label_points", "count_in_areas", "summarise_in_areas")
main_argument <- function(verb) {
  if (verb %in% boundary_verbs) "boundaries" else if (verb == "find_areas") "points" else if (verb == "join_statistics") "" else "data"
}
table_arguments <- c("boundaries", "statistics", "aliases", "standard", "changes", "points", "table")

run_verb <- function(verb, arguments) do.call(getExportedValue("ochre", verb), as.list(arguments))

# An error of a verb says where in the sheet the verb stands.
in_sheet <- function(file, where, code) {
  withCallingHandlers(code, ochre_error = function(e) {
    if (is.null(e$path)) {
      rlang::abort(c(sprintf("`%s`, %s: %s", file, where, e$what), if (!is.null(e$mend)) stats::setNames(e$mend, rep("i", length(e$mend)))),
                   class = class(e)[startsWith(class(e), "ochre_error")], what = sprintf("`%s`, %s: %s", file, where, e$what), mend = e$mend, path = where, file = file, call = NULL)
    }
  })
}

beside <- function(sheet, path) if (grepl("^([A-Za-z]:)?[/\\\\]|^~|^https?://", path)) path else file.path(dirname(sheet), path)

find_table <- function(name, tables, file, where, call = rlang::caller_env()) {
  if (is.null(tables[[name]])) {
    ochre_abort("sheet", sprintf("`%s`, %s: there is no table `%s`.", file, where, name), did_you_mean(name, names(tables), "Tables so far"),
                file = file, path = where, call = call)
  }
  tables[[name]]
}

# Audits of the joins that made the tables, named by table; of several on one, "table, join 2".
audits_of <- function(tables) {
  out <- list()
  for (name in names(tables)) {
    audits <- attr(tables[[name]], "ochre_joins")
    for (i in seq_along(audits)) out[[if (i == 1) name else sprintf("%s, join %d", name, i)]] <- finish_audit(audits[[i]])
  }
  out
}
