# Maps of many regions: two daemons beside one process, in turn.
source("bench.R")
command <- system.file("bin", "ochre", package = "ochre")
folder <- tempfile("ochre-each-")
dir.create(folder)
regions <- size(500, 4)
side <- 20
# Each region is a square of 9 areas.
at <- expand.grid(x = 0:2, y = 0:2, region = seq_len(regions) - 1)
x <- at$x + 3 * (at$region %% side)
y <- at$y + 3 * (at$region %/% side)
corner <- function(dx, dy) sprintf("[%.2f,%.2f]", (x + dx) / 4, (y + dy) / 4)
ring <- paste(corner(0, 0), corner(1, 0), corner(1, 1), corner(0, 1), corner(0, 0), sep = ",")
code <- sprintf("a%05d", seq_along(x))
writeLines(sprintf(
  "{\"type\":\"FeatureCollection\",\"features\":[%s]}",
  paste(sprintf(paste0(
    "{\"type\":\"Feature\",\"properties\":{\"code\":\"%s\",\"region\":\"r%03d\"},\"geometry\":",
    "{\"type\":\"Polygon\",\"coordinates\":[[%s]]}}"
  ), code, at$region, ring), collapse = ",")
), file.path(folder, "areas.geojson"))
set.seed(4)
write.csv(data.frame(code, rate = round(rnorm(length(x), 50, 9), 1)),
          file.path(folder, "rates.csv"), row.names = FALSE)
writeLines(c(
  "ochre: 1", "title: Rates in $(region)",
  "each: {region: {file: areas.geojson, column: region}}",
  "tables:",
  "  areas:", "    - read_boundaries: {file: areas.geojson}",
  "    - keep_where: {column: region, is: $(region)}",
  "  rates:", "    - read_statistics: {file: rates.csv}",
  "  joined:",
  "    - join_statistics: {boundaries: areas, statistics: rates, by: {code: code}}",
  "layers:", "  - shade_areas: {data: joined, value: rate, legend: Rate}",
  "publish: $(region).html"
), file.path(folder, "map.ochre.yml"))
build <- function(jobs) {
  function() {
    status <- system2("Rscript", c(
      command, "build", file.path(folder, "map.ochre.yml"), "--fresh", "--quiet", "--jobs", jobs
    ), stdout = FALSE, stderr = FALSE)
    stopifnot(status == 0, length(list.files(folder, "[.]html$")) == regions)
  }
}
times <- by_turns(one = build(1), two = build(2), runs = 1)
report(sprintf("%d maps on two daemons", regions), median_ratio(times, "two", "one"),
       "one process", 0.59, seconds(times, "two"))
