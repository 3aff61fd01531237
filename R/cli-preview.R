# `ochre preview`: a map while it is being made.

command_preview <- function(args) {
  option <- optparse::make_option
  given <- parse_command(
    "preview",
    join_repeated(args, "--set"),
    "SHEET [--set NAME=VALUE]\u2026 [--port N] [--open]",
    paste(
      "Serves the map of a sheet on this machine, and makes it anew whenever the sheet or one of",
      "\nits files changes; the page that is open keeps its view. Open the address that it says.",
      "\nCtrl and C end it."
    ),
    list(
      option("--set", type = "character", metavar = "NAME=VALUE",
             help = "a named value of the sheet; may be given several times"),
      option("--port", type = "integer", default = 0L, metavar = "N",
             help = "port to listen on, 0 for a free one [0]"),
      option("--open", action = "store_true", default = FALSE, help = "open it in a browser")
    ),
    c(1, 1)
  )
  if (is.null(given)) return(0L)
  options <- given$options
  preview_sheet(given$args, split_values(options$set, "preview"), options$port, options$open)
  0L
}
