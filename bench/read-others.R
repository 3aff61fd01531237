# read_boundaries() of the same areas as TopoJSON and as a shapefile, against reading the bytes.
args <- commandArgs(TRUE)
suppressMessages(library(ochre))
source(file.path("..", "tests", "testthat", "helper-files.R"))
`%||%` <- function(a, b) if (is.null(a)) b else a
areas <- read_boundaries(args[1])
topo <- tempfile(fileext = ".topojson")
write_boundaries(areas, topo, digits = 6)
stem <- file.path(tempfile(), "areas")
dir.create(dirname(stem))
rings <- lapply(unclass(areas$geometry), function(g) {
  p <- wk::wk_coords(wk::new_wk_wkb(list(g)))
  cbind(p$x, p$y)[rev(seq_len(nrow(p))), ]
})
writeBin(shp_bytes(lapply(rings, function(r) polygon_record(list(r)))), paste0(stem, ".shp"))
writeBin(
  dbf_bytes(
    list(list(name = "CODE", type = "C", width = 6, values = as.list(areas$code))),
    nrow(areas)
  ),
  paste0(stem, ".dbf")
)
for (file in c(topo, paste0(stem, ".shp"))) {
  invisible(read_boundaries(file))
  pairs <- vapply(
    1:5,
    function(i) {
      gc(full = TRUE)
      c(
        system.time(readBin(file, "raw", file.size(file)))[["elapsed"]],
        system.time(read_boundaries(file))[["elapsed"]]
      )
    },
    c(0, 0)
  )
  cat(sprintf(
    "%s, %.0f MB: bytes %.3f s, read_boundaries() %.3f s, ratio, median of 5 pairs: %.1f\n",
    tools::file_ext(file),
    file.size(file) / 1e6,
    stats::median(pairs[1, ]),
    stats::median(pairs[2, ]),
    stats::median(pairs[2, ] / pairs[1, ])
  ))
}
