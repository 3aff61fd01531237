# The floor: bare polygon() calls, one for each ring, on the same device, from the same file. It
# projects nothing, finds no shared borders and writes a legend of five boxes.
args <- commandArgs(TRUE)
data <- RcppSimdJson::fload(args[1], max_simplify_lvl = "vector")$features
value <- vapply(data, function(f) f$properties$rate, 0)
rings <- lapply(data, function(f) {
  matrix(unlist(f$geometry$coordinates), ncol = 2, byrow = TRUE)
})
class <- cut(value, quantile(value, 0:5 / 5), labels = FALSE, include.lowest = TRUE)
fill <- hcl(30, 40, seq(90, 25, length.out = 5))
box <- vapply(rings, function(r) c(range(r[, 1]), range(r[, 2])), numeric(4))
ragg::agg_png(args[2], 8, 6, units = "in", res = 200)
par(mar = c(1, 1, 3, 8), xpd = NA)
plot(
  NA,
  xlim = range(box[1:2, ]),
  ylim = range(box[3:4, ]),
  asp = 1 / cos(48 * pi / 180),
  axes = FALSE,
  xlab = "",
  ylab = "",
  main = "Rates"
)
for (i in seq_along(rings)) {
  polygon(rings[[i]][, 1], rings[[i]][, 2], col = fill[class[i]], border = "white", lwd = 0.4)
}
legend("topright", inset = c(-0.2, 0), legend = 1:5, fill = fill)
invisible(dev.off())
