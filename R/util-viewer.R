# The built viewer that comes with Ochre.

viewer_folder <- function() system.file("htmlwidgets", "lib", "ochre", package = "ochre")

# Bytes of a page that do not depend on the map: script, style and frame.
page_overhead <- function() {
  sum(file.size(file.path(viewer_folder(), c("ochre-view.js", "ochre-view.css")))) + 1500
}
