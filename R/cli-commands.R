# The subcommands of `ochre`. Each returns an exit status; results go to the standard output, what
# is said on the way to the standard error.

command_inspect <- function(args) {
  given <- parse_command(
    "inspect",
    args,
    "FILE\u2026",
    paste0(
      "Says what files hold: format, layers, rows, columns with types and ",
      "examples,\ngeometry, extent, likely key columns; of several files also which columns join."
    ),
    list(optparse::make_option(
      "--layer",
      type = "character",
      metavar = "NAME",
      help = "which layer, where a file holds several"
    )),
    c(1, Inf)
  )
  if (is.null(given)) return(0L)
  inspected <- list()
  for (i in seq_along(given$args)) {
    if (i > 1) cat("\n")
    inspected[[i]] <- inspect_file(given$args[i], given$options$layer)
    print(inspected[[i]])
  }
  kinds <- vapply(inspected, function(x) x$kind, "")
  first <- c(which(kinds == "boundaries"), which(kinds == "statistics"))[1]
  for (i in setdiff(which(kinds != "several"), first)) {
    pair <- c(first, i)
    tables <- lapply(pair, function(k) read_inspected(given$args[k], kinds[k]))
    cat(sprintf("\n%s and %s. ", basename(given$args[first]), basename(given$args[i])))
    print(find_keys(tables[[1]], tables[[2]]))
  }
  0L
}

command_audit <- function(args) {
  given <- parse_command(
    "audit",
    args,
    "SHEET",
    paste(
      "Says what the joins of a sheet matched, what found no partner, and the likely\nreason.",
      "Fails when more is unmatched than a join of the sheet allows."
    ),
    list(),
    c(1, 1)
  )
  if (is.null(given)) return(0L)
  quiet <- options(ochre.quiet = c(getOption("ochre.quiet"), "unmatched"))
  on.exit(options(quiet))
  limits <- list()
  # All joins are made and shown before a limit counts.
  tables <- make_tables(load_sheet(given$args), function(name, arguments) {
    limits[[name]] <<- arguments$unmatched
    arguments$unmatched <- NULL
    arguments
  })
  audits <- audits_of(tables)
  if (!length(audits)) cat("The sheet joins nothing.\n")
  for (name in names(audits)) {
    cat(paste0("Table ", name, "."), format(audits[[name]], most = 200), sep = "\n")
  }
  limited <- intersect(names(limits), names(audits))
  broken <- Filter(function(name) breaks_limit(audits[[name]], limits[[name]]), limited)
  if (!length(broken)) return(0L)
  say_error(
    sprintf("The join of %s leaves more unmatched than the sheet allows.", list_words(broken)),
    "Mend the keys, name aliases (`ochre suggest`), or raise `unmatched`.",
    1L
  )
}

breaks_limit <- function(audit, limit) {
  tryCatch(
    {
      check_unmatched(audit, limit)
      FALSE
    },
    ochre_error_unmatched = function(e) TRUE
  )
}

command_suggest <- function(args) {
  option <- function(flag, metavar, help) {
    optparse::make_option(flag, type = "character", metavar = metavar, help = help)
  }
  given <- parse_command(
    "suggest",
    args,
    "SHEET [--table NAME] [--to FILE]",
    paste(
      "Writes the keys of a join that have no partner, with the likeliest one, as CSV: write",
      "\n`yes` under `confirmed` where it is right, `left out` for a key that has no area, and",
      "name the file as `aliases` of the join."
    ),
    list(
      option("--table", "NAME", "the table whose join is meant, where there are several"),
      option("--to", "FILE", "write this file instead of the standard output")
    ),
    c(1, 1)
  )
  if (is.null(given)) return(0L)
  quiet <- options(ochre.quiet = c(getOption("ochre.quiet"), "unmatched"))
  on.exit(options(quiet))
  found <- suggestions_of(load_sheet(given$args))
  table <- suggested_table(found, given$options$table)
  if (is.na(table)) {
    say("The sheet joins nothing.")
    return(0L)
  }
  rows <- found[[table]]
  said <- if (nrow(rows)) {
    sprintf(
      "%s of `%s` without a partner; %d with a suggestion.",
      count_words(nrow(rows), "key"),
      table,
      sum(!is.na(rows$boundaries))
    )
  } else {
    sprintf("Every key of `%s` has a partner.", table)
  }
  say(said)
  text <- csv_text(rows)
  to <- given$options$to
  if (is.null(to)) cat(text) else write_whole(to, function(part) write_lines(text, part, ""))
  0L
}

# The suggestions of each join of a sheet.
suggestions_of <- function(text) {
  found <- list()
  make_tables(text, function(name, arguments) {
    found[[name]] <<- suggest_matches(
      arguments$boundaries,
      arguments$statistics,
      arguments$by,
      arguments$match %||% "exact",
      arguments$aliases
    )
    arguments$unmatched <- NULL
    arguments
  })
  found
}

# The table that is meant: the one named, or the only one with keys without a partner.
suggested_table <- function(found, wanted, call = rlang::caller_env()) {
  if (!is.null(wanted)) {
    if (!is.null(found[[wanted]])) return(wanted)
    ochre_abort("argument", "The sheet joins no table `{wanted}`.",
                did_you_mean(wanted, names(found), "It joins"), arg = "table")
  }
  open <- names(found)[vapply(found, nrow, 0L) > 0]
  if (length(open) > 1) {
    ochre_abort("argument", "Several joins leave keys without a partner: {list_words(open)}.",
                "Name one: --table {open[1]}", arg = "table")
  }
  c(open, names(found), NA)[1]
}

command_demo <- function(args) {
  given <- parse_command(
    "demo",
    args,
    "[FOLDER]",
    paste(
      "Copies the demo of the made-up island state Orvane (data and sheets) to a folder,\nby",
      "default `ochre-demo`, and builds its maps there."
    ),
    list(
      optparse::make_option(
        "--force",
        action = "store_true",
        default = FALSE,
        help = "replace files that are there"
      ),
      optparse::make_option(
        "--examples",
        action = "store_true",
        default = FALSE,
        help = "copy the example jobs instead, with the data of both made-up worlds"
      )
    ),
    c(0, 1)
  )
  if (is.null(given)) return(0L)
  folder <- if (length(given$args)) given$args else "ochre-demo"
  if (given$options$examples) {
    copy_examples(folder, given$options$force)
    cat(file.path(folder, "examples", "README.md"), "\n", sep = "")
    return(0L)
  }
  copy_demo(folder, given$options$force)
  for (name in demo_sheets) {
    sheet <- read_sheet(file.path(folder, name))
    publish_all(sheet, attr(sheet, "publish"))
  }
  0L
}

demo_sheets <- paste0(
  c("map", "regions", "ages", "pairs", "months", "places", "tiles", "live"), ".ochre.yml"
)

copy_demo <- function(folder, force, call = rlang::caller_env()) {
  files <- list.files(system.file("orvane", package = "ochre"), full.names = TRUE)
  ready_folder(folder, basename(files), force, call)
  file.copy(files, folder, overwrite = TRUE)
}

# The jobs beside the data that they are of.
copy_examples <- function(folder, force, call = rlang::caller_env()) {
  parts <- system.file(c("examples", "orvane", "tarvossa"), package = "ochre")
  ready_folder(folder, basename(parts), force, call)
  file.copy(parts, folder, recursive = TRUE, overwrite = TRUE)
}

# A folder that can take these files, with nothing replaced that nobody asked to.
ready_folder <- function(folder, names, force, call) {
  there <- file.path(folder, names)
  there <- there[file.exists(there)]
  if (length(there) && !force) {
    ochre_abort("file", "`{there[1]}` is there already.",
                "Say --force to replace it, or name another folder.", file = there[1])
  }
  make_folder(folder, call, recursive = TRUE)
}

command_serve_demo <- function(args) {
  given <- parse_command(
    "serve-demo",
    args,
    "[--port N]",
    paste0(
      "Serves drawn tiles and a search for places of the made-up island state Orvane on ",
      "this\nmachine, for trying backdrops; open the address that it says. Ctrl and C end it."
    ),
    list(optparse::make_option(
      "--port", type = "integer", default = 8791L, metavar = "N",
      help = "port to listen on, 0 for a free one [8791]"
    )),
    c(0, 0)
  )
  if (is.null(given)) return(0L)
  serve_demo(given$options$port)
  0L
}
