# For tests of the command `ochre build`.

# A made-up island of twelve squares in three regions, with a table of counts.
island <- function(sheet = character(), counts = seq(10, 120, by = 10)) {
  folder <- tempfile("ochre-island-")
  dir.create(folder)
  squares <- vapply(1:12, function(k) {
    x <- (k - 1) %% 4
    y <- (k - 1) %/% 4
    sprintf(
      paste0(
        "{\"type\":\"Feature\",\"properties\":{\"code\":\"0%d\",\"region\":\"%s\"},\"geometry\":",
        "{\"type\":\"Polygon\",\"coordinates\":[[[%d,%d],[%d,%d],[%d,%d],[%d,%d],[%d,%d]]]}}"
      ),
      100 + k, c("North Bay", "\u00d6st", "South/West")[y + 1],
      x, y, x + 1, y, x + 1, y + 1, x, y + 1, x, y
    )
  }, "")
  text <- sprintf("{\"type\":\"FeatureCollection\",\"features\":[%s]}",
                  paste(squares, collapse = ","))
  writeLines(enc2utf8(text), file.path(folder, "island.geojson"), useBytes = TRUE)
  write_counts(folder, counts)
  writeLines(enc2utf8(c(
    "ochre: 1", "title: Cases in $(region), $(year)", "values: {year: 2031, low: 0}",
    "each: {region: {file: island.geojson, column: region}}",
    "tables:",
    "  areas:", "    - read_boundaries: {file: island.geojson}",
    "    - keep_where: {column: region, is: $(region)}",
    "  cases:", "    - read_statistics: {file: counts.csv}",
    "  joined:",
    "    - join_statistics: {boundaries: areas, statistics: cases, by: {code: code}}",
    "layers:", "  - shade_areas: {data: joined, value: cases, legend: Cases}",
    "publish: [$(region)-$(year).html, $(region)-$(year).svg]", sheet
  )), file.path(folder, "map.ochre.yml"), useBytes = TRUE)
  folder
}
write_counts <- function(folder, counts) {
  lines <- sprintf("0%d,%s", 100 + seq_along(counts), counts)
  writeLines(c("code,cases", lines), file.path(folder, "counts.csv"))
}
build <- function(folder, ..., env = character()) {
  processx::run(
    "Rscript", c(command_file(), "build", "map.ochre.yml", ...),
    wd = folder, error_on_status = FALSE, encoding = "UTF-8",
    env = c("current", R_LIBS = Sys.getenv("R_LIBS"), env)
  )
}
command_file <- function() system.file("bin", "ochre", package = "ochre")
made <- function(folder) sort(list.files(folder, "[.](html|svg)$"))
hashes <- function(folder) unname(tools::md5sum(file.path(folder, made(folder))))
