# Draws the made-up old chart of Orvane, inst/orvane/chart.png, and its world file: run
# `Rscript data-raw/make-chart.R` from the package's folder. The coast is drawn with few corners
# and an unsteady hand, and the sheet lay a little askew on the scanner.

set.seed(1871)
areas <- jsonlite::fromJSON("inst/orvane/districts.geojson", simplifyVector = FALSE)
rings <- do.call(
  c,
  lapply(areas$features, function(f) {
    g <- f$geometry
    if (is.null(g)) return(NULL)
    polygons <- if (g$type == "Polygon") list(g$coordinates) else g$coordinates
    lapply(polygons, function(p) matrix(as.numeric(unlist(p[[1]])), ncol = 2, byrow = TRUE))
  })
)
width <- 860
height <- 620
lon <- range(unlist(lapply(rings, function(r) r[, 1]))) + c(-0.35, 0.35)
lat <- range(unlist(lapply(rings, function(r) r[, 2]))) + c(-0.25, 0.25)
turn <- 2.5 * pi / 180  # askew

# A pixel's middle to degrees: x = right[1] c + down[1] r + first[1], and y likewise.
step_x <- diff(lon) / width / cos(turn) * 1.04
step_y <- diff(lat) / height / cos(turn) * 1.04
right <- c(step_x * cos(turn), step_y * sin(turn))
down <- c(step_x * sin(turn), -step_y * cos(turn))
first <- c(mean(lon), mean(lat)) - right * width / 2 - down * height / 2
pixel <- function(p) t(solve(cbind(right, down), rbind(p[, 1] - first[1], p[, 2] - first[2])))
world <- c(right, down, first)
writeLines(formatC(world, digits = 12, format = "g"), "inst/orvane/chart.pgw")

png("inst/orvane/chart.png", width, height, type = "cairo", antialias = "none")
par(mar = c(0, 0, 0, 0), xaxs = "i", yaxs = "i")
plot.new()
plot.window(c(0, width), c(height, 0))
rect(0, 0, width, height, col = hcl(75, 22, 93), border = NA)
corner <- function(x) round(x / 3) * 3
drawn <- lapply(rings, function(r) {
  keep <- unique(round(seq(1, nrow(r), length.out = max(8, nrow(r) %/% 4))))
  pixel(r[keep, ]) + rnorm(2 * length(keep), 0, 0.7)
})
for (wide in c(19, 13, 7)) {
  for (d in drawn) {
    polygon(
      d[, 1],
      d[, 2],
      border = hcl(230, 16, c(`19` = 89, `13` = 82, `7` = 74)[[as.character(wide)]]),
      lwd = wide
    )
  }
}
for (d in drawn) {
  polygon(d[, 1], d[, 2], col = hcl(70, 18, 88), border = hcl(60, 25, 66), lwd = 1)
}
grid_lon <- seq(floor(lon[1]), ceiling(lon[2]))
grid_lat <- seq(floor(lat[1]), ceiling(lat[2]))
for (g in grid_lon) {
  lines(pixel(cbind(g, seq(lat[1] - 1, lat[2] + 1, 0.1))), col = hcl(50, 20, 70), lwd = 0.7)
}
for (g in grid_lat) {
  lines(pixel(cbind(seq(lon[1] - 1, lon[2] + 1, 0.1), g)), col = hcl(50, 20, 70), lwd = 0.7)
}
rect(6, 6, width - 6, height - 6, border = hcl(50, 30, 40), lwd = 3)
rect(12, 12, width - 12, height - 12, border = hcl(50, 30, 40), lwd = 1)
text(
  width - 120, height - 122, "THE ISLES OF ORVANE", adj = 1, family = "serif", cex = 2.1,
  font = 2, col = hcl(50, 30, 30)
)
text(
  width - 120, height - 96, "from the soundings of the year 1871", adj = 1,
  family = "serif", cex = 1.2, font = 3, col = hcl(50, 30, 30)
)
invisible(dev.off())
