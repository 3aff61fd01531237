# Files as other programs write them, byte by byte, and odd ones. None of this calls Ochre.

be <- function(x) writeBin(as.integer(x), raw(), 4, endian = "big")
le <- function(x) writeBin(as.integer(x), raw(), 4, endian = "little")
real <- function(x) writeBin(as.numeric(x), raw(), 8, endian = "little")

# Rings as matrices of x, y; NULL is a shape without geometry.
polygon_record <- function(rings) {
  if (is.null(rings)) return(le(0))
  points <- do.call(rbind, rings)
  starts <- cumsum(c(0, vapply(rings, nrow, 0L)))[seq_along(rings)]
  c(le(5), real(c(min(points[, 1]), min(points[, 2]), max(points[, 1]), max(points[, 2]))), le(length(rings)), le(nrow(points)), le(starts), real(t(points)))
}
shp_bytes <- function(records, type = 5) {
  body <- unlist(Map(function(r, i) c(be(i), be(length(r) / 2), r), records, seq_along(records)))
  c(be(9994), be(rep(0, 5)), be((100 + length(body)) / 2), le(1000), le(type), real(rep(0, 8)), body)
}
box_ring <- function(x0, y0, x1, y1, clockwise = TRUE) {
  ring <- cbind(c(x0, x0, x1, x1, x0), c(y0, y1, y1, y0, y0))
  if (clockwise) ring else ring[5:1, ]
}

# Fields: a list of list(name, type, width, values as text of raw bytes).
dbf_bytes <- function(fields, n, language = 0) {
  pad <- function(x, width, left = FALSE) {
    bytes <- if (is.raw(x)) x else charToRaw(x)
    blank <- rep(as.raw(0x20), max(0, width - length(bytes)))
    utils::head(if (left) c(blank, bytes) else c(bytes, blank), width)
  }
  heads <- unlist(lapply(fields, function(f) c(utils::head(c(charToRaw(f$name), raw(11)), 11), charToRaw(f$type), raw(4), as.raw(f$width), as.raw(f$digits %||% 0), raw(14))))
  width <- 1 + sum(vapply(fields, function(f) f$width, 0))
  u16 <- function(x) writeBin(as.integer(x), raw(), 2, endian = "little")
  rows <- unlist(lapply(seq_len(n), function(i) c(as.raw(0x20), unlist(lapply(fields, function(f) pad(f$values[[i]], f$width, f$type %in% c("N", "F")))))))
  c(as.raw(c(3, 131, 5, 1)), le(n), u16(33 + length(heads)), u16(width), raw(17), as.raw(language), raw(2), heads, as.raw(0x0d), rows, as.raw(0x1a))
}

# A shapefile of a square with a hole that another square fills, and a row without shape.
write_shapefile <- function(stem, prj = NULL, cpg = NULL, language = 0, name = "Kör") {
  dir.create(dirname(stem), showWarnings = FALSE, recursive = TRUE)
  records <- lapply(list(list(box_ring(0, 0, 4, 4), box_ring(1, 1, 2, 2, FALSE), box_ring(6, 0, 7, 1)), list(box_ring(1, 1, 2, 2)), NULL), polygon_record)
  writeBin(shp_bytes(records), paste0(stem, ".shp"))
  fields <- list(list(name = "CODE", type = "C", width = 6, values = list("01", "02", "03")), list(name = "NAME", type = "C", width = 10, values = list(name, "B", "")),
                 list(name = "N", type = "N", width = 9, values = list("12", "****", "-3")), list(name = "SHARE", type = "F", width = 12, digits = 3, values = list("0.125", "", "1e3")),
                 list(name = "SINCE", type = "D", width = 8, values = list("20310501", "00000000", "        ")), list(name = "COAST", type = "L", width = 1, values = list("T", "?", "n")))
  writeBin(dbf_bytes(fields, 3, language), paste0(stem, ".dbf"))
  if (!is.null(prj)) writeLines(prj, paste0(stem, ".prj"))
  if (!is.null(cpg)) writeLines(cpg, paste0(stem, ".cpg"))
  stem
}

zip_files <- function(file, files, folder) {
  old <- setwd(folder)
  on.exit(setwd(old))
  utils::zip(file, files, flags = "-q")
  file
}

wkt_of <- function(x) as.character(wk::as_wkt(x$geometry))

# Rings start where they like and run as they like; areas are the same all the same.
same_areas <- function(a, b, tolerance = 1e-9) {
  expect_identical(nrow(a), nrow(b))
  expect_equal(areas_km2(a), areas_km2(b), tolerance = tolerance)
  corners <- function(x) lapply(unclass(x$geometry), function(g) if (is.null(g)) NULL else { p <- positions_core(list(g)); unique(round(p[order(p[, 1], p[, 2]), , drop = FALSE], 7)) })
  expect_equal(corners(a), corners(b), tolerance = tolerance)
}
