# The stand-in for tiles and a place search.

test_that("the stand-in server has tiles, capabilities and places, for this machine", {
  skip_if_not_installed("httpuv")
  server <- processx::process$new(
    file.path(R.home("bin"), "Rscript"),
    c(system.file("bin", "ochre", package = "ochre"), "serve-demo", "--port", "0"),
    stdout = "|",
    env = c("current", R_LIBS = paste(.libPaths(), collapse = .Platform$path.sep))
  )
  on.exit(server$kill())
  server$poll_io(20000)
  address <- sub("/$", "", server$read_output_lines()[1])
  get <- function(path) curl::curl_fetch_memory(paste0(address, path))
  # A tile where Orvane is has land and sea; where it is not there is none.
  tile <- get("/tiles/7/50/45.png")
  expect_identical(dim(png::readPNG(tile$content))[1:2], c(256L, 256L))
  expect_gt(length(unique(c(round(png::readPNG(tile$content), 2)))), 30)
  expect_identical(
    c(
      get("/tiles/7/1/1.png")$status_code, get("/tiles/30/1/1.png")$status_code,
      get("/tiles/7/50/9999999.png")$status_code
    ),
    rep(404L, 3)
  )
  expect_identical(get("/wmts/tiles/7/45/50.png")$content, tile$content)
  found <- function(q) {
    jsonlite::fromJSON(
      rawToChar(get(paste0("/places?limit=3&q=", utils::URLencode(q, reserved = TRUE)))$content),
      simplifyVector = FALSE
    )$places
  }
  known <- land()
  first <- found(upper_case(stringi::stri_trans_general(
    known$name[4],
    "NFD; [:Nonspacing Mark:] Remove"
  )))[[1]]
  expect_identical(first$name, known$name[4])
  expect_true(
    first$box[[1]] < first$lon &&
      first$lon < first$box[[3]] &&
      first$box[[2]] < first$lat &&
      first$lat < first$box[[4]]
  )
  expect_length(found(""), 0)
  expect_length(found("<script>"), 0)
  for (odd in c("?q=", "?q", "?=", "?q=%zz&limit=x", "?q=%ff%00", "?limit=-1&q=a")) {
    expect_length(jsonlite::fromJSON(rawToChar(get(paste0("/places", odd))$content))$places, 0)
  }
  expect_identical(get(paste0("/places?q=", strrep("a", 5000)))$status_code, 414L)
  expect_identical(
    c(get("/../etc")$status_code, get("/tiles/7/50/45.png/x")$status_code), c(404L, 404L)
  )
  expect_lte(length(found("a")), 3)
  port <- as.integer(sub(".*:", "", address))
  expect_error(serve_demo(port), "is taken", class = "ochre_error_port")
  page <- rawToChar(get("/")$content)
  expect_match(page, paste0("connect-src http://127.0.0.1:", port), fixed = TRUE)
})
