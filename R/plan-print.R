# A plan as text.

#' @export
format.ochre_plan <- function(x, ...) {
  topology <- sprintf(
    "  topology: %s, %s",
    count_words(length(x$topology$arc_end), "arc"),
    count_words(length(x$topology$x), "point")
  )
  c(
    paste0("Plan: ", x$title),
    paste0("  projection: ", projection_words(x$projection)),
    vapply(x$insets, inset_line, ""),
    vapply(x$backdrops, backdrop_line, ""),
    topology,
    unlist(lapply(x$layers, layer_lines))
  )
}

#' @export
print.ochre_plan <- function(x, ...) {
  cat(format(x), sep = "\n")
  invisible(x)
}

inset_line <- function(inset) {
  label <- if (nzchar(inset$label)) inset$label else "at the map's scale"
  sprintf("  inset: %s, %s", label, projection_words(inset$projection))
}

backdrop_line <- function(b) {
  more <- switch(b$kind,
    plain = "",
    tiles = sprintf(
      ", tiles of %s in %s",
      origin_of(b$url),
      count_words(length(b$levels), "level")
    ),
    picture = sprintf(", a picture bent over %s", count_words(b$cells^2, "cell"))
  )
  sprintf("  backdrop: %s%s", b$name, more)
}

layer_lines <- function(layer) {
  head <- sprintf("  %s: %s", layer$kind, layer$legend %||% "(not in the legend)")
  if (!layer_is(layer, "shaded")) return(head)
  lost <- layer$no_data
  c(
    head,
    sprintf("    %s  %s  %d", layer$colours, layer$labels, layer$counts),
    if (lost$count) sprintf("    %s  %s  %d", lost$colour, lost$label, lost$count)
  )
}

projection_words <- function(p) {
  if (p$name == "web Mercator" && p$lon0 == 0) return(p$name)
  parallels <- if (p$name == "equal-area conic") {
    sprintf(
      ", standard parallels %s and %s",
      degrees_word(p$lat1, "N", "S"),
      degrees_word(p$lat2, "N", "S")
    )
  }
  centre <- paste(degrees_word(p$lat0, "N", "S"), degrees_word(p$lon0, "E", "W"))
  sprintf("%s, centre %s%s", p$name, centre, parallels %||% "")
}

#' @export
format.ochre_linked <- function(x, ...) {
  titles <- vapply(x$plans, function(p) p$title, "")
  sprintf("Two linked maps, \"%s\": \"%s\" and \"%s\".", x$title, titles[1], titles[2])
}

#' @export
print.ochre_linked <- function(x, ...) {
  cat(format(x), "\n", sep = "")
  invisible(x)
}
