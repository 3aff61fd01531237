# Verbs for what lies under the data in a page: a plain ground, tiles from a server, or a placed
# picture. Of several the reader picks one; the first is shown at first.

#' Lay tiles or a picture under a map
#'
#' Of several backdrops the reader of a page picks one; that which was laid first is shown at
#' first. A figure shows that one when it is a picture from a file; under others it has the plain
#' ground, and a message says so. A page asks for tiles only where a sheet lays them, from no
#' other host than those named, and always shows the attribution.
#'
#' Tiles come in web Mercator, so a sheet with tiles is in that projection; a warning
#' `ochre_warning_projection` says where areas will mislead. A picture is bent into the sheet's
#' own projection.
#'
#' @param sheet A sheet from [map_sheet()].
#' @param url Address of a tile with `{z}`, `{x}` and `{y}` for its level, column and row: one
#'   text, `http` or `https`.
#' @param attribution Whose the tiles or the picture are: one text, always shown. Servers say how
#'   they want to be named.
#' @param name What the reader picks it by: one text; `NULL` (default) for a word of the map's
#'   language, such as "Tiles", "Picture" and "None".
#' @param link Address that the attribution leads to: one text, `http` or `https`; `NULL`
#'   (default) for none.
#' @param levels Least and greatest level that the server has: two whole numbers from 0 to 24.
#'   Nearer views show the last one, larger.
#' @param tile Side of a tile in CSS pixels: one number.
#' @param rows Which row is counted as the first: `"top"` (default) or `"bottom"`.
#' @param opacity Opacity, from 0.1 to 1 (default), so that the data stand out.
#' @param over `TRUE` makes it a layer of its own over the backdrop and below the data, which is off
#'   at first: a reader switches it on and mixes it in, such as an old map over a new one. A figure
#'   does not show it.
#' @return The sheet.
#' @section Errors: `ochre_error_argument`. When resolved: `ochre_error_projection` when the sheet
#' asks for another projection or has insets;
#'   `ochre_error_file` and `ochre_error_url` when a picture or capabilities cannot be read;
#'   `ochre_error_picture` when a file is no picture, is too large or has no place;
#'   `ochre_error_package` when a figure needs package png or jpeg; `ochre_error_service` when a
#'   server's capabilities lack the layer or web Mercator.
#' @source OGC 07-057r7, OpenGIS Web Map Tile Service Implementation Standard 1.0.0.
#' @examples
#' areas <- read_boundaries(ochre_demo("districts.geojson"))
#' # The stand-in server of serve_demo() has tiles of Orvane.
#' map_sheet("Districts of Orvane") |>
#'   lay_tiles(
#'     "http://127.0.0.1:8791/tiles/{z}/{x}/{y}.png",
#'     attribution = "Orvane Survey",
#'     levels = c(4, 12)
#'   ) |>
#'   lay_plain() |>
#'   draw_lines(areas)
#' @concept basemap
#' @concept tiles
#' @concept background map
#' @export
lay_tiles <- function(sheet, url, attribution, name = NULL, link = NULL, levels = c(0, 19),
                      tile = 256, rows = "top", opacity = 1, over = FALSE) {
  check_sheet(sheet)
  check_tile_address(url, "url")
  for (field in c("{z}", "{x}", "{y}")) {
    if (!grepl(field, url, fixed = TRUE)) {
      ochre_abort("argument", "`url` has no `{field}`.",
                  "As in \"https://tiles.example/{{z}}/{{x}}/{{y}}.png\".", arg = "url")
    }
  }
  other <- setdiff(regmatches(url, gregexpr("\\{[^}]*\\}", url))[[1]], c("{z}", "{x}", "{y}"))
  if (length(other)) {
    ochre_abort("argument", "`url` has `{other[1]}`, which Ochre does not fill in.",
                "Write a value in its place; only {{z}}, {{x}} and {{y}} are filled in.",
                arg = "url")
  }
  levels <- as.numeric(unlist(levels))
  if (length(levels) != 2 ||
      anyNA(levels) ||
      any(levels != round(levels)) ||
      levels[1] > levels[2] ||
      levels[1] < 0 ||
      levels[2] > 24) {
    ochre_abort(
      "argument",
      "`levels` must be two whole numbers from 0 to 24, the least and the greatest level.",
      "For example c(0, 19).", arg = "levels"
    )
  }
  check_number(tile, "tile", min = 64, max = 2048, whole = TRUE)
  check_choice(rows, c("top", "bottom"), "rows")
  with_backdrop(
    sheet,
    "tiles",
    list(name = name, attribution = attribution, link = link, opacity = opacity, over = over),
    list(url = url, levels = levels, tile = tile, rows = rows)
  )
}

#' @rdname lay_tiles
#' @param capabilities Path or address of a WMTS server's capabilities document (version 1.0.0):
#'   one text. It is read when the sheet is resolved.
#' @param layer Identifier of a layer in it: one text.
#' @param style Identifier of a style; `NULL` (default) for the layer's own.
#' @export
lay_wmts <- function(sheet, capabilities, layer, attribution, name = layer, link = NULL,
                     style = NULL, opacity = 1, over = FALSE) {
  check_sheet(sheet)
  check_text(capabilities, "capabilities")
  check_text(layer, "layer")
  check_text(style, "style", null = TRUE)
  with_backdrop(
    sheet,
    "tiles",
    list(name = name, attribution = attribution, link = link, opacity = opacity, over = over),
    list(capabilities = capabilities, layer = layer, style = style)
  )
}

#' @rdname lay_tiles
#' @param file Path of a PNG or JPEG file (for figures with package png or jpeg), which becomes a
#'   part of the page, or with `corners` its address (`http`, `https`), which each reader's
#'   browser then asks for: one text.
#' @param corners Where the picture's outer corners lie: four pairs of longitude and latitude,
#'   from the upper left one clockwise, as a list or as eight numbers.
#' @param world Path of a world file, which says where pixels lie; `NULL` (default) looks beside
#'   the picture for one of the same name (`.pgw`, `.jgw`, `.wld` …).
#' @param system Reference system of the world file, such as `"EPSG:25832"`; `NULL` (default) for
#'   degrees. Others than degrees need package PROJ.
#' @export
lay_picture <- function(sheet, file, attribution, corners = NULL, world = NULL, system = NULL,
                        name = NULL, link = NULL, opacity = 1, over = FALSE) {
  refuse_missing(missing(attribution), "attribution", rlang::current_env())
  check_sheet(sheet)
  check_text(file, "file")
  check_text(world, "world", null = TRUE)
  corners <- check_corners(corners)
  if (has_pattern(file, "^[a-z]+://")) {
    check_tile_address(file, "file")
    if (is.null(corners)) {
      ochre_abort("argument", "A picture with an address needs `corners`.",
                  "Say where its four corners lie, or fetch it first.", arg = "corners")
    }
  }
  if (!is.null(corners) && (!is.null(world) || !is.null(system))) {
    ochre_abort("argument", "`corners` cannot go with `world` or `system`.",
                "Corners are degrees; leave out one of them.", arg = "corners")
  }
  with_backdrop(
    sheet,
    "picture",
    list(name = name, attribution = attribution, link = link, opacity = opacity, over = over),
    list(file = file, corners = corners, world = world, system = check_system(system))
  )
}

#' @rdname lay_tiles
#' @export
lay_plain <- function(sheet, name = NULL) {
  check_sheet(sheet)
  check_text(name, "name", null = TRUE)
  sheet$backdrops <- c(
    sheet$backdrops,
    list(list(kind = "plain", name = backdrop_name(sheet, name, "plain")))
  )
  sheet
}

# `about` has `name`, `attribution`, `link`, `opacity` and `over`, `what` the fields of its kind.
with_backdrop <- function(sheet, kind, about, what, call = rlang::caller_env()) {
  name <- about$name
  attribution <- about$attribution
  link <- about$link
  opacity <- about$opacity
  check_text(name, "name", null = TRUE, call = call)
  check_text(attribution, "attribution", call = call)
  if (!nzchar(trimws(attribution))) {
    ochre_abort("argument", "`attribution` is empty.",
                "Say whose it is; readers have a right to know.", arg = "attribution")
  }
  check_text(link, "link", null = TRUE, call = call)
  if (!is.null(link)) link <- check_tile_address(link, "link", character(), call)
  check_number(opacity, "opacity", min = 0.1, max = 1, call = call)
  check_flag(about$over, "over", call = call)
  place <- if (about$over) "overlays" else "backdrops"
  sheet[[place]] <- c(
    sheet[[place]],
    list(c(
      list(
        kind = kind,
        name = backdrop_name(sheet, name, kind),
        attribution = attribution,
        link = link,
        opacity = opacity
      ),
      what
    ))
  )
  sheet
}

backdrop_name <- function(sheet, name, kind) {
  name %||% sheet$locale$page[[kind]]
}

check_corners <- function(corners, call = rlang::caller_env()) {
  if (is.null(corners)) return(NULL)
  corners <- unlist(corners)
  good <- is.numeric(corners) && length(corners) == 8 && all(is.finite(corners))
  place <- if (good) matrix(corners, 4, byrow = TRUE)
  if (!good || any(abs(place[, 1]) > 360 | abs(place[, 2]) > 90)) {
    ochre_abort(
      "argument", "`corners` must be four pairs of longitude and latitude in degrees.",
      paste0("From the upper left corner clockwise, for example list(c(-41, 48), c(-36, 48), ",
             "c(-36, 45), c(-41, 45))."), arg = "corners"
    )
  }
  # Twice the area of the shape: corners on one line hold no picture.
  turn <- sum(place[, 1] * place[c(2:4, 1), 2] - place[c(2:4, 1), 1] * place[, 2])
  if (abs(turn) < 1e-12) {
    ochre_abort("argument", "`corners` lie on one line.",
                "Look whether longitude and latitude of each are in this order.", arg = "corners")
  }
  place
}
