# A page within another page.

#' A map within another page
#'
#' The markup that puts a published map into an article: a frame and a script of a few lines that
#' gives it the height that its content needs, also when that changes. The script is in the file
#' `system.file("embed", "ochre-embed.js", package = "ochre")`; one serves all maps of a page.
#'
#' The two sides speak by `postMessage()`. The map says `{ochre: "ready"}`; who answers
#' `{ochre: "host"}` is told `{ochre: "height", height: …}` in CSS pixels, now and whenever it
#' changes.
#'
#' @param address Address of the published page as the article sees it: one text.
#' @param title What the frame is called for readers who do not see it: one text.
#' @param height Height in CSS pixels until the map has told its own, and where no script runs: one
#'   number.
#' @param script `TRUE` (default) prints the script too; `FALSE` for a second map of a page.
#' @return The markup as one text of class `ochre_markup`, which prints as it is.
#' @section Errors: `ochre_error_argument`.
#' @examples
#' embed_markup("map.html", title = "Hay fever in Orvane")
#' @export
embed_markup <- function(address, title, height = 520, script = TRUE) {
  check_text(address, "address")
  check_text(title, "title")
  check_number(height, "height", min = 100, max = 5000)
  check_flag(script, "script")
  quoted <- function(x) htmltools::htmlEscape(x, attribute = TRUE)
  frame <- sprintf(
    paste0(
      "<iframe data-ochre src=\"%s\" title=\"%s\" loading=\"lazy\"\n",
      "  style=\"width: 100%%; height: %dpx; border: 0\"></iframe>"
    ),
    quoted(address),
    quoted(title),
    as.integer(height)
  )
  file <- system.file("embed", "ochre-embed.js", package = "ochre", mustWork = TRUE)
  more <- if (script) sprintf("<script>\n%s</script>", read_text(file))
  structure(paste(c(frame, more), collapse = "\n"), class = "ochre_markup")
}

#' @export
format.ochre_markup <- function(x, ...) unclass(x)

#' @export
print.ochre_markup <- function(x, ...) {
  cat(format(x), "\n", sep = "")
  invisible(x)
}
