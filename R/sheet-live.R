# New values for a page that is open: where they come from, and how often.

#' New values in a published page
#'
#' For `page_style(live = )`: a page that asks an address for new values of its shaded areas every
#' so many seconds, or takes them from the page around it. Classes, colours, labels, popups, table
#' and counts follow; breaks and legend stay as they were published, so that colours of now and of
#' then can be compared. A line below the legend says of when the values are and, when no new ones
#' come, why.
#'
#' It takes one layer of [shade_areas()] with numbers, in one period: the first. Its first and last
#' class are open ("under 5", "20 and over"), since new values may lie beyond the old ones. What a
#' page cannot update is left out, with a message: the histogram and the cards.
#'
#' @param address Address of the values: one text, `http`, `https`, or a path seen from the page
#'   (which a browser does not read from disk); `NULL` (default) when they only come by message.
#' @param every Seconds from one question to the next: one number from 1 to 86400.
#' @return A list of class `ochre_live`.
#' @section The document of values:
#' A page asks `GET ADDRESS` without cookies or referrer, while it is seen, and waits eight seconds.
#' The answer is JSON (UTF-8) of at most 10 MB: `{"time": "2031-08-01T06:00:00Z", "values":
#' {"0101": 12.5, "0102": null}}`. `values` has numbers in the unit of the shaded column by the
#' codes of areas, by their names where they have no codes; `null` is no data. Areas that are not
#' named keep their value; unknown codes are listed in the browser's console. `time`
#' (ISO 8601) is when the values were right; it may be missing. An address of another origin allows
#' the page by the header `Access-Control-Allow-Origin`. The page around it, or the page that holds
#' a widget, may hand over the same by
#' `frame.contentWindow.postMessage({ochre: "values", values: …, time: …}, "*")`.
#' The JSON Schema is `system.file("schema/values.schema.json", package = "ochre")`;
#' [serve_demo()] has a stand-in.
#' @section Errors: `ochre_error_argument`; of [resolve_sheet()] `ochre_error_sheet` when no layer
#'   fits, or its texts write the value with a format of their own.
#' @examples
#' page_style(live = live_values("https://data.example/visits.json", every = 30))
#' @export
live_values <- function(address = NULL, every = 60) {
  if (!is.null(address)) address <- check_live_address(address)
  check_number(every, "every", min = 1, max = 86400)
  structure(list(address = address, every = every), class = "ochre_live")
}

# An address of the web, or a path beside the page.
check_live_address <- function(address, call = rlang::caller_env()) {
  check_text(address, "address", call = call)
  if (grepl("^[A-Za-z][A-Za-z0-9+.-]*:", address)) {
    return(check_tile_address(address, "address", character(), call = call))
  }
  if (!grepl("^$|^([/\\\\]{2}|#)|[[:cntrl:][:space:]\\\\]", address)) return(address)
  ochre_abort("argument", "`address` is neither an address of the web nor a path beside the page.",
              "For example \"https://data.example/visits.json\" or \"visits.json\".",
              arg = "address")
}

check_live <- function(live, call = rlang::caller_env()) {
  if (is.null(live) || inherits(live, "ochre_live")) return(live)
  if (is.list(live)) return(make_with(live_values, live, "live", call))
  ochre_abort("argument", "`live` must come from live_values(), not {describe(live)}.",
              "For example live_values(\"values.json\", every = 30).", arg = "live")
}
