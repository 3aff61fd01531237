# Answers of a service: in the form that was asked for, named by a tag so that nobody loads them
# twice, packed, and with what is wrong as problem details (RFC 9457).

# What is wrong with a request: ends the work on it with an answer.
refuse_request <- function(status, detail) {
  stop(structure(
    class = c("ochre_refusal", "error", "condition"),
    list(message = detail, call = NULL, status = status)
  ))
}

status_words <- c(
  `400` = "Bad Request", `403` = "Forbidden", `404` = "Not Found", `405` = "Method Not Allowed",
  `406` = "Not Acceptable", `413` = "Content Too Large", `414` = "URI Too Long",
  `500` = "Internal Server Error", `503` = "Service Unavailable"
)

problem <- function(status, detail, ...) {
  text <- write_json(list(
    type = "about:blank", title = status_words[[as.character(status)]], status = status,
    detail = detail
  ))
  answer(text, "application/problem+json", as.integer(status), ...)
}

# The media types of the forms that `f` names.
form_types <- c(
  json = "application/json", geojson = "application/geo+json", html = "text/html; charset=utf-8",
  csv = "text/csv; charset=utf-8", openapi = "application/vnd.oai.openapi+json;version=3.0",
  schema = "application/schema+json", tilejson = "application/json",
  mvt = "application/vnd.mapbox-vector-tile"
)

# What `f=json` means where there is no plain JSON.
json_kinds <- c("geojson", "openapi", "schema")

# Which of the forms that a resource has is wanted: by the parameter `f`, else by the header Accept
# (RFC 9110, 12.5.1), else the first.
wanted_form <- function(forms, asked, accept) {
  if (!is.null(asked)) {
    if (asked == "json" && !"json" %in% forms) asked <- intersect(json_kinds, forms)
    if (length(asked) && asked %in% forms) return(asked)
    refuse_request(400, sprintf("`f` must be one of %s.", list_words(forms)))
  }
  if (is.null(accept) || !nzchar(accept)) return(forms[1])
  ranges <- strsplit(substr(accept, 1, 1000), ",", fixed = TRUE)[[1]]
  type <- trimws(lower_case(sub(";.*", "", ranges)))
  share <- suppressWarnings(as.numeric(sub(".*;\\s*q=([0-9.]+).*", "\\1", lower_case(ranges))))
  share[!grepl(";\\s*q=", lower_case(ranges)) | is.na(share)] <- 1
  own <- sub(";.*", "", form_types[forms])
  # A client that takes JSON takes its kinds.
  kind <- sub("^application/.*json$", "application/json", own)
  worth <- vapply(seq_along(forms), function(k) {
    exact <- type == own[k] | type == kind[k]
    group <- type == sub("/.*", "/*", own[k])
    any_type <- type == "*/*"
    found <- if (any(exact)) exact else if (any(group)) group else any_type
    if (any(found)) max(share[found]) else 0
  }, 0)
  if (max(worth) <= 0) {
    refuse_request(406, sprintf("There is %s.", list_words(unname(own))))
  }
  forms[which.max(worth)]
}

# An answer as it goes out to one who asked: `made` has `body`, `form` and further headers.
send_answer <- function(made, req) {
  headers <- c(
    list(
      `Content-Type` = form_types[[made$form]], `X-Content-Type-Options` = "nosniff",
      ETag = made$tag, `Cache-Control` = "no-cache", Vary = "Accept, Accept-Encoding, Origin"
    ),
    made$headers
  )
  if (tag_is_known(made$tag, req$HTTP_IF_NONE_MATCH)) {
    return(list(status = 304L, headers = headers[names(headers) != "Content-Type"], body = ""))
  }
  body <- made$body
  if (!is.null(made$packed) && takes_gzip(req$HTTP_ACCEPT_ENCODING)) {
    body <- made$packed
    headers[["Content-Encoding"]] <- "gzip"
  }
  list(status = 200L, headers = headers, body = body)
}

# What is kept of an answer: its bytes, also packed where that is worth it, and the tag.
new_answer <- function(body, form, ...) {
  if (is.character(body)) body <- charToRaw(enc2utf8(paste(body, collapse = "\n")))
  tag <- sprintf("\"%s\"", substr(digest::digest(body, "sha256", serialize = FALSE), 1, 20))
  packed <- if (length(body) > 1000) gzipped(body)
  list(body = body, form = form, tag = tag, packed = packed, headers = list(...))
}

# The bytes of a file of gzip (RFC 1952); what memCompress() calls so has no such frame.
gzipped <- function(bytes) {
  path <- tempfile("ochre-", fileext = ".gz")
  on.exit(remove_path(path))
  con <- gzfile(path, "wb")
  writeBin(bytes, con)
  close(con)
  readBin(path, "raw", file.size(path))
}

takes_gzip <- function(header) {
  grepl("(^|[ ,])(gzip|\\*)($|[ ,;])", header %||% "") &&
    !grepl("gzip\\s*;\\s*q=0(\\.0*)?($|[ ,])", header)
}

tag_is_known <- function(tag, header) {
  if (is.null(header)) return(FALSE)
  known <- trimws(strsplit(substr(header, 1, 2000), ",", fixed = TRUE)[[1]])
  any(sub("^W/", "", known) == tag | known == "*")
}

cors_headers <- function(req, service) {
  if (!length(service$origins)) return(NULL)
  origin <- req$HTTP_ORIGIN %||% ""
  allowed <- if ("*" %in% service$origins) "*" else intersect(origin, service$origins)
  if (!length(allowed)) return(NULL)
  list(`Access-Control-Allow-Origin` = allowed, `Access-Control-Expose-Headers` = "ETag, Link")
}
