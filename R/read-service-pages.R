# The pages of a web service: one after the other, through redirections, with keys that go to no
# other host.

# Each page's rows go to `put` as they come, so that no more than a page is in memory. Rows are
# flat; `whole` leaves each as the service gave it.
fetch_pages <- function(url, request, records, whole, put, call = rlang::caller_env()) {
  rows <- 0
  at <- list(address = url, query = request$query, asked = character())
  counted <- !is.null(request$page) || !is.null(request$offset)
  last <- matched <- NULL
  began <- proc.time()[["elapsed"]]
  done <- function() {
    if (is.numeric(matched)) warn_other_number(url, rows, matched)
    invisible()
  }
  for (i in seq_len(request$most_pages)) {
    at$query <- page_query(at$query, request, i, rows)
    answer <- fetch_page(at$address, at$query, request, url, call)
    # Later pages may be empty, so the first one says where the rows lie.
    records <- records %||% pointer_to_rows(answer$content, url, call)
    new <- if (whole) {
      whole_rows(answer$content, records, url, call)
    } else {
      records_of(json_table(answer$content, records, url, call))
    }
    rows <- rows + length(new)
    if (is.list(answer$content)) matched <- matched %||% answer$content$numberMatched
    refuse_long_wait(began, url, call)
    put(new)
    signal_progress(sprintf("Fetching pages (%d)", i), i, NA)
    if (!is.null(request$next_at)) {
      mark <- next_mark(answer, request, url, call)
      if (!length(mark) || !nzchar(mark)) return(done())
      at <- follow_mark(as.character(mark), at, request, url, call)
      next
    }
    if (!counted || !length(new)) return(done())
    if (i > 1 && identical(new, last)) refuse_same_page(url, request, call)
    last <- new
  }
  service_fault(
    url,
    sprintf("has more than %d pages", request$most_pages),
    "Raise `most_pages` if that is right.",
    call = call
  )
}

# Each answer has its limit of time; all pages of one service have the same one together.
refuse_long_wait <- function(began, url, call) {
  if (proc.time()[["elapsed"]] - began <= time_limit()) return(invisible())
  service_fault(
    url,
    sprintf("takes longer than %s", count_words(time_limit(), "second")),
    "If that is right, raise the limit: options(ochre.time_limit = ).",
    call = call
  )
}

whole_rows <- function(content, records, url, call) {
  rows <- at_pointer(content, records, url, call)
  if (is_plain_list(rows) && (!length(rows) || all_are(rows, is_record))) return(rows)
  what <- sprintf("has no list of records at \"%s\"", records)
  service_fault(url, what, "Say where they lie with `records`.", call = call)
}

# The query of page `i`, before which so many rows came.
page_query <- function(query, request, i, rows) {
  if (!is.null(request$offset)) query[[request$offset]] <- as_key(rows)
  if (!is.null(request$page) && is.null(request$next_at)) {
    query[[request$page]] <- as_key(request$first + i - 1)
  }
  query
}

# The same page again: the service does not know the parameter.
refuse_same_page <- function(url, request, call) {
  parameter <- request$page %||% request$offset
  service_fault(
    url,
    "gives the same rows on every page",
    sprintf("Is `%s` the parameter that counts?", parameter),
    call = call
  )
}

# What an answer says of the next page; nothing at the last one.
next_mark <- function(answer, request, url, call) {
  if (request$next_at == "link") return(answer$link)
  if (request$next_at == "links") return(link_of(answer$content$links, "next"))
  tryCatch(
    at_pointer(answer$content, request$next_at, url, call),
    ochre_error_records = function(e) NULL
  )
}

# Where the next page is: a value of the parameter `page`, or an address. A key goes to no other
# host.
follow_mark <- function(mark, at, request, url, call) {
  fault <- function(what) service_fault(url, what, call = call)
  if (mark %in% at$asked) fault("gives the same next page again")
  at$asked <- c(at$asked, mark)
  if (!is.null(request$page)) {
    at$query[[request$page]] <- mark
    return(at)
  }
  address <- clean_address(mark, at$address)
  if (is.na(address)) fault("names a next page that is no address")
  if (!same_origin(address, url) && uses_key(request)) {
    words <- "names a next page on another host (%s), where the key must not go"
    fault(sprintf(words, host_of(address)))
  }
  at$address <- address
  if (grepl("?", address, fixed = TRUE)) at$query <- keyed(request$query)
  at
}

# Messages name the first address only: a service may write the key into the next one.
fetch_page <- function(address, query, request, url, call) {
  # Answers may be large: they go to a file, and are read from there.
  into <- tempfile("ochre-answer-")
  on.exit(remove_path(into))
  answer <- follow_service(add_query(address, with_keys(query, call)), request, into, url, call)
  status <- httr2::resp_status(answer)
  if (status >= 400) refuse_status(url, status, call)
  content <- tryCatch(
    parse_answer(answer, into),
    error = function(e) {
      begin <- readLines(into, 1, warn = FALSE, skipNul = TRUE)
      begin <- substr(gsub("\\s+", " ", iconv(begin, "", "UTF-8", sub = "?")), 1, 40)
      service_fault(url, sprintf("does not answer in JSON (it begins \"%s\")", begin), call = call)
    }
  )
  list(content = content, link = next_link(httr2::resp_header(answer, "link")))
}

# JSON is UTF-8 unless the service says otherwise.
parse_answer <- function(answer, file) {
  utf8 <- upper_case(httr2::resp_encoding(answer)) %in% c("UTF-8", "UTF8", "US-ASCII")
  source <- if (utf8) file(file, encoding = "UTF-8") else httr2::resp_body_string(answer)
  jsonlite::parse_json(source, simplifyVector = FALSE, bigint_as_char = TRUE)
}

# Follows redirections, ten at most; a key is sent to no other place. The body goes to `into`.
follow_service <- function(asked_at, request, into, url, call) {
  for (i in 1:10) {
    answer <- ask_once(asked_at, request, into, url, call)
    status <- httr2::resp_status(answer)
    fault <- function(what, mend = NULL) {
      service_fault(url, what, mend, status = status, call = call)
    }
    if (status < 300 || status >= 400 || status == 304) break
    to <- clean_address(httr2::resp_header(answer, "location") %||% "", asked_at)
    if (is.na(to)) fault("sends to an address that cannot be followed")
    if (uses_key(request) && !same_origin(to, url)) {
      fault(
        sprintf("sends elsewhere (%s), where the key is not sent", host_of(to)),
        "Name that address itself if it is the right one."
      )
    }
    asked_at <- to
  }
  if (status >= 300 && status < 400) fault("sends from one address to the next without end")
  answer
}

refuse_status <- function(url, status, call) {
  refused <- status %in% c(401, 403)
  why <- if (refused) {
    ": it does not accept the key, or wants one"
  } else if (status == 404) {
    ": it knows no such address"
  }
  mend <- if (refused) {
    "See `headers` and `query` of service_request()."
  } else {
    "Check the address and the query."
  }
  what <- sprintf("answers %d%s", status, why %||% "")
  service_fault(url, what, mend, status = status, call = call)
}

# One answer, whatever its status; redirects are followed above, where keys are known.
ask_once <- function(address, request, into, url, call) {
  asked <- httr2::req_headers(
    httr2::request(address),
    Accept = "application/json",
    !!!as.list(with_keys(request$headers, call))
  )
  asked <- httr2::req_user_agent(asked, "ochre")
  asked <- httr2::req_options(
    asked, protocols = 3L, followlocation = FALSE, maxfilesize_large = unpack_limit(),
    low_speed_limit = 1, low_speed_time = 60
  )
  asked <- httr2::req_timeout(asked, time_limit())
  asked <- httr2::req_error(asked, is_error = function(answer) FALSE)
  # 429 and 503 wait as long as the service says, up to a minute; other failures a little longer
  # each time.
  transient <- function(answer) {
    httr2::resp_status(answer) %in% c(408, 429, 500, 502, 503, 504) && !is_long_wait(answer)
  }
  asked <- httr2::req_retry(
    asked,
    max_tries = request$tries,
    is_transient = transient,
    backoff = function(i) min(2^(i - 1), 30)
  )
  answer <- tryCatch(try_again(asked, into, request$tries), error = function(e) {
    reason <- conditionMessage(e$parent %||% e)
    service_fault(
      url,
      sprintf("cannot be asked: %s", strip_period(gsub("\\s+", " ", reason))),
      "Check the address and the connection.",
      call = call
    )
  })
  if (is_long_wait(answer)) {
    seconds <- retry_after(answer)
    service_fault(
      url,
      sprintf("wants to be left alone until %s", format(Sys.time() + seconds, "%Y-%m-%d %H:%M")),
      "Come back then.",
      status = httr2::resp_status(answer),
      retry_after = seconds,
      call = call
    )
  }
  answer
}

next_link <- function(header) {
  if (is.null(header)) return(NULL)
  links <- regmatches(header, gregexpr("<[^>]*>[^<]*", header))[[1]]
  found <- links[has_pattern(links, ";\\s*rel\\s*=\\s*\"?([^\";]*\\s)?next(\\s|\"|;|,|$)")]
  if (length(found)) sub("^<([^>]*)>.*$", "\\1", found[1])
}
