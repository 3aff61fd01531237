# Files from the web, kept on disk and asked for again only if they have changed (HTTP validators,
# RFC 9110, section 13). A copy takes its place when it is whole.

# For users without a home that can be written, what is fetched stays for the session.
cache_folder <- function() {
  folder <- getOption("ochre.cache", user_folder())
  dir.create(folder, recursive = TRUE, showWarnings = FALSE)
  own <- !is.null(getOption("ochre.cache")) || file.access(folder, 2) == 0
  if (own) folder else tempdir()
}

# Reads what lies at an address, or a file that is here: `read` is given the path, or NULL for the
# latter. A new copy takes the old one's place only after it could be read; one that cannot is
# passed over for the old one, and a kept one that has been spoilt is fetched anew.
with_copy <- function(file, read, call = rlang::caller_env()) {
  if (!is.character(file) || !is_address(file)) return(read(NULL))
  got <- fetch_copy(file, call)
  on.exit(remove_path(got$part))
  out <- tryCatch(list(value = read(got$path)), ochre_error = identity)
  if (!inherits(out, "condition")) {
    keep_copy(got, call)
    return(out$value)
  }
  if (!inherits(out, unreadable)) rlang::cnd_signal(out)
  if (!is.null(got$part) && got$have) {
    ochre_warn(
      "offline",
      paste0("What `{file}` gives now cannot be read ({strip_period(out$what)}); the copy of ",
             "{got$known$fetched} is used."),
      "Look at the address in a browser: does it want a login?", url = file
    )
    return(read(got$kept))
  }
  if (!is.null(got$part) || got$offline) rlang::cnd_signal(out)
  got <- fetch_copy(file, call, anew = TRUE)
  value <- read(got$path)
  keep_copy(got, call)
  value
}

unreadable <- c(
  "ochre_error_file",
  "ochre_error_records",
  "ochre_error_system",
  "ochre_error_geometry"
)

# A list: `path` to read, `part` when it is new, `kept` where copies lie, `have` whether an old one
# is there.
fetch_copy <- function(url, call = rlang::caller_env(), anew = FALSE) {
  need_package("curl", "Reading from the web", call)
  if (is.na(clean_address(url))) {
    ochre_abort("url", "`{url}` is no address that can be followed.",
                "It begins with http or https and a host, and holds no blanks, user or password.")
  }
  kept <- file.path(cache_folder(), digest::digest(url, "sha256", serialize = FALSE))
  note <- paste0(kept, ".json")
  known <- if (file.exists(kept) && file.exists(note)) {
    tryCatch(jsonlite::fromJSON(note), error = function(e) NULL)
  }
  part <- tempfile("part-", cache_folder())
  got <- fetch_part(url, if (!anew) known, part)
  failed <- fetch_failure(got, known)
  out <- list(
    url = url, kept = kept, note = note, known = known, have = !is.null(known),
    offline = !is.null(failed)
  )
  if (is.null(failed) && got$status != 304) {
    return(c(out, list(path = part, part = part, etag = got$etag, modified = got$modified)))
  }
  remove_path(part)
  if (!is.null(failed)) {
    status <- if (!inherits(got, "error")) got$status
    failed <- strip_period(failed)
    if (is.null(known) || anew) refuse_fetch(url, failed, status, call)
    words <- "`%s` cannot be fetched (%s); the copy of %s is used."
    ochre_warn("offline", sprintf(words, url, failed, known$fetched), url = url)
  }
  c(out, list(path = kept))
}

# The answer, or the error that came instead; an interrupt leaves nothing behind.
fetch_part <- function(url, known, part) {
  tryCatch(
    fetch(url, known, part),
    error = identity,
    interrupt = function(e) {
      remove_path(part)
      rlang::interrupt()
    }
  )
}

fetch_failure <- function(got, known) {
  if (inherits(got, "error")) return(conditionMessage(got))
  if (got$status == 304 && is.null(known)) {
    return("the server answers 304 (not changed) though there is no copy here")
  }
  if (got$status >= 400) sprintf("the server answers %d", got$status)
}

refuse_fetch <- function(url, why, status, call) {
  ochre_abort("url", "`{url}` cannot be fetched: {why}.", "Check the address and the connection.",
              status = status)
}

keep_copy <- function(got, call = rlang::caller_env()) {
  if (is.null(got$part)) return(invisible())
  if (!file.rename(got$part, got$kept)) {
    ochre_abort("url", "The cache folder `{cache_folder()}` cannot be written.",
                "Set another with options(ochre.cache = \"\u2026\").")
  }
  about <- list(
    url = got$url,
    etag = got$etag,
    modified = got$modified,
    fetched = format(Sys.time(), "%Y-%m-%d %H:%M")
  )
  write_whole(
    got$note,
    function(part) write_lines(jsonlite::toJSON(about, auto_unbox = TRUE, null = "null"), part),
    call = call
  )
}

fetch <- function(url, known, part) {
  handle <- fetch_handle(url, known)
  out <- file(part, "wb")
  on.exit(close(out))
  got <- 0
  take <- function(bytes, last) {
    got <<- got + length(bytes)
    if (got > unpack_limit()) stop(sprintf("it is larger than %s", size_words(unpack_limit())))
    writeBin(bytes, out)
    if (last) return(invisible())
    headers <- curl::parse_headers_list(curl::handle_data(handle)$headers)
    size <- suppressWarnings(as.numeric(headers[["content-length"]] %||% NA))
    if (isTRUE(size > 0)) {
      signal_progress(paste("Fetching", basename(url)), min(1, got / size), 1)
    }
  }
  answer <- NULL
  pool <- curl::new_pool()
  curl::multi_add(
    handle,
    done = function(a) answer <<- a,
    fail = function(message) answer <<- simpleError(message),
    data = take,
    pool = pool
  )
  curl::multi_run(pool = pool)
  if (inherits(answer, "error")) stop(answer)
  headers <- curl::parse_headers_list(answer$headers)
  list(status = answer$status_code, etag = headers[["etag"]], modified = headers[["last-modified"]])
}

# What is asked for: only what has changed since the copy that is known.
fetch_handle <- function(url, known) {
  handle <- curl::new_handle(
    followlocation = TRUE, maxredirs = 10, connecttimeout = 20, low_speed_limit = 1,
    low_speed_time = 60, timeout = ceiling(time_limit()), url = url, protocols = 3L,
    redir_protocols = 3L, useragent = "ochre", accept_encoding = ""
  )
  ask <- list(`If-None-Match` = known$etag, `If-Modified-Since` = known$modified)
  ask <- ask[lengths(ask) > 0]
  if (length(ask)) curl::handle_setheaders(handle, .list = ask)
  handle
}
