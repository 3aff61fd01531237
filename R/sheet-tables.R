# The tables of a sheet file, each made step by step from files and the tables before it.

# `on_join` sees the name of the table and the arguments of each join before it is made, and may
# change them; with a `cache` what was made before is not made again.
make_tables <- function(text, on_join = function(name, arguments) arguments, cache = NULL) {
  tables <- list()
  keys <- list()
  names <- names(text$content$tables)
  for (name in names) {
    if (!is.null(cache)) keys[[name]] <- table_key(text, name, keys)
    kept <- if (!is.null(keys[[name]])) cache
    tables[[name]] <- from_cache(
      kept, "table", keys[[name]], make_table(text, name, tables, on_join)
    )
    signal_progress("Making tables", length(tables), length(names))
  }
  tables
}

# All that a table is made of: its steps, the contents of its files, and the tables that it takes.
# NULL where something comes from elsewhere, so that nobody can tell whether it is the same again.
table_key <- function(text, name, keys) {
  steps <- text$content$tables[[name]]
  arguments <- lapply(steps, `[[`, 1)
  files <- files_of(text, arguments)
  others <- unlist(lapply(arguments, function(a) unlist(a[intersect(names(a), table_arguments)])))
  if (is.null(files) || !all(others %in% names(keys))) return(NULL)
  # A path that is not there ends in words when it is read.
  if (!all(file.exists(files))) return(NULL)
  hashes <- vapply(files, digest::digest, "", algo = "xxhash64", file = TRUE)
  rlang::hash(list(steps, dirname(text$file), files, hashes, keys[others]))
}

# ---- what they are made of -----------------------------------------------------------------------

# The files that a sheet reads, seen from the working directory; NULL where it also reads from
# elsewhere.
sheet_inputs <- function(text) {
  steps <- unlist(lapply(text$content$tables, function(t) lapply(t, `[[`, 1)), recursive = FALSE)
  layers <- lapply(text$content$layers, `[[`, 1)
  pictures <- any(vapply(layers, function(l) any(grepl("picture", names(unlist(l$popup)))), NA))
  files <- if (!pictures) files_of(text, c(unname(steps), layers))
  if (!is.null(files)) unique(c(text$file, files))
}

# The files of some steps or layers, with what lies beside them; NULL where one is an address.
files_of <- function(text, arguments) {
  paths <- unlist(lapply(arguments, `[`, c("file", "world", "capabilities")))
  if (any(is_address(paths))) return(NULL)
  paths <- vapply(unique(paths), beside, "", sheet = text$file, USE.NAMES = FALSE)
  unique(c(character(), unlist(lapply(paths, with_siblings))))
}

# A shapefile is several files; beside a picture lies the one that places it.
with_siblings <- function(path) {
  stem <- sub("[.][^./\\\\]*$", "", basename(path))
  all <- list.files(dirname(path), full.names = TRUE)
  own <- all[sub("[.][^./\\\\]*$", "", basename(all)) == stem]
  sort(unique(c(path, own[grepl("[.](shp|dbf|shx|prj|cpg|[a-z]*w)$", own)])))
}

# ---- one table -----------------------------------------------------------------------------------

# One table, from those before it.
make_table <- function(text, name, tables, on_join = function(name, arguments) arguments) {
  table <- NULL
  steps <- text$content$tables[[name]]
  for (i in seq_along(steps)) {
    verb <- names(steps[[i]])
    place <- list("tables", name, i, verb)
    arguments <- steps[[i]][[1]]
    main <- main_argument(verb)
    for (other in setdiff(intersect(names(arguments), table_arguments), main)) {
      arguments[[other]] <- tables[[arguments[[other]]]]
    }
    for (list in intersect(c("text", "sum"), names(arguments))) {
      arguments[[list]] <- unlist(arguments[[list]])
    }
    if (startsWith(verb, "read_")) {
      arguments <- reading_arguments(text, place, arguments)
    } else if (verb == "join_statistics") {
      arguments <- on_join(name, arguments)
    } else {
      arguments <- c(stats::setNames(list(table), main), arguments)
    }
    table <- in_sheet(text, place, arguments, run_verb(verb, arguments))
  }
  table
}

reading_arguments <- function(text, place, arguments) {
  arguments$file <- beside(text$file, arguments$file)
  request <- arguments$request
  if (!is.null(request)) {
    arguments$request <- in_sheet(
      text, c(place, "request"), request, run_verb("service_request", request)
    )
  }
  arguments
}

# What a verb calls the table that it works on, and the names of arguments that are other tables.
boundary_verbs <- c(
  "mend_boundaries", "simplify_boundaries", "merge_areas", "inner_borders", "outline",
  "label_points", "count_in_areas", "summarise_in_areas"
)
main_argument <- function(verb) {
  if (verb %in% boundary_verbs) {
    "boundaries"
  } else if (verb == "find_areas") {
    "points"
  } else if (verb == "join_statistics") {
    ""
  } else {
    "data"
  }
}
table_arguments <- c(
  "boundaries", "statistics", "aliases", "standard", "changes", "points", "table"
)

run_verb <- function(verb, arguments) {
  do.call(getExportedValue("ochre", verb), as.list(arguments))
}

# Audits of the joins that made the tables, named by table; of several on one, "table, join 2".
audits_of <- function(tables) {
  out <- list()
  for (name in names(tables)) {
    audits <- attr(tables[[name]], "ochre_joins")
    for (i in seq_along(audits)) {
      out[[if (i == 1) name else sprintf("%s, join %d", name, i)]] <- finish_audit(audits[[i]])
    }
  }
  out
}
