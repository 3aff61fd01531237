# Breaks on both sides of a midpoint.

# The midpoint stays what was asked for; the others are written shorter around it.
around_breaks <- function(target, data, steps) {
  value <- data$value
  m <- length(value)
  target <- target[target > value[1] & target <= value[m]]
  if (!length(target)) return(list(breaks = numeric(), digits = 0L))
  at <- match(steps$midpoint, target)
  if (!is.null(steps$digits)) return(rounded_around(target, data, steps, at))
  slack <- 0.02 * diff(range(value)) / steps$n
  side <- function(wanted) {
    if (!length(wanted)) return(list(breaks = numeric(), digits = 0))
    short_breaks(wanted, value, if (steps$near == "equal") slack else Inf)
  }
  if (is.na(at)) return(side(target))
  lower <- side(target[seq_len(at - 1)])
  upper <- side(target[-seq_len(at)])
  low <- lower$breaks[lower$breaks < steps$midpoint]
  high <- upper$breaks[upper$breaks > steps$midpoint]
  list(
    breaks = c(low, steps$midpoint, high),
    digits = max(0, lower$digits, upper$digits, decimals_of(steps$midpoint)),
    middle = length(low) + 1L
  )
}

# To the decimals that were asked for; the midpoint moves only so far that no value changes sides.
rounded_around <- function(target, data, steps, at) {
  value <- data$value
  middle <- NULL
  breaks <- as_decimal(round(target * 10^steps$digits), steps$digits)
  if (!is.na(at)) {
    middle <- breaks[at]
    if (moved_values(steps$midpoint, middle, data) > 0) middle <- steps$midpoint
    breaks <- c(
      breaks[seq_len(at - 1)][breaks[seq_len(at - 1)] < middle],
      middle,
      breaks[-seq_len(at)][breaks[-seq_len(at)] > middle]
    )
  }
  breaks <- unique(breaks)
  breaks <- breaks[breaks > value[1] & breaks <= value[length(value)]]
  list(
    breaks = breaks,
    digits = max(0, decimals_of(breaks)),
    middle = if (!is.null(middle)) match(middle, breaks)
  )
}
