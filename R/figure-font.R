# The letters of a published figure: one open sans family, the same in all its words and with
# figures of one width, wherever one is found.

open_families <- c("Open Sans", "Noto Sans", "Source Sans 3", "Liberation Sans", "DejaVu Sans")

# The first of them that is installed; "" for what the device takes by itself.
figure_family <- function() {
  found <- intersect(open_families, systemfonts::system_fonts()$family)
  c(found, "")[1]
}
