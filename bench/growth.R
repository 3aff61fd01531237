# How time grows with size: each work at four sizes, each twice the one before, and the power that
# fits. n log n is about 1.05; a power of 2 would be a loop in a loop.
source("bench.R")
suppressMessages(library(ochre))
options(
  ochre.quiet = c("unmatched", "missing", "reading", "counts", "symbols", "empty", "overlap"),
  ochre.cores = 1
)
set.seed(6)

# Squares on a grid, n of them, as text of a GeoJSON.
squares <- function(n, code = sprintf("%06d", seq_len(n))) {
  side <- ceiling(sqrt(n))
  x <- (seq_len(n) - 1) %% side * 0.01
  y <- (seq_len(n) - 1) %/% side * 0.01
  corner <- function(i, j) sprintf("[%.3f,%.3f]", x + i, y + j)
  ring <- paste(
    corner(0, 0), corner(0.01, 0), corner(0.01, 0.01), corner(0, 0.01), corner(0, 0),
    sep = ","
  )
  file <- tempfile(fileext = ".geojson")
  features <- sprintf(
    paste0(
      "{\"type\":\"Feature\",\"properties\":{\"code\":\"%s\",\"region\":\"%d\",\"v\":%d},",
      "\"geometry\":{\"type\":\"Polygon\",\"coordinates\":[[%s]]}}"
    ),
    code, seq_len(n) %/% 40, seq_len(n), ring
  )
  text <- paste(features, collapse = ",")
  writeLines(paste0("{\"type\":\"FeatureCollection\",\"features\":[", text, "]}"), file)
  file
}
areas_of <- function(n) suppressMessages(read_boundaries(squares(n)))
places_of <- function(n) {
  data.frame(
    name = sprintf("Place %d", seq_len(n)), longitude = stats::runif(n, 0, 3),
    latitude = stats::runif(n, 0, 3), beds = stats::rpois(n, 40)
  )
}
town <- function(n) {
  vapply(seq_len(n), function(i) paste(sample(letters, 9, TRUE), collapse = ""), "")
}
quietly <- function(code) suppressWarnings(suppressMessages(code))

# Of each: the least size, what is made, and what is timed.
works <- list(
  "reading boundaries" = list(size(20000, 200), squares, function(f) read_boundaries(f)),
  "resolving areas" = list(size(10000, 100), areas_of, function(a) {
    resolve_sheet(map_sheet("T") |> shade_areas(a, v))
  }),
  "joining" = list(size(20000, 200), function(n) {
    codes <- sprintf("%06d", seq_len(n))
    list(areas = areas_of(n), rows = data.frame(code = sample(codes), w = stats::runif(n)))
  }, function(x) join_statistics(x$areas, x$rows, by = "code")),
  "keys that appear again and again" = list(size(20000, 200), function(n) {
    list(
      areas = areas_of(200),
      rows = data.frame(code = sprintf("%06d", sample(200, n, TRUE)), w = stats::runif(n))
    )
  }, function(x) join_statistics(x$areas, sum_areas(x$rows, w, by = code), by = "code")),
  "suggestions for names" = list(size(2500, 50), function(n) {
    known <- town(n)
    areas <- areas_of(n)
    areas$name <- known
    lost <- sub("a|e|i|o", "u", known)
    list(areas = areas, rows = data.frame(name = lost, w = seq_len(n)))
  }, function(x) format(join_audit(join_statistics(x$areas, x$rows, by = "name")))),
  "merging parts" = list(size(6250, 100), areas_of, function(a) merge_areas(a, by = region)),
  "displaced symbols" = list(size(1000, 50), places_of, function(p) {
    resolve_sheet(map_sheet("T") |> place_symbols(p, beds, overlap = "move"))
  }),
  "labels" = list(size(1000, 50), places_of, function(p) {
    resolve_sheet(map_sheet("T") |> place_symbols(p, beds) |> write_labels(p, name))
  }),
  "layers of a sheet" = list(size(6, 2), identity, function(n) {
    a <- read_boundaries(ochre_demo("districts.geojson"))
    sheet <- map_sheet("T")
    for (k in seq_len(n)) sheet <- shade_areas(sheet, a, population)
    resolve_sheet(sheet)
  }),
  "natural steps" = list(size(50000, 1000), function(n) stats::rlnorm(n), function(x) {
    fit_steps(x, steps_natural(7))
  }),
  "standardised rates" = list(size(50000, 500), function(n) {
    rows <- data.frame(
      age = rep(1:10, length.out = n), area = seq_len(n) %/% 10, cases = stats::rpois(n, 3)
    )
    transform(rows, people = cases + 500)
  }, function(rows) {
    standard <- data.frame(age = 1:10, population = 10:1)
    standardise_rate(rows, cases, people, age, area, standard = standard)
  })
)
for (name in names(works)) {
  work <- works[[name]]
  sizes <- work[[1]] * 2^(0:3)
  took <- vapply(sizes, function(n) {
    input <- quietly(work[[2]](n))
    quietly(work[[3]](input))
    min(vapply(seq_len(size(3, 1)), function(i) clock(quietly(work[[3]](input))), 0))
  }, 0)
  power <- stats::coef(stats::lm(log(pmax(took, 1e-3)) ~ log(sizes)))[[2]]
  report(
    paste0(name, ", growth"), power, "size, as a power", 1.2,
    sprintf("%s: %s s", format(max(sizes), big.mark = ","), paste(round(took, 3), collapse = ", "))
  )
}
