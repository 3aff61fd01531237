# Small inputs that many tests use. Squares are one degree wide; square(i) has its corner at i, 0.

square <- function(i, size = 1) {
  sprintf("[[[%g,0],[%g,0],[%g,1],[%g,1],[%g,0]]]", i, i + size, i + size, i, i)
}

geojson <- function(properties, geometry, file = temporary(".geojson")) {
  features <- sprintf(
    "{\"type\":\"Feature\",\"properties\":%s,\"geometry\":%s}",
    properties,
    geometry
  )
  writeLines(
    paste0("{\"type\":\"FeatureCollection\",\"features\":[", paste(features, collapse = ","), "]}"),
    file,
    useBytes = TRUE
  )
  file
}

squares_file <- function(codes, extra = "") {
  geojson(
    sprintf("{\"code\":\"%s\",\"name\":\"Area %s\"%s}", codes, codes, extra),
    sprintf("{\"type\":\"Polygon\",\"coordinates\":%s}", vapply(seq_along(codes) - 1, square, ""))
  )
}

squares <- function(codes, extra = "") {
  file <- squares_file(codes, extra)
  on.exit(unlink(file))
  read_boundaries(file)
}

temporary <- function(ext) tempfile("ochre-test-", fileext = ext)

write_file <- function(text, ext = ".csv", encoding = "UTF-8") {
  file <- temporary(ext)
  bytes <- if (is.raw(text)) {
    text
  } else if (encoding == "UTF-8") {
    charToRaw(enc2utf8(text))
  } else {
    iconv(text, "UTF-8", encoding, toRaw = TRUE)[[1]]
  }
  writeBin(bytes, file)
  file
}

# The columns of a table as a plain list.
columns_of <- function(x) lapply(unclass(x), function(column) column)[names(x)]

quietly <- function(code) suppressMessages(suppressWarnings(code))
# All warnings but one kind are kept back.
quietly_but <- function(class, code) {
  suppressMessages(withCallingHandlers(code, warning = function(w) {
    if (!inherits(w, class)) invokeRestart("muffleWarning")
  }))
}

# The demo's joined table and sheet, made once.
demo_rates <- local({
  made <- NULL
  function() {
    if (is.null(made)) {
      made <<- quietly({
        areas <- read_boundaries(ochre_demo("districts.geojson"))
        totals <- sum_areas(read_statistics(ochre_demo("visits.csv")), visits, by = district)
        rate_per(
          join_statistics(areas, totals, by = c(code = "district"), match = "tidied"),
          visits,
          population
        )
      })
    }
    made
  }
})
demo_plan <- local({
  made <- NULL
  function() {
    if (is.null(made)) made <<- quietly(resolve_sheet(read_sheet(ochre_demo("map.ochre.yml"))))
    made
  }
})

# Area of each of n features as it is drawn, from the plan's paths.
area_sizes <- function(topology, at, n) {
  p <- paths_core(topology, at)
  last <- c(p$ring[-1] != p$ring[-length(p$ring)], TRUE)
  ring <- tapply(ifelse(last, 0, p$x * c(p$y[-1], 0) - c(p$x[-1], 0) * p$y), p$ring, sum) / 2
  first <- !duplicated(p$ring)
  rowsum_by(
    ifelse(duplicated(p$part[first]), -1, 1) * abs(ring),
    factor(p$feature[first], seq_len(n))
  )
}

# Runs code as if a package were not installed.
without <- function(package, code) {
  ns <- asNamespace("ochre")
  old <- ns$has_package
  put <- function(f) {
    unlockBinding("has_package", ns)
    assign("has_package", f, ns)
    lockBinding("has_package", ns)
  }
  on.exit(put(old))
  put(function(p) p != package && old(p))
  code
}

# A picture as colour values, and how much of it has one colour.
pixels <- function(file) round(255 * png::readPNG(file)[, , 1:3])
share_of_colour <- function(image, colour) {
  rgb <- grDevices::col2rgb(colour)
  mean(image[, , 1] == rgb[1] & image[, , 2] == rgb[2] & image[, , 3] == rgb[3])
}

# All that a session of its own prints, on both streams.
printed_by <- function(code) {
  script <- tempfile(fileext = ".R")
  on.exit(unlink(script))
  writeLines(code, script)
  system2(file.path(R.home("bin"), "Rscript"), c("--vanilla", script), stdout = TRUE, stderr = TRUE)
}

districts <- function() read_boundaries(ochre_demo("districts.geojson"))
