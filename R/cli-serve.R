# `ochre serve`: maps and their data for programs and browsers.

command_serve <- function(args) {
  option <- optparse::make_option
  given <- parse_command(
    "serve",
    join_repeated(args, "--origin"),
    "SHEET\u2026 [--port N] [--origin ADDRESS]\u2026 [--address ADDRESS]",
    paste(
      "Serves the maps of sheets and the data of their layers on this machine, by OGC API -",
      "\nFeatures: GeoJSON, HTML, CSV, the classes and the page. Open the address that it says.",
      "\nCtrl and C end it."
    ),
    list(
      option("--port", type = "integer", default = 8792L, metavar = "N",
             help = "port to listen on, 0 for a free one [8792]"),
      option("--origin", type = "character", metavar = "ADDRESS",
             help = "pages of others that may ask, * for all; may be given several times"),
      option("--address", type = "character", metavar = "ADDRESS",
             help = "where readers find it behind a web server; links begin with it")
    ),
    c(1, Inf)
  )
  if (is.null(given)) return(0L)
  origins <- split_repeated(given$options$origin) %||% character()
  serve_maps(given$args, given$options$port, origins, address = given$options$address)
  0L
}
