# Features of a collection: which of them are asked for, a page of them, one of them.

items_most <- 10000L
items_default <- 100L
item_forms <- c("geojson", "html", "csv")
# What chooses among the features of a collection, apart from its columns: a table of a database
# goes on after a key, features that are here by their number.
choosing_words <- function(collection) {
  paging <- if (is_there(collection)) "after" else c("offset", "datetime")
  c("f", "limit", paging, "bbox", "bbox-crs", "crs", "filter", "filter-lang", "filter-crs")
}

# What a query asks of a collection; a parameter that is none, or holds no value of its kind, is
# refused.
read_items_query <- function(query, collection) {
  fields <- names(collection$table)
  words <- choosing_words(collection)
  refuse_unknown(query, c(words, fields))
  list(
    filter = read_filter(query, collection),
    system = system_parameter(query, "crs", collection),
    limit = min(whole_parameter(query, "limit", items_default, 1), items_most),
    offset = whole_parameter(query, "offset", 0, 0),
    after = query[["after"]],
    box = box_of_query(query, collection),
    time = time_parameter(query[["datetime"]]),
    fields = query[setdiff(intersect(names(query), fields), words)]
  )
}

refuse_unknown <- function(query, known) {
  lost <- setdiff(names(query), known)
  if (!length(lost)) return(invisible())
  shown <- substr(lost[1], 1, 60)
  refuse_request(400, sprintf(
    "There is no parameter `%s`. %s", shown, did_you_mean(shown, known, "Parameters")
  ))
}

whole_parameter <- function(query, name, default, least) {
  text <- query[[name]]
  if (is.null(text)) return(default)
  if (!grepl("^[0-9]{1,9}$", text) || as.numeric(text) < least) {
    refuse_request(400, sprintf("`%s` must be a whole number from %d on.", name, least))
  }
  as.numeric(text)
}

# A moment, or an interval from .. to .., as days; NA for an open end.
time_parameter <- function(text) {
  if (is.null(text)) return(NULL)
  # With a blank at the end strsplit() keeps an end that is empty.
  ends <- strsplit(paste0(text, " "), "/", fixed = TRUE)[[1]]
  ends <- trimws(ends)
  day <- "^[0-9]{4}-[0-9]{2}-[0-9]{2}([Tt][0-9:.]{8,15}([Zz]|[-+][0-9:]{5}))?$"
  open <- ends %in% c("", "..")
  days <- as.Date(ifelse(open | !grepl(day, ends), NA, substr(ends, 1, 10)), optional = TRUE)
  good <- length(ends) %in% 1:2 && all(!is.na(days) | open) &&
    !(length(ends) == 1 && open[1]) && !all(open)
  if (good && length(ends) == 2 && !any(open) && days[1] > days[2]) good <- FALSE
  if (!good) {
    refuse_request(400, paste(
      "`datetime` must be a date, or an interval such as 2031-03-01/2031-05-31 or 2031-03-01/..",
      "(RFC 3339)."
    ))
  }
  list(from = days[1], to = days[length(days)])
}

# The rows that a query asks for, in their order.
matching_rows <- function(collection, asked) {
  keep <- rep(TRUE, length(collection$ids))
  if (!is.null(asked$time) && !is.null(collection$time)) {
    own <- collection$time
    if (!is.na(asked$time$from)) keep <- keep & own$to >= asked$time$from
    if (!is.na(asked$time$to)) keep <- keep & own$from <= asked$time$to
  }
  for (name in names(asked$fields)) {
    keep <- keep & same_value(collection$table[[name]], asked$fields[[name]])
  }
  if (!is.null(asked$filter)) keep <- keep & filter_rows(asked$filter, collection$table) %in% TRUE
  if (!is.null(asked$box)) keep <- keep & rows_meeting(collection, asked$box, keep)
  which(keep)
}

# Numbers as numbers, all else as it is written.
same_value <- function(x, text) {
  if (is.numeric(x) && !is.object(x)) {
    number <- suppressWarnings(as.numeric(text))
    return(!is.na(x) & !is.na(number) & x == number)
  }
  if (is.logical(x)) return(!is.na(x) & lower_case(as.character(x)) == lower_case(text))
  !is.na(x) & as.character(x) == text
}

# ---- answers -------------------------------------------------------------------------------------

answer_items <- function(collection, ask) {
  asked <- read_items_query(ask$query, collection)
  form <- wanted_form(item_forms, ask$query[["f"]], ask$accept)
  page <- if (is_there(collection)) page_there(collection, asked) else page_here(collection, asked)
  page$asked <- asked
  page$links <- items_links(collection, ask, form, page)
  body <- switch(form,
    geojson = items_geojson(page),
    html = items_html(page, ask),
    csv = csv_text(page$of$table[page$rows, , drop = FALSE])
  )
  links <- link_header(page$links)
  system <- system_header(collection, asked$system)
  made <- new_answer(body, form, Link = links, `Content-Crs` = system)
  c(made, list(live = is_there(collection)))
}

# The rows of a page: those of the collection `of` with these numbers, how many match in all, and
# what leads to the next page and the one before.
page_here <- function(collection, asked) {
  rows <- matching_rows(collection, asked)
  after <- asked$offset + asked$limit
  number <- function(x) format(x, scientific = FALSE)
  list(
    of = collection,
    rows = utils::head(utils::tail(rows, max(0, length(rows) - asked$offset)), asked$limit),
    matched = length(rows),
    next_page = if (after < length(rows)) list(offset = number(after)),
    page_before = if (asked$offset > 0) list(offset = number(max(0, asked$offset - asked$limit)))
  )
}

items_geojson <- function(page) {
  # How many there are in all is not known of a table in a database.
  matched <- if (!is.null(page$matched)) sprintf("\"numberMatched\":%d,", page$matched)
  sprintf(
    paste0(
      "{\"type\":\"FeatureCollection\",%s\"numberReturned\":%d,\"links\":%s,\"features\":[%s]}"
    ),
    matched %||% "",
    length(page$rows),
    write_json(page$links),
    paste(feature_texts(page$of, page$rows, page$asked$system), collapse = ",\n")
  )
}

# This page in its forms, the ones beside it, the collection.
items_links <- function(collection, ask, form, page) {
  base <- paste0(ask$base, "/collections/", collection$id)
  own <- ask$query[setdiff(names(ask$query), "f")]
  address <- function(form, change = list()) {
    query <- utils::modifyList(c(list(f = form), own), change)
    paste0(base, "/items", write_query(query))
  }
  c(
    list(link_to(address(form), "self", form, "This page")),
    lapply(setdiff(item_forms, form), function(other) {
      link_to(address(other), "alternate", other, paste("This page as", upper_case(other)))
    }),
    list(link_to(base, "collection", "json", collection$title)),
    if (!is.null(page$next_page)) {
      list(link_to(address(form, page$next_page), "next", form, "The next page"))
    },
    if (!is.null(page$page_before)) {
      list(link_to(address(form, page$page_before), "prev", form, "The page before"))
    }
  )
}

answer_item <- function(collection, id, ask) {
  refuse_unknown(ask$query, c("f", "crs"))
  system <- system_parameter(ask$query, "crs", collection)
  live <- is_there(collection)
  if (live) collection <- item_there(collection, id)
  at <- match(id, collection$ids)
  if (is.na(at)) {
    refuse_request(404, sprintf(
      "There is no feature `%s` in %s.", substr(id, 1, 60), collection$title
    ))
  }
  form <- wanted_form(c("geojson", "html"), ask$query[["f"]], ask$accept)
  base <- paste0(ask$base, "/collections/", collection$id)
  own <- paste0(base, "/items/", curl::curl_escape(collection$ids[at]))
  links <- list(
    link_to(paste0(own, "?f=", form), "self", form, "This feature"),
    link_to(paste0(own, "?f=", setdiff(c("geojson", "html"), form)), "alternate",
            setdiff(c("geojson", "html"), form), "This feature in another form"),
    link_to(base, "collection", "json", collection$title)
  )
  body <- if (form == "html") {
    item_html(collection, at, links, ask)
  } else {
    text <- feature_texts(collection, at, system)
    paste0(substr(text, 1, nchar(text) - 1), ",\"links\":", write_json(links), "}")
  }
  said <- system_header(collection, system)
  made <- new_answer(body, form, Link = link_header(links), `Content-Crs` = said)
  c(made, list(live = live))
}

# ---- links ---------------------------------------------------------------------------------------

link_to <- function(href, rel, form, title) {
  list(href = href, rel = rel, type = sub("; charset.*", "", form_types[[form]]), title = title)
}

# As a header (RFC 8288); titles may have letters that it cannot hold.
link_header <- function(links) {
  paste(vapply(links, function(l) {
    sprintf("<%s>; rel=\"%s\"; type=\"%s\"", l$href, l$rel, gsub("\"", "", l$type))
  }, ""), collapse = ", ")
}

write_query <- function(query) {
  query <- Filter(Negate(is.null), query)
  if (!length(query)) return("")
  escaped <- function(x) vapply(as.character(x), curl::curl_escape, "", USE.NAMES = FALSE)
  paste0("?", paste0(escaped(names(query)), "=", escaped(query), collapse = "&"))
}
