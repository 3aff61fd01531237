# Addresses from data: taken apart by the library, put together anew, or none.

hostile <- c(
  "http://a\" onload=x b/", "https://x'y/", "https://x.example/a b",
  "http://user:pw@x.example/", "http://x.example\\@y.example/", "javascript:alert(1)",
  "data:text/html,x", "//x.example/", "ftp://x.example/", "http://",
  "https://x.example:99999/", "http://x .example/", "http://\u0435xample.example/",
  "https://x.example>;script-src *;/", "http://x.example\n/", "http://[::1",
  "http://%ff/", NA, ""
)

test_that("hostile addresses are none, others break out of no markup and no policy", {
  expect_true(all(is.na(clean_addresses(hostile))))
  fine <- c(
    "HTTPS://Office.Example:443/a?b=c#d", "http://127.0.0.1:8791/p",
    "https://x.example/\u00fc\"'<>{}|^`", "http://[::1]:80/x", "https://x.example?q"
  )
  expect_identical(
    clean_addresses(fine),
    c(
      "https://office.example/a?b=c#d", "http://127.0.0.1:8791/p",
      "https://x.example/%C3%BC%22%27%3C%3E%7B%7D%7C%5E%60", "http://[::1]/x",
      "https://x.example/?q"
    )
  )
  expect_identical(
    origin_of(fine),
    c(
      "https://office.example", "http://127.0.0.1:8791", "https://x.example",
      "http://[::1]", "https://x.example"
    )
  )
  # Any text at all: what comes back is letters that mean nothing to markup, and comes back as
  # itself.
  set.seed(3)
  letters <- c(
    letters, "/", "?", "#", "@", ":", ".", "\"", "<", ">", "'", ";", " ", "%", "\\", "{",
    "}", "[", "]", "\u00e9", "\t"
  )
  for (i in 1:3000) {
    text <- paste0(
      sample(c("http://", "https://", "https://x.example", ""), 1),
      paste(sample(letters, sample(1:14, 1), TRUE), collapse = "")
    )
    clean <- clean_address(text)
    if (is.na(clean)) next
    expect_match(clean, "^https?://[a-z0-9._:[\\]-]+(/|\\?|#|$)", perl = TRUE)
    expect_false(grepl("[\"<>' ;{}\\\\\t]", sub("^[^/]*//[^/?#]*", "", gsub("[;']", "", clean))))
    expect_identical(clean_address(clean), clean)
    expect_false(grepl("[\"'<> ;,]", origin_of(text)))
  }
})

test_that("a next page stays on the host that the library says, whatever it looks like", {
  base <- "http://api.example:81/v1/rows?page=1"
  next_pages <- c(
    "?@other.example/x", "#@other.example", "/@other.example", "//other.example/x",
    "http://api.example:81@other.example/", "http://other.example#api.example:81",
    "rows?page=2", "http://API.example:81/v1", "https://api.example:81/v1",
    "http://api.example/v1"
  )
  same <- vapply(
    next_pages,
    function(p) same_origin(clean_address(p, base), base),
    NA,
    USE.NAMES = FALSE
  )
  expect_identical(same, c(TRUE, TRUE, TRUE, FALSE, FALSE, FALSE, TRUE, TRUE, FALSE, FALSE))
})

test_that("a cell cannot leave its attribute: a page holds only hosts that were looked at", {
  areas <- demo_rates()
  areas$photo <- "https://pictures.example/a.png"
  areas$photo[seq_along(hostile)] <- hostile
  areas$photo[50] <- paste0(
    "https://x.example\" content=\"x\"><meta http-equiv=refresh ",
    "content=\"0;url=https://evil.example\">"
  )
  sheet <- map_sheet("T", "</title><script>alert(1)</script>") |>
    shade_areas(
      areas,
      visits_per_1000,
      popup = c("P" = popup_picture("{photo}", "{name}"), "L" = popup_link("{photo}", "{photo}"))
    )
  page <- paste(page_text(quietly(resolve_sheet(sheet))), collapse = "\n")
  html <- xml2::read_html(page)
  metas <- xml2::xml_attr(xml2::xml_find_all(html, "//meta"), "http-equiv")
  expect_identical(metas[!is.na(metas)], "Content-Security-Policy")
  policy <- xml2::xml_attr(xml2::xml_find_first(html, "//meta[@http-equiv]"), "content")
  expect_match(policy, "img-src data: https://pictures.example;", fixed = TRUE)
  expect_false(grepl("evil|refresh", policy))
  expect_identical(length(xml2::xml_find_all(html, "//script")), 2L)
})
