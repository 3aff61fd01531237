# A sheet as a YAML file: checked against the schema, then run with the same verbs as in R. Nothing
# in the file is evaluated as code: columns and tables are names, the rest are plain values.

#' Read a sheet from a YAML file
#'
#' The file holds the same words as R: `tables`, each a list of steps (`read_boundaries`,
#' `read_statistics`, `mend_boundaries`, `simplify_boundaries`, `merge_areas`, `sum_areas`,
#' `keep_where`, `rate_per`, `standardise_rate`, `look_up`, `join_statistics` and the other verbs
#' between reading and drawing), and `layers` (`shade_areas`, `place_symbols`, `draw_lines`,
#' `write_labels`, `shade_density`, `shade_heat`, `show_layer` for the one before, and the
#' backdrops `lay_tiles`, `lay_wmts`, `lay_picture` and `lay_plain`), with their arguments as
#' keys. Paths are seen from the file's folder. The JSON Schema in
#' `system.file("schema/sheet.schema.json", package = "ochre")` says all that a file may hold.
#'
#' @param file Path of a sheet: one text.
#' @param values Named values of the sheet ([read_sheets()] says more): a list such as
#'   `list(year = 2031)`; none by default.
#' @return A list of class `ochre_sheet`, as [map_sheet()] and the layer verbs make it, with three
#'   attributes: `publish`, the paths to write, `budget`, the size that a page may have, and
#'   `audits`, a named list of the audits of its joins.
#' @section Errors: `ochre_error_sheet` when the file is not YAML or holds what the schema does not
#'   allow (field `path` says where); the errors of the verbs it names.
#' @examples
#' sheet <- read_sheet(ochre_demo("map.ochre.yml"))
#' sheet
#' @export
read_sheet <- function(file, values = list()) {
  check_text(file, "file")
  sheet_of(load_sheet(file, check_values(values)))
}

# The sheet of a file that has been looked at.
sheet_of <- function(text, cache = NULL) {
  tables <- make_tables(text, cache = cache)
  sheet <- bare_sheet(text)
  for (i in seq_along(text$content$layers)) sheet <- put_layer(sheet, text, i, tables)
  structure(
    sheet, publish = own_targets(text), budget = text$content$budget,
    audits = audits_of(tables), text = text
  )
}

bare_sheet <- function(text) {
  about <- text$content[intersect(names(text$content), sheet_words)]
  in_sheet(text, list(), about, do.call(map_sheet, about))
}

# The sheet with what stands at a place among its layers.
put_layer <- function(sheet, text, i, tables) {
  entry <- text$content$layers[[i]]
  verb <- names(entry)
  place <- list("layers", i, verb)
  arguments <- layer_arguments(text, place, entry[[1]], tables)
  sheet <- in_sheet(text, place, arguments, run_verb(verb, c(list(sheet = sheet), arguments)))
  last <- length(sheet$layers)
  if (last) sheet$layers[[last]]$written <- sheet$layers[[last]]$written %||% place
  sheet
}

sheet_words <- c(
  "title", "subtitle", "source", "source_link", "note", "projection", "inset", "centre",
  "leave_out", "graticule", "outline", "locale", "alt", "ground", "legend", "figure", "page"
)

# Arguments of a layer with tables, paths and steps in place of their names.
layer_arguments <- function(text, place, arguments, tables) {
  if (!is.null(arguments$data)) arguments$data <- tables[[arguments$data]]
  if (is.list(arguments$popup)) {
    arguments$popup <- lapply(arguments$popup, picture_beside, dirname(text$file))
  }
  for (path in intersect(c("file", "world", "capabilities"), names(arguments))) {
    arguments[[path]] <- beside(text$file, arguments[[path]])
  }
  for (steps in intersect(
      c("steps", "second_steps", "size_steps", "width_steps"),
      names(arguments)
    )) {
    given <- arguments[[steps]]
    bare <- is.null(names(given))
    arguments[[steps]] <- in_sheet(
      text,
      c(place, steps),
      given[[1]],
      if (bare) as_steps(given, steps) else run_verb(names(given), given[[1]])
    )
  }
  arguments
}

picture_beside <- function(field, folder) {
  if (is.list(field) && !is.null(field$picture)) c(field, list(folder = folder)) else field
}

# `content`, with `lines` and `file` for saying where something stands. All that is wrong is said at
# once.
load_sheet <- function(file, values = list(), call = rlang::caller_env()) {
  lines <- sheet_lines(file, call)
  content <- sheet_content(file, lines, call)
  if (is.list(content)) content <- fill_values(content, values, file, call)
  schema <- sheet_schema()
  content <- fit_content(content, schema, schema)
  faults <- schema_faults(content, schema)
  if (!length(faults)) faults <- c(table_faults(content), target_faults(content, file))
  if (length(faults)) refuse_sheet(faults, file, lines, call)
  list(content = content, lines = lines, file = file)
}

sheet_content <- function(file, lines, call) {
  tryCatch(parse_yaml(lines), error = function(e) {
    ochre_abort(
      "sheet",
      sprintf(
        "`%s` is not valid YAML: %s.", file,
        strip_period(sub("^\\(<text>\\) *", "", trimws(conditionMessage(e))))
      ), "Look at this line and the one above for a missing colon, quote or space.", file = file
    )
  })
}

sheet_lines <- function(file, call) {
  path <- check_file(file, call)
  refuse <- function(what, mend) {
    ochre_abort("sheet", "`{file}` {what}.", mend)
  }
  if (file.size(path) > sheet_bytes) {
    refuse(
      sprintf("is %s large", size_words(file.size(path))),
      "A sheet holds a few lines of words; is this the right file?"
    )
  }
  bytes <- readBin(path, "raw", file.size(path))
  line_at <- function(i) 1 + sum(bytes[seq_len(i)] == as.raw(0x0a))
  if (any(bytes == 0)) {
    refuse(
      sprintf("holds a zero byte in line %d", line_at(which(bytes == 0)[1])),
      "Save it as UTF-8 text."
    )
  }
  whole <- rawToChar(bytes)
  if (!validUTF8(whole)) {
    odd <- which(!validUTF8(strsplit(whole, "\n", fixed = TRUE, useBytes = TRUE)[[1]]))[1]
    refuse(sprintf("is not UTF-8 in line %d", odd), "Save it as UTF-8 text.")
  }
  Encoding(whole) <- "UTF-8"
  lines <- split_lines(sub("^\ufeff", "", whole))
  marks <- grep("^(---|\\.\\.\\.)(\\s|$)", lines)
  begun <- grep("^\\s*[^#%\\s]", lines, perl = TRUE)
  second <- marks[vapply(marks, function(k) any(setdiff(begun, marks) < k) && any(begun > k), NA)]
  if (length(second)) {
    refuse(
      sprintf("holds a second YAML document from line %d on", second[1]),
      "Keep one sheet in a file."
    )
  }
  lines
}

sheet_bytes <- 4e6

# What the parser only warns of, such as an anchor that is nowhere, is an error too.
parse_yaml <- function(lines) {
  handlers <- list(
    seq = function(x) x, int = as_plain_int, `float#fix` = as_plain_number,
    `float#exp` = as_plain_number, `bool#yes` = as_plain_flag, `bool#no` = as_plain_flag
  )
  withCallingHandlers(
    yaml::yaml.load(paste(lines, collapse = "\n"), eval.expr = FALSE, handlers = handlers),
    warning = function(w) stop(conditionMessage(w), call. = FALSE)
  )
}

# 010 is the number ten to a reader, not eight.
as_plain_int <- function(x) {
  number <- sub("^([-+]?)0+(?=[0-9])", "\\1", gsub("[_,]", "", x), perl = TRUE)
  value <- suppressWarnings(as.numeric(number))
  if (isTRUE(abs(value) <= .Machine$integer.max)) as.integer(value) else value
}

as_plain_number <- function(x) suppressWarnings(as.numeric(gsub("[_,]", "", x)))

# Only true and false are flags: `n`, `yes` and `off` are words.
as_plain_flag <- function(x) {
  flag <- lower_case(x)
  if (flag %in% c("true", "false")) flag == "true" else x
}

refuse_sheet <- function(faults, file, lines, call) {
  said <- vapply(
    faults,
    function(fault) paste(c(place_and_line(lines, fault$place), fault$what), collapse = ": "),
    ""
  )
  said <- sub("^: ", "", paste0(said, "."))
  mends <- lapply(faults, function(fault) paste(fault$mend, collapse = " "))
  one <- length(faults) == 1
  ochre_abort("sheet", if (one) "`{file}`, {said}" else "`{file}` has {length(faults)} faults.",
              if (one) faults[[1]]$mend else trimws(paste(said, mends)), file = file,
              path = place_words(faults[[1]]$place), line = line_of(lines, faults[[1]]$place),
              paths = vapply(faults, function(fault) place_words(fault$place), ""))
}

# What stands among the layers and draws no data.
no_layers <- c("show_layer", "lay_tiles", "lay_wmts", "lay_picture", "lay_plain")

# Steps and layers that work on a table that is not there (yet).
table_faults <- function(content) {
  faults <- list()
  known <- character()
  look_up <- function(name, place) {
    if (is.character(name) && !name %in% known) {
      faults[[length(faults) + 1]] <<- list(
        place = place,
        what = sprintf("there is no table `%s`", name),
        mend = did_you_mean(name, known, "Tables so far")
      )
    }
  }
  for (name in names(content$tables)) {
    for (i in seq_along(content$tables[[name]])) {
      verb <- names(content$tables[[name]][[i]])
      place <- list("tables", name, i, verb)
      given <- content$tables[[name]][[i]][[1]]
      for (other in setdiff(intersect(names(given), table_arguments), main_argument(verb))) {
        look_up(given[[other]], c(place, other))
      }
      if (i == 1 && !startsWith(verb, "read_") && verb != "join_statistics") {
        faults[[length(faults) + 1]] <- list(
          place = place,
          what = "there is no table to work on yet",
          mend = "Begin with a read_\u2026 or join_statistics step."
        )
      }
    }
    known <- c(known, name)
  }
  for (i in seq_along(content$layers)) {
    verb <- names(content$layers[[i]])
    look_up(content$layers[[i]][[1]]$data, list("layers", i, verb, "data"))
  }
  if (all(vapply(content$layers, names, "") %in% no_layers)) {
    faults[[length(faults) + 1]] <- list(
      place = list("layers"),
      what = "none of these draws data",
      mend = "Add shade_areas, place_symbols or draw_lines."
    )
  }
  faults
}

# A sheet may come from anyone: it writes below its own folder, and elsewhere only by the command's
# --to.
target_faults <- function(content, file) {
  faults <- list()
  for (i in seq_along(content$publish)) {
    if (!is_below(file.path(dirname(file), content$publish[[i]]), dirname(file)) ||
        is_rooted(content$publish[[i]])) {
      faults[[length(faults) + 1]] <- list(
        place = list("publish", i),
        what = "a sheet writes only into its own folder",
        mend = "Name a path below it, or say --to on the command line."
      )
    }
  }
  faults
}

own_targets <- function(text) file.path(dirname(text$file), unlist(text$content$publish))

# An error of a verb says where in the sheet the verb stands, and its argument if the error names
# it.
in_sheet <- function(text, place, arguments, code) {
  withCallingHandlers(code, ochre_error = function(e) {
    if (!is.null(e$path)) return()
    if (is.character(e$arg) && e$arg %in% names(arguments)) place <- c(place, e$arg)
    what <- paste0("`", text$file, "`, ", place_and_line(text$lines, place), ": ", e$what)
    rlang::abort(
      c(what, if (!is.null(e$mend)) stats::setNames(e$mend, rep("i", length(e$mend)))),
      class = class(e)[startsWith(class(e), "ochre_error")],
      what = what,
      mend = e$mend,
      path = place_words(place),
      line = line_of(text$lines, place),
      file = text$file,
      parent = NA,
      call = NULL
    )
  })
}

beside <- function(sheet, path) {
  if (is_rooted(path) || grepl("^https?://", path)) path else file.path(dirname(sheet), path)
}
