# `ochre report`: a map for who signs it off.

command_report <- function(args) {
  option <- optparse::make_option
  given <- parse_command(
    "report",
    join_repeated(args, "--set"),
    "SHEET [--to FILE] [--set NAME=VALUE]\u2026",
    paste(
      "Writes a report on a map: method, joins, checks, what has changed, sources. Its file ends",
      "in\n.html, .pdf or .docx; by default it stands beside the sheet."
    ),
    list(
      option("--to", type = "character", metavar = "FILE", help = "write this file"),
      option("--set", type = "character", metavar = "NAME=VALUE",
             help = "a named value of the sheet; may be given several times")
    ),
    c(1, 1)
  )
  if (is.null(given)) return(0L)
  stem <- sub("([.]ochre)?[.]ya?ml$", "", given$args)
  to <- given$options$to %||% paste0(stem, "-report.html")
  write_report(given$args, to, split_values(given$options$set, "report"))
  say_file(to)
  0L
}
