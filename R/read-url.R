# Files from the web, kept on disk and asked for again only if they have changed (HTTP validators,
# RFC 9110, section 13). A copy takes its place when it is whole.

cache_folder <- function() {
  folder <- getOption("ochre.cache", tools::R_user_dir("ochre", "cache"))
  dir.create(folder, recursive = TRUE, showWarnings = FALSE)
  folder
}

# The path of the cached copy.
read_url <- function(url, call = rlang::caller_env()) {
  need_package("curl", "Reading from the web", call)
  key <- digest::digest(url, "sha256", serialize = FALSE)
  path <- file.path(cache_folder(), key)
  note <- paste0(path, ".json")
  known <- if (file.exists(path) && file.exists(note)) tryCatch(jsonlite::fromJSON(note), error = function(e) NULL)
  part <- tempfile("part-", cache_folder())
  on.exit(unlink(part))
  got <- tryCatch(fetch(url, known, part), error = identity)
  failed <- if (inherits(got, "error")) conditionMessage(got) else if (got$status >= 400) sprintf("the server answers %d", got$status)
  if (!is.null(failed)) {
    if (is.null(known)) {
      ochre_abort("url", sprintf("`%s` cannot be fetched: %s.", url, strip_period(failed)), "Check the address and the connection.", url = url,
                  status = if (inherits(got, "error")) NULL else got$status, call = call)
    }
    ochre_warn("offline", sprintf("`%s` cannot be fetched (%s); the copy of %s is used.", url, strip_period(failed), known$fetched), url = url)
    return(path)
  }
  if (got$status == 304) return(path)
  if (!file.rename(part, path)) ochre_abort("url", sprintf("The cache folder `%s` cannot be written.", cache_folder()), "Set another with options(ochre.cache = \"\u2026\").", call = call)
  writeLines(jsonlite::toJSON(list(url = url, etag = got$etag, modified = got$modified, fetched = format(Sys.time(), "%Y-%m-%d %H:%M")), auto_unbox = TRUE, null = "null"), note)
  path
}

fetch <- function(url, known, part) {
  handle <- curl::new_handle(followlocation = TRUE, maxredirs = 10, connecttimeout = 20, low_speed_limit = 1, low_speed_time = 60,
                             url = url, protocols = 3L, redir_protocols = 3L, useragent = "ochre", accept_encoding = "")
  ask <- list(`If-None-Match` = known$etag, `If-Modified-Since` = known$modified)
  ask <- ask[lengths(ask) > 0]
  if (length(ask)) curl::handle_setheaders(handle, .list = ask)
  out <- file(part, "wb")
  on.exit(close(out))
  got <- 0
  take <- function(bytes, last) {
    got <<- got + length(bytes)
    if (got > unpack_limit()) stop(sprintf("it is larger than %s", size_words(unpack_limit())))
    writeBin(bytes, out)
    if (last) return(invisible())
    total <- curl::handle_data(handle)$headers
    size <- suppressWarnings(as.numeric(curl::parse_headers_list(total)[["content-length"]] %||% NA))
    if (isTRUE(size > 0)) signal_progress(paste("Fetching", basename(url)), min(1, got / size), 1)
  }
  answer <- NULL
  pool <- curl::new_pool()
  curl::multi_add(handle, done = function(a) answer <<- a, fail = function(message) answer <<- simpleError(message), data = take, pool = pool)
  curl::multi_run(pool = pool)
  if (inherits(answer, "error")) stop(answer)
  headers <- curl::parse_headers_list(answer$headers)
  list(status = answer$status_code, etag = headers[["etag"]], modified = headers[["last-modified"]])
}
