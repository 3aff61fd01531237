# Features that a service gives page by page (OGC API - Features): each page names the next one in
# its links, and says how many there are in all.

most_pages <- 10000L

# What a file of JSON says of others: `next_page` and `items`, addresses; `matched`, how many
# features there are in all. Nothing for files that are no page.
page_facts <- function(source) {
  if (!is_page(source$path)) return(NULL)
  said <- members_of(source$path, c("type", "links", "numberMatched"))
  if (!any(c("links", "numberMatched") %in% names(said))) return(NULL)
  features <- identical(said$type, "FeatureCollection")
  bare <- !"type" %in% names(said)
  list(
    next_page = if (features) link_of(said$links, "next"),
    items = if (bare) link_of(said$links, "items"),
    collections = if (bare) link_of(said$links, "data"),
    matched = if (is.numeric(said$numberMatched)) said$numberMatched
  )
}

# Members of the object that a file of JSON holds, by name; NULL for what cannot be read.
members_of <- function(path, names) {
  said <- tryCatch(
    as_utf8(call_core(json_members_core(path, names))$members),
    ochre_error = function(e) NULL
  )
  lapply(said, function(text) tryCatch(jsonlite::parse_json(text), error = function(e) NULL))
}

# The address of the first link of a kind, of those that lead to GeoJSON or JSON before others.
link_of <- function(links, rel) {
  if (!is.list(links)) return(NULL)
  found <- Filter(function(l) {
    is.list(l) && is.character(l[["href"]]) && identical(l[["rel"]], rel)
  }, links)
  type <- vapply(found, function(l) as.character(l[["type"]] %||% "")[1], "")
  first <- c(found[grepl("json", type, fixed = TRUE)], found)
  if (length(first)) first[[1]][["href"]]
}

# Links stand before the features or after them.
is_page <- function(path) {
  size <- file.size(path)
  if (is.na(size) || dir.exists(path) || size < 20) return(FALSE)
  con <- file(path, "rb")
  on.exit(close(con))
  head <- readBin(con, "raw", 20000)
  if (!any(head[seq_len(min(64, length(head)))] == charToRaw("{"))) return(FALSE)
  seek(con, max(0, size - 20000))
  both <- c(head, readBin(con, "raw", 20000))
  any(lengths(lapply(c("\"links\"", "\"numberMatched\""), grepRaw, both, fixed = TRUE)) > 0)
}

# `read_one` reads what lies at one address or path, of one layer.
read_all_pages <- function(file, layer, read_one, call = rlang::caller_env()) {
  found <- read_one(file, layer)
  web <- is.character(file) && is_address(file)
  fault <- function(what) service_fault(file, what, call = call)
  none <- "names an address that has no features"
  items <- items_of(file, found, layer, web, call)
  if (!is.null(items)) {
    file <- items
    found <- read_one(file)
    if (is.null(found$boundaries)) fault(none)
  }
  more <- found$more
  if (is.null(more$next_page)) {
    warn_other_number(file, NROW(found$boundaries), more$matched)
    return(found$boundaries)
  }
  if (!web) {
    warn_one_page(file, nrow(found$boundaries), more$matched)
    return(found$boundaries)
  }
  parts <- list(found$boundaries)
  asked <- file
  began <- proc.time()[["elapsed"]]
  while (!is.null(found$more$next_page)) {
    at <- page_address(found$more$next_page, asked[length(asked)], file, call)
    if (at %in% asked) fault("gives the same next page again")
    if (length(asked) >= most_pages) fault(sprintf("has more than %d pages", most_pages))
    asked <- c(asked, at)
    refuse_long_wait(began, file, call)
    found <- read_one(at)
    if (is.null(found$boundaries)) fault(none)
    parts <- c(parts, list(found$boundaries))
    signal_progress(sprintf("Fetching pages (%d)", length(asked)), length(asked), NA)
  }
  out <- bind_pages(parts)
  warn_other_number(file, nrow(out), more$matched)
  out
}

# On the host of the first page only; a service behind another one may name itself without the s.
page_address <- function(href, base, first, call) {
  at <- clean_address(href, base)
  if (!is.na(at) && startsWith(first, "https:")) at <- sub("^http:", "https:", at)
  if (is.na(at) || !same_origin(at, first)) {
    what <- if (is.na(at)) {
      "names a page that is no address"
    } else {
      sprintf("names a page on another host (%s)", host_of(at))
    }
    service_fault(first, what, "Read that address by itself if it is the right one.", call = call)
  }
  at
}

# Where the features of a service or of one of its collections are; nothing for other files.
items_of <- function(file, more, layer, web, call) {
  if (!is.null(more$collections)) return(collection_items(file, more$collections, layer, web, call))
  if (!is.null(more$items)) items_address(more$items, file, web, call)
}

# The features of the collection of that name, or of the only one. `href` leads to all of them.
collection_items <- function(file, href, layer, web, call) {
  if (!web) refuse_saved(file, "a service", href, call)
  at <- page_address(href, file, file, call)
  listed <- with_copy(at, function(copy) members_of(copy, "collections")$collections, call)
  name <- function(collection) if (is.list(collection)) collection[["id"]]
  listed <- Filter(function(collection) is.character(name(collection)), listed)
  if (!length(listed)) service_fault(at, "lists no collections", call = call)
  names <- vapply(listed, function(collection) name(collection)[1], "")
  chosen <- choose_layer(names, layer, file, "collections", call)
  items <- link_of(listed[[chosen]][["links"]], "items")
  if (is.null(items)) {
    service_fault(at, sprintf("names no items of `%s`", names[chosen]), call = call)
  }
  items_address(items, at, web, call)
}

# The address whose pages hold the rows, for statistics that lie in a service; nothing for other
# files.
paged_address <- function(file, more, layer, call = rlang::caller_env()) {
  web <- is_address(file)
  items <- items_of(file, more, layer, web, call)
  if (!is.null(items)) return(items)
  if (!is.null(more$next_page)) {
    if (web) return(file)
    warn_one_page(file, NULL, more$matched)
  }
  NULL
}

# All pages as one source of rows, where `source` is a page of a service or leads to them.
whole_service <- function(file, source, layer, records, call = rlang::caller_env()) {
  pages <- paged_address(file, page_facts(source), layer, call)
  if (is.null(pages)) return(NULL)
  remove_path(source$temporary)
  all <- service_request(next_at = "links", most_pages = most_pages, keep = "0 seconds")
  list(path = ask_service(pages, all, records, call = call), name = file, joined = TRUE)
}

# Somebody saved what only leads to features.
refuse_saved <- function(file, what, href, call) {
  ochre_abort("file", "`{file}` describes {what}, and holds no features.",
              "Read them from the address where this was saved; it leads to {href}.")
}

# Items of a collection, a thousand at a time.
items_address <- function(href, base, web, call) {
  if (!web) refuse_saved(base, "a collection", href, call)
  at <- page_address(href, base, base, call)
  if (grepl("[?&]limit=", at)) return(at)
  paste0(at, if (grepl("?", at, fixed = TRUE)) "&" else "?", "limit=1000")
}

# Columns by their names: whole numbers give way to others, and numbers to texts.
bind_pages <- function(parts) {
  parts <- c(parts[1], Filter(nrow, parts[-1]))
  if (length(parts) == 1) return(parts[[1]])
  about <- attr(parts[[1]], "ochre_source")
  rows <- data.table::rbindlist(
    lapply(parts, function(p) {
      p$geometry <- unclass(p$geometry)
      attributes(p$geometry) <- NULL
      data.table::as.data.table(as.list(p))
    }),
    fill = TRUE, use.names = TRUE
  )
  out <- tibble::as_tibble(as.list(rows))
  geometry <- out$geometry
  out$geometry <- NULL
  out$geometry <- wk::new_wk_wkb(geometry, crs = wk::wk_crs_longlat())
  attr(out, "ochre_source") <- about
  out
}

warn_one_page <- function(file, rows, matched) {
  what <- c(
    if (!is.null(rows)) count_words(rows, "feature"),
    if (!is.null(matched)) sprintf("of %s in all", format_number(matched, 0))
  )
  part <- if (length(what)) paste0(": ", paste(what, collapse = " ")) else ""
  ochre_warn("pages", "`{file}` is one page of a service{part}.",
             "Read the service's address, and all pages are read.")
}

warn_other_number <- function(file, rows, matched) {
  if (is.null(matched) || matched == rows) return(invisible())
  ochre_warn(
    "pages",
    paste0("`{file}` says that it has {count_words(matched, 'feature')}, and gave ",
           "{format_number(rows, 0)}."), "Did it change while it was read? Read it again.",
    url = file
  )
}
