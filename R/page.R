# The page: a plan as JSON, and the viewer that draws it. Either one self-contained HTML file or a
# htmlwidget. Nothing here computes a word or a colour.

#' A map as a web page element
#'
#' An htmlwidget, so that a map prints in the viewer of an editor, in R Markdown and in Quarto.
#' [publish()] with a path that ends in `.html` writes a page of its own instead.
#'
#' @param sheet A sheet from [map_sheet()], a plan from [resolve_sheet()], or two linked maps from
#'   [link_maps()].
#' @param width,height CSS sizes such as `"100%"` or a number of pixels; `NULL` (default) fits
#'   the place where it is shown, in a document the height that its content needs.
#' @return An htmlwidget of class `ochre`.
#' @section Errors: Those of [resolve_sheet()].
#' @export
as_page <- function(sheet, width = NULL, height = NULL) {
  refuse_missing(missing(sheet), "sheet", rlang::current_env())
  check_page_size(width, "width")
  check_page_size(height, "height")
  given <- if (inherits(sheet, "ochre_linked")) {
    list(
      title = as_script_text(write_json(sheet$title)),
      plans = I(vapply(sheet$plans, page_json, ""))
    )
  } else {
    list(plan = page_json(resolve_sheet(sheet)))
  }
  given$fits <- is.null(height)
  htmlwidgets::createWidget(
    "ochre",
    given,
    width = width,
    height = height,
    package = "ochre",
    sizingPolicy = htmlwidgets::sizingPolicy(
      defaultWidth = "100%", defaultHeight = 520, browser.fill = TRUE, viewer.fill = TRUE,
      knitr.figure = FALSE, knitr.defaultWidth = "100%", padding = 0
    )
  )
}

# Pixels, or a length of CSS.
check_page_size <- function(x, arg, call = rlang::caller_env()) {
  if (is.null(x)) return(invisible())
  good <- length(x) == 1 && (is.numeric(x) && is.finite(x) && x > 0 || is.character(x))
  if (good) good <- !is.null(tryCatch(htmltools::validateCssUnit(x), error = function(e) NULL))
  if (good) return(invisible())
  ochre_abort("argument",
              "`{arg}` must be a number of pixels or a length of CSS, not {describe(x)}.",
              "For example 600 or \"80%\".")
}

# One file: its script and style are inside and named by their hashes in the policy, so that
# nothing else can run, and nothing is fetched.
write_page <- function(plan, path) write_lines(page_text(plan), path)

page_text <- function(plan) {
  if (inherits(plan, "ochre_linked")) return(linked_text(plan))
  body <- c(page_first(plan), plan_script(plan))
  page_document(plan$title, list(plan), body, first_style(plan))
}

# A plan as data of a page; `id` is that of the element that takes it.
plan_script <- function(plan, id = "ochre-map") {
  c(
    sprintf(
      "<script type=\"application/json\" data-map=\"%s\" id=\"%s\">",
      id,
      if (id == "ochre-map") "ochre-plan" else paste0(id, "-plan")
    ),
    page_json(plan),
    "</script>"
  )
}

page_document <- function(title, plans, body, first_style) {
  folder <- viewer_folder()
  script <- read_text(file.path(folder, "ochre-view.js"))
  style <- paste0(
    whole_page_style,
    read_text(file.path(folder, "ochre-view.css")),
    paste(first_style, collapse = "")
  )
  hash <- function(text) sprintf("'sha256-%s'", source_hash(text))
  head <- list(
    title = title, locale = plans[[1]]$locale,
    policy = page_policy(plans, hash(script), hash(style)),
    lines = paste0("<style>", style, "</style>")
  )
  html_document(head, c(body, paste0("<script>", script, "</script>")))
}

whole_page_style <- "html,body{height:100%;margin:0}"

# A page of a folder: script, style and data are files beside it. `beside` names them, and the
# picture for social cards; its `whole` is the plan with all that the page may come to show.
site_page <- function(plan, beside) {
  attribute <- function(x) htmltools::htmlEscape(x, attribute = TRUE)
  style <- paste0(whole_page_style, first_style(plan))
  about <- c(title = plan$title, description = plan$alt, type = "website", image = beside$card)
  meta <- sprintf("<meta property=\"og:%s\" content=\"%s\">", names(about), attribute(about))
  head <- list(
    title = plan$title, locale = plan$locale,
    policy = page_policy(
      list(beside$whole), "'self'", sprintf("'self' 'sha256-%s'", source_hash(style))
    ),
    lines = c(
      meta,
      sprintf("<link rel=\"stylesheet\" href=\"%s\">", attribute(beside$style)),
      paste0("<style>", style, "</style>")
    )
  )
  scripts <- sprintf("<script src=\"%s\" defer></script>", attribute(c(beside$data, beside$script)))
  html_document(head, c(page_first(plan), scripts))
}

# `head` has `title`, `locale`, `policy` and further `lines`.
html_document <- function(head, body) {
  attribute <- function(x) htmltools::htmlEscape(x, attribute = TRUE)
  html <- c(
    "<!DOCTYPE html>",
    sprintf("<html lang=\"%s\">", attribute(head$locale)),
    "<head>",
    "<meta charset=\"utf-8\">",
    sprintf("<meta http-equiv=\"Content-Security-Policy\" content=\"%s\">", attribute(head$policy)),
    "<meta name=\"viewport\" content=\"width=device-width, initial-scale=1\">",
    sprintf("<title>%s</title>", htmltools::htmlEscape(head$title)),
    head$lines,
    "</head>",
    "<body>",
    body,
    "</body>",
    "</html>"
  )
  enc2utf8(html)
}

# `script` and `style` are what may run and dress the page.
page_policy <- function(plans, script, style) {
  origins <- function(of) sort(unique(unlist(lapply(plans, of))))
  list_origins <- function(what, of) {
    known <- origins(of)
    if (length(known)) sprintf(" %s %s;", what, paste(known, collapse = " ")) else ""
  }
  sprintf(
    paste0(
      "default-src 'none'; script-src %s; style-src %s;%s%s ",
      "base-uri 'none'; form-action 'none'"
    ),
    script,
    style,
    list_origins("img-src", function(p) c("data:", picture_origins(p))),
    list_origins("connect-src", function(p) asked_origins(p$page))
  )
}

# Where a page asks for places and new values.
asked_origins <- function(page) {
  live <- page$live$address
  web <- c(page$places, if (isTRUE(is_address(live))) live)
  c(if (!is.null(live) && !live %in% web) "'self'", unique(origin_of(web)))
}

# Where pictures of popups and backdrops come from: with the place search the only addresses that
# a page may fetch from.
picture_origins <- function(plan) {
  addresses <- unlist(lapply(plan$layers, function(l) {
    lapply(c(list(l), l$panels), function(p) p$popup$fields[which(p$popup$kinds == "picture")])
  }))
  backdrops <- unlist(lapply(c(plan$backdrops, plan$overlays), function(b) {
    c(b$url, b$address)
  }))
  web <- unique(grep("^https?://", c(addresses, backdrops), value = TRUE))
  sort(unique(stats::na.omit(origin_of(gsub("[{}]", "", web)))))
}

# The plan, or linked maps, with borders light enough for a page of so many bytes.
fit_budget <- function(plan, budget, call = rlang::caller_env()) {
  weight <- function(p) sum(vapply(plans_of(p), function(one) topology_bytes(one$topology), 0))
  vertices <- function(p) sum(vapply(plans_of(p), function(one) length(one$topology$x), 0L))
  # In which order vertices go is found once. The still picture of the page has few of them anyway:
  # the rest of the page is weighed with no more than that.
  orders <- lapply(plans_of(plan), function(one) {
    call_core(thinning_order_core(one$topology))$order
  })
  lighter <- function(share) lighten(plan, share, orders)
  small <- lighter(vapply(plans_of(plan), still_share, 0))
  fixed <- page_bytes(small) - weight(small)
  if (fixed + weight(plan) <= budget) return(plan)
  lightest <- lighter(0)
  least <- fixed + weight(lightest)
  if (least > budget) refuse_budget(budget, least, fixed, call)
  best <- lightest
  low <- 0
  high <- 1
  for (i in 1:12) {
    middle <- (low + high) / 2
    tried <- lighter(middle)
    if (fixed + weight(tried) <= budget) {
      best <- tried
      low <- middle
    } else {
      high <- middle
    }
    signal_progress("Fitting the budget", i, 12)
  }
  # The still picture is drawn from the same borders, and may differ by a little.
  while (page_bytes(best) > budget && low > 0.001) {
    low <- 0.98 * low
    best <- lighter(low)
  }
  ochre_tell(
    paste0("Kept {percent_words(vertices(best)/vertices(plan))} of the vertices, so that the ",
           "page takes {size_words(fixed + weight(best))} of {size_words(budget)}.")
  )
  best
}

page_bytes <- function(plan) sum(nchar(page_text(plan), "bytes") + 1)

plans_of <- function(page) if (inherits(page, "ochre_linked")) page$plans else list(page)

# The plan, or linked maps, with that share of the vertices of its borders, or a share for each;
# `orders` say for each map which go first.
lighten <- function(plan, share, orders) {
  light <- function(one, share, order) {
    if (share < 1) one$topology <- call_core(lighter_topology_core(one$topology, share, order))
    one
  }
  if (!inherits(plan, "ochre_linked")) return(light(plan, share, orders[[1]]))
  plan$plans <- Map(light, plan$plans, share, orders)
  plan
}

refuse_budget <- function(budget, least, fixed, call) {
  ochre_abort(
    "budget",
    "The page does not fit in {size_words(budget)}: its lightest form has {size_words(least)}.",
    paste0("Raise the budget, or leave out hover and popup fields: words, numbers and script ",
           "alone take {size_words(fixed)}."), budget = budget, least = least
  )
}

source_hash <- function(text) {
  jsonlite::base64_enc(digest::digest(
    enc2utf8(text),
    algo = "sha256",
    serialize = FALSE,
    raw = TRUE
  ))
}
