# A first sheet from files that nobody has looked at yet: what they hold, how they join, what to
# show and in which steps; each choice with its reason, as a comment of the sheet. The choices are
# in publish-start-choose.R.

#' Begin a sheet from files
#'
#' Looks at boundaries and tables, finds the columns that join them and a value to show, and writes
#' a sheet file that builds, with a comment beside each choice. The command `ochre start` does the
#' same.
#'
#' A table with several rows for each area is summed, or its last period is taken. A rate is shaded;
#' a count becomes a rate where residents are known, else it is shown by symbols, because large
#' areas have large counts. Numbers on both sides of zero have classes on both sides of it. Points
#' become symbols, lines are drawn.
#'
#' @param files Paths of files that [read_boundaries()] or [read_statistics()] can read: a character
#'   vector.
#' @param to Where to: a path that ends in `.yml` or `.yaml`: one text.
#' @param value Column to show: one text; `NULL` (default) lets Ochre choose.
#' @param force `TRUE` replaces a file that is there.
#' @return The path, invisibly. What was chosen, and why, is said in one message.
#' @section Errors: `ochre_error_file` when `to` is there already, or nothing in the files can be
#'   drawn; `ochre_error_column` when no file has `value`; `ochre_error_layer` for a service with
#'   several collections; those of [read_boundaries()] and [read_statistics()].
#' @examples
#' files <- ochre_demo(c("districts.geojson", "visits.csv", "clinics.csv"))
#' sheet <- start_sheet(files, file.path(tempdir(), "first.ochre.yml"), force = TRUE)
#' cat(readLines(sheet), sep = "\n")
#' @export
start_sheet <- function(files, to = "map.ochre.yml", value = NULL, force = FALSE) {
  files <- check_texts(files, "files")
  check_text(to, "to")
  check_text(value, "value", null = TRUE)
  check_flag(force, "force")
  call <- rlang::current_env()
  to <- as_path(to, call)
  refuse_target(to, force, call)
  held <- lapply(files, look_at_file, call = call)
  start <- join_files(held, to)
  start <- choose_value(start, value, call)
  refuse_empty(start, files, call)
  lines <- start_lines(start)
  write_whole(to, function(part) write_lines(lines, part), "yml")
  ochre_tell(paste(c(paste0(to, ":"), paste0("  ", start$reasons)), collapse = "\n"))
  invisible(to)
}

refuse_target <- function(to, force, call) {
  if (!grepl("[.]ya?ml$", to)) {
    ochre_abort("file", "`{to}` is no name of a sheet.", "End it in `.yml`.", file = to)
  }
  if (file.exists(to) && !force) {
    ochre_abort("file", "`{to}` is there already.",
                "Name another file, or say `force = TRUE` (--force) to replace it.", file = to)
  }
}

refuse_empty <- function(start, files, call) {
  if (length(start$layers)) return(invisible())
  ochre_abort(
    "file", "Nothing in {list_words(basename(files), mark = '`')} can be drawn.",
    "Give boundaries, such as GeoJSON or a shapefile, or a table with longitude and latitude.",
    file = files[1]
  )
}

# ---- the files -----------------------------------------------------------------------------------

# `file`, `layer`, `kind` (areas, lines, points or table) and `data`. Of several layers all are
# looked at, and the one with the most features is taken.
look_at_file <- function(file, call = rlang::caller_env()) {
  quiet <- function(code) suppressWarnings(suppressMessages(code))
  seen <- quiet(inspect_file(file))
  if (seen$kind != "several") return(look_at_layer(file, NULL, seen))
  # Nobody asked for all that a service has.
  if (seen$holds == "collections") {
    ochre_abort(
      "layer", "`{file}` holds {length(seen$layers)} collections: {list_words(seen$layers, 12)}.",
      "Give the address of one, such as {sub('/+$', '', file)}/collections/{seen$layers[1]}.",
      layers = seen$layers
    )
  }
  layers <- lapply(seen$layers, function(layer) {
    look_at_layer(file, layer, quiet(inspect_file(file, layer)))
  })
  best <- which.max(vapply(layers, function(l) nrow(l$data), 0L))
  c(layers[[best]], list(others = seen$layers[-best]))
}

look_at_layer <- function(file, layer, seen) {
  data <- read_inspected(file, seen$kind, layer)
  placed <- !is.null(seen$extent)
  shapes <- names(seen$shapes)
  kind <- if (!placed) {
    "table"
  } else if (any(grepl("polygon", shapes))) {
    "areas"
  } else if (any(grepl("line", shapes))) {
    "lines"
  } else {
    "points"
  }
  read <- if (seen$kind == "boundaries") "read_boundaries" else "read_statistics"
  list(file = file, layer = layer, kind = kind, data = data, read = read)
}

# What the sheet will hold: `tables` (lines of each, by name), `data` (what each will be), `layers`,
# `main` (the table with the areas), `reasons`.
join_files <- function(held, to) {
  start <- list(folder = dirname(to), tables = list(), data = list(), layers = list(),
                reasons = character())
  kinds <- vapply(held, `[[`, "", "kind")
  areas <- held[kinds == "areas"]
  if (length(areas)) {
    # The file with the most areas leads; the others lie over it as lines.
    first <- which.max(vapply(areas, function(h) nrow(h$data), 0L))
    start <- add_file(start, areas[[first]], "areas")
    start$main <- "areas"
    for (other in areas[-first]) start <- add_over(start, other)
  }
  for (one in held[kinds == "table"]) start <- join_table(start, one)
  for (one in held[kinds == "lines"]) start <- add_over(start, one)
  for (one in held[kinds == "points"]) start <- add_points(start, one)
  start
}

because <- function(start, ...) {
  start$reasons <- c(start$reasons, sprintf(...))
  start
}

add_file <- function(start, one, name) {
  name <- make.unique(c(names(start$tables), name), "_")[length(start$tables) + 1]
  arguments <- list(file = path_beside(one$file, start$folder))
  arguments$layer <- one$layer
  start$tables[[name]] <- c(file_comment(one), step_yaml(one$read, arguments))
  start$data[[name]] <- one$data
  start$last <- name
  what <- if (one$kind == "table") "row" else "feature"
  because(start, "%s: %s, %s.", basename(one$file), one$kind, count_words(nrow(one$data), what))
}

file_comment <- function(one) {
  if (length(one$others)) {
    sprintf("    # Other layers of this file: %s.", list_words(one$others, mark = ""))
  }
}

add_over <- function(start, one) {
  start <- add_file(start, one, "lines")
  arguments <- list(data = start$last, legend = words_of(file_stem(one$file)))
  if (one$kind == "areas") arguments$dash <- TRUE
  start$layers <- c(start$layers, list(c(
    "  # What lies over the areas.",
    layer_yaml("draw_lines", arguments)
  )))
  start
}

# Points are symbols: as large as a count says, coloured by a few kinds.
add_points <- function(start, one) {
  start <- add_file(start, one, "places")
  start$title <- start$title %||% words_of(file_stem(one$file))
  columns <- column_facts(without_geometry(one$data))
  counts <- columns$column[columns$role == "count" & columns$distinct > 1]
  few <- columns$type == "text" & columns$distinct > 1 & columns$distinct <= 7 &
    columns$missing < 0.2 * nrow(one$data)
  arguments <- list(data = start$last)
  arguments$size <- if (length(counts)) counts[1]
  arguments$colour <- if (any(few)) columns$column[few][1]
  arguments$legend <- if (length(counts)) words_of(counts[1]) else words_of(file_stem(one$file))
  start$layers <- c(start$layers, list(c(
    sprintf("  # Symbols%s%s.",
            if (length(counts)) sprintf(", their areas in proportion to %s", counts[1]) else "",
            if (any(few)) sprintf(", coloured by %s", arguments$colour) else ""),
    layer_yaml("place_symbols", arguments)
  )))
  start
}

without_geometry <- function(data) data[setdiff(names(data), "geometry")]

# ---- the table -----------------------------------------------------------------------------------

# A table of statistics comes to the areas by the pair of columns that match best.
join_table <- function(start, one) {
  start <- add_file(start, one, "statistics")
  name <- start$last
  if (is.null(start$main)) return(start)
  areas <- start$data[[start$main]]
  pair <- surest_pair(find_keys(areas, one$data))
  if (!nrow(pair)) {
    return(because(start, "%s: no column has keys of the areas, so it is left out.",
                   basename(one$file)))
  }
  statistics <- one$data
  if (!is.na(pair$note)) {
    return(because(start, "%s: left out, because %s.", basename(one$file), pair$note))
  }
  start <- because(
    start, "%s joins by %s = %s: %s of %s have a partner%s.", basename(one$file),
    pair$boundaries, pair$statistics, plain_count(pair$tidied), count_words(pair$areas, "area"),
    if (pair$tidied > pair$exact) {
      sprintf(", %d only after ignoring case, accents and zeros", pair$tidied - pair$exact)
    } else {
      ""
    }
  )
  reduced <- one_row_each(start, name, statistics, pair$statistics)
  start <- reduced$start
  if (is.null(reduced$data)) return(because(start, "%s: left out.", basename(one$file)))
  joined <- make.unique(c(names(start$tables), "joined"), "_")[length(start$tables) + 1]
  by <- stats::setNames(list(pair$statistics), pair$boundaries)
  arguments <- list(boundaries = start$main, statistics = name, by = by)
  if (pair$tidied > pair$exact) arguments$match <- "tidied"
  made <- tryCatch(
    suppressWarnings(suppressMessages(join_statistics(
      areas, reduced$data, by = unlist(by), match = arguments$match %||% "exact"
    ))),
    ochre_error = identity
  )
  if (inherits(made, "condition")) {
    return(because(start, "%s: left out. %s", basename(one$file), made$what))
  }
  start$tables[[joined]] <- c(
    sprintf("    # %s of %s have a partner.", plain_count(pair$tidied),
            count_words(pair$areas, "area")),
    step_yaml("join_statistics", arguments)
  )
  start$data[[joined]] <- made
  start$main <- joined
  start
}

# Of pairs that match as many the one of codes: names are written in several ways.
surest_pair <- function(pairs) {
  as_good <- pairs[pairs$tidied == c(pairs$tidied, NA)[1] & is.na(pairs$note), ]
  coded <- as_good[named_like_code(as_good$boundaries), ]
  if (nrow(coded)) coded[1, ] else utils::head(pairs, 1)
}

plain_count <- function(n) format(n, big.mark = ",")

# Several rows for an area are summed, or the last period is kept.
one_row_each <- function(start, name, data, key) {
  rows <- as.character(data[[key]])
  if (!anyDuplicated(rows[!is.na(rows)])) return(list(start = start, data = data))
  columns <- column_facts(data)
  period <- period_column(data, columns, key)
  counts <- columns$column[columns$role == "count" & columns$distinct > 1]
  alone <- !is.null(period) && !anyDuplicated(data[!is.na(rows), c(key, period)])
  if (alone) {
    start$tables[[name]] <- c(
      start$tables[[name]],
      sprintf("    # A row for each %s: the last one of each area.", period),
      step_yaml("keep_latest", list(period = period, by = key))
    )
    kept <- suppressWarnings(keep_latest(data, !!period, !!key))
    return(list(start = because(start, "Of several rows for an area the last %s is taken.", period),
                data = kept))
  }
  if (length(counts)) {
    start$tables[[name]] <- c(
      start$tables[[name]],
      sprintf("    # Several rows for an area: %s is added up over all of them.", counts[1]),
      step_yaml("sum_areas", list(value = counts[1], by = key))
    )
    summed <- suppressWarnings(sum_areas(data, !!counts[1], by = !!key))
    return(list(start = because(start, "%s is added up over the rows of an area.", counts[1]),
                data = summed))
  }
  number <- columns$column[columns$role == "number"]
  if (!length(number)) {
    return(list(start = because(start, "Several rows for an area, and nothing to add up.")))
  }
  start$tables[[name]] <- c(
    start$tables[[name]],
    sprintf("    # Several rows for an area: the mean of %s; is that what you want?", number[1]),
    step_yaml("average_areas", list(value = number[1], by = key))
  )
  list(start = because(start, "%s is averaged over the rows of an area.", number[1]),
       data = suppressWarnings(average_areas(data, !!number[1], by = !!key)))
}

period_column <- function(data, columns, key) {
  dated <- grepl("^[0-9]{4}(-[0-9]{2}){0,2}$", vapply(data, function(x) {
    as.character(x[!is.na(x)][1])
  }, ""))
  found <- columns$column[columns$role %in% c("year", "date") | (dated & columns$distinct > 1)]
  found <- setdiff(found, key)
  if (length(found)) found[1]
}

# ---- words ---------------------------------------------------------------------------------------

file_stem <- function(file) sub("[.].*$", "", basename(file))

# A path as the sheet says it: seen from its folder where it lies below that.
path_beside <- function(file, folder) {
  if (is_address(file)) return(file)
  whole <- normalizePath(file, "/", mustWork = FALSE)
  base <- paste0(normalizePath(folder, "/", mustWork = FALSE), "/")
  if (startsWith(whole, base)) substring(whole, nchar(base) + 1) else whole
}

# A step or a layer as lines of YAML.
entry_yaml <- function(verb, arguments, indent) {
  flag <- function(x) structure(if (x) "true" else "false", class = "verbatim")
  text <- yaml::as.yaml(
    list(stats::setNames(list(arguments), verb)), handlers = list(logical = flag)
  )
  paste0(strrep(" ", indent), strsplit(text, "\n", fixed = TRUE)[[1]])
}
step_yaml <- function(verb, arguments) entry_yaml(verb, arguments, 4)
layer_yaml <- function(verb, arguments) entry_yaml(verb, arguments, 2)

start_lines <- function(start) {
  tables <- unlist(lapply(names(start$tables), function(name) {
    c(sprintf("  %s:", name), start$tables[[name]])
  }))
  c(
    "# Look at it while you change it:  ochre preview SHEET.   Build it:  ochre build SHEET.",
    "ochre: 1",
    sub("\n$", "", yaml::as.yaml(list(title = start$title %||% "A map"))),
    "# subtitle: What is counted, where and when",
    "# source: Who says so",
    "",
    "tables:",
    tables,
    "",
    "layers:",
    unlist(start$layers),
    "",
    "publish: [map.html, map.png]"
  )
}
