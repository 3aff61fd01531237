# Writes areas that share borders, a wiggly grid, as GeoJSON:
# `Rscript make-grid.R FILE AREAS VERTICES`. Seeded.
args <- commandArgs(TRUE)
set.seed(2)
side <- ceiling(sqrt(as.numeric(args[2])))
m <- max(2, round(as.numeric(args[3]) / as.numeric(args[2]) / 4))  # vertices of one edge
cell <- 8 / side
corner <- function(v) v + runif(length(v), -0.2, 0.2) * cell
gx <- corner(matrix(rep(seq(0, 8, length.out = side + 1), side + 1), side + 1))
gy <- corner(matrix(rep(seq(44, 52, length.out = side + 1), each = side + 1), side + 1))
# One edge from a to b with a bend of its own; kept, so that both neighbours have the same one.
edge <- function(ax, ay, bx, by) {
  t <- seq(0, 1, length.out = m + 1)[-(m + 1)]
  off <- c(0, cumsum(rnorm(m - 1)) * (1 - t[-1])) * cell * 0.03
  cbind(ax + t * (bx - ax) - off * (by - ay) / cell, ay + t * (by - ay) + off * (bx - ax) / cell)
}
across <- lapply(seq_len(side * (side + 1)) - 1, function(k) {
  i <- k %% side + 1
  j <- k %/% side + 1
  edge(gx[i, j], gy[i, j], gx[i + 1, j], gy[i + 1, j])
})
upward <- lapply(seq_len(side * (side + 1)) - 1, function(k) {
  i <- k %% (side + 1) + 1
  j <- k %/% (side + 1) + 1
  edge(gx[i, j], gy[i, j], gx[i, j + 1], gy[i, j + 1])
})
back <- function(e, x, y) rbind(c(x, y), e[rev(seq_len(nrow(e)))[-nrow(e)], , drop = FALSE])
features <- vapply(
  seq_len(as.numeric(args[2])) - 1,
  function(k) {
    i <- k %% side + 1
    j <- k %/% side + 1
    ring <- rbind(
      across[[(j - 1) * side + i]],
      upward[[(j - 1) * (side + 1) + i + 1]],
      back(across[[j * side + i]], gx[i + 1, j + 1], gy[i + 1, j + 1]),
      back(upward[[(j - 1) * (side + 1) + i]], gx[i, j + 1], gy[i, j + 1])
    )
    ring <- rbind(ring, ring[1, ])
    sprintf(
      paste0(
        "{\"type\":\"Feature\",\"properties\":{\"code\":\"%05d\",\"name\":\"Area %d\",",
        "\"rate\":%.2f},\"geometry\":{\"type\":\"Polygon\",\"coordinates\":[[%s]]}}"
      ),
      k,
      k,
      exp(rnorm(1, 3)),
      paste(sprintf("[%.5f,%.5f]", ring[, 1], ring[, 2]), collapse = ",")
    )
  },
  ""
)
writeLines(
  paste0(
    "{\"type\":\"FeatureCollection\",\"features\":[\n",
    paste(features, collapse = ",\n"),
    "\n]}"
  ),
  args[1]
)
