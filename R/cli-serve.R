# `ochre serve`: maps and their data for programs and browsers.

command_serve <- function(args) {
  option <- optparse::make_option
  given <- parse_command(
    "serve",
    join_repeated(args, c("--origin", "--system", "--field")),
    paste(
      "[SHEET\u2026] [--tables SCRIPT] [--port N] [--origin ADDRESS]\u2026 [--address ADDRESS]",
      "[--system CODE]\u2026 [--field COLUMN]\u2026"
    ),
    paste(
      "Serves the maps of sheets and the data of their layers on this machine, by OGC API -",
      "\nFeatures: GeoJSON, HTML, CSV, the classes and the page. Open the address that it says.",
      "\nCtrl and C end it."
    ),
    list(
      option("--tables", type = "character", metavar = "SCRIPT",
             help = "R script that gives a list of tables of databases, by the names they get"),
      option("--port", type = "integer", default = 8792L, metavar = "N",
             help = "port to listen on, 0 for a free one [8792]"),
      option("--origin", type = "character", metavar = "ADDRESS",
             help = "pages of others that may ask, * for all; may be given several times"),
      option("--address", type = "character", metavar = "ADDRESS",
             help = "where readers find it behind a web server; links begin with it"),
      option("--system", type = "character", metavar = "CODE",
             help = "another system for coordinates, as EPSG:25832; may be given several times"),
      option("--field", type = "character", metavar = "COLUMN",
             help = "a column to serve that no map shows; may be given several times")
    ),
    # Tables may be all that is served.
    c(if (any(startsWith(args, "--tables"))) 0 else 1, Inf)
  )
  if (is.null(given)) return(0L)
  origins <- split_repeated(given$options$origin) %||% character()
  tables <- if (!is.null(given$options$tables)) {
    script_value(
      given$options$tables, "--tables",
      "ends in list(name = dplyr::tbl(connection, \"table\"))"
    )
  }
  systems <- split_repeated(given$options$system) %||% character()
  fields <- split_repeated(given$options$field)
  serve_maps(
    given$args, given$options$port, origins, tables, given$options$address, systems, fields
  )
  0L
}
