# read_boundaries() of the same areas as TopoJSON and as a shapefile, against reading the bytes.
args <- commandArgs(TRUE)
source("bench.R")
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
goals <- c(topojson = 6, shp = 6)
for (file in c(topo, paste0(stem, ".shp"))) {
  invisible(read_boundaries(file))
  times <- by_turns(
    bytes = function() readBin(file, "raw", file.size(file)),
    read = function() read_boundaries(file)
  )
  kind <- tools::file_ext(file)
  report(
    sprintf("%s read", c(topojson = "TopoJSON", shp = "shapefile")[[kind]]),
    median_ratio(times, "read", "bytes"),
    "reading its bytes",
    goals[[kind]],
    sprintf("%.0f MB, %s", file.size(file) / 1e6, seconds(times, "read"))
  )
}
