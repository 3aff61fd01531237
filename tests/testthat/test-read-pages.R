# Features that a service gives page by page: all of them or an error, never some in silence.

page_text_of <- function(rows, ..., links = list()) {
  features <- sprintf(
    paste0(
      "{\"type\":\"Feature\",\"properties\":%s,\"geometry\":",
      "{\"type\":\"Point\",\"coordinates\":[%d,1]}}"
    ),
    rows, seq_along(rows)
  )
  rest <- c(list(...), list(links = links))
  rest <- jsonlite::toJSON(rest, auto_unbox = TRUE)
  sprintf(
    "{\"type\":\"FeatureCollection\",%s,\"features\":[%s]}",
    substr(rest, 2, nchar(rest) - 1), paste(features, collapse = ",")
  )
}
link <- function(href, rel = "next") list(href = href, rel = rel, type = "application/geo+json")

test_that("pages are read to the last one; what leads elsewhere or nowhere is refused", {
  skip_if_not_installed("webfakes")
  old <- options(ochre.cache = temporary(""))
  on.exit(options(old))
  pages <- list(
    `/a` = page_text_of(c("{\"code\":\"01\",\"n\":1}", "{\"code\":\"02\",\"n\":2}"),
                        numberMatched = 5, links = list(link("b"), link("/a", "self"))),
    # A column that was whole has parts, one is new, one is gone; the page after it is empty.
    `/b` = page_text_of(c("{\"code\":\"03\",\"n\":2.5}", "{\"code\":4,\"more\":\"x\"}"),
                        links = list(link("/c?from=4"))),
    `/c` = page_text_of(character(), links = list(link("/d"))),
    `/d` = page_text_of("{\"code\":\"05\",\"n\":3}"),
    `/round` = page_text_of("{\"n\":1}", links = list(link("/round2"))),
    `/round2` = page_text_of("{\"n\":2}", links = list(link("/round"))),
    `/away` = page_text_of("{\"n\":1}", links = list(link("http://other.example/b"))),
    `/odd` = page_text_of("{\"n\":1}", links = list(link("javascript:alert(1)"))),
    `/lost` = page_text_of("{\"n\":1}", links = list(link("/not-there"))),
    `/few` = page_text_of("{\"n\":1}", numberMatched = 3, links = list(link("/d"))),
    `/alone` = page_text_of("{\"n\":1}", numberMatched = 100),
    `/one` = as.character(jsonlite::toJSON(
      list(id = "one", links = list(link("/a", "items"))), auto_unbox = TRUE
    )),
    `/hollow` = as.character(jsonlite::toJSON(
      list(id = "two", links = list(link("/one", "items"))), auto_unbox = TRUE
    )),
    `/into` = page_text_of("{\"n\":1}", links = list(link("/one"))),
    `/plain` = page_text_of("{\"links\":\"none\"}", links = "no list")
  )
  app <- webfakes::new_app()
  app$locals$pages <- pages
  app$get(webfakes::new_regexp(".*"), function(req, res) {
    text <- app$locals$pages[[req$path]]
    if (is.null(text)) return(res$set_status(404)$send("none"))
    res$set_type("application/geo+json")$send(text)
  })
  server <- webfakes::new_app_process(app)
  on.exit(server$stop(), add = TRUE)
  all <- read_boundaries(server$url("/a"))
  expect_identical(all$code, c("01", "02", "03", "4", "05"))
  expect_identical(all$n, c(1, 2, 2.5, NA, 3))
  expect_identical(all$more, c(NA, NA, NA, "x", NA))
  expect_equal(wk::wk_coords(all$geometry)$x, c(1, 2, 1, 2, 1))
  expect_identical(names(all)[ncol(all)], "geometry")
  # A collection leads to its items.
  expect_identical(read_boundaries(server$url("/one")), all)
  expect_error(read_boundaries(server$url("/round")), "same next page again",
               class = "ochre_error_service")
  for (path in c("/hollow", "/into")) {
    expect_error(read_boundaries(server$url(path)), "has no features",
                 class = "ochre_error_service")
  }
  expect_error(read_boundaries(server$url("/away")), "another host \\(other.example\\)",
               class = "ochre_error_service")
  expect_error(read_boundaries(server$url("/odd")), "no address", class = "ochre_error_service")
  expect_error(read_boundaries(server$url("/lost")), "404", class = "ochre_error_url")
  expect_warning(read_boundaries(server$url("/few")), "says that it has 3 features, and gave 2",
                 class = "ochre_warning_pages")
  # One page that leads nowhere, however it was asked for.
  asked <- function(url) read_boundaries(url, request = service_request(), records = "/features")
  for (read in list(read_boundaries, asked)) {
    expect_warning(read(server$url("/alone")), "says that it has 100 features, and gave 1",
                   class = "ochre_warning_pages")
  }
  expect_identical(read_boundaries(server$url("/plain"))$links, "none")
  # A page that somebody saved is not the whole.
  saved <- write_file(pages[["/a"]], ".geojson")
  expect_warning(read_boundaries(saved), "one page of a service: 2 features of 5 in all",
                 class = "ochre_warning_pages")
  expect_error(read_boundaries(write_file(pages[["/one"]], ".json")), "describes a collection",
               class = "ochre_error_file")
})

# A stand-in for services that count pages, rows or give marks; `shape` is nested.
test_that("statistics and boundaries of services are read whole, however they page", {
  skip_if_not_installed("webfakes")
  skip_if_not_installed("httr2")
  old <- options(ochre.cache = temporary(""))
  on.exit(options(old))
  app <- webfakes::new_app()
  app$locals$rows <- lapply(1:23, function(i) {
    at <- list(i, 1)
    list(code = sprintf("%02d", i), n = i / 4, about = list(region = "R"),
         shape = if (i != 7) list(type = "Point", coordinates = at))
  })
  app$locals$json <- function(res, x) {
    res$send_json(x, auto_unbox = TRUE, digits = NA, null = "null")
  }
  app$locals$part <- function(rows, from, count) {
    rows[seq_along(rows) >= from & seq_along(rows) < from + count]
  }
  app$get("/pages", function(req, res) {
    page <- as.integer(req$query$page)
    rows <- app$locals$part(app$locals$rows, 10 * (page - 1) + 1, 10)
    app$locals$json(res, list(meta = list(all = 23), data = rows))
  })
  app$get("/offset", function(req, res) {
    rows <- app$locals$part(app$locals$rows, as.integer(req$query$skip) + 1, 5)
    app$locals$json(res, list(data = rows))
  })
  app$get("/marks", function(req, res) {
    from <- if (is.null(req$query$cursor)) 1 else as.integer(sub("m", "", req$query$cursor))
    rows <- app$locals$part(app$locals$rows, from, 9)
    app$locals$json(res, list(data = rows, cursor = if (from + 9 <= 23) paste0("m", from + 9)))
  })
  app$get("/items", function(req, res) {
    from <- if (is.null(req$query$from)) 1 else as.integer(req$query$from)
    rows <- lapply(app$locals$part(app$locals$rows, from, 8), function(r) {
      list(type = "Feature", id = r$code, properties = r[c("code", "n")], geometry = r$shape)
    })
    links <- list(list(rel = "self", href = "/items"))
    if (from + 8 <= 23) {
      links <- c(links, list(list(rel = "next", href = paste0("/items?from=", from + 8))))
    }
    app$locals$json(res, list(type = "FeatureCollection", links = links, numberMatched = 23,
                              features = rows))
  })
  app$get("/one", function(req, res) {
    app$locals$json(res, list(id = "one", links = list(list(rel = "items", href = "/items"))))
  })
  app$get("/", function(req, res) {
    app$locals$json(res, list(title = "A service", links = list(list(rel = "data", href = "/c"))))
  })
  app$get("/c", function(req, res) {
    leads <- list(list(rel = "items", href = "/items"))
    app$locals$json(res, list(links = list(), collections = list(
      list(id = "one", links = leads), list(id = "nowhere", links = list())
    )))
  })
  # What leads to its collections: into brackets without end, to what is no list, to another host.
  leads <- c(deep = "/brackets", odd = "/one", away = "http://other.example/c")
  for (name in names(leads)) {
    app$locals[[name]] <- list(links = list(list(rel = "data", href = leads[[name]])))
  }
  app$get("/to/:name", function(req, res) app$locals$json(res, app$locals[[req$params$name]]))
  app$get("/brackets", function(req, res) {
    res$set_type("application/json")$send(paste0("{\"collections\":", strrep("[", 1e5)))
  })
  app$get("/none", function(req, res) app$locals$json(res, list(data = list())))
  app$get("/two", function(req, res) {
    shape <- list(type = "Point", coordinates = list(1, 1))
    app$locals$json(res, list(list(code = "1", shape = shape, middle = shape)))
  })
  server <- webfakes::new_app_process(app)
  on.exit(server$stop(), add = TRUE)
  codes <- sprintf("%02d", 1:23)
  ways <- list(
    list("/pages", service_request(page = "page")),
    list("/offset", service_request(offset = "skip")),
    list("/marks", service_request(next_at = "/cursor", page = "cursor")),
    list("/items", service_request(next_at = "links"))
  )
  for (way in ways) {
    areas <- read_boundaries(server$url(way[[1]]), request = way[[2]])
    expect_identical(areas$code, codes, info = way[[1]])
    expect_identical(areas$n, 1:23 / 4)
    expect_identical(which(is.na(areas$geometry)), 7L)
    expect_equal(wk::wk_coords(areas$geometry)$x, as.numeric((1:23)[-7]))
  }
  expect_identical(read_boundaries(server$url("/pages"), request = ways[[1]][[2]])$about.region[1],
                   "R")
  # Statistics of features are their properties, all pages of them, from either address.
  for (path in c("/items", "/one")) {
    rows <- quietly(read_statistics(server$url(path)))
    expect_identical(rows$code, codes, info = path)
    expect_identical(rows$n, 1:23 / 4)
    expect_false(any(c("links", "geometry", "type") %in% names(rows)))
  }
  page <- temporary(".json")
  writeLines(page_text_of("{\"n\":1}", links = list(link("/b"))), page)
  expect_warning(one <- read_statistics(page), class = "ochre_warning_pages")
  expect_identical(one$n, 1L)
  # A service has its collections as a workbook has its sheets.
  start <- server$url("/")
  for (read in c(read_boundaries, read_statistics)) {
    expect_error(read(start), "2 collections: `one` and `nowhere`", class = "ochre_error_layer")
    expect_error(read(start, layer = "On"), "`one`", class = "ochre_error_layer")
    expect_error(read(start, layer = "nowhere"), "names no items", class = "ochre_error_service")
    expect_identical(quietly(read(start, layer = "one"))$code, codes)
  }
  for (to in c("deep", "odd")) {
    expect_error(
      read_boundaries(server$url(paste0("/to/", to))), "lists no collections",
      class = "ochre_error_service"
    )
  }
  expect_error(read_statistics(server$url("/to/away")), "another host \\(other.example\\)",
               class = "ochre_error_service")
  expect_output(print(inspect_file(start)), "holds 2 collections.\n  one\n  nowhere")
  expect_error(start_sheet(start, temporary(".yml")), "such as .*[0-9]/collections/one",
               class = "ochre_error_layer")
  for (seen in list(inspect_file(start, "one"), inspect_file(server$url("/items")))) {
    expect_identical(seen[c("kind", "rows")], list(kind = "boundaries", rows = 23L))
  }
  expect_error(
    read_boundaries(server$url("/two"), request = service_request()), "several geometries",
    class = "ochre_error_records"
  )
  expect_error(
    read_boundaries(server$url("/none"), request = service_request(), records = "/data"),
    "gives no records", class = "ochre_error_service"
  )
})
