# An SVG whose areas can be found: each has an id from its layer and code, and its hover text as a
# title.

# Only areas are drawn as paths: map by map, in each layer by layer, in each area by area.
name_shapes <- function(path, plan) {
  svg <- xml2::read_xml(path, options = "HUGE")
  shapes <- xml2::xml_find_all(svg, "//*[local-name() = 'path']")
  at <- which(layers_are(plan$layers[layers_are(plan$layers, "outlines")], "shaded"))
  areas <- plan$layers[layers_are(plan$layers, "shaded")]
  rows <- lapply(at, function(k) unique(call_core(paths_core(plan$topology, k))$feature))
  panels <- max(1L, length(plan$panels))
  each <- function(make) {
    unlist(lapply(seq_len(panels), function(p) {
      lapply(seq_along(areas), function(i) make(areas[[i]], rows[[i]], p))
    }))
  }
  names <- each(function(layer, rows, p) shape_ids(layer, rows, if (panels > 1) p))
  titles <- each(function(layer, rows, p) (layer$hover %||% layer$panels[[p]]$hover)[rows])
  if (length(shapes) != length(names)) {
    return(ochre_warn(
      "svg",
      paste0("The areas of the SVG have no ids: it has {length(shapes)} paths, and the map ",
             "{length(names)} areas."),
      "The device may write shapes in a way of its own; look for a newer svglite."
    ))
  }
  xml2::xml_set_attr(shapes, "id", names)
  for (i in which(!is.na(titles))) {
    xml2::xml_set_text(xml2::xml_add_child(shapes[[i]], "title"), titles[i])
  }
  xml2::xml_set_attr(xml2::xml_root(svg), "role", "img")
  xml2::xml_set_attr(xml2::xml_root(svg), "aria-label", plan$alt)
  xml2::write_xml(svg, path)
}

# Letters, digits, - and _ only; doubled codes are told apart by their row.
shape_ids <- function(layer, rows, panel) {
  key <- gsub(
    "[^A-Za-z0-9_-]+",
    "-",
    (layer$codes %||% layer$names %||% as.character(seq_along(layer$class)))[rows]
  )
  key[is.na(key)] <- rows[is.na(key)]
  twice <- duplicated(key) | duplicated(key, fromLast = TRUE)
  key[twice] <- paste0(key[twice], "-row-", rows[twice])
  paste(c(layer$id, if (!is.null(panel)) paste0("map-", panel)), collapse = "-") |>
    paste0("-", key)
}
