# The fields of a popup: templates, links and pictures.

# A popup as a named vector of templates: from c("Label" = column, …) with bare columns, texts
# with braces, or texts that name a column.
popup_fields <- function(quo, data, call = rlang::caller_env()) {
  if (rlang::quo_is_null(quo)) return(NULL)
  expr <- rlang::quo_get_expr(quo)
  # Of each column its name.
  names <- as.list(stats::setNames(nm = names(data)))
  entries <- if (rlang::is_call(expr, "c")) {
    lapply(as.list(expr)[-1], rlang::eval_tidy, names, rlang::quo_get_env(quo))
  } else {
    given <- rlang::eval_tidy(quo, names)
    if (is.atomic(given) || is.list(given)) as.list(given) else list(given)
  }
  for (entry in entries) if (is.character(entry)) check_texts(entry, "popup", call)
  entries <- lapply(entries, as_popup_field, call = call)
  rich <- lapply(entries, function(e) if (is.list(e)) e)
  entries <- lapply(entries, function(e) if (is.list(e)) e$url else e)
  if (!all(vapply(entries, function(e) is.character(e) && length(e) == 1 && !is.na(e), NA))) {
    ochre_abort("argument", "`popup` must be columns or templates, such as c(\"Visits\" = visits).",
                arg = "popup")
  }
  labels <- names(entries) %||% rep("", length(entries))
  fields <- vapply(
    entries,
    function(e) if (grepl("[{}]", e)) e else as_field(e),
    "",
    USE.NAMES = FALSE
  )
  for (f in fields) check_template(f, data, "popup", call)
  for (r in rich) check_template(r$text, data, "popup", call)
  bare <- vapply(entries, function(e) !grepl("[{}]", e), NA)
  labels[labels == "" & bare] <- words_of(unlist(entries[labels == "" & bare]))
  is_rich <- lengths(rich) > 0
  if (!any(is_rich)) return(stats::setNames(fields, labels))
  structure(
    stats::setNames(fields, labels),
    kinds = unname(ifelse(is_rich, vapply(rich, function(r) r$kind %||% "", ""), "text")),
    words = unname(lapply(rich, function(r) r$text)),
    folders = unname(vapply(rich, function(r) r$folder %||% ".", ""))
  )
}

#' Links and pictures in a popup
#'
#' For `popup = c("Report" = popup_link("{url}", "Read it"))`. In a sheet file:
#' `Report: {link: "{url}", text: Read it}` and `{picture: "{photo}", text: "Photo of {name}"}`.
#'
#' @param url Template of the address: one text. Only `http`, `https` and `mailto` are kept for
#'   links, `http`, `https` and `data:image` for pictures; other addresses are left out, and a
#'   warning `ochre_warning_link` says how many. Values within a longer address are encoded. Of a
#'   picture it may also be a path within `folder`, such as `"photos/{code}.jpg"`: the file (PNG,
#'   JPEG, GIF or WebP, at most 2 MB, 20 MB in all) becomes a part of the page.
#' @param text Template of the words: of a link its text (the address by default), of a picture
#'   what it shows.
#' @param folder Folder that paths of pictures lie in: one text. In a sheet file it is the file's
#'   own.
#' @return A list of class `ochre_popup_field`.
#' @section Errors: `ochre_error_argument`; `ochre_error_picture` when a file is too large, or no
#' picture.
#' @examples
#' popup_link("https://example.org/report/{code}", "Report on {name}")
#' @concept popup
#' @export
popup_link <- function(url, text = NULL) {
  check_text(url, "url")
  check_text(text, "text", null = TRUE)
  structure(list(kind = "link", url = url, text = text), class = "ochre_popup_field")
}

#' @rdname popup_link
#' @export
popup_picture <- function(url, text = "", folder = ".") {
  check_text(url, "url")
  check_text(text, "text")
  check_text(folder, "folder")
  structure(
    list(kind = "picture", url = url, text = text, folder = folder),
    class = "ochre_popup_field"
  )
}

# A field of a sheet file as such a list.
as_popup_field <- function(entry, call = rlang::caller_env()) {
  if (!is.list(entry) || inherits(entry, "ochre_popup_field")) return(entry)
  if (!is.null(entry$link)) return(popup_link(entry$link, entry$text))
  if (!is.null(entry$picture)) {
    return(popup_picture(entry$picture, entry$text %||% "", entry$folder %||% "."))
  }
  ochre_abort("argument", "A field of `popup` must be a text, or hold `link` or `picture`.",
              arg = "popup")
}

# Addresses from a template, NA where they are missing or may not be followed. A value that begins
# the address is taken as it is; values within it are encoded.
fill_address <- function(template, data, kind, folder = ".") {
  filled <- fill_parts(template, data)
  lost <- filled$lost
  out <- filled$address
  if (kind == "picture") {
    own <- which(!lost & !has_pattern(out, "^([a-z][a-z0-9+.-]*:|//)"))
    out[own] <- embed_pictures(filled$path[own], folder)
    lost[own] <- is.na(out[own])
  }
  kept <- if (kind == "link") is_mail(out) else grepl(embedded_picture, out)
  web <- which(!lost & !kept)
  out[web] <- clean_addresses(out[web])
  bad <- which(!lost & is.na(out))
  warn_addresses(bad)
  out[lost] <- NA_character_
  out
}

embedded_picture <- "^data:image/(png|jpeg|gif|webp);base64,[A-Za-z0-9+/=]+$"

# The address with its values encoded, the path with them as they are, and where one is missing.
fill_parts <- function(template, data) {
  pieces <- parse_template(template)
  lost <- rep(FALSE, nrow(data))
  out <- path <- rep("", nrow(data))
  for (piece in pieces) {
    fixed <- is.null(piece$column)
    value <- if (fixed) piece$text else enc2utf8(as.character(data[[piece$column]]))
    lost <- lost | is.na(value) | value == ""
    path <- paste0(path, value)
    begins <- identical(piece, pieces[[1]])
    if (!fixed && !begins) {
      value <- vapply(value, utils::URLencode, "", reserved = TRUE, USE.NAMES = FALSE)
    }
    out <- paste0(out, value)
  }
  list(address = trimws(out), path = path, lost = lost)
}

warn_addresses <- function(rows) {
  if (!length(rows)) return(invisible())
  ochre_warn(
    "link",
    sprintf("%s left out of the popup.", count_words(length(rows), "address is", "addresses are")),
    "Links begin with http, https or mailto, and have no blanks; look at row {rows[1]}.",
    rows = rows
  )
}
