# The tables of a sheet file, each made step by step from files and the tables before it.

# `on_join` sees the name of the table and the arguments of each join before it is made, and may
# change them; with a `cache` what was made before is not made again.
make_tables <- function(text, on_join = function(name, arguments) arguments, cache = NULL) {
  tables <- list()
  keys <- list()
  names <- names(text$content$tables)
  for (name in names) {
    if (!is.null(cache)) keys[[name]] <- table_key(text, name, keys, isTRUE(cache$remote))
    kept <- if (!is.null(keys[[name]])) cache
    # What comes from elsewhere may be other tomorrow.
    if (isTRUE(keys[[name]]$remote)) kept["folder"] <- list(NULL)
    tables[[name]] <- from_cache(
      kept, "table", keys[[name]], make_table(text, name, tables, on_join)
    )
    signal_progress("Making tables", length(tables), length(names))
  }
  tables
}

# All that a table is made of: its steps, the contents of its files, and the tables that it takes;
# and whether something of it is `remote`. NULL where it is and may not be, and where there is no
# such file, which ends in words when it is read.
table_key <- function(text, name, keys, may_be_remote) {
  steps <- text$content$tables[[name]]
  arguments <- lapply(steps, `[[`, 1)
  others <- unlist(lapply(arguments, function(a) unlist(a[intersect(names(a), table_arguments)])))
  if (!all(others %in% names(keys))) return(NULL)
  paths <- paths_of(arguments)
  remote <- any(is_address(paths)) || any(vapply(keys[others], function(k) k$remote, NA))
  files <- files_of(text, paths[!is_address(paths)])
  if ((remote && !may_be_remote) || !all(utils::file_test("-f", files))) return(NULL)
  hashes <- vapply(files, digest::digest, "", algo = "xxhash64", file = TRUE)
  made_of <- list(steps, dirname(text$file), files, hashes, keys[others])
  list(hash = rlang::hash(made_of), remote = remote)
}

# ---- what they are made of -----------------------------------------------------------------------

# The files that a sheet reads, seen from the working directory; NULL where it also reads from
# elsewhere.
sheet_inputs <- function(text) {
  layers <- lapply(text$content$layers, `[[`, 1)
  pictures <- any(vapply(layers, function(l) any(grepl("picture", names(unlist(l$popup)))), NA))
  paths <- sheet_paths(text)
  if (!pictures && !any(is_address(paths))) unique(c(text$file, files_of(text, paths)))
}

# All that the steps and layers of a sheet name, files and addresses.
sheet_paths <- function(text) {
  steps <- unlist(lapply(text$content$tables, function(t) lapply(t, `[[`, 1)), recursive = FALSE)
  paths_of(c(unname(steps), lapply(text$content$layers, `[[`, 1)))
}

paths_of <- function(arguments) {
  as.character(unique(unlist(lapply(arguments, `[`, c("file", "world", "capabilities")))))
}

# Files as the sheet names them, with what lies beside them.
files_of <- function(text, paths) {
  paths <- vapply(paths, beside, "", sheet = text$file, USE.NAMES = FALSE)
  unique(c(character(), unlist(lapply(paths, with_siblings))))
}

# A shapefile is several files; beside a picture lies the one that places it.
with_siblings <- function(path) {
  stem <- sub("[.][^./\\\\]*$", "", basename(path))
  all <- list.files(dirname(path), full.names = TRUE)
  own <- all[sub("[.][^./\\\\]*$", "", basename(all)) == stem]
  own <- own[grepl("[.](shp|dbf|shx|prj|cpg|[a-z]*w)$", own)]
  sort(unique(c(path, own)), method = "radix")
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
