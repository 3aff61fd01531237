# Requests put together by chance from what the service listens to: headers and parameters with
# values that are nearly right, wrong, or bytes. Each is answered in words, and soon.

# An answer as it stands on the line; NULL where the connection was closed without one.
exchange <- function(port, path, headers) {
  con <- socketConnection("127.0.0.1", port, open = "r+b", blocking = TRUE, timeout = 5)
  on.exit(close(con))
  lines <- c(sprintf("GET %s HTTP/1.1", path), headers, "Connection: close", "", "")
  writeBin(charToRaw(paste(lines, collapse = "\r\n")), con)
  bytes <- raw()
  while (length(more <- readBin(con, "raw", 65536))) bytes <- c(bytes, more)
  if (!length(bytes)) return(NULL)
  # Bodies may be compressed; the head is text.
  ends <- which(bytes == as.raw(10))
  blank <- ends[c(FALSE, diff(ends) == 2)][1]
  head <- strsplit(rawToChar(bytes[seq_len(blank - 2)]), "\r\n", fixed = TRUE)[[1]]
  list(
    status = as.integer(sub("^HTTP/1.1 ([0-9]+).*", "\\1", head[1])),
    type = sub("^content-type: *", "", grep("^content-type:", head, TRUE, value = TRUE)[1], TRUE),
    plain = !any(grepl("^content-encoding:", head, TRUE)),
    body = bytes[-seq_len(blank)]
  )
}

one_of <- function(x, most = 1) sample(x, sample(most, 1), TRUE)
odd_text <- function() {
  switch(sample(5, 1),
    rawToChar(as.raw(sample(33:126, sample(40, 1), TRUE))),
    paste0("%", paste(sprintf("%02X", sample(0:255, sample(8, 1), TRUE)), collapse = "%")),
    strrep(one_of(c("(", "a", "9", "-", ",", "%27", "*")), sample(c(3, 300), 1)),
    one_of(c("", "NaN", "1e999", "-0", "null", "0x10", "../../etc/passwd", "%00", "1e-999")),
    format(stats::runif(1, -1e6, 1e6))
  )
}
chance_query <- function(fields) {
  pieces <- c(
    "limit", "offset", "bbox", "bbox-crs", "crs", "datetime", "f", "properties", "filter",
    "filter-lang", "filter-crs", fields, "nobody"
  )
  known <- c(
    "1", "-1", "0,0,1,1", "170,-10,-170,10", "2031-03-01/..", "json", "html", "csv", "geojson",
    "cql2-text", "code%20%3D%20%270101%27", "population%20%3E%201%20AND%20(name%20IS%20NULL)",
    "NOT%20NOT%20NOT", "http://www.opengis.net/def/crs/EPSG/0/4326", fields
  )
  parts <- replicate(sample(0:4, 1), paste0(one_of(pieces), "=", if (stats::runif(1) < 0.6) {
    one_of(known)
  } else {
    gsub("[ #\"<>]", "+", odd_text())
  }))
  if (length(parts)) paste0("?", paste(parts, collapse = "&")) else ""
}
chance_headers <- function(port, tag) {
  words <- c(
    "*/*", "text/html", "application/geo+json", "application/json", "text/csv", "image/*", "q=0",
    "q=0.5", "q=1.0.0", "q=", ";", ",", "gzip", "br", "identity", "*", tag, "W/", "\"\"", "null",
    "https://paper.example", "bytes=0-5", "Thu, 01 Jan 1970 00:00:00 GMT"
  )
  names <- c(
    "Accept", "Accept-Encoding", "Accept-Language", "If-None-Match", "If-Modified-Since",
    "Origin", "Range", "X-Forwarded-Host", "Forwarded", "Access-Control-Request-Method"
  )
  value <- function() {
    if (stats::runif(1) < 0.2) return(odd_text())
    paste(one_of(words, 6), collapse = one_of(c(", ", ";", ",", " ", "")))
  }
  c(
    paste0("Host: ", if (stats::runif(1) < 0.05) odd_text() else paste0("127.0.0.1:", port)),
    vapply(one_of(names, 4), function(name) paste0(name, ": ", value()), "")
  )
}

test_that("headers and parameters of chance get an answer in words, and the service goes on", {
  s <- service_of(ochre_demo("ages.ochre.yml"))
  on.exit(s$server$kill())
  port <- as.integer(sub(".*:", "", s$address))
  one <- json_of(asked(paste0(s$address, "/collections")))$collections[[1]]
  own <- sub(s$address, "", sub("[?].*", "", href(one, "items")), fixed = TRUE)
  fields <- names(json_of(asked(paste0(s$address, own, "?limit=1")))$features[[1]]$properties)
  tag <- asked(paste0(s$address, own))$headers$etag
  paths <- c(
    "/", "/api", "/conformance", "/collections", own, own, own, sub("/items", "", own),
    sub("items", "queryables", own), sub("items", "tiles", own), paste0(own, "/1"),
    paste0(sub("items", "tiles", own), "/WebMercatorQuad/3/3/3"), "/maps/ages", "/maps/ages/legend"
  )
  set.seed(14)
  seen <- integer()
  for (i in 1:140) {
    path <- paste0(one_of(paths), if (stats::runif(1) < 0.1) paste0("/", odd_text()))
    path <- paste0(gsub("[ #\"<>?]", "+", path), chance_query(utils::head(fields, 5)))
    headers <- chance_headers(port, tag)
    took <- system.time(got <- exchange(port, path, headers))[["elapsed"]]
    about <- paste(c(path, headers), collapse = "\n")
    expect_lt(took, 3, label = about)
    if (is.null(got)) next
    seen <- c(seen, got$status)
    fine <- got$status %in% c(200, 204, 304, 400, 403, 404, 405, 406, 414, 431)
    expect_true(fine, info = paste(got$status, about))
    if (got$status < 400 || !length(got$body) || !got$plain) next
    if (!grepl("problem[+]json", got$type)) next
    problem <- jsonlite::fromJSON(rawToChar(got$body))
    expect_identical(problem$status, got$status, info = about)
    expect_gt(nchar(problem$detail), 10)
  }
  # By far most reach the service, and all kinds of answers are among them.
  expect_gt(length(seen), 120)
  for (status in c(200L, 304L, 400L, 403L, 404L, 406L)) expect_true(status %in% seen, info = status)
  again <- asked(paste0(s$address, own))
  expect_identical(again$status, 200L)
  expect_identical(again$headers$etag, tag)
  expect_false(any(grepl("Error", readLines(s$said))))
})
