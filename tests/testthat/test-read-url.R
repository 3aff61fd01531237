test_that("a file from the web is kept, asked for again when changed, used offline", {
  skip_if_not_installed("webfakes")
  old <- options(ochre.cache = tempfile("ochre-cache-"))
  on.exit(options(old))
  app <- webfakes::new_app()
  app$locals$text <- "{\"type\":\"Point\",\"coordinates\":[1,2]}"
  app$locals$sent <- 0
  app$get("/a.geojson", function(req, res) {
    tag <- sprintf("\"%d\"", nchar(req$app$locals$text))
    if (identical(req$get_header("If-None-Match"), tag)) return(res$send_status(304L))
    req$app$locals$sent <- req$app$locals$sent + 1
    res$set_header("ETag", tag)$send(req$app$locals$text)
  })
  app$get("/change", function(req, res) {
    req$app$locals$text <- "{\"type\":\"Point\",\"coordinates\":[11,12]}"
    res$send("ok")
  })
  app$get("/sent", function(req, res) res$send(as.character(req$app$locals$sent)))
  app$get("/lost", function(req, res) res$send_status(404L))
  app$get("/away", function(req, res) res$redirect("file:///etc/passwd", 302L))
  server <- webfakes::new_app_process(app)
  on.exit(if (server$get_state() == "live") server$stop(), add = TRUE)
  url <- server$url("/a.geojson")
  get <- function(path) rawToChar(curl::curl_fetch_memory(server$url(path))$content)
  expect_identical(wkt_of(read_boundaries(url)), "POINT (1 2)")
  expect_identical(wkt_of(read_boundaries(url)), "POINT (1 2)")
  expect_identical(get("/sent"), "1")
  get("/change")
  expect_identical(wkt_of(read_boundaries(url)), "POINT (11 12)")
  expect_identical(get("/sent"), "2")
  e <- expect_error(read_boundaries(server$url("/lost")), "answers 404", class = "ochre_error_url")
  expect_error(read_boundaries(server$url("/away")), class = "ochre_error_url")
  server$stop()
  expect_warning(d <- read_boundaries(url), "the copy of", class = "ochre_warning_offline")
  expect_identical(wkt_of(d), "POINT (11 12)")
  expect_length(list.files(getOption("ochre.cache"), pattern = "^part-"), 0)
})

test_that("a login page replaces no good copy, spoilt copies are renewed, drips end", {
  skip_if_not_installed("webfakes")
  old <- options(ochre.cache = tempfile("ochre-cache-"), ochre.time_limit = 2)
  on.exit(options(old))
  app <- webfakes::new_app()
  app$locals$login <- FALSE
  good <- "{\"type\":\"Point\",\"coordinates\":[1,2]}"
  app$locals$good <- good
  app$get("/a.geojson", function(req, res) {
    if (req$app$locals$login) {
      return(res$send("<!doctype html><html><body>Please log in</body></html>"))
    }
    if (identical(req$get_header("If-None-Match"), "\"1\"")) return(res$send_status(304L))
    res$set_header("ETag", "\"1\"")$send(req$app$locals$good)
  })
  app$get("/switch", function(req, res) {
    req$app$locals$login <- !req$app$locals$login
    res$send("ok")
  })
  app$get("/same", function(req, res) res$send_status(304L))
  app$get("/round", function(req, res) res$redirect("/round", 302L))
  app$get("/drip", function(req, res) {
    if (is.null(res$locals$n)) res$locals$n <- 0
    res$locals$n <- res$locals$n + 1
    if (res$locals$n > 60) return(res$send("."))
    res$send_chunk(" ")
    res$delay(0.2)
  })
  server <- webfakes::new_app_process(app)
  on.exit(if (server$get_state() == "live") server$stop(), add = TRUE)
  url <- server$url("/a.geojson")
  switch_login <- function() curl::curl_fetch_memory(server$url("/switch"))
  switch_login()
  # The first time there is no copy to fall back on.
  expect_error(read_boundaries(url), "is a web page", class = "ochre_error_file")
  switch_login()
  expect_identical(wkt_of(read_boundaries(url)), "POINT (1 2)")
  switch_login()
  expect_warning(
    x <- read_boundaries(url), "cannot be read.*web page.*the copy of",
    class = "ochre_warning_offline"
  )
  expect_identical(wkt_of(x), "POINT (1 2)")
  switch_login()
  # Half a copy on the disk, of which the server says that it has not changed.
  kept <- list.files(getOption("ochre.cache"), "^[0-9a-f]{64}$", full.names = TRUE)
  writeBin(charToRaw(substr(good, 1, 20)), kept)
  expect_identical(wkt_of(read_boundaries(url)), "POINT (1 2)")
  # Nothing is here that could be the same.
  expect_error(read_boundaries(server$url("/same")), "304", class = "ochre_error_url")
  expect_error(
    read_boundaries(server$url("/round")), "cannot be fetched", class = "ochre_error_url"
  )
  expect_lt(
    system.time(expect_error(
      read_boundaries(server$url("/drip")), "cannot be fetched", class = "ochre_error_url"
    ))[["elapsed"]],
    8
  )
  expect_length(list.files(getOption("ochre.cache"), pattern = "^part-"), 0)
})
