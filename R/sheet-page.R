# Wishes for the page that a sheet carries, and the fields of a popup that are more than text.

#' What a reader can do with a page
#'
#' For `map_sheet(page = )`, followed by [publish()] with a path that ends in `.html` and by
#' [as_page()].
#'
#' @param hover Where the values of the thing under the pointer stand: `"pointer"` (default),
#'   beside it, or `"panel"`, beside the map where there is room, else below it; a press keeps
#'   them there.
#' @param click What a click does: `"popup"` (default), `"zoom"` to the area, `"both"`, or
#'   `"nothing"`.
#' @param search `TRUE` gives a search field for the names and codes of areas; `NULL` (default)
#'   does when there are more than a dozen.
#' @param layers `TRUE` lists the layers, to be switched, ordered and made fainter; `NULL`
#'   (default) does when there are two with a name.
#' @param cards Totals beside the map: any of `"sum"`, `"mean"` and `"highest"` of the first
#'   shaded layer. None by default.
#' @param bars How many areas with the highest values are ranked beside the map: one whole number;
#'   0 (default) for none.
#' @param table `TRUE` (default) gives a table of all values, which is also the form for those who
#'   do not see the map.
#' @param download `TRUE` (default) lets readers save the table as CSV.
#' @param tools Further tools: any of `"measure"` (distances and areas on the ellipsoid),
#'   `"position"` (the reader's own, asked only on a press), `"share"` (an address that brings the
#'   view back), `"fullscreen"`, `"print"` and `"picture"` (the map saved as PNG or SVG). None by
#'   default.
#' @param places Address of a service that finds places, in [Ochre's own protocol][serve_demo]:
#'   one text, `http` or `https`; `NULL` (default) for none. A reader's words go there only when
#'   the reader asks for it, by the last row of the suggestions.
#' @param zooms Least and greatest zoom that a reader can go to: two numbers from 1, the whole map,
#'   to 1,024; `c(1, 1)` disables zooming. `NULL` (default) is 1 to 64, and nearer where there are
#'   more than 65,000 areas.
#' @param view What is seen first: a box in degrees as four numbers (west, south, east, north), or
#'   the code or name of an area as one text; `NULL` (default) is the whole map.
#' @param scale_bar `TRUE` gives a scale bar that follows the view; it is there where the scale is
#'   the same within the view, within about 25%. `FALSE` by default.
#' @param locator `TRUE` shows, while the reader is near, a small map of the whole with a frame
#'   around what is seen. `FALSE` by default.
#' @param live New values while the page is open, from [live_values()]; `NULL` (default) for none.
#' @return A list of class `ochre_page_style`.
#' @section Errors: `ochre_error_argument`.
#' @examples
#' page_style(cards = c("mean", "highest"), bars = 10, tools = "share")
#' @export
page_style <- function(hover = "pointer", click = "popup", search = NULL, layers = NULL,
                       cards = character(), bars = 0, table = TRUE, download = TRUE,
                       tools = character(), places = NULL, zooms = NULL, view = NULL,
                       live = NULL, scale_bar = FALSE, locator = FALSE) {
  check_choice(hover, c("pointer", "panel"), "hover")
  check_choice(click, c("popup", "zoom", "both", "nothing"), "click")
  for (flag in c("search", "layers")) {
    if (!is.null(get(flag))) check_flag(get(flag), flag)
  }
  cards <- check_texts(cards, "cards")
  tools <- check_texts(tools, "tools")
  for (card in cards) check_choice(card, c("sum", "mean", "highest"), "cards")
  for (tool in tools) check_choice(tool, page_tools, "tools")
  check_number(bars, "bars", min = 0, max = 100, whole = TRUE)
  if (!is.null(places)) {
    places <- check_tile_address(places, "places", character())
    if (grepl("[{}#]", places)) {
      ochre_abort("argument", "`places` holds a brace or a `#`.",
                  "Give the plain address of the service; the words are added to it.",
                  arg = "places")
    }
  }
  for (flag in c("table", "download", "scale_bar", "locator")) check_flag(get(flag), flag)
  if (!is.null(zooms)) zooms <- check_zooms(unlist(zooms), "zooms")
  structure(
    list(
      hover = hover, click = click, search = search, layers = layers,
      cards = unique(cards), bars = bars, table = table, download = download && table,
      tools = unique(tools), places = places, zooms = zooms, view = check_view(view),
      live = check_live(live), scale_bar = scale_bar, locator = locator
    ),
    class = "ochre_page_style"
  )
}

#' When a layer is shown in a page
#'
#' For the layer before it: `sheet |> draw_lines(…) |> show_layer(off = TRUE)`. A figure shows the
#' layers that are drawn on the whole map (zoom 1), also those that are off, as solid as `opacity`
#' says.
#'
#' @param sheet A sheet from [map_sheet()] with at least one layer.
#' @param off `TRUE` leaves the layer off until the reader switches it on in the list of layers.
#' @param zooms Least and greatest zoom at which it is drawn: two numbers, 1 is the whole map and
#'   64 the closest; `NULL` (default) at all.
#' @param opacity Opacity of the layer at first, from 0.1 to 1 (default), for example so that a
#'   backdrop shines through. Its legend is as faint.
#' @return The sheet.
#' @section Errors: `ochre_error_argument`; `ochre_error_sheet` when there is no layer yet.
#' @examples
#' areas <- read_boundaries(ochre_demo("districts.geojson"))
#' map_sheet("Districts") |>
#'   draw_lines(areas) |>
#'   write_labels(areas) |>
#'   show_layer(zooms = c(2, 64))
#' @export
show_layer <- function(sheet, off = FALSE, zooms = NULL, opacity = 1) {
  check_sheet(sheet)
  check_flag(off, "off")
  check_number(opacity, "opacity", min = 0.1, max = 1)
  zooms <- unlist(zooms)
  if (!is.null(zooms) && (!is.numeric(zooms) ||
        length(zooms) != 2 ||
        anyNA(zooms) ||
        zooms[1] > zooms[2] ||
        zooms[2] < 1)) {
    ochre_abort(
      "argument",
      "`zooms` must be two numbers, the least and the greatest zoom, not {describe(zooms)}.",
      "For example c(2, 64).", arg = "zooms"
    )
  }
  last <- length(sheet$layers)
  if (!last) {
    ochre_abort("sheet", "There is no layer to show or hide yet.",
                "Add one first, for example with draw_lines().")
  }
  sheet$layers[[last]]$show <- list(off = off, zooms = zooms, opacity = opacity)
  sheet
}

page_tools <- c("measure", "position", "share", "fullscreen", "print", "picture")

check_zooms <- function(zooms, arg, call = rlang::caller_env()) {
  fit <- is.numeric(zooms) && length(zooms) == 2 && !anyNA(zooms) &&
    zooms[1] <= zooms[2] && zooms[1] >= 1 && zooms[2] <= 1024
  if (fit) return(as.numeric(zooms))
  ochre_abort("argument",
              "`{arg}` must be two numbers from 1 to 1024, the least first, not {describe(zooms)}.",
              "1 is the whole map; c(1, 1) disables zooming.")
}

check_view <- function(view, call = rlang::caller_env()) {
  view <- unlist(view)
  if (is.null(view)) return(NULL)
  if (is.character(view)) return(check_text(view, "view", call = call))
  fit <- is.numeric(view) && length(view) == 4 && all(is.finite(view)) &&
    view[1] < view[3] && view[2] < view[4] && all(abs(view[c(2, 4)]) <= 90)
  if (fit) return(as.numeric(view))
  box <- is.numeric(view) && length(view) == 4
  ochre_abort(
    "argument",
    if (box) {
      sprintf("`view` must run from west to east and from south to north, not %s.",
              paste(format(view, trim = TRUE), collapse = ", "))
    } else {
      sprintf("`view` must be a box of four numbers or the name of an area, not %s.",
              describe(view))
    }, "For example c(-40, 45, -38, 47): west, south, east, north.", arg = "view"
  )
}

# Files of one folder, and of no other, as parts of the page; NA where there is none.
embed_pictures <- function(paths, folder, call = rlang::caller_env()) {
  inside <- !climbs_out(paths)
  there <- inside &
    file.exists(file.path(folder, paths)) &
    !dir.exists(file.path(folder, paths))
  there[there] <- vapply(file.path(folder, paths[there]), is_below, NA, folder)
  if (any(!there)) {
    ochre_warn(
      "link",
      sprintf(
        "%s left out of the popup: %s.", count_words(sum(!there), "picture is", "pictures are"),
        if (all(inside)) "there is no such file" else "there is no such file in the folder"
      ), "Looked for `{file.path(folder, paths[!there][1])}`.", paths = paths[!there]
    )
  }
  out <- rep(NA_character_, length(paths))
  size <- sum(file.size(file.path(folder, paths[there])))
  if (isTRUE(size > picture_limit)) {
    ochre_abort(
      "picture",
      paste0("The pictures of the popup have {size_words(size)} together; a page may have ",
             "{size_words(picture_limit)}."), "Save them smaller."
    )
  }
  # A picture of several rows is read once.
  for (path in unique(paths[there])) {
    out[which(paths == path & there)] <- data_address(read_picture(
      file.path(folder, path),
      popup_picture_limit,
      call
    ))
  }
  out
}
popup_picture_limit <- 2e6
