# The stand-in server: drawn tiles of Orvane, their WMTS capabilities and a search for places, on
# this machine only (package httpuv). What it draws stands in R/serve-tiles.R.

#' Serve stand-in tiles and places of Orvane
#'
#' A small server on this machine, for trying backdrops and the place search without asking
#' anybody else's. It runs until it is interrupted. The command `ochre serve-demo` does the same.
#'
#' It answers under `http://127.0.0.1:PORT`:
#'
#' * `/`: a page of Orvane with tiles and place search.
#' * `/tiles/{z}/{x}/{y}.png`: tiles in the common scheme, levels 4 to 12, for [lay_tiles()].
#' * `/wmts/capabilities.xml`: the same tiles by the OGC's WMTS, for [lay_wmts()] with the layer
#'   `orvane`.
#' * `/places`: districts and regions by name, for `page_style(places = )`.
#' * `/values`: new values of the districts, other ones each time, for [live_values()]; `/live` is a
#'   page that asks for them.
#'
#' @param port Port to listen on: one whole number; 0 takes a free one, which is said.
#' @return Nothing; it does not return before it is interrupted.
#' @section The place protocol:
#' A page asks `GET ADDRESS?q=TEXT&lang=LOCALE&limit=N` (UTF-8, percent-encoded; parameters that
#' the address has already are kept) without cookies or referrer. The answer is JSON:
#' `{"places": [{"name": "Port Alda", "context": "Region Hesper", "lon": -38.2, "lat": 46.9,
#' "box": [-38.3, 46.8, -38.1, 47.0]}]}`,
#' the best first. `name`, `lon` and `lat` (degrees) are needed; `context`, what tells two of a
#' name apart, and `box` (west, south, east, north) are not. No place found is an empty list. The
#' server allows other origins by the header `Access-Control-Allow-Origin: *`. An answer that
#' takes longer than eight seconds, or is no such JSON, is shown to the reader as a failed search.
#' The JSON Schema of an answer is `system.file("schema/places.schema.json", package = "ochre")`.
#' @section Errors: `ochre_error_package` when package httpuv is missing; `ochre_error_port` when
#' the port is taken; `ochre_error_argument`.
#' @examples
#' if (interactive()) serve_demo()
#' @export
serve_demo <- function(port = 8791) {
  serve_here(list(onHeaders = without_request_body, call = demo_app()), port, "The stand-in server")
}

# What answers a request: its path decides.
demo_app <- function() {
  world <- tile_world()
  kept <- new.env()
  pages <- list()
  page <- function(sheet, req) {
    if (is.null(pages[[sheet]])) pages[[sheet]] <<- demo_page(sheet, own_address(req))
    answer(pages[[sheet]], "text/html; charset=utf-8")
  }
  tile <- function(z, x, y) {
    if (!tile_exists(world, z, x, y)) return(answer("There is no such tile.", status = 404L))
    key <- paste(z, x, y)
    if (is.null(kept[[key]])) {
      if (length(kept) > 4000) rm(list = ls(kept), envir = kept)
      kept[[key]] <- draw_tile(world, z, x, y)
    }
    answer(kept[[key]], "image/png", `Cache-Control` = "max-age=3600")
  }
  function(req) {
    path <- req$PATH_INFO
    if (!req$REQUEST_METHOD %in% c("GET", "HEAD")) {
      return(answer("Only GET is answered.", status = 405L))
    }
    if (nchar(path, "bytes") > 200 || nchar(req$QUERY_STRING %||% "", "bytes") > 2000) {
      return(answer("The address is too long.", status = 414L))
    }
    at <- as.numeric(regmatches(path, gregexpr("[0-9]+", path))[[1]])
    if (grepl("^/tiles/[0-9]{1,2}/[0-9]{1,7}/[0-9]{1,7}[.]png$", path)) {
      return(tile(at[1], at[2], at[3]))
    }
    # Matrix, row and column, as the standard has them.
    if (grepl("^/wmts/tiles/[0-9]{1,2}/[0-9]{1,7}/[0-9]{1,7}[.]png$", path)) {
      return(tile(at[1], at[3], at[2]))
    }
    switch(path,
      `/` = page("tiles", req),
      `/live` = page("live", req),
      `/values` = answer_json(demo_values(world)),
      `/wmts/capabilities.xml` = answer(demo_capabilities(own_address(req)), "application/xml"),
      `/places` = answer_places(world, req$QUERY_STRING),
      `/favicon.ico` = answer(""),
      answer("There is nothing here.", status = 404L)
    )
  }
}

answer_places <- function(world, asked) {
  query <- read_query(asked)
  most <- suppressWarnings(as.integer(query[["limit"]] %||% 8))
  answer_json(list(places = demo_places(world, query[["q"]] %||% "", most)))
}

# For pages of any origin.
answer_json <- function(content) {
  text <- as.character(jsonlite::toJSON(content, auto_unbox = TRUE, digits = NA, na = "null"))
  answer(text, "application/json", `Access-Control-Allow-Origin` = "*")
}

# Parameters of an address; one that cannot be read is as if nothing were asked.
read_query <- function(text) {
  tryCatch(service_query(text %||% ""), ochre_refusal = function(e) list())
}

# The address that was asked, if it is this machine's.
own_address <- function(req) {
  host <- req$HTTP_HOST %||% ""
  paste0(
    "http://",
    if (grepl("^(127[.]0[.]0[.]1|localhost):[0-9]{1,5}$", host)) host else "127.0.0.1:8791"
  )
}

demo_page <- function(name, address) {
  folder <- tempfile("ochre-demo-")
  dir.create(folder)
  on.exit(remove_path(folder))
  file.copy(list.files(system.file("orvane", package = "ochre"), full.names = TRUE), folder)
  sheet <- file.path(folder, paste0(name, ".ochre.yml"))
  writeLines(
    gsub("http://127.0.0.1:8791", address, readLines(sheet, encoding = "UTF-8"), fixed = TRUE),
    sheet,
    useBytes = TRUE
  )
  page_text(suppressMessages(suppressWarnings(resolve_sheet(read_sheet(sheet))))) |>
    paste(collapse = "\n")
}

# Visits as they come in: each district goes up and down, and now and then one does not report. Not
# drawn by R's generator, whose seed is the user's.
demo_values <- function(world, now = Sys.time()) {
  codes <- world$codes
  at <- as.numeric(now)
  wave <- function(seconds, k) sin(2 * pi * at / seconds + seq_along(codes) * k)
  level <- 120 + 90 * wave(90, 2.4) + 60 * wave(37, 0.9)
  values <- round(pmax(level, 0), 1)
  values[(seq_along(codes) + floor(at / 20)) %% 29 == 0] <- NA
  list(
    time = format(now, "%Y-%m-%dT%H:%M:%SZ", tz = "UTC"),
    values = as.list(stats::setNames(values, codes))
  )
}

# Names that begin with the words, then those that hold them; without regard to accents and case.
demo_places <- function(world, text, limit) {
  plain <- function(x) {
    stringi::stri_trans_general(x, "Any-Latin; NFD; [:Nonspacing Mark:] Remove; Lower")
  }
  wanted <- trimws(plain(text))
  if (!nzchar(wanted) || is.na(limit) || limit < 1) return(list())
  names <- plain(world$places$name)
  rank <- ifelse(startsWith(names, wanted), 1, ifelse(grepl(wanted, names, fixed = TRUE), 2, 9))
  rows <- utils::head(order(rank, names)[seq_len(sum(rank < 9))], min(limit, 20))
  lapply(rows, function(i) {
    p <- world$places[i, ]
    list(
      name = p$name,
      context = p$context,
      lon = round(p$lon, 5),
      lat = round(p$lat, 5),
      box = round(c(p$west, p$south, p$east, p$north), 5)
    )
  })
}

demo_capabilities <- function(address) {
  levels <- common_levels(list(levels = tile_levels, tile = 256, rows = "top"))
  matrix <- vapply(
    levels,
    function(l) {
      sprintf(
        paste0(
          "<TileMatrix><ows:Identifier>%s</ows:Identifier><ScaleDenominator>",
          "%s</ScaleDenominator><TopLeftCorner>%s %s</TopLeftCorner><TileWidth>",
          "256</TileWidth>",
          "<TileHeight>256</TileHeight><MatrixWidth>%d</MatrixWidth><MatrixHeight>",
          "%d</MatrixHeight></TileMatrix>"
        ),
        l$id,
        format(l$metres / pixel_metres, digits = 15),
        format(l$x, digits = 12),
        format(l$y, digits = 12),
        l$columns,
        l$rows
      )
    },
    ""
  )
  paste0(
    "<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n<Capabilities ",
    "xmlns=\"http://www.opengis.net/wmts/1.0\" ",
    "xmlns:ows=\"http://www.opengis.net/ows/1.1\" version=\"1.0.0\">",
    "<ows:ServiceIdentification><ows:Title>Tiles of Orvane</ows:Title><ows:ServiceType>OGC ",
    "WMTS</ows:ServiceType><ows:ServiceTypeVersion>1.0.0</ows:ServiceTypeVersion>",
    "</ows:ServiceIdentification><Contents>",
    "<Layer><ows:Title>Orvane</ows:Title><ows:Identifier>orvane</ows:Identifier><Style ",
    "isDefault=\"true\"><ows:Identifier>plain</ows:Identifier></Style><Format>",
    "image/png</Format>",
    "<TileMatrixSetLink><TileMatrixSet>world</TileMatrixSet></TileMatrixSetLink>",
    "<ResourceURL format=\"image/png\" resourceType=\"tile\" template=\"",
    address,
    "/wmts/tiles/{TileMatrix}/{TileRow}/{TileCol}.png\"/></Layer>",
    "<TileMatrixSet><ows:Identifier>world</ows:Identifier><ows:SupportedCRS>",
    "urn:ogc:def:crs:EPSG::3857</ows:SupportedCRS>",
    paste(matrix, collapse = ""),
    "</TileMatrixSet></Contents></Capabilities>\n"
  )
}
