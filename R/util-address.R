# Addresses of the web. Package curl takes them apart (libcurl, RFC 3986), the same parser that
# fetches them; here they are put together again from parts that were looked at, so that nothing of
# a text from data reaches markup, a policy or another host as it was written.

host_pattern <- paste0(
  "^([a-z0-9]([a-z0-9-]*[a-z0-9])?(\\.[a-z0-9_]([a-z0-9_-]*[a-z0-9_])?)*\\.?",
  "|\\[[0-9a-f:.]+\\])$"
)
default_ports <- c(http = 80L, https = 443L)

# Parts of one address, or NULL where it is none that Ochre follows: http or https, a host of plain
# letters, no user, no blanks. `base` is what a relative one is seen from.
address_parts <- function(x, base = NULL) {
  if (is.na(x) || grepl("[[:cntrl:][:space:]\\\\]", x)) return(NULL)
  found <- tryCatch(
    curl::curl_parse_url(x, baseurl = base, decode = FALSE, params = FALSE),
    error = function(e) NULL
  )
  if (is.null(found)) return(NULL)
  if (!grepl("^[!-~]+$", found$host %||% "", useBytes = TRUE)) return(NULL)
  scheme <- lower_case(found$scheme %||% "")
  host <- lower_case(found$host %||% "")
  if (!scheme %in% names(default_ports) || !grepl(host_pattern, host) || length(found$user)) {
    return(NULL)
  }
  port <- as.integer(found$port %||% default_ports[[scheme]])
  if (is.na(port) || port < 1 || port > 65535) return(NULL)
  tail <- sub("^[a-z]+://[^/?#]*", "", found$url, ignore.case = TRUE)
  list(
    scheme = scheme,
    host = host,
    port = port,
    tail = encode_rest(tail),
    origin = origin_words(scheme, host, port)
  )
}

origin_words <- function(scheme, host, port) {
  paste0(scheme, "://", host, if (port != default_ports[[scheme]]) paste0(":", port))
}

# Percent signs for what has no place in an address; those that are there and mean a byte stay.
encode_rest <- function(x) {
  whole <- gsub("%(?![0-9A-Fa-f]{2})", "%25", enc2utf8(x), perl = TRUE)
  bytes <- charToRaw(gsub("(%[0-9A-Fa-f]{2})", "\\U\\1", whole, perl = TRUE))
  plain <- bytes %in% charToRaw(
    "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789-._~:/?#[]@!$&()*+,;=%"
  )
  paste0(
    ifelse(plain, rawToChar(bytes, multiple = TRUE), sprintf("%%%02X", as.integer(bytes))),
    collapse = ""
  )
}

# The address put together anew; NA where it is none.
clean_address <- function(x, base = NULL) {
  parts <- address_parts(x, base)
  if (is.null(parts)) NA_character_ else paste0(parts$origin, parts$tail)
}
clean_addresses <- function(x) {
  known <- unique(x)
  unname(vapply(known, clean_address, "")[match(x, known)])
}

# An address with fields in braces behind its host, such as {z}, which stay; NA where it is none.
clean_template <- function(x, fields) {
  mark <- function(f) paste0("ochre-", gsub("[{}]", "", f), "-field")
  bare <- x
  for (f in fields) bare <- gsub(f, mark(f), bare, fixed = TRUE)
  out <- clean_address(bare)
  if (is.na(out) || grepl("ochre-[a-z-]+-field", origin_of(out)) || grepl("[{}]", bare)) {
    return(NA_character_)
  }
  for (f in fields) out <- gsub(mark(f), f, out, fixed = TRUE)
  out
}

# A query's names and values behind an address that may have one already.
add_query <- function(address, pairs) {
  if (!length(pairs)) return(address)
  text <- paste(
    curl::curl_escape(names(pairs)),
    curl::curl_escape(unlist(pairs)),
    sep = "=",
    collapse = "&"
  )
  place <- regexpr("#", address, fixed = TRUE)
  if (place > 0) address <- substr(address, 1, place - 1)
  paste0(address, if (grepl("?", address, fixed = TRUE)) "&" else "?", text)
}

# Scheme, host and port, as a browser's policy and a key's guard compare them; NA where there are
# none.
origin_of <- function(x) {
  vapply(
    as.character(x),
    function(one) address_parts(one)$origin %||% NA_character_,
    "",
    USE.NAMES = FALSE
  )
}
host_of <- function(x) address_parts(x)$host %||% "no host"
same_origin <- function(a, b) isTRUE(origin_of(a) == origin_of(b))

is_address <- function(x) has_pattern(x, "^https?://")
is_mail <- function(x) grepl("^mailto:[A-Za-z0-9.!#$%&*+/=?^_{|}~-]+@[A-Za-z0-9.-]+$", x)
