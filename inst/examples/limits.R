# Three classes, one limit moved: what changed, as a table and as two maps.
library(ochre)
areas <- read_boundaries(ochre_demo("districts.geojson"))
areas <- share_of(areas, population_65_plus, population, name = "old")
before <- steps_at(c(0, 0.22, 0.28, 1), labels = c("young", "mixed", "old"))
after <- steps_at(c(0, 0.22, 0.3, 1), labels = c("young", "mixed", "old"))
class_by <- function(steps) {
  fitted <- fit_steps(areas$old, steps)
  factor(fitted$labels[class_of(fitted, areas$old)], fitted$labels)
}
print(table(before = class_by(before), after = class_by(after)))
print(areas$name[class_by(before) != class_by(after)])
for (name in c("before", "after")) {
  map_sheet(paste("People over 64, limits", name)) |>
    shade_areas(areas, old, get(name), format = number_format(percent = TRUE)) |>
    publish(paste0("limits-", name, ".png"))
}
