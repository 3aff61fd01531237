# Breaks that a reader can hold in mind: few digits, zeros and fives at the end, near given ones.

# Each break may move past so many values, a share of all and no more than a quarter of the
# smaller class beside it; of the numbers in reach the one with the fewest digits is taken, of
# several the nearest.
round_breaks <- function(target, data, most = 0.04) {
  value <- data$value
  below <- cumsum(data$weight)
  all <- below[length(below)]
  ends <- c(0, c(0, below)[findInterval(target, value, left.open = TRUE) + 1L], all)
  sizes <- diff(ends)
  room <- pmax(1, pmin(most * all, 0.25 * pmin(sizes[-length(sizes)], sizes[-1])))
  out <- target
  last <- value[1]
  for (i in seq_along(target)) {
    # A break beyond the values moves none of them, and stays.
    if (target[i] <= value[1] || target[i] > value[length(value)]) next
    at <- findInterval(target[i], value, left.open = TRUE)
    rank <- if (at) below[at] else 0
    low <- max(value[findInterval(rank - room[i], below) + 1L], last)
    high <- value[min(length(value), findInterval(rank + room[i], below) + 1L)]
    out[i] <- roundest(target[i], low, high)
    if (is.na(out[i])) return(NULL)
    last <- out[i]
  }
  if (any(diff(out) <= 0)) return(NULL)
  list(breaks = out, digits = max(0, decimals_of(out)), moved = moved_values(target, out, data))
}

# The number with the fewest digits above `low` and up to `high`; of two the nearer to `target`.
roundest <- function(target, low, high) {
  if (!(high > low)) return(NA_real_)
  top <- ceiling(log10(max(abs(c(low, high)), min(high - low, .Machine$double.xmax))))
  for (k in top:(top - 15)) {
    for (lead in c(10, 5)) {
      unit <- lead * 10^(k - 1)
      n <- c(
        floor(target / unit),
        ceiling(target / unit),
        floor(high / unit),
        floor(low / unit) + 1
      )
      found <- vapply(n * lead, as_decimal, 0, digits = 1 - k)
      found <- found[which(found > low & found <= high)]
      if (length(found)) return(found[which.min(abs(found - target))])
    }
  }
  high
}

# How many values are in another class with `to` than with `from`.
moved_values <- function(from, to, data) {
  below <- function(breaks) {
    c(0, cumsum(data$weight))[findInterval(breaks, data$value, left.open = TRUE) + 1L]
  }
  sum(abs(below(from) - below(to)))
}
