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
  expect_identical(read_boundaries(server$url("/plain"))$links, "none")
  # A page that somebody saved is not the whole.
  saved <- write_file(pages[["/a"]], ".geojson")
  expect_warning(read_boundaries(saved), "one page of a service: 2 features of 5 in all",
                 class = "ochre_warning_pages")
  expect_error(read_boundaries(write_file(pages[["/one"]], ".json")), "describes a collection",
               class = "ochre_error_file")
})
