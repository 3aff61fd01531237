# `ochre start`: a first sheet from files.

command_start <- function(args) {
  option <- optparse::make_option
  given <- parse_command(
    "start",
    args,
    "FILES\u2026 [--to FILE] [--value COLUMN]",
    paste(
      "Looks at boundaries and tables, finds what joins them and what to show, and writes a",
      "\nsheet that builds, with a reason for each choice."
    ),
    list(
      option("--to", type = "character", default = "map.ochre.yml", metavar = "FILE",
             help = "write this file [map.ochre.yml]"),
      option("--value", type = "character", metavar = "COLUMN", help = "show this column"),
      option("--force", action = "store_true", default = FALSE, help = "replace a file")
    ),
    c(1, Inf)
  )
  if (is.null(given)) return(0L)
  options <- given$options
  start_sheet(given$args, options$to, options$value, options$force)
  cat(options$to, "\n", sep = "")
  0L
}
