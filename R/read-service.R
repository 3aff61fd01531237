# Web services that give rows as JSON: asked with a query, headers and a key, page by page, again
# after a pause when they fail (package httr2), and kept on disk for as long as the user says.

#' How to ask a web service
#'
#' For `request` of [read_statistics()] and [read_boundaries()]. An answer is kept on disk, so that
#' a service is not asked again and again while one works. A failed request is tried again after 1,
#' 2, 4 … seconds, or as the service says in `Retry-After` (more than a minute ends in an error that
#' says when to come back); if it fails for good and an older answer is there, that is used and a
#' warning `ochre_warning_offline` says so.
#'
#' @param query Parameters of the address: a named list or vector of texts and numbers.
#' @param headers Headers: a named list or vector of texts.
#' @param next_at For services that give page after page: a JSON Pointer to the address of the
#'   next page, or to the mark that gets it (then with `page`), such as `"/links/next"`; `"link"`
#'   for the header of that name; `"links"` for the link `next` among the document's `links`.
#' @param page Name of the parameter that counts pages: one text, or with `next_at` the parameter
#'   that the mark goes into.
#' @param offset Name of the parameter that counts rows: one text.
#' @param first The first page's number: one whole number.
#' @param most_pages After so many pages something is wrong: one whole number.
#' @param tries How often one page is asked for: one whole number.
#' @param keep How long an answer may be used again: one text such as `"1 hour"`, `"2 days"` or
#'   `"0 seconds"`.
#' @return A list of class `ochre_request`. Printed, it shows no key.
#' @section Keys:
#' A query value or header may hold `{OCHRE_KEY_…}`: it stands for the environment variable of
#' that name, as in `headers = c(Authorization = "Bearer {OCHRE_KEY_STATISTICS}")`. Only variables
#' whose names begin with `OCHRE_KEY_` are used, so that a sheet from someone else cannot send
#' away others. A key is never printed or written to disk; it is sent to the named scheme, host
#' and port only: a redirect or next page elsewhere is refused.
#' @section Errors: `ochre_error_argument`. When read: `ochre_error_service` when the service
#' refuses, gives no
#'   JSON, or pages without end (field `status`); `ochre_error_records`.
#' @source Nottingham, M. (2017) Web Linking, RFC 8288. Fielding, R. et al. (2022) HTTP Semantics,
#'   RFC 9110.
#' @examples
#' service_request(
#'   query = list(year = 2031),
#'   headers = c(`X-Key` = "{OCHRE_KEY_ORVANE}"),
#'   page = "page"
#' )
#' @export
service_request <- function(query = NULL, headers = NULL, next_at = NULL, page = NULL,
                            offset = NULL, first = 1, most_pages = 1000, tries = 4,
                            keep = "1 hour") {
  query <- check_pairs(query, "query")
  headers <- check_pairs(headers, "headers")
  check_text(next_at, "next_at", null = TRUE)
  check_text(page, "page", null = TRUE)
  check_text(offset, "offset", null = TRUE)
  if (!is.null(offset) && (!is.null(page) || !is.null(next_at))) {
    ochre_abort("argument", "`offset` cannot go with `page` or `next_at`.",
                "A service counts either rows or pages.", arg = "offset")
  }
  check_number(first, "first", min = 0, whole = TRUE)
  check_number(most_pages, "most_pages", min = 1, whole = TRUE)
  check_number(tries, "tries", min = 1, max = 20, whole = TRUE)
  structure(
    list(
      query = query,
      headers = headers,
      next_at = next_at,
      page = page,
      offset = offset,
      first = first,
      most_pages = most_pages,
      tries = tries,
      keep = seconds_of(keep, "keep")
    ),
    class = "ochre_request"
  )
}

check_pairs <- function(x, arg, call = rlang::caller_env()) {
  x <- as.list(x)
  plain <- vapply(x, function(v) is.atomic(v) && length(v) == 1 && !is.na(v), NA)
  if (length(x) && (is.null(names(x)) || any(!nzchar(names(x))) || !all(plain))) {
    ochre_abort("argument", "`{arg}` must be a named list of single texts or numbers.",
                "As in {arg} = list(year = 2031).")
  }
  vapply(x, function(v) if (is.numeric(v)) as_key(v) else as.character(v), "")
}

time_units <- c(second = 1, minute = 60, hour = 3600, day = 86400, week = 604800)
seconds_of <- function(x, arg, call = rlang::caller_env()) {
  check_text(x, arg, call = call)
  parts <- regmatches(x, regexec("^([0-9.]+) *([a-z]+?)s?$", x, perl = TRUE))[[1]]
  if (length(parts) != 3 ||
      !parts[3] %in% names(time_units) ||
      is.na(suppressWarnings(as.numeric(parts[2])))) {
    ochre_abort("argument", "`{arg}` must be a time such as \"1 hour\", not \"{x}\".",
                "Units: {list_words(names(time_units))}.")
  }
  as.numeric(parts[2]) * time_units[[parts[3]]]
}

#' @export
format.ochre_request <- function(x, ...) {
  pairs <- function(what) {
    if (length(x[[what]])) {
      sprintf("  %s: %s", what, paste(names(x[[what]]), x[[what]], sep = " = ", collapse = ", "))
    }
  }
  paging <- if (!is.null(x$next_at)) {
    sprintf("next page at %s", x$next_at)
  } else if (!is.null(x$page)) {
    sprintf("pages counted in `%s`", x$page)
  } else if (!is.null(x$offset)) {
    sprintf("rows counted in `%s`", x$offset)
  } else {
    "one page"
  }
  c(
    "Request to a web service:",
    pairs("query"),
    pairs("headers"),
    sprintf(
      "  %s; %s; kept for %s",
      paging,
      count_words(x$tries, "try", "tries"),
      count_words(x$keep, "second")
    )
  )
}

#' @export
print.ochre_request <- function(x, ...) {
  cat(format(x), sep = "\n")
  invisible(x)
}

# The path of a file with all records as one JSON list, from the cache or the service.
ask_service <- function(url, request, records, whole = FALSE, call = rlang::caller_env()) {
  check_service(url, request, call)
  need_package("httr2", "Reading from a web service", call)
  asked <- unclass(request)[c("query", "headers", "next_at", "page", "offset", "first")]
  key <- digest::digest(list(url, asked, records, if (whole) "whole"), "sha256")
  path <- file.path(cache_folder(), paste0(key, ".json"))
  age <- Inf
  if (file.exists(path)) {
    age <- as.numeric(difftime(Sys.time(), file.mtime(path), units = "secs"))
  }
  if (age < request$keep) return(path)
  into <- tempfile("ochre-rows-")
  on.exit(remove_path(into))
  tryCatch(
    {
      pages_to_file(into, function(put) fetch_pages(url, request, records, whole, put, call))
      write_whole(path, function(part) file.copy(into, part, overwrite = TRUE), "list")
    },
    ochre_error_service = function(e) {
      if (!is.finite(age)) rlang::cnd_signal(e)
      when <- format(file.mtime(path), "%Y-%m-%d %H:%M")
      ochre_warn("offline", "{e$what} The answer of {when} is used.", url = url)
    }
  )
  path
}

# One list of JSON from rows that come a page at a time.
pages_to_file <- function(file, fetch) {
  out <- file(file, "wb")
  on.exit(close(out))
  mark <- "["
  put <- function(rows) {
    if (!length(rows)) return(invisible())
    text <- jsonlite::toJSON(rows, auto_unbox = TRUE, null = "null", digits = NA, na = "null")
    writeLines(c(mark, substr(text, 2, nchar(text) - 1)), out, useBytes = TRUE)
    mark <<- ","
  }
  fetch(put)
  writeLines(c(if (mark == "[") "[", "]"), out)
}

check_service <- function(url, request, call) {
  if (!inherits(request, "ochre_request")) {
    what <- "`request` must come from service_request()."
    ochre_abort("argument", what, arg = "request")
  }
  if (is.na(clean_address(url))) {
    ochre_abort("argument", "`request` needs the address of a service as `file`, not `{url}`.",
                "As in https://statistics.example/api.", arg = "request")
  }
}

service_fault <- function(url, what, mend = NULL, ..., call) {
  ochre_abort("service", "`{url}` {what}.", mend, ...)
}

key_pattern <- "\\{OCHRE_KEY_[A-Z0-9_]+\\}"
keyed <- function(pairs) pairs[grepl(key_pattern, pairs)]
uses_key <- function(request) any(grepl(key_pattern, c(request$query, request$headers)))

with_keys <- function(pairs, call) {
  for (i in which(grepl(key_pattern, pairs))) {
    name <- gsub("[{}]", "", regmatches(pairs[[i]], regexpr(key_pattern, pairs[[i]])))
    value <- Sys.getenv(name)
    if (!nzchar(value)) {
      ochre_abort("service", "The environment variable `{name}` is not set.",
                  "It holds the key of the service; set it in the shell or in ~/.Renviron.")
    }
    pairs[[i]] <- sub(key_pattern, gsub("\\", "\\\\", value, fixed = TRUE), pairs[[i]])
  }
  pairs
}

# Seconds until the service wants to be asked again (RFC 9110, section 10.2.3); 0 without a word.
retry_after <- function(answer) {
  text <- httr2::resp_header(answer, "retry-after") %||% "0"
  if (grepl("^[0-9]{1,9}$", text)) return(as.numeric(text))
  until <- curl::parse_date(text)
  if (is.na(until)) 0 else max(0, as.numeric(difftime(until, Sys.time(), units = "secs")))
}
is_long_wait <- function(answer) {
  httr2::resp_status(answer) %in% c(429, 503) && retry_after(answer) > 60
}

# httr2 tries again on an answer; a broken connection is tried again here.
try_again <- function(asked, into, tries, i = 1) {
  tryCatch(httr2::req_perform(asked, path = into), error = function(e) {
    if (i >= tries) stop(e)
    Sys.sleep(min(2^(i - 1), 30))
    try_again(asked, into, tries, i + 1)
  })
}

# Rows of a table of columns, as records.
records_of <- function(table) {
  if (!length(table)) return(list())
  lapply(seq_along(table[[1]]), function(i) lapply(table, `[[`, i))
}
