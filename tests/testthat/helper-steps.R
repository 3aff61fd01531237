# Random values and steps, and numbers read back from how they are written.

# Reads a number as it is written in a locale back into one.
read_back <- function(text, locale = english) {
  text <- gsub(locale$thousands, "", text, fixed = TRUE)
  text <- gsub("[^0-9,.\u2212]", "", text)
  as.numeric(sub("\u2212", "-", sub(locale$decimal, ".", text, fixed = TRUE), fixed = TRUE))
}

# Values of every kind that a column may hold: counts, shares, money, changes, ties, extremes.
random_values <- function(n) {
  kinds <- list(
    function() rpois(n, 3),
    function() round(rlnorm(n, 3), 1),
    function() rnorm(n),
    function() runif(n),
    function() round(runif(n), 2),
    function() rexp(n) * 10^sample(-15:15, 1),
    function() 1e15 + sample(20, n, TRUE),
    function() sample(c(0, 1, 5, 10), n, TRUE),
    function() -rlnorm(n, 5),
    function() 0.3 + sample(0:1, n, TRUE) * 2^-54 + sample(0:2, n, TRUE),
    function() sample(c(-1.7e308, 1.7e308, 1e200, 0, 1), n, TRUE),
    function() rnorm(n) * 1e-200,
    function() 1e9 + rnorm(n) * 1e-3,
    function() round(rnorm(n, 50, 20), sample(0:4, 1)) / 7,
    function() rcauchy(n)
  )
  kinds[[sample(length(kinds), 1)]]()
}

random_steps <- function(x) {
  n <- sample(1:12, 1)
  around <- sample(c(0, 0.1, signif(stats::median(x), 2)), 1)
  near <- sample(c("natural", "quantile", "equal"), 1)
  inner <- sort(unique(signif(stats::rnorm(sample(1:6, 1)) * (abs(stats::median(x)) + 1), 2)))
  inner <- inner[is.finite(inner)]
  switch(sample(10, 1),
    steps_equal(n),
    steps_quantile(n),
    steps_natural(n),
    steps_deviation(n),
    steps_headtail(n),
    steps_rounded(n, near),
    steps_around(around, max(2, n), near),
    steps_at(c(-Inf, inner, Inf), round = TRUE),
    steps_natural(n, digits = sample(-1:4, 1)),
    if (all(x > 0)) steps_geometric(n) else steps_at(c(-Inf, 0, 1, 10, Inf), round = TRUE)
  )
}

methods <- list(equal = steps_equal, quantile = steps_quantile, natural = steps_natural)
more_methods <- list(
  deviation = steps_deviation,
  headtail = steps_headtail,
  rounded = steps_rounded,
  around = function(k) steps_around(12, k),
  around_natural = function(k) steps_around(12, k, near = "natural")
)

# Reads a label back into the range that it shows.
label_range <- function(label) {
  numbers <- regmatches(label, gregexpr("\u2212?[0-9][0-9,]*(\\.[0-9]+)?", label))[[1]]
  range(as.numeric(gsub(",", "", sub("\u2212", "-", numbers))))
}
