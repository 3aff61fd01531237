# One million values into 7 classes, for four shapes of data, against sort() of the same values.
library(ochre)
set.seed(1)
n <- 1e6
shapes <- list(uniform = runif(n), lognormal = rlnorm(n), `three humps` = rnorm(n) + 6 * sample(0:2, n, TRUE), `whole numbers` = rpois(n, 400))
for (name in names(shapes)) {
  x <- shapes[[name]]
  pairs <- vapply(1:5, function(i) c(system.time(sort(x))[["elapsed"]], system.time(suppressWarnings(fit_steps(x, steps_natural(7))))[["elapsed"]]), c(0, 0))
  cat(sprintf("%-14s sort() %.3f s, natural breaks %.3f s, ratio, median of 5 pairs: %.2f (aim 3, at most 6)\n", name,
              stats::median(pairs[1, ]), stats::median(pairs[2, ]), stats::median(pairs[2, ] / pairs[1, ])))
}
