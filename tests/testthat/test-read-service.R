# A stand-in service of 23 rows, in pages of five, that wants a key and fails now and then.
service <- function() {
  app <- webfakes::new_app()
  app$locals$asked <- 0
  app$locals$rows <- lapply(1:23, function(i) list(code = sprintf("%02d", i), n = i))
  app$use(function(req, res) {
    req$app$locals$asked <- req$app$locals$asked + 1
    "next"
  })
  app$get("/asked", function(req, res) res$send(as.character(req$app$locals$asked)))
  app$locals$part <- function(rows, from) {
    rows[seq_along(rows) >= from & seq_along(rows) < from + 5]
  }
  app$get("/page", function(req, res) {
    if (!identical(req$get_header("X-Key"), "s3cret\\1")) {
      return(res$set_status(401L)$send("no"))
    }
    res$send_json(
      list(
        data = req$app$locals$part(req$app$locals$rows, (as.integer(req$query$page) - 1) * 5 + 1)
      ),
      auto_unbox = TRUE
    )
  })
  app$get("/offset", function(req, res) {
    res$send_json(
      req$app$locals$part(req$app$locals$rows, as.integer(req$query$start) + 1),
      auto_unbox = TRUE
    )
  })
  app$get("/link", function(req, res) {
    from <- if (is.null(req$query$from)) 1 else as.integer(req$query$from)
    if (from < 20) {
      res$set_header(
        "Link",
        sprintf("</first>; rel=\"first\", </link?from=%d>; rel=\"next\"", from + 5)
      )
    }
    res$send_json(req$app$locals$part(req$app$locals$rows, from), auto_unbox = TRUE)
  })
  app$get("/mark", function(req, res) {
    from <- if (is.null(req$query$cursor)) 1 else as.integer(req$query$cursor)
    res$send_json(
      list(
        items = req$app$locals$part(req$app$locals$rows, from),
        cursor = if (from < 20) from + 5
      ),
      auto_unbox = TRUE,
      null = "null"
    )
  })
  app$get("/again", function(req, res) {
    if (req$app$locals$asked < 3) {
      return(res$set_status(503L)$set_header("Retry-After", "0")$send("busy"))
    }
    res$send_json(req$app$locals$rows, auto_unbox = TRUE)
  })
  app$get("/same", function(req, res) {
    res$send_json(req$app$locals$part(req$app$locals$rows, 1), auto_unbox = TRUE)
  })
  app$get("/loop", function(req, res) {
    res$send_json(list(rows = list(list(n = 1)), "next" = "/loop"), auto_unbox = TRUE)
  })
  app$get("/away", function(req, res) {
    res$send_json(
      list(rows = list(list(n = 1)), "next" = "http://127.0.0.2:9/steal"),
      auto_unbox = TRUE
    )
  })
  app$get("/moved", function(req, res) res$redirect("http://127.0.0.2:9/steal", 302L))
  app$get("/near", function(req, res) res$redirect("/page?page=1", 302L))
  app$get("/trick", function(req, res) {
    res$send_json(
      list(rows = list(list(n = 1)), "next" = "//127.0.0.2:9/steal?@x"),
      auto_unbox = TRUE
    )
  })
  app$get("/round", function(req, res) res$redirect("/round", 302L))
  app$get("/later", function(req, res) {
    res$set_status(503L)$set_header("Retry-After", "7200")$send("closed")
  })
  app$get("/page-of-words", function(req, res) res$send("<html>hello</html>"))
  app$get("/lost", function(req, res) res$send_status(404L))
  webfakes::new_app_process(app)
}

test_that("a service is asked page by page, with its key, again when busy, not while fresh", {
  skip_if_not_installed("webfakes")
  skip_if_not_installed("httr2")
  old <- options(ochre.cache = tempfile("ochre-cache-"))
  on.exit(options(old))
  server <- service()
  on.exit(if (server$get_state() == "live") server$stop(), add = TRUE)
  Sys.setenv(OCHRE_KEY_TEST = "s3cret\\1")
  on.exit(Sys.unsetenv("OCHRE_KEY_TEST"), add = TRUE)
  ask <- function(path, ...) {
    suppressMessages(read_statistics(
      server$url(path),
      request = service_request(...),
      records = if (path %in% c("/loop", "/away", "/trick")) "/rows"
    ))
  }
  asked <- function() {
    as.integer(rawToChar(curl::curl_fetch_memory(server$url("/asked"))$content))
  }
  whole <- list(code = sprintf("%02d", 1:23), n = 1:23)

  expect_identical(columns_of(ask("/again")), whole)
  expect_gte(asked(), 4)
  keyed <- list(headers = c(`X-Key` = "{OCHRE_KEY_TEST}"), page = "page")
  expect_identical(columns_of(do.call(ask, c("/page", keyed))), whole)
  before <- asked()
  expect_identical(columns_of(do.call(ask, c("/page", keyed))), whole)
  expect_identical(asked(), before + 1L)
  expect_identical(columns_of(do.call(ask, c("/page", keyed, keep = "0 seconds"))), whole)
  expect_gt(asked(), before + 5L)
  expect_identical(columns_of(ask("/offset", offset = "start")), whole)
  expect_identical(columns_of(ask("/link", next_at = "link")), whole)
  expect_identical(columns_of(ask("/mark", next_at = "/cursor", page = "cursor")), whole)
  # The key is in no file and no message.
  kept <- list.files(getOption("ochre.cache"), full.names = TRUE)
  expect_false(any(grepl("s3cret", unlist(lapply(kept, readLines, warn = FALSE)))))
  expect_false(any(grepl("s3cret", format(service_request(headers = keyed$headers)))))

  e <- expect_error(
    ask("/page", headers = c(`X-Key` = "wrong"), page = "page"), "answers 401",
    class = "ochre_error_service"
  )
  expect_identical(e$status, 401L)
  expect_error(
    ask("/page", headers = c(`X-Key` = "{OCHRE_KEY_NONE}"), page = "page"),
    "`OCHRE_KEY_NONE` is not set", class = "ochre_error_service"
  )
  expect_error(
    ask("/same", page = "pge"), "the same rows on every page", class = "ochre_error_service"
  )
  expect_error(
    ask("/loop", next_at = "/next"), "same next page again", class = "ochre_error_service"
  )
  expect_error(
    ask("/away", next_at = "/next", headers = keyed$headers),
    "another host.*where the key must not go", class = "ochre_error_service"
  )
  expect_error(
    ask("/moved", headers = keyed$headers), "sends elsewhere", class = "ochre_error_service"
  )
  # On its own host a redirect keeps the key; addresses that only look like it do not get it.
  expect_identical(columns_of(ask("/near", headers = keyed$headers)), lapply(whole, utils::head, 5))
  expect_error(
    ask("/trick", next_at = "/next", headers = keyed$headers), "another host \\(127.0.0.2\\)",
    class = "ochre_error_service"
  )
  expect_error(ask("/round"), "without end", class = "ochre_error_service")
  e <- expect_error(ask("/later"), "wants to be left alone until", class = "ochre_error_service")
  expect_identical(e$retry_after, 7200)
  expect_error(ask("/page-of-words"), "does not answer in JSON", class = "ochre_error_service")
  expect_error(ask("/lost"), "answers 404", class = "ochre_error_service")
  offset <- server$url("/offset")
  server$stop()
  expect_warning(
    x <- suppressMessages(read_statistics(
      offset,
      request = service_request(offset = "start", keep = "0 seconds", tries = 1)
    )),
    "The answer of", class = "ochre_warning_offline"
  )
  expect_identical(columns_of(x), whole)
  # Answers go through files, of which none is left.
  expect_length(list.files(tempdir(), "^ochre-(answer|rows)-"), 0)
  expect_error(
    read_statistics(sub("offset", "new", offset), request = service_request(tries = 1)),
    "cannot be asked", class = "ochre_error_service"
  )
})
