# Writes a synthetic GeoJSON of areas: `Rscript make-areas.R FILE MEGABYTES`. Wiggly rings of a few
# hundred points on a grid, with a code, a name and three numbers each. Seeded.
args <- commandArgs(TRUE)
set.seed(1)
con <- file(args[1], "wb")
write <- function(text) writeBin(charToRaw(text), con)
write("{\"type\":\"FeatureCollection\",\"features\":[\n")
size <- 0
i <- 0
while (size < as.numeric(args[2]) * 1e6) {
  points <- sample(100:900, 1)
  turn <- seq(0, 2 * pi, length.out = points)
  radius <- 0.4 + 0.04 * cumsum(rnorm(points)) / sqrt(points)
  x <- (i %% 300) - 150 + radius * cos(turn)
  y <- (i %/% 300) %% 120 - 60 + radius * sin(turn)
  x[points] <- x[1]
  y[points] <- y[1]
  ring <- paste(sprintf("[%.6f,%.6f]", x, y), collapse = ",")
  feature <- sprintf(
    paste0(
      "%s{\"type\":\"Feature\",\"id\":%d,\"properties\":{\"code\":\"%06d\",\"name\":\"Area ",
      "%d\",\"people\":%d,\"share\":%.3f,\"coast\":%s},\"geometry\":{\"type\":\"Polygon\",",
      "\"coordinates\":[[%s]]}}"
    ),
    if (i) ",\n" else "",
    i,
    i,
    i,
    sample(1e6, 1),
    runif(1),
    sample(c("true", "false"), 1),
    ring
  )
  write(feature)
  size <- size + nchar(feature)
  i <- i + 1
}
write("\n]}\n")
close(con)
cat(sprintf("%s: %d areas, %.0f MB\n", args[1], i, file.size(args[1]) / 1e6))
