# Pages of a service for people: plain HTML that needs no script.

service_style <- paste(
  ":root{color-scheme:light dark;--ink:#26221e;--paper:#fbfaf7;--line:#d8d2c8;--link:#7a3b12}",
  "@media (prefers-color-scheme:dark){:root{--ink:#ece7df;--paper:#1d1b19;--line:#4a443d;",
  "--link:#e0a878}}",
  "body{margin:0 auto;max-width:70rem;padding:1rem;font:16px/1.5 sans-serif;color:var(--ink);",
  "background:var(--paper)}h1{font-size:1.5rem;line-height:1.25}a{color:var(--link)}",
  "nav{margin:0 0 1rem}nav a{margin-right:1.2em}",
  ".wide{overflow-x:auto}table{border-collapse:collapse;font-variant-numeric:tabular-nums}",
  "th,td{text-align:left;padding:.3em .8em .3em 0;border-bottom:1px solid var(--line);",
  "vertical-align:top}td.n,th.n{text-align:right}h2{font-size:1.15rem;margin:1.6rem 0 .2rem}",
  ".map svg{width:100%;max-height:60vh}code{font-size:.95em;overflow-wrap:anywhere}",
  sep = ""
)

service_page <- function(title, body, links, ask) {
  policy <- sprintf(
    "default-src 'none'; style-src 'sha256-%s'; base-uri 'none'; form-action 'none'",
    source_hash(service_style)
  )
  around <- c(
    "<nav aria-label=\"Service\">",
    html_link(paste0(ask$base, "/?f=html"), "Start"),
    html_link(paste0(ask$base, "/collections?f=html"), "Collections"),
    html_link(paste0(ask$base, "/api?f=html"), "What can be asked"),
    "</nav>"
  )
  others <- Filter(function(l) !l$rel %in% c("self", "collection"), links)
  rel <- vapply(others, function(l) l$rel, "")
  shown <- others[order(rel == "alternate")]
  paste(html_document(
    list(
      title = title, locale = "en", policy = policy,
      lines = paste0("<style>", service_style, "</style>")
    ),
    c(
      around, "<main>", paste0("<h1>", htmltools::htmlEscape(title), "</h1>"), body,
      html_links(
        vapply(shown, function(l) l$href, ""), vapply(shown, function(l) l$title, ""),
        vapply(shown, function(l) l$rel, "")
      ),
      "</main>"
    )
  ), collapse = "\n")
}

html_text <- function(text) paste0("<p>", htmltools::htmlEscape(text), "</p>")

html_link <- function(href, text, rel = NULL) {
  attribute <- function(x) htmltools::htmlEscape(x, attribute = TRUE)
  rel <- if (!is.null(rel)) sprintf(" rel=\"%s\"", attribute(rel)) else ""
  sprintf("<a href=\"%s\"%s>%s</a>", attribute(href), rel, htmltools::htmlEscape(text))
}

html_links <- function(href, text, rel = NULL) {
  c("<ul>", paste0("<li>", html_link(href, text, rel), "</li>"), "</ul>")
}

html_list <- function(text) {
  c("<ul>", paste0("<li>", htmltools::htmlEscape(text), "</li>"), "</ul>")
}

# Cells are escaped but for those of the columns with the numbers `html`.
html_table <- function(table, html = integer()) {
  number <- vapply(table, is.numeric, NA)
  mark <- ifelse(number, " class=\"n\"", "")
  cells <- Map(function(x, k, mark) {
    text <- as.character(x)
    text <- if (k %in% html) text else htmltools::htmlEscape(ifelse(is.na(text), "", text))
    sprintf("<td%s>%s</td>", mark, text)
  }, table, seq_along(table), mark)
  head <- sprintf("<th scope=\"col\"%s>%s</th>", mark, htmltools::htmlEscape(names(table)))
  c(
    "<div class=\"wide\" role=\"region\" aria-label=\"Table\" tabindex=\"0\"><table>",
    paste0("<thead><tr>", paste(head, collapse = ""), "</tr></thead><tbody>"),
    if (nrow(table)) paste0("<tr>", do.call(paste0, unname(cells)), "</tr>"),
    "</tbody></table></div>"
  )
}

items_html <- function(page, ask) {
  of <- page$of
  ids <- of$ids[page$rows]
  own <- paste0(ask$base, "/collections/", of$id, "/items/")
  feature <- html_link(paste0(own, vapply(ids, curl::curl_escape, ""), "?f=html"), ids)
  if (!length(ids)) feature <- character()
  table <- cbind(data.frame(feature), of$table[page$rows, , drop = FALSE])
  names(table)[1] <- "feature"
  said <- if (is.null(page$matched)) {
    paste(count_words(length(ids), "feature"), "on this page")
  } else {
    sprintf("%d of %s", length(ids), count_words(page$matched, "feature"))
  }
  before <- page$asked$offset
  if (before > 0) said <- sprintf("%s, after the first %d", said, before)
  service_page(of$title, c(html_text(said), html_table(table, html = 1)), page$links, ask)
}

item_html <- function(collection, at, links, ask) {
  row <- collection$table[at, , drop = FALSE]
  table <- data.frame(
    Column = names(row),
    Value = vapply(row, function(x) ifelse(is.na(x), "", as.character(x)), "")
  )
  title <- sprintf("%s: %s", collection$title, collection$ids[at])
  service_page(title, html_table(table), links, ask)
}
