# One million values into 7 classes by each method, for four shapes of data, against sort() of the
# same values.
library(ochre)
set.seed(1)
n <- 1e6
shapes <- list(
  uniform = runif(n),
  lognormal = rlnorm(n),
  `three humps` = rnorm(n) + 6 * sample(0:2, n, TRUE),
  `whole numbers` = rpois(n, 400)
)
methods <- list(
  natural = steps_natural(7),
  quantile = steps_quantile(7),
  weighted = steps_quantile(7, weight = "w"),
  equal = steps_equal(7),
  deviation = steps_deviation(7),
  geometric = steps_geometric(7),
  headtail = steps_headtail(7),
  rounded = steps_rounded(7, near = "quantile"),
  around = steps_around(0.6, 7),
  given = steps_at(c(-Inf, 0, 1, 10, Inf), round = TRUE)
)
weights <- runif(n)
for (method in names(methods)) {
  ratios <- vapply(
    names(shapes),
    function(name) {
      x <- shapes[[name]]
      if (method == "geometric" && min(x) <= 0) return(NA_real_)
      w <- if (method == "weighted") weights
      pairs <- vapply(
        1:3,
        function(i) {
          c(
            system.time(sort(x))[["elapsed"]],
            system.time(suppressWarnings(fit_steps(x, methods[[method]], w)))[["elapsed"]]
          )
        },
        c(0, 0)
      )
      stats::median(pairs[2, ] / pairs[1, ])
    },
    0
  )
  cat(sprintf(
    "%-10s ratio, median of 3 pairs: %s (at most 4)\n",
    method,
    paste(sprintf("%s %.2f", names(ratios), ratios), collapse = ", ")
  ))
}
