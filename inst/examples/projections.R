# One state's counties with labels, in six projections.
library(ochre)
counties <- read_boundaries(ochre_demo("counties.topojson.gz"))
counties <- counties[startsWith(counties$code, "11"), ]
for (projection in c(
  "azimuthal equal-area", "equal-area conic", "world equal-area", "transverse Mercator",
  "web Mercator", "equirectangular"
)) {
  map_sheet("Counties of a state", note = projection, projection = projection) |>
    shade_areas(counties) |>
    write_labels(counties, name, scale = 0.7) |>
    publish(paste0(gsub(" ", "-", projection), ".png"))
}
