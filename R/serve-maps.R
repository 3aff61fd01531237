# The service: maps and their data by the open interfaces of the OGC (package httpuv).

#' Serve maps and their data
#'
#' Answers programs and browsers on this machine: features of each layer by OGC API - Features
#' (GeoJSON, HTML, CSV), the classes of each map, and the page itself. What it says of itself
#' (`/`, `/conformance`, `/api`) leads a client through it. The command `ochre serve` does the same.
#'
#' It answers under `http://127.0.0.1:PORT`:
#'
#' * `/`: what there is; `/api`: the same as OpenAPI 3.0; `/conformance`: which classes of the
#'   standard are met.
#' * `/collections`, `/collections/{id}`: the layers of areas, lines and symbols.
#' * `/collections/{id}/items`: their features with all columns of the data and `class`, `label`
#'   and `colour` of the map; `bbox`, `datetime`, `limit`, `offset` and any column by its name
#'   choose among them, and so does `filter`, a condition in the text form of CQL2; `crs` names the
#'   reference system. `/collections/{id}/queryables` lists the columns.
#' * `/collections/{id}/items/{feature}`: one of them.
#' * `/collections/{id}/tiles/WebMercatorQuad/{tileMatrix}/{tileRow}/{tileCol}`: tiles of vectors,
#'   cut from borders that stay shared at every level.
#' * `/maps/{name}`: the page; `/maps/{name}/legend`: classes, colours and counts as JSON.
#'
#' Every answer comes as JSON, HTML or CSV by the header `Accept` or the parameter `f`, packed where
#' the client takes it, and with an ETag, so unchanged content is not resent. What is wrong with a
#' request is said as problem details (RFC 9457). All is worked out when the service starts: a sheet
#' that has changed is served when it is started again.
#'
#' @param maps A sheet from [map_sheet()], the path of a sheet file, several paths, or a list of
#'   sheets by their names; with `tables` none is needed.
#' @param port Port to listen on: one whole number; 0 takes a free one, which is said.
#' @param origins Which pages of others may ask, as addresses such as `"https://paper.example"`, or
#'   `"*"` for all; none by default (CORS).
#' @param tables Tables of a database that are collections, too: a list of lazy tables (package
#'   dbplyr) by their names. Their rows stay there and are asked for page by page, in the order of
#'   the first column, which must be there once for each row; columns `longitude` and `latitude`
#'   are the places of points, and geometry that PostgreSQL keeps is brought to longitude and
#'   latitude there. `NULL` (default) for none.
#' @param address Where readers find the service, when a web server in front of it hands requests
#'   on: one text such as `"https://maps.example/visits"`. Links begin with it, and requests for its
#'   host are answered, too. `NULL` (default) for this machine only.
#' @param fields Names of columns that features have besides those that the map shows: a character
#'   vector; `NULL` (default) for none.
#' @param systems Reference systems in which maps are given besides longitude and latitude (either
#'   way round) and web Mercator, such as a country's grid: codes of the register EPSG, as in
#'   `"EPSG:25832"` (package PROJ). Coordinates are in the order that the register has; tables of
#'   databases are not given in them. None by default.
#' @return Nothing; it does not return before it is interrupted.
#' @section Errors: `ochre_error_package` when package httpuv is missing; `ochre_error_port` when
#'   the port is taken; the errors of [read_sheet()] and [resolve_sheet()]; `ochre_error_system`
#'   when a map has places that one of `systems` has not; `ochre_error_argument`.
#' @source OGC 17-069r4 OGC API - Features - Part 1: Core. OGC 18-058r1 Part 2: Coordinate Reference
#'   Systems by Reference. OGC 19-079r2 Part 3: Filtering. OGC 21-065r2 Common Query Language
#'   (CQL2). OGC 20-057 OGC API - Tiles - Part 1: Core. TileJSON 3.0.0.
#' @examples
#' if (interactive()) serve_maps(ochre_demo("map.ochre.yml"))
#' @export
serve_maps <- function(maps = list(), port = 8792, origins = character(), tables = NULL,
                       address = NULL, systems = character(), fields = NULL) {
  plain_numbers()
  check_number(port, "port", min = 0, max = 65535, whole = TRUE)
  origins <- check_origins(origins)
  address <- check_public_address(address)
  systems <- check_systems(systems)
  maps <- if (length(maps) || !length(tables)) check_served(maps) else list()
  fields <- check_fields(fields, maps)
  service <- new_service(maps, table_collections(tables), fields)
  service$collections <- lapply(service$collections, add_systems, systems, rlang::current_env())
  service$origins <- origins
  service$address <- address
  serve_here(service_app(service), port, "The service")
}

check_origins <- function(origins, call = rlang::caller_env()) {
  origins <- check_texts(origins, "origins", call)
  good <- origins == "*" | grepl("^https?://[A-Za-z0-9.-]+(:[0-9]{1,5})?$", origins)
  if (all(good)) return(origins)
  ochre_abort("argument", "`{origins[!good][1]}` is not the origin of a page.",
              "Name it as a browser does, such as \"https://paper.example\", or \"*\" for all.",
              arg = "origins")
}

# The address without a slash at its end.
check_public_address <- function(address, call = rlang::caller_env()) {
  check_text(address, "address", null = TRUE, call = call)
  if (is.null(address)) return(NULL)
  clean <- clean_address(address)
  if (!is.na(clean) && !grepl("[?#]", address)) return(sub("/+$", "", clean))
  ochre_abort("argument", "`{address}` is not the address of a service.",
              "As in \"https://maps.example/visits\", without a query.", arg = "address")
}

# Sheets by their names.
check_served <- function(maps, call = rlang::caller_env()) {
  if (inherits(maps, "ochre_sheet")) maps <- list(map = maps)
  if (is.character(maps) && length(maps)) {
    names <- sub("[.]ochre$", "", tools::file_path_sans_ext(basename(maps)))
    maps <- stats::setNames(lapply(maps, read_sheet), names)
  }
  fit <- is.list(maps) && length(maps) && all(vapply(maps, inherits, NA, "ochre_sheet"))
  if (!fit) {
    ochre_abort("argument",
                "`maps` must be a sheet, paths of sheet files, or a list of sheets with names.",
                "For example \"map.ochre.yml\", or list(visits = sheet).", arg = "maps")
  }
  names <- file_word(names(maps) %||% rep("", length(maps)))
  names[!nzchar(names)] <- "map"
  stats::setNames(maps, make.unique(names, sep = "-"))
}

# ---- requests ------------------------------------------------------------------------------------

service_app <- function(service) {
  kept <- new_answers()
  list(
    onHeaders = without_request_body,
    call = function(req) {
      made <- tryCatch(
        service_answer(service, req, kept),
        ochre_refusal = function(e) problem(e$status, conditionMessage(e)),
        ochre_error_database = function(e) {
          say(e$what)
          problem(503, "The database does not answer this.")
        },
        error = function(e) {
          if (grepl("elapsed time limit", conditionMessage(e), fixed = TRUE)) {
            return(problem(503, "This takes too long; ask for less."))
          }
          say(paste("A fault in Ochre:", conditionMessage(e)))
          problem(500, "A fault in Ochre, which is said where the service runs.")
        }
      )
      extra <- cors_headers(req, service)
      made$headers[names(extra)] <- extra
      if (identical(req$REQUEST_METHOD, "HEAD")) made <- without_body(made)
      made
    }
  )
}

# Nothing is taken in: a request with a body ends before it is read.
without_request_body <- function(req) {
  long <- suppressWarnings(as.numeric(req$HTTP_CONTENT_LENGTH %||% 0))
  if (!is.null(req$HTTP_TRANSFER_ENCODING) || is.na(long) || long > 0) {
    problem(413, "Requests have no body here.", Connection = "close")
  }
}

service_answer <- function(service, req, kept) {
  method <- req$REQUEST_METHOD
  if (method == "OPTIONS") return(answer_options(service))
  if (!method %in% c("GET", "HEAD")) {
    return(problem(405, "Only GET, HEAD and OPTIONS are answered.", Allow = "GET, HEAD, OPTIONS"))
  }
  if (!is_own_host(req) && !is_public_host(req, service$address)) {
    refuse_request(403, "Ask for 127.0.0.1 or localhost.")
  }
  # What was asked before in the same words needs no second look.
  asked <- c(req$HTTP_HOST, req$PATH_INFO, req$QUERY_STRING, req$HTTP_ACCEPT)
  if (!all(validUTF8(asked))) refuse_request(400, "The request is not UTF-8.")
  key <- rlang::hash(asked)
  made <- kept$get(key)
  if (is.null(made)) {
    setTimeLimit(elapsed = request_seconds, transient = TRUE)
    on.exit(setTimeLimit())
    made <- service_route(service, read_request(req, service$address))
    if (!isTRUE(made$live)) kept$put(key, made)
  }
  send_answer(made, req)
}

# No request holds up the others for longer.
request_seconds <- 30

is_public_host <- function(req, address) {
  if (is.null(address)) return(FALSE)
  asked <- lower_case(req$HTTP_HOST %||% "")
  own <- sub("^https?://([^/]*).*$", "\\1", lower_case(address))
  sub(":(80|443)$", "", asked) == sub(":(80|443)$", "", own)
}

# What a request asks: the parts of its path, its parameters, what the client takes, and the address
# that links begin with.
read_request <- function(req, address = NULL) {
  asked <- req$QUERY_STRING %||% ""
  if (nchar(asked, "bytes") > 4000 || nchar(req$PATH_INFO, "bytes") > 1000) {
    refuse_request(414, "The address is too long.")
  }
  list(
    path = path_parts(req$PATH_INFO),
    query = service_query(asked),
    accept = req$HTTP_ACCEPT,
    base = address %||% paste0("http://", req$HTTP_HOST)
  )
}

# Answers that were given before, the last of them within so many bytes.
new_answers <- function(most = 64e6) {
  held <- new.env(parent = emptyenv())
  bytes <- 0
  list(
    get = function(key) held[[key]],
    put = function(key, made) {
      size <- length(made$body) + length(made$packed) + 2000
      if (size > most / 8) return(invisible())
      if (bytes + size > most) {
        rm(list = ls(held, all.names = TRUE), envir = held)
        bytes <<- 0
      }
      bytes <<- bytes + size
      held[[key]] <- made
    }
  )
}

answer_options <- function(service) {
  headers <- list(Allow = "GET, HEAD, OPTIONS")
  if (length(service$origins)) {
    headers <- c(headers, list(
      `Access-Control-Allow-Methods` = "GET, HEAD, OPTIONS",
      `Access-Control-Allow-Headers` = "Accept, If-None-Match", `Access-Control-Max-Age` = "86400"
    ))
  }
  list(status = 204L, headers = headers, body = "")
}

# With the length of what GET would send.
without_body <- function(made) {
  body <- made$body
  made$headers[["Content-Length"]] <- if (is.raw(body)) length(body) else nchar(body, "bytes")
  made$body <- raw()
  made
}

# The parts of a path; what is no text of UTF-8, or leads elsewhere, is refused.
path_parts <- function(path) {
  parts <- strsplit(sub("/+$", "", path), "/", fixed = TRUE)[[1]][-1]
  text <- vapply(parts, decoded_text, "", USE.NAMES = FALSE)
  odd <- is.na(text) | text %in% c("", ".", "..")
  if (any(odd)) refuse_request(404, "There is nothing here.")
  text
}

# NA for what is not percent-encoded UTF-8, or has a control character.
decoded_text <- function(text) {
  if (grepl("%(?![0-9A-Fa-f]{2})", text, perl = TRUE)) return(NA_character_)
  if (grepl("%00", text, fixed = TRUE)) return(NA_character_)
  text <- curl::curl_unescape(text)
  Encoding(text) <- "UTF-8"
  if (!validUTF8(text) || grepl("[[:cntrl:]]", text)) NA_character_ else text
}

# Each parameter once.
service_query <- function(text) {
  pairs <- strsplit(sub("^[?]", "", text), "&", fixed = TRUE)[[1]]
  pairs <- pairs[nzchar(pairs)]
  if (length(pairs) > 100) refuse_request(400, "There are more than 100 parameters.")
  decode <- function(x) {
    vapply(gsub("+", " ", x, fixed = TRUE), decoded_text, "", USE.NAMES = FALSE)
  }
  name <- decode(sub("=.*", "", pairs))
  value <- decode(ifelse(grepl("=", pairs, fixed = TRUE), sub("^[^=]*=", "", pairs), ""))
  if (anyNA(name) || anyNA(value)) {
    refuse_request(400, "The query is not percent-encoded UTF-8.")
  }
  if (anyDuplicated(name)) {
    refuse_request(400, sprintf("`%s` is given twice.", substr(name[anyDuplicated(name)], 1, 60)))
  }
  stats::setNames(as.list(value), name)
}

service_route <- function(service, ask) {
  path <- ask$path
  n <- length(path)
  if (n == 0) return(answer_landing(service, ask))
  if (n == 1) {
    made <- switch(path,
      conformance = answer_conformance(ask),
      api = answer_api(service, ask),
      collections = answer_collections(service, ask)
    )
    if (!is.null(made)) return(made)
  }
  if (path[1] == "maps" && n %in% 2:3) return(answer_map(service, path[-1], ask))
  if (path[1] == "collections" && n > 1) {
    collection <- service$collections[[path[2]]]
    if (is.null(collection)) {
      refuse_request(404, sprintf("There is no collection `%s`.", substr(path[2], 1, 60)))
    }
    if (n == 2) return(answer_collection(collection, ask))
    # There are no tiles of a table in a database.
    if (path[3] == "tiles" && !is_there(collection)) {
      return(answer_tiles(collection, path[-(1:3)], ask))
    }
    if (n == 3 && path[3] == "queryables") return(answer_queryables(collection, ask))
    if (n == 3 && path[3] == "items") return(answer_items(collection, ask))
    if (n == 4 && path[3] == "items") return(answer_item(collection, path[4], ask))
  }
  refuse_request(404, "There is nothing here.")
}
