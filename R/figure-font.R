# The letters of a published figure: one open sans family, the same in all its words and with
# figures of one width, wherever one is found.

open_families <- c("Open Sans", "Noto Sans", "Source Sans 3", "Liberation Sans", "DejaVu Sans")

# The first of them that is installed; "" for what the device takes by itself.
figure_family <- function() {
  found <- intersect(open_families, systemfonts::system_fonts()$family)
  c(found, "")[1]
}

# A figure whose words are in a family; those that are drawn with grid take it from the viewport.
in_family <- function(figure, family) {
  if (!nzchar(family)) return(figure)
  figure$layers <- lapply(figure$layers, function(layer) {
    if (!inherits(layer$geom, "GeomText")) return(layer)
    own <- ggplot2::ggproto(NULL, layer)
    own$aes_params$family <- family
    own
  })
  figure + ggplot2::theme(text = ggplot2::element_text(family = family))
}
