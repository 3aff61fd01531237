# Writing a map to a file: whole or not at all.

#' Publish a map
#'
#' @param sheet A sheet from [map_sheet()], a plan from [resolve_sheet()], or two linked maps from
#'   [link_maps()], which are a page only.
#' @param file Where to: a path that ends in `.html` (one page that needs no server and no
#'   network), `.png`, `.svg` or `.pdf`, or in a slash for a folder ([publish_folder()]). An
#'   existing file is replaced only when the new one is complete.
#' @param width,height Size of a figure in inches: one number each; `NULL` (default) as
#'   [figure_style()] says, 8 inches wide and as high as the map's shape asks for. Pages fit
#'   themselves to the reader's screen.
#' @param dpi Dots per inch of a PNG: one number.
#' @param budget Size that a page may have: a number of bytes or a text such as `"500 kB"`; `NULL`
#'   (default) for any. Borders are made lighter, as [simplify_boundaries()] does it, until it fits.
#'   Of a folder it is the size of a page with its script, style and data.
#' @return The path, invisibly.
#' @section Errors: `ochre_error_budget` when not even the lightest page fits; `ochre_error_file`
#' when the file cannot be written or its ending is not known;
#'   `ochre_error_argument`; the errors of [resolve_sheet()].
#' @examples
#' areas <- read_boundaries(ochre_demo("districts.geojson"))
#' areas <- rate_per(areas, population_65_plus, population, 100, name = "share")
#' sheet <- map_sheet("People over 64, in percent") |> shade_areas(areas, share)
#' publish(sheet, file.path(tempdir(), "map.html"))
#' @export
publish <- function(sheet, file, width = NULL, height = NULL, dpi = 200, budget = NULL) {
  plain_numbers()
  refuse_missing(missing(sheet), "sheet", rlang::current_env())
  check_text(file, "file")
  check_number(width, "width", min = 1.5, max = 100, null = TRUE)
  check_number(height, "height", min = 1, max = 100, null = TRUE)
  check_number(dpi, "dpi", min = 30, max = 1200)
  kind <- publish_kind(file)
  bytes <- if (!is.null(budget)) check_bytes(budget, "budget")
  if (inherits(sheet, "ochre_linked")) return(publish_linked(sheet, file, kind, bytes))
  size <- list(width = width, height = height, dpi = dpi, bytes = bytes)
  publish_plan(sheet, resolve_sheet(sheet), file, size)
}

# `plan` is that of the sheet; `size` has `width` and `height` in inches and `dpi` of a figure, and
# the `bytes` that a page may have: NULL for what is not said.
publish_plan <- function(sheet, plan, file, size) {
  kind <- publish_kind(file)
  page <- kind %in% c("html", "folder")
  # Of a map in sections a reader loads a little at a time.
  apart <- kind == "folder" && !is.null(sectioned_layer(plan, NULL))
  if (page && !apart && !is.null(size$bytes)) plan <- fit_budget(plan, size$bytes)
  if (kind == "html") tell_of_sections(plan)
  switch(kind,
    folder = write_maps(list(index = sheet), list(index = plan), new_site(file)),
    html = write_whole(file, function(path) write_page(plan, path), kind),
    write_whole(file, function(path) write_figure(plan, path, kind, size), kind)
  )
  invisible(file)
}

write_figure <- function(plan, path, kind, size) {
  own <- plan$style$figure$mm / 25.4
  # A height that was asked for goes with its width.
  tall <- size$height %||% if (is.null(size$width) && length(own) == 2) {
    own[2]
  } else {
    figure_height(plan, size$width %||% own[1])
  }
  paper <- list(width = size$width %||% own[1], height = tall, dpi = size$dpi %||% 200)
  # A PDF writes the zone of its moment, whose length differs.
  in_utc(draw_figure(plan, path, kind, paper, figure_layout(plan, size$width)))
}

in_utc <- function(code) {
  zone <- Sys.getenv("TZ", NA)
  Sys.setenv(TZ = "UTC")
  on.exit(if (is.na(zone)) Sys.unsetenv("TZ") else Sys.setenv(TZ = zone))
  code
}

publish_linked <- function(linked, file, kind, bytes, call = rlang::caller_env()) {
  if (kind != "html") {
    ochre_abort("argument", "Linked maps are a page, and no figure.",
                "End the path in `.html`, or publish each of them.", arg = "file")
  }
  if (!is.null(bytes)) linked <- fit_budget(linked, bytes, call)
  write_whole(file, function(path) write_page(linked, path), kind)
  invisible(file)
}

publish_kinds <- c("html", "png", "svg", "pdf")

# A path that ends in a slash is a folder.
publish_kind <- function(file, call = rlang::caller_env()) {
  if (grepl("[/\\\\]$", file)) return("folder")
  kind <- lower_case(sub("^.*\\.([^./\\\\]+)$", "\\1", file))
  if (!kind %in% publish_kinds) {
    ochre_abort(
      "file", "`{file}` does not end in a format that Ochre writes.",
      sprintf(
        "End it in %s, or in a slash for a folder.",
        list_words(paste0(".", publish_kinds), mark = "`")
      )
    )
  }
  if (kind == "svg") {
    for (package in c("svglite", "xml2")) need_package(package, "Writing SVG", call)
  }
  kind
}

# `paper` has `width` and `height` in inches, and `dpi`.
draw_figure <- function(plan, path, kind, paper, at) {
  background <- if (plan$style$figure$transparent) "transparent" else plan$inks$ground
  width <- paper$width
  height <- paper$height
  switch(kind,
    png = ragg::agg_png(
      path,
      width,
      height,
      units = "in",
      res = paper$dpi,
      background = background
    ),
    svg = svglite::svglite(path, width, height, bg = background),
    pdf = grDevices::cairo_pdf(path, width, height, bg = background)
  )
  device <- grDevices::dev.cur()
  on.exit(grDevices::dev.off(device))
  grid::grid.newpage()
  at$svg <- kind == "svg"
  draw_paper(plan, at, figure_family())
  grDevices::dev.off(device)
  on.exit()
  stop_incomplete(path, kind)
  if (kind == "pdf") forget_date(path)
  if (kind == "svg") name_shapes(path, plan)
}

# A PDF without the moment when it was written, so that the same map is the same file: blanks in its
# place keep all offsets.
forget_date <- function(path) {
  bytes <- readBin(path, "raw", file.size(path))
  at <- grepRaw("/CreationDate \\(D:[0-9]{14}[^)]{0,8}\\)", bytes, all = TRUE, value = FALSE)
  for (from in at) {
    to <- from + which(bytes[from:length(bytes)] == charToRaw(")"))[1] - 1
    bytes[from:to] <- charToRaw(" ")
  }
  writeBin(bytes, path)
}
