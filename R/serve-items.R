# Features of a collection: which of them are asked for, a page of them, one of them.

items_most <- 10000L
items_default <- 100L
item_forms <- c("geojson", "html", "csv")
longitude_latitude <- "http://www.opengis.net/def/crs/OGC/1.3/CRS84"

# Reference systems of answers: longitude and latitude, the same the other way round, web Mercator.
service_systems <- c(
  degrees = longitude_latitude,
  turned = "http://www.opengis.net/def/crs/EPSG/0/4326",
  mercator = "http://www.opengis.net/def/crs/EPSG/0/3857"
)

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
    filter = read_filter(query, collection$table),
    system = system_parameter(query, "crs"),
    limit = min(whole_parameter(query, "limit", items_default, 1), items_most),
    offset = whole_parameter(query, "offset", 0, 0),
    after = query[["after"]],
    box = box_in_degrees(box_parameter(query[["bbox"]]), system_parameter(query, "bbox-crs")),
    time = time_parameter(query[["datetime"]]),
    fields = query[setdiff(intersect(names(query), fields), words)]
  )
}

# The name of the reference system that a parameter has as its address.
system_parameter <- function(query, name) {
  uri <- query[[name]]
  if (is.null(uri)) return("degrees")
  at <- match(uri, service_systems)
  if (is.na(at)) {
    refuse_request(400, sprintf("`%s` must be one of %s.", name, list_words(service_systems)))
  }
  names(service_systems)[at]
}

box_in_degrees <- function(box, system) {
  force(system)
  if (is.null(box)) return(NULL)
  if (system == "turned") box <- box[c(2, 1, 4, 3)]
  if (system == "mercator") {
    place <- function(x, y) call_core(from_mercator_core(x, y))
    box <- c(place(box[1], box[2]), place(box[3], box[4]))
  }
  if (box[2] > box[4]) refuse_request(400, "`bbox` has its south above its north.")
  box
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

# West, south, east, north; heights in a box of six numbers are passed over.
box_parameter <- function(text) {
  if (is.null(text)) return(NULL)
  parts <- strsplit(substr(text, 1, 300), ",", fixed = TRUE)[[1]]
  number <- "^ *[-+]?([0-9]+\\.?[0-9]*|\\.[0-9]+)([eE][-+]?[0-9]{1,2})? *$"
  box <- if (all(grepl(number, parts))) as.numeric(parts)
  if (length(box) == 6) box <- box[c(1, 2, 4, 5)]
  good <- length(box) == 4 && all(is.finite(box))
  if (!good) {
    refuse_request(400, paste(
      "`bbox` must be four numbers: west, south, east and north in degrees, such as",
      "bbox=-38.5,46,-37,47.5."
    ))
  }
  box
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
  if (!is.null(asked$box)) keep <- keep & meets_box(collection, asked$box, keep)
  which(keep)
}

# Numbers as numbers, all else as it is written.
same_value <- function(x, text) {
  if (is.numeric(x) && !is.object(x)) {
    number <- suppressWarnings(as.numeric(text))
    return(!is.na(x) & !is.na(number) & x == number)
  }
  if (is.logical(x)) return(!is.na(x) & tolower(as.character(x)) == tolower(text))
  !is.na(x) & as.character(x) == text
}

# By the boxes of the features first; where a feature's box is not wholly within, by its geometry.
# A box whose west lies east of its east end runs over 180 degrees.
meets_box <- function(collection, box, keep) {
  if (box[1] > box[3]) {
    return(meets_box(collection, c(box[1:2], 180, box[4]), keep) |
             meets_box(collection, c(-180, box[2:4]), keep))
  }
  b <- collection$boxes
  near <- keep & is.finite(b[, 1]) & b[, 1] <= box[3] & b[, 3] >= box[1] & b[, 2] <= box[4] &
    b[, 4] >= box[2]
  within <- near & b[, 1] >= box[1] & b[, 3] <= box[3] & b[, 2] >= box[2] & b[, 4] <= box[4]
  open <- which(near & !within)
  if (length(open)) near[open] <- call_core(box_meets_core(collection$wkb[open], box))$meets
  near
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
  made <- new_answer(body, form, Link = links, `Content-Crs` = system_header(asked$system))
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

system_header <- function(system) sprintf("<%s>", service_systems[[system]])

# Features as GeoJSON; in another system their geometry is written anew.
feature_texts <- function(collection, rows, system) {
  if (system == "degrees") return(collection$features[rows])
  moved <- call_core(geometry_in_core(collection$wkb[rows], system))$geometry
  digits <- if (system == "mercator") 2L else service_digits
  geojson_features(
    collection$ids[rows],
    call_core(geometry_texts_core(moved, digits))$geometry,
    property_texts(collection$table[rows, , drop = FALSE])
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
      link_to(address(other), "alternate", other, paste("This page as", toupper(other)))
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
  system <- system_parameter(ask$query, "crs")
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
  made <- new_answer(body, form, Link = link_header(links), `Content-Crs` = system_header(system))
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
