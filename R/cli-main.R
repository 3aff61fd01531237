# The command `ochre`: finds the subcommand, runs it, and turns conditions into short lines on the
# standard error and an exit status: 0 done, 1 something is wrong with the data or the sheet, 2 the
# command line could not be understood.

commands <- list(
  start = "write a first sheet from files, with a reason for each choice",
  inspect = "say what files hold and by which columns they join",
  audit = "say what the joins of a sheet matched and what not",
  suggest = "list likely partners of keys that a sheet's join does not match",
  build = "make the maps of a sheet",
  preview = "show a map in a browser while it is being made",
  serve = "serve maps and their data to programs and browsers",
  report = "write a report on a map for who signs it off",
  check = "say all that is wrong with a sheet and its data",
  doctor = "say what is installed and what is missing",
  verbs = "list what a sheet may say, or explain one verb",
  completion = "print what a shell needs to complete the command",
  manual = "print the manual page",
  demo = "copy the demo of Orvane to a folder and build it",
  `serve-demo` = "serve stand-in tiles and places of Orvane on this machine"
)

command_examples <- list(
  start = c(
    "ochre start districts.geojson visits.csv",
    "ochre start districts.geojson rates.csv --value share --to share.ochre.yml"
  ),
  inspect = c("ochre inspect districts.geojson", "ochre inspect visits.csv clinics.csv"),
  audit = "ochre audit map.ochre.yml",
  suggest = "ochre suggest map.ochre.yml --to aliases.csv",
  build = c(
    "ochre build map.ochre.yml",
    "ochre build map.ochre.yml --to map.html --to map.png",
    "ochre build regions.ochre.yml --set year=2031 --jobs 2",
    "ochre build map.ochre.yml --quiet --json --log morning.log"
  ),
  preview = c("ochre preview map.ochre.yml", "ochre preview map.ochre.yml --open --port 8790"),
  serve = c(
    "ochre serve map.ochre.yml", "ochre serve visits.ochre.yml ages.ochre.yml --port 0",
    "ochre serve --tables tables.R"
  ),
  report = c("ochre report map.ochre.yml", "ochre report map.ochre.yml --to map.docx"),
  check = "ochre check map.ochre.yml --set year=2032",
  doctor = "ochre doctor",
  verbs = c("ochre verbs", "ochre verbs shade_areas"),
  completion = c("ochre completion bash > ochre.bash", "source ochre.bash"),
  manual = c("ochre manual | man -l -", "ochre manual > ochre.1"),
  demo = c("ochre demo", "ochre demo maps --force", "ochre demo jobs --examples"),
  `serve-demo` = c("ochre serve-demo", "ochre serve-demo --port 0")
)

run_command <- function(args) {
  # Data have letters beyond ASCII; a bare C locale would spoil them on the way to the terminal.
  if (!l10n_info()[["UTF-8"]]) suppressWarnings(Sys.setlocale("LC_CTYPE", "C.UTF-8"))
  tryCatch(
    withCallingHandlers(with_progress(dispatch(args)), warning = on_warning, message = on_message),
    ochre_usage = function(e) {
      say_error(e$text, sprintf("Try: %s --help", paste(c("ochre", e$command), collapse = " ")), 2L)
    },
    ochre_error = function(e) say_error(e$what, e$mend, 1L),
    interrupt = function(e) say_error("stopped.", NULL, 130L),
    # Whoever reads has had enough, such as `head`.
    error = function(e) {
      if (grepl("SIGPIPE", conditionMessage(e))) {
        141L
      } else {
        say_error(
          paste("a fault in Ochre:", conditionMessage(e)),
          "Please report it with the command that you gave.",
          1L
        )
      }
    }
  )
}

dispatch <- function(args) {
  if (!length(args) || args[1] %in% c("--help", "-h", "help")) {
    cat(main_help(), sep = "\n")
    return(0L)
  }
  if (args[1] == "--version") {
    cat("ochre", as.character(utils::packageVersion("ochre")), "\n")
    return(0L)
  }
  need_package("optparse", "The command `ochre`")
  if (!args[1] %in% names(commands)) {
    usage_error(sprintf(
      "there is no command `%s`. %s",
      args[1],
      did_you_mean(args[1], names(commands), "Commands")
    ))
  }
  switch(args[1],
    start = command_start(args[-1]),
    inspect = command_inspect(args[-1]),
    audit = command_audit(args[-1]),
    suggest = command_suggest(args[-1]),
    build = command_build(args[-1]),
    preview = command_preview(args[-1]),
    serve = command_serve(args[-1]),
    report = command_report(args[-1]),
    check = command_check(args[-1]),
    doctor = command_doctor(args[-1]),
    verbs = command_verbs(args[-1]),
    completion = command_completion(args[-1]),
    manual = command_manual(args[-1]),
    demo = command_demo(args[-1]),
    `serve-demo` = command_serve_demo(args[-1])
  )
}

main_help <- function() {
  c(
    "Usage: ochre COMMAND [OPTIONS] [ARGUMENTS]",
    "",
    "From a table and boundaries to a published map.",
    "",
    "Commands:",
    sprintf("  %s  %s", format(names(commands)), unlist(commands)),
    "",
    "Options:",
    "  -h, --help     show this, or after a command its own help",
    "  --version      show the version",
    "",
    "Examples:",
    "  ochre demo maps",
    "  ochre inspect districts.geojson",
    "  ochre build map.ochre.yml --to map.html",
    "",
    paste("Exit status:", exit_words)
  )
}
exit_words <- paste(
  "0 done; 1 something is wrong with the data or the sheet;",
  "2 the command was not understood."
)

# Parses the options of one subcommand; its help ends with examples. NULL when help was asked for.
parse_command <- function(command, args, usage, about, options, positional) {
  examples <- command_examples[[command]]
  parser <- optparse::OptionParser(
    usage = paste("ochre", command, usage),
    description = paste0("\n", about),
    option_list = options,
    epilogue = paste(c("Examples:", paste0("  ", examples)), collapse = "\n"),
    prog = "ochre"
  )
  parsed <- tryCatch(
    optparse::parse_args(
      parser,
      args = args,
      print_help_and_exit = FALSE,
      positional_arguments = TRUE
    ),
    error = function(e) usage_error(conditionMessage(e), command),
    warning = function(w) usage_error(conditionMessage(w), command)
  )
  if (isTRUE(parsed$options$help)) {
    optparse::print_help(parser)
    return(NULL)
  }
  n <- length(parsed$args)
  if (n < positional[1]) usage_error(sprintf("%s needs %s.", command, usage), command)
  if (n > positional[2]) {
    usage_error(sprintf("`%s` is one argument too many.", parsed$args[positional[2] + 1]), command)
  }
  parsed
}

usage_error <- function(text, command = NULL) {
  stop(structure(
    class = c("ochre_usage", "error", "condition"),
    list(message = text, call = NULL, text = text, command = command)
  ))
}
