# For tests of backdrops.

land <- function() read_boundaries(ochre_demo("districts.geojson"))
under <- function(...) map_sheet("T", ...)
content <- function(plan) jsonlite::fromJSON(write_json(plan_content(plan)), simplifyVector = FALSE)

# Web Mercator by the formulas of EPSG's Guidance Note 7-2 (method 1024), apart from the package's
# code.
mercator <- function(lon, lat) {
  cbind(6378137 * lon * pi / 180, 6378137 * log(tan(pi / 4 + lat * pi / 360)))
}

picture <- function(width = 40, height = 20, folder = tempfile("ochre-picture-")) {
  dir.create(folder)
  path <- file.path(folder, "plan.png")
  png::writePNG(array(runif(3 * width * height), c(height, width, 3)), path)
  path
}

capabilities <- function(change = identity) {
  path <- tempfile(fileext = ".xml")
  writeLines(change(demo_capabilities("https://w.example")), path)
  path
}
