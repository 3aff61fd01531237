# An SVG whose areas can be found: each has an id from its layer and code, and its hover text as a title.

# Only areas are drawn as paths, in the order of their layers and rows; ids are given when their number agrees.
name_shapes <- function(path, plan) {
  svg <- xml2::read_xml(path, options = "HUGE")
  shapes <- xml2::xml_find_all(svg, "//*[local-name() = 'path']")
  at <- which(vapply(plan$layers[vapply(plan$layers, function(l) l$kind %in% c("areas", "lines"), NA)], function(l) l$kind == "areas", NA))
  areas <- Filter(function(l) l$kind == "areas", plan$layers)
  rows <- lapply(at, function(k) unique(paths_core(plan$topology, k)$feature))
  panels <- max(1L, length(plan$panels))
  names <- unlist(lapply(seq_along(areas), function(i) lapply(seq_len(panels), function(p) shape_ids(areas[[i]], rows[[i]], if (panels > 1) p))))
  titles <- unlist(lapply(seq_along(areas), function(i) lapply(seq_len(panels), function(p) (areas[[i]]$hover %||% areas[[i]]$panels[[p]]$hover)[rows[[i]]])))
  if (length(shapes) != length(names)) return(invisible())
  xml2::xml_set_attr(shapes, "id", names)
  for (i in which(!is.na(titles))) xml2::xml_set_text(xml2::xml_add_child(shapes[[i]], "title"), titles[i])
  xml2::xml_set_attr(xml2::xml_root(svg), "role", "img")
  xml2::xml_set_attr(xml2::xml_root(svg), "aria-label", plan$alt)
  xml2::write_xml(svg, path)
}

# Letters, digits, - and _ only; doubled codes are told apart by their row.
shape_ids <- function(layer, rows, panel) {
  key <- gsub("[^A-Za-z0-9_-]+", "-", (layer$codes %||% layer$names %||% as.character(seq_along(layer$class)))[rows])
  key[is.na(key)] <- rows[is.na(key)]
  twice <- duplicated(key) | duplicated(key, fromLast = TRUE)
  key[twice] <- paste0(key[twice], "-row-", rows[twice])
  paste(c(layer$id, if (!is.null(panel)) paste0("map-", panel)), collapse = "-") |> paste0("-", key)
}
