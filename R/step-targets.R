# Where each method wants its breaks, before they are written as short decimals. `data` holds the
# distinct values in order with how often each occurs.

step_targets <- function(data, steps, x, weights, call = rlang::caller_env()) {
  value <- data$value
  m <- length(value)
  n <- steps$n
  switch(steps$method,
    equal = seq(value[1], value[m], length.out = n + 1)[-c(1, n + 1)],
    quantile = between(value, quantile_starts(cumulated(data, x, weights), n)),
    natural = between(value, call_core(natural_starts_core(value, data$weight, n))),
    deviation = deviation_targets(data, n, steps$width %||% 1),
    geometric = geometric_targets(value, n, call),
    headtail = headtail_targets(data, n)
  )
}

# Half way between the last value of a class and the first of the next.
between <- function(value, starts) value[starts - 1] + (value[starts] - value[starts - 1]) / 2

# Weights up to and with each distinct value.
cumulated <- function(data, x, weights) {
  if (is.null(weights)) return(cumsum(data$weight))
  sums <- cumsum(weights[order(x, method = "radix")])
  sums[cumsum(data$weight)]
}

# Where the share of values below comes nearest to i/n.
quantile_starts <- function(below, n) {
  wanted <- below[length(below)] * seq_len(n - 1) / n
  below <- below[-length(below)]
  at <- findInterval(wanted, below)
  low <- pmax(at, 1L)
  high <- pmin(at + 1L, length(below))
  sort(unique(ifelse(wanted - below[low] <= below[high] - wanted, low, high))) + 1L
}

deviation_targets <- function(data, n, width) {
  all <- call_core(class_sums_core(data$value, data$weight, integer()))
  deviation <- sqrt(all$squares / (all$count - 1))
  all$mean + width * deviation * (seq_len(n - 1) - n / 2)
}

geometric_targets <- function(value, n, call) {
  if (value[1] <= 0) {
    ochre_abort("argument",
                "Geometric steps need values above zero; the least is {format(value[1])}.",
                "Use steps_around(0) or another method.", arg = "steps")
  }
  exp(seq(log(value[1]), log(value[length(value)]), length.out = n + 1))[-c(1, n + 1)]
}

# A break at the mean of what is left, while what lies above it is a minority.
headtail_targets <- function(data, n) {
  weight <- cumsum(data$weight)
  total <- cumsum(data$weight * data$value)
  m <- length(weight)
  from <- 0L
  out <- numeric()
  while (length(out) < n - 1) {
    before <- if (from) c(weight[from], total[from]) else c(0, 0)
    mean <- (total[m] - before[2]) / (weight[m] - before[1])
    at <- findInterval(mean, data$value, left.open = TRUE)
    if (at >= m || at <= from) break
    out <- c(out, mean)
    if ((weight[m] - weight[at]) / (weight[m] - before[1]) >= 0.4 || m - at < 2) break
    from <- at
  }
  out
}

# As many classes on each side of the midpoint as its share of the range needs, at least one where
# there are values; each side by the method named, and the midpoint between them.
around_targets <- function(data, steps, x, call) {
  value <- data$value
  m <- length(value)
  middle <- steps$midpoint
  low <- value < middle
  if (!any(low) || all(low)) {
    ochre_warn("midpoint",
               "All values lie {if (any(low)) 'below' else 'above'} the midpoint {format(middle)}.",
               "A sequential ramp says that better than a diverging one.")
    side <- step_targets(data, c(list(method = steps$near), steps["n"]), x, NULL, call)
    return(list(inner = side, below = if (any(low)) length(side) + 1L else 0L))
  }
  share <- (middle - value[1]) / (value[m] - value[1])
  k <- min(max(round(share * steps$n), 1), steps$n - 1)
  part <- function(rows, n, from, to) {
    if (n < 2) return(numeric())
    if (steps$near == "equal") return(seq(from, to, length.out = n + 1)[-c(1, n + 1)])
    some <- list(value = value[rows], weight = data$weight[rows])
    if (length(some$value) < 2) return(numeric())
    step_targets(some, list(method = steps$near, n = min(n, length(some$value))), NULL, NULL, call)
  }
  # One width on both sides, so that colours equally far from the middle mean the same.
  width <- max((middle - value[1]) / k, (value[m] - middle) / (steps$n - k))
  below <- if (steps$near == "equal") {
    middle - width * rev(seq_len(k - 1))
  } else {
    part(low, k, value[1], middle)
  }
  above <- if (steps$near == "equal") {
    middle + width * seq_len(steps$n - k - 1)
  } else {
    part(!low, steps$n - k, middle, value[m])
  }
  below <- below[below > value[1]]
  above <- above[above <= value[m]]
  list(inner = c(below, middle, above), below = length(below) + 1L)
}
