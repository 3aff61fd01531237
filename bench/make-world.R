# Writes a world of 240 countries of very different sizes, some of many islands:
# `Rscript make-world.R FILE`. Seeded.
args <- commandArgs(TRUE)
set.seed(7)
blob <- function(x, y, r, n) {
  turn <- seq(0, 2 * pi, length.out = n + 1)
  bumps <- 1 + 0.25 * rowSums(vapply(2:9, function(k) {
    sin(k * turn + stats::runif(1, 0, 6)) / k
  }, turn))
  ring <- cbind(x + r * bumps * cos(turn), y + 0.7 * r * bumps * sin(turn))
  ring[n + 1, ] <- ring[1, ]
  sprintf("[[%s]]", paste(sprintf("[%.4f,%.4f]", ring[, 1], ring[, 2]), collapse = ","))
}
features <- vapply(seq_len(240), function(i) {
  x <- (i - 1) %% 20 * 17 - 160
  y <- (i - 1) %/% 20 * 10 - 52
  parts <- if (i %% 9) 1 else 12
  shapes <- vapply(seq_len(parts), function(p) {
    blob(
      x + (p > 1) * stats::runif(1, -6, 6), y + (p > 1) * stats::runif(1, -3, 3),
      if (p == 1) stats::runif(1, 0.3, 6) else 0.2, if (p == 1) 200 else 20
    )
  }, "")
  sprintf(
    paste0(
      "{\"type\":\"Feature\",\"properties\":{\"code\":\"C%03d\",\"name\":\"Country %d\"},",
      "\"geometry\":{\"type\":\"MultiPolygon\",\"coordinates\":[%s]}}"
    ),
    i, i, paste(shapes, collapse = ",")
  )
}, "")
text <- paste(features, collapse = ",\n")
writeLines(paste0("{\"type\":\"FeatureCollection\",\"features\":[\n", text, "\n]}"), args[1])
