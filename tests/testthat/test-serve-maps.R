# The service as a client meets it: a process that listens, asked over HTTP.

test_that("a client that follows links finds every feature, as the map's data have them", {
  old <- options(ochre.cache = temporary(""))
  on.exit(options(old))
  s <- service_of(ochre_demo("map.ochre.yml"))
  on.exit(s$server$kill(), add = TRUE)
  start <- json_of(asked(paste0(s$address, "/")))
  expect_setequal(
    unique(vapply(start$links, function(l) l$rel, "")),
    c("self", "alternate", "service-desc", "service-doc", "conformance", "data", "preview")
  )
  for (link in start$links) {
    got <- asked(link$href)
    expect_identical(got$status, 200L)
    expect_identical(sub("; charset.*", "", got$type), link$type)
  }
  conforms <- unlist(json_of(asked(href(start, "conformance")))$conformsTo)
  expect_true(all(paste0(
    "http://www.opengis.net/spec/ogcapi-features-1/1.0/conf/", c("core", "geojson", "html", "oas30")
  ) %in% conforms))
  collections <- json_of(asked(href(start, "data")))$collections
  expect_length(collections, 4)
  sheet <- quietly(read_sheet(ochre_demo("map.ochre.yml")))
  for (k in seq_along(collections)) {
    one <- json_of(asked(href(json_of(asked(href(start, "data"))), "self")))$collections[[k]]
    data <- sheet$layers[[k]]$data
    features <- list()
    address <- paste0(href(one, "items"), "&limit=7")
    pages <- 0
    while (!is.null(address)) {
      page <- json_of(asked(address))
      expect_identical(page$type, "FeatureCollection")
      expect_identical(page$numberMatched, nrow(data))
      expect_identical(page$numberReturned, length(page$features))
      features <- c(features, page$features)
      address <- href(page, "next")
      pages <- pages + 1
    }
    expect_identical(pages, ceiling(nrow(data) / 7))
    ids <- vapply(features, function(f) f$id, "")
    expect_false(anyDuplicated(ids) > 0)
    # Read back as boundaries, page by page: the columns of the sheet's data, place by place.
    back <- quietly(read_boundaries(sub("[?].*", "?limit=9", href(one, "items"))))
    whole <- quietly(read_boundaries(sub("/items.*", "", href(one, "items"))))
    expect_equal(back, whole)
    expect_true(all(shown_columns(sheet$layers[[k]]) %in% names(back)))
    for (name in setdiff(intersect(names(back), names(data)), "geometry")) {
      expect_equal(as.character(back[[name]]), as.character(data[[name]]))
    }
    # Each alone is what it is among the others.
    at <- sample(length(features), 1)
    alone <- json_of(asked(paste0(sub("[?].*", "/", href(one, "items")),
                                  curl::curl_escape(ids[at]))))
    expect_identical(alone[c("id", "geometry", "properties")],
                     features[[at]][c("id", "geometry", "properties")])
  }
  # Class and colour are those of the plan.
  plan <- quietly(resolve_sheet(sheet))
  drawn <- plan$layers[[1]]
  areas <- json_of(asked(paste0(href(collections[[1]], "items"), "&limit=10000")))$features
  colour <- vapply(areas, function(f) f$properties$colour, "")
  expect_identical(colour, c(drawn$no_data$colour, drawn$colours)[drawn$class + 1L])
  # Of symbols, whose order in the plan is another, each has the class of its own kind.
  clinics <- json_of(asked(paste0(href(collections[[4]], "items"), "&limit=10000")))$features
  said <- vapply(clinics, function(f) f$properties$label %||% NA_character_, "")
  kind <- vapply(clinics, function(f) f$properties$kind, "")
  expect_identical(sum(is.na(said)), 1L)
  expect_identical(said[!is.na(said)], kind[!is.na(said)])
  key <- plan$layers[[4]]$key
  colour <- vapply(clinics[!is.na(said)], function(f) f$properties$colour, "")
  expect_identical(colour, key$colours[match(kind[!is.na(said)], key$labels)])
  # The legend says the same, of symbols too, with counts that add up.
  legend <- json_of(asked(href(collections[[1]], "describedby")))$layers
  for (of in list(list(legend[[1]], drawn, areas), list(legend[[4]], key, clinics))) {
    classes <- of[[1]]$classes
    expect_identical(vapply(classes, function(c) c$label, ""), of[[2]]$labels)
    expect_identical(vapply(classes, function(c) c$colour, ""), of[[2]]$colours)
    colour <- vapply(of[[3]], function(f) f$properties$colour %||% "", "")
    count <- vapply(classes, function(c) sum(colour == c$colour), 0L)
    expect_identical(vapply(classes, function(c) c$count, 0L), count)
  }
  # From a list of tiles to the tiles themselves.
  listed <- json_of(asked(paste0(sub("/items.*", "/tiles", href(collections[[1]], "items")))))
  expect_identical(json_of(asked(href(listed$tilesets[[1]], "self")))$dataType, "vector")
})

test_that("every parameter of the API's own description is taken, and no other", {
  s <- service_of(ochre_demo("map.ochre.yml"), ochre_demo("months.ochre.yml"))
  on.exit(s$server$kill())
  api <- json_of(asked(paste0(s$address, "/api"), Accept = "application/json"))
  expect_identical(api$openapi, "3.0.3")
  shared <- api$components$parameters
  expect_gt(length(api$paths), 20)
  for (path in names(api$paths)) {
    get <- api$paths[[path]]$get
    parameters <- lapply(get$parameters, function(p) {
      if (is.null(p[["$ref"]])) p else shared[[sub(".*/", "", p[["$ref"]])]]
    })
    known <- vapply(parameters, function(p) p$name, "")
    own <- paste0(s$address, gsub("[{]tile[A-Za-z]+[}]", "0", sub("{featureId}", "1", path,
                                                                  fixed = TRUE)))
    if (grepl("featureId", path)) {
      list <- json_of(asked(sub("/1$", "?limit=1", own)))
      own <- sub("/1$", paste0("/", curl::curl_escape(list$features[[1]]$id)), own)
    }
    expect_identical(asked(own)$status, 200L)
    forms <- unlist(parameters[[which(known == "f")]]$schema$enum)
    for (form in forms) {
      got <- asked(paste0(own, "?f=", form))
      expect_identical(got$status, 200L)
      expect_true(sub("; charset.*", "", got$type) %in% names(get$responses[["200"]]$content))
      # And the same by the header.
      again <- asked(own, Accept = got$type)
      expect_identical(again$type, got$type)
    }
    odd <- asked(paste0(own, "?nothing=1"))
    expect_identical(odd$status, 400L)
    expect_identical(odd$type, "application/problem+json")
    expect_match(json_of(odd)$detail, "nothing")
    expect_identical(asked(own, Accept = "image/png")$status, 406L)
    expect_identical(asked(own, method = "POST")$status, 405L)
    full <- asked(own)
    head <- asked(own, method = "HEAD")
    expect_identical(head$status, 200L)
    expect_identical(head$headers[["content-length"]], as.character(length(full$body)))
    # Not sent twice, and packed where that is taken.
    expect_identical(asked(own, `If-None-Match` = full$headers$etag)$status, 304L)
    expect_length(asked(own, `If-None-Match` = full$headers$etag)$body, 0)
    packed <- asked(own, `Accept-Encoding` = "gzip")
    if (length(full$body) > 1000) {
      expect_identical(packed$headers[["content-encoding"]], "gzip")
      file <- temporary(".gz")
      writeBin(packed$body, file)
      opened <- gzfile(file, "rb")
      expect_identical(readBin(opened, "raw", 1e8), full$body)
      close(opened)
    }
  }
})

test_that("box, date and columns choose among features; what is no value of its kind is refused", {
  s <- service_of(ochre_demo("months.ochre.yml"))
  on.exit(s$server$kill())
  data <- quietly(read_sheet(ochre_demo("months.ochre.yml")))$layers[[1]]$data
  one <- json_of(asked(paste0(s$address, "/collections")))$collections[[1]]
  items <- paste0(sub("[?].*", "", href(one, "items")), "?limit=10000&")
  ids <- function(query) {
    as.integer(vapply(json_of(asked(paste0(items, query)))$features, function(f) f$id, ""))
  }
  # Periods, each of which is a month: intervals with open ends.
  month <- as.character(data$month)
  expect_identical(ids("datetime=2031-05-17"), which(month == "2031-05"))
  expect_identical(ids("datetime=2031-05-31/.."), which(month >= "2031-05"))
  expect_identical(ids("datetime=../2031-04-30T23:59:59Z"), which(month <= "2031-04"))
  expect_identical(one$extent$temporal$interval[[1]][[1]], "2031-03-01T00:00:00Z")
  region <- data$region[1]
  expect_identical(
    ids(paste0("region=", curl::curl_escape(region), "&month=2031-05")),
    which(data$region == region & month == "2031-05")
  )
  # Class by class, the values of all periods lie between the breaks that the legend says.
  every <- json_of(asked(items))$features
  legend <- json_of(asked(href(one, "describedby")))$layers[[1]]
  # The greatest value has more digits than the legend's text of it.
  breaks <- unlist(legend$breaks)
  breaks[length(breaks)] <- breaks[length(breaks)] + 1e-9
  class <- vapply(every, function(f) f$properties$class %||% NA_integer_, 0L)
  value <- vapply(every, function(f) as.numeric(f$properties$visits_per_1000 %||% NA), 0)
  expect_identical(is.na(class), is.na(value))
  known <- which(!is.na(class))
  expect_identical(findInterval(value[known], breaks, rightmost.closed = TRUE), class[known])
  colour <- vapply(every[known], function(f) f$properties$colour, "")
  expect_identical(colour, vapply(legend$classes, function(c) c$colour, "")[class[known]])
  # Boxes against places: an area is met where one of its corners, or a place of its land, lies in
  # the box; and what is met comes near it with a place of an edge.
  set.seed(4)
  now <- which(month == "2031-05")
  areas <- data[now, ]
  corners <- wk::wk_coords(areas$geometry)
  all <- unlist(one$extent$spatial$bbox[[1]])
  for (i in 1:25) {
    x <- sort(stats::runif(2, all[1], all[3]))
    y <- sort(stats::runif(2, all[2], all[4]))
    if (i %% 2) {
      x <- x[1] + c(0, 0.02)
      y <- y[1] + c(0, 0.02)
    }
    inside <- corners$x >= x[1] & corners$x <= x[2] & corners$y >= y[1] & corners$y <= y[2]
    grid <- expand.grid(longitude = seq(x[1], x[2], length.out = 12),
                        latitude = seq(y[1], y[2], length.out = 12))
    land <- quietly(find_areas(grid, areas))$area
    sure <- union(corners$feature_id[inside], match(land[!is.na(land)], areas$code))
    box <- paste(format(c(x[1], y[1], x[2], y[2]), digits = 15, trim = TRUE), collapse = ",")
    found <- match(ids(paste0("month=2031-05&bbox=", box)), now)
    expect_true(all(sure %in% found))
    for (k in setdiff(found, sure)) {
      ring <- corners[corners$feature_id == k, ]
      same <- c(diff(ring$ring_id) == 0, FALSE)
      share <- rep(seq(0, 1, length.out = 400), sum(same))
      from <- rep(which(same), each = 400)
      px <- ring$x[from] + share * (ring$x[from + 1] - ring$x[from])
      py <- ring$y[from] + share * (ring$y[from + 1] - ring$y[from])
      expect_true(any(px > x[1] - 1e-3 & px < x[2] + 1e-3 & py > y[1] - 1e-3 & py < y[2] + 1e-3))
    }
  }
  # The same in other systems: latitude first, and web Mercator by its formula.
  sys <- function(code) paste0("http://www.opengis.net/def/crs/EPSG/0/", code)
  first <- function(...) {
    got <- asked(paste0(items, "month=2031-05&region=", curl::curl_escape(region), ...))
    of <- json_of(got)$features
    at <- t(vapply(of, function(f) {
      as.numeric(utils::head(unlist(f$geometry$coordinates), 2))
    }, numeric(2)))
    list(at = at, header = got$headers[["content-crs"]])
  }
  plain <- first()
  expect_match(plain$header, "CRS84>$")
  turned <- first("&crs=", curl::curl_escape(sys(4326)))
  expect_equal(turned$at, plain$at[, 2:1])
  metres <- first("&crs=", curl::curl_escape(sys(3857)))
  expect_identical(metres$header, paste0("<", sys(3857), ">"))
  radius <- 6378137
  known <- cbind(plain$at[, 1] * pi / 180 * radius, radius * asinh(tan(plain$at[, 2] * pi / 180)))
  expect_lt(max(abs(metres$at - known)), 0.1)
  box <- c(all[1], mean(all[c(2, 4)]), mean(all[c(1, 3)]), all[4])
  write <- function(b) paste(format(b, digits = 15, trim = TRUE), collapse = ",")
  edge <- function(lon, lat) c(lon * pi / 180, asinh(tan(lat * pi / 180))) * radius
  inside <- ids(paste0("bbox=", write(box)))
  expect_identical(inside, ids(paste0("bbox=", write(box[c(2, 1, 4, 3)]), "&bbox-crs=",
                                      curl::curl_escape(sys(4326)))))
  expect_identical(inside, ids(paste0(
    "bbox=", write(c(edge(box[1], box[2]), edge(box[3], box[4]))), "&bbox-crs=",
    curl::curl_escape(sys(3857))
  )))
  refused <- c(
    "crs=EPSG:4326", "bbox=0,5,1,4&bbox-crs=http://www.opengis.net/def/crs/EPSG/0/3857",
    "limit=0", "limit=-1", "limit=ten", "limit=1e3", "offset=-1", "bbox=1,2,3", "bbox=1,2,3,x",
    "bbox=0,5,1,4", "bbox=1,2,3,NaN", "datetime=yesterday", "datetime=2031-13-01", "datetime=../..",
    "datetime=2031-05-01/2031-04-01", "datetime=", "f=shp", "bbox-crs=EPSG:1", "Region=x",
    "limit=5&limit=6", "region=%ff", "region=%00", "%=1", "f=json&f=html"
  )
  base <- sub("[?].*", "", items)
  for (query in refused) {
    got <- asked(paste0(base, "?", query))
    expect_identical(c(query, got$status), c(query, 400))
    expect_identical(json_of(got)$status, 400L)
    expect_gt(nchar(json_of(got)$detail), 15)
  }
  expect_identical(asked(paste0(base, "/999999"))$status, 404L)
  expect_length(ids("limit=999999999&region=nowhere"), 0)
})

test_that("text of data does no harm, and hostile requests are answered in words", {
  areas <- squares(c("1", "2", "3", "4"))
  areas$code <- c("<b>&\"'", "a/../b?c#d", "%2e%2e", "\u00e9\u4e16")
  areas$v <- 1:4
  areas$note <- c("<script>alert(1)</script>", "\"", "=1+1", NA)
  names(areas)[names(areas) == "note"] <- "limit"
  folder <- temporary("")
  dir.create(folder)
  write_boundaries(areas, file.path(folder, "a.geojson"))
  writeLines(c("longitude,latitude,n", "0.5,0.5,3", ",0.5,4", "0.6,,5"), file.path(folder, "b.csv"))
  sheet <- file.path(folder, "odd.ochre.yml")
  writeLines(c(
    "ochre: 1", "title: \"<i>Odd</i>\"", "tables:", "  a:",
    "    - read_boundaries: {file: a.geojson}",
    "  b:", "    - read_statistics: {file: b.csv}",
    "layers:", "  - shade_areas: {data: a, value: v}", "  - place_symbols: {data: b, size: n}"
  ), sheet)
  s <- service_of(sheet, "--origin", "https://paper.example")
  on.exit(s$server$kill())
  one <- json_of(asked(paste0(s$address, "/collections")))$collections[[1]]
  items <- sub("[?].*", "", href(one, "items"))
  for (path in c("", "/collections", "/collections?f=html", "/api?f=html")) {
    html <- asked(paste0(s$address, path), Accept = "text/html")$text
    expect_false(grepl("<i>|<script>|<b>", html))
  }
  html <- asked(paste0(items, "?f=html"))$text
  expect_false(grepl("<script|<b>&", html))
  # Rows without a place are features without geometry.
  places <- json_of(asked(paste0(s$address, "/collections")))$collections[[2]]
  # What there is not is left out.
  for (path in c("/", "/collections", "/maps/odd/legend", "/api")) {
    expect_false(grepl(":null", asked(paste0(s$address, path))$text))
  }
  points <- json_of(asked(href(places, "items")))$features
  expect_identical(lengths(lapply(points, function(f) f$geometry)), c(2L, 0L, 0L))
  page <- xml2::read_html(html)
  for (link in xml2::xml_attr(xml2::xml_find_all(page, "//td/a"), "href")) {
    expect_identical(asked(link)$status, 200L)
  }
  # Other pages may ask when they were named, and only they.
  own <- asked(paste0(s$address, "/"), Origin = "https://paper.example")
  expect_identical(own$headers[["access-control-allow-origin"]], "https://paper.example")
  other <- asked(paste0(s$address, "/"), Origin = "https://other.example")
  expect_null(other$headers[["access-control-allow-origin"]])
  # Who keeps answers for others must keep one for each of them.
  expect_match(own$headers$vary, "Origin")
  expect_identical(asked(paste0(s$address, "/"), Host = "evil.example")$status, 403L)
  expect_identical(asked(paste0(s$address, "/?", strrep("a", 5000)))$status, 414L)
  # Long headers and paths, bytes that are no text, boxes beyond 180 degrees.
  long <- asked(paste0(s$address, "/"), Accept = strrep("a/b,", 2500))
  expect_true(long$status %in% c(200L, 406L))
  expect_identical(asked(paste0(s$address, "/", strrep("a", 3000)))$status, 414L)
  expect_true(asked(paste0(s$address, "/%ff%fe?x=%ff"))$status %in% c(400L, 404L))
  whole <- json_of(asked(paste0(s$address, "/collections/", one$id, "/items?bbox=-180,-90,180,90")))
  for (box in c("190,-90,170,90", "0,-90,360,90", "181,-90,540,90")) {
    far <- asked(paste0(s$address, "/collections/", one$id, "/items?bbox=", box))
    expect_identical(far$status, 200L)
    if (box != "190,-90,170,90") {
      expect_identical(json_of(far)$numberMatched, whole$numberMatched)
    }
  }
  # Bytes of any kind: an answer, or an end of the line, and the service goes on.
  set.seed(6)
  port <- as.integer(sub(".*:", "", s$address))
  for (i in 1:150) {
    bytes <- as.raw(sample(c(33:126, 128:255), sample(1:60, 1), TRUE))
    query <- rawToChar(bytes[bytes < 128])
    line <- sample(c(
      paste0("GET /", query, " HTTP/1.1"), paste0("GET /collections/", one$id, "/items?", query,
                                                  " HTTP/1.1"),
      paste0("GET /../../etc/passwd?", query, " HTTP/1.1"), query,
      "POST / HTTP/1.1\r\nContent-Length: 99999999999"
    ), 1)
    con <- socketConnection("127.0.0.1", port, open = "r+b", blocking = TRUE, timeout = 5)
    head <- charToRaw(paste0(line, "\r\nHost: 127.0.0.1:", port, "\r\nX: "))
    writeBin(c(head, bytes, charToRaw("\r\nConnection: close\r\n\r\n")), con)
    first <- tryCatch(rawToChar(readBin(con, "raw", 12)), error = function(e) "")
    close(con)
    expect_false(grepl("HTTP/1.1 5", first))
  }
  expect_identical(asked(paste0(s$address, "/"))$status, 200L)
  expect_true(s$server$is_alive())
})

test_that("behind a web server links begin with the address that readers know", {
  s <- service_of(ochre_demo("ages.ochre.yml"), "--address", "https://Maps.example/visits/")
  on.exit(s$server$kill())
  for (host in c("maps.example", "maps.example:443", sub("^http://", "", s$address))) {
    start <- json_of(asked(paste0(s$address, "/"), Host = host, Accept = "application/json"))
    for (link in start$links) {
      expect_match(link$href, "^https://maps[.]example/visits/", info = host)
      there <- sub("^https://maps[.]example/visits", s$address, link$href)
      expect_identical(asked(there, Host = host)$status, 200L, info = link$href)
    }
  }
  for (host in c("maps.example.evil", "other.example", "maps.example:8080")) {
    expect_identical(asked(paste0(s$address, "/"), Host = host)$status, 403L, info = host)
  }
  for (address in c("maps.example", "ftp://maps.example", "https://maps.example/?a=1")) {
    served <- quote(serve_maps(ochre_demo("ages.ochre.yml"), address = address))
    expect_error(eval(served), "not the address of a service", class = "ochre_error_argument")
  }
})
