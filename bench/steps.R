# One million values into 7 classes by each method, for four shapes of data, against sort() of the
# same values.
source("bench.R")
library(ochre)
set.seed(1)
n <- size(1e6, 1e4)
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
  given = steps_at(c(-Inf, 0, 1, 10, Inf))
)
weights <- runif(n)
for (method in names(methods)) {
  ratios <- vapply(
    names(shapes),
    function(name) {
      x <- shapes[[name]]
      if (method == "geometric" && min(x) <= 0) return(NA_real_)
      w <- if (method == "weighted") weights
      times <- by_turns(
        sort = function() sort(x),
        fit = function() suppressWarnings(fit_steps(x, methods[[method]], w)),
        runs = 3
      )
      median_ratio(times, "fit", "sort")
    },
    0
  )
  report(
    sprintf("1M values in 7 classes, %s", method),
    max(ratios, na.rm = TRUE),
    "sort()",
    4,
    paste(sprintf("%s %.2f", names(ratios), ratios), collapse = ", ")
  )
}
