# A zip of boundaries, made lighter, with a report of sizes.
library(ochre)
counties <- read_boundaries(ochre_demo("counties.topojson.gz"))
write_boundaries(counties, "counties.geojson")
utils::zip("counties.zip", "counties.geojson", flags = "-q")

full <- read_boundaries("counties.zip")
light <- simplify_boundaries(full, keep = 0.4)
write_boundaries(light, "counties.topojson")
sizes <- file.size(c("counties.geojson", "counties.zip", "counties.topojson"))
print(data.frame(
  file = c("GeoJSON", "the same, zipped", "TopoJSON, two fifths of the corners"),
  kilobytes = round(sizes / 1000),
  share = sprintf("%.0f %%", 100 * sizes / sizes[1])
))
