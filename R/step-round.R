# Breaks that a reader can hold in mind: few digits, zeros and fives at the end, near given ones.

# A break may move past so many of all values, or one. The breaks with the least cost are taken, of
# those that leave no class empty and make none narrow: a digit costs as much as that many values.
most_moved <- 0.04

# Tried are all breaks rounded alike, and each to the number with the fewest digits within reach;
# then, from the best of these, each break by itself.
round_breaks <- function(target, data) {
  value <- data$value
  # A break beyond the values moves none of them, and stays.
  moving <- which(target > value[1] & target <= value[length(value)])
  if (!length(moving)) return(NULL)
  choices <- lapply(target[moving], rounded_choices)
  choices <- Map(c, choices, near_choices(target[moving], data))
  cost <- function(breaks) breaks_cost(breaks, target, data)
  alike <- lapply(seq_along(choices[[1]]), function(k) {
    replace(target, moving, vapply(choices, `[`, 0, k))
  })
  costs <- vapply(alike, cost, 0)
  best <- alike[[which.min(costs)]]
  least <- min(costs)
  if (!is.finite(least)) best <- target
  repeat {
    before <- least
    for (i in seq_along(moving)) {
      for (one in choices[[i]]) {
        tried <- replace(best, moving[i], one)
        now <- cost(tried)
        if (now < least) {
          best <- tried
          least <- now
        }
      }
    }
    if (least == before) break
  }
  if (!is.finite(least)) return(NULL)
  list(breaks = best, digits = max(0, decimals_of(best)), moved = moved_values(target, best, data))
}

# A number with one to four digits, and at whole and half steps of these.
rounded_choices <- function(x) {
  if (x == 0) return(rep(0, 8))
  unit <- floor(log10(abs(x))) - 0:3
  c(
    vapply(unit, function(u) as_decimal(round(x * 10^-u), -u), 0),
    vapply(unit, function(u) as_decimal(5 * round(x * 10^-u / 5), -u), 0)
  )
}

# Of each break the number with the fewest digits that moves no more than a few values.
near_choices <- function(target, data) {
  value <- data$value
  below <- c(0, cumsum(data$weight))
  at <- findInterval(target, value, left.open = TRUE)
  rank <- below[at + 1L]
  lapply(c(0.01, 0.04), function(share) {
    room <- max(1, share * below[length(below)])
    low <- value[pmax(1L, findInterval(rank - room, below, left.open = TRUE))]
    high <- value[pmin(length(value), findInterval(rank + room, below))]
    mapply(roundest, target, low, high)
  }) |> transposed()
}

transposed <- function(lists) lapply(seq_along(lists[[1]]), function(i) vapply(lists, `[`, 0, i))

# Infinite where breaks do not rise, a class has no values, or one is less than a tenth as wide as
# one beside it, where it was not so before.
breaks_cost <- function(breaks, target, data) {
  if (anyNA(breaks) || any(diff(breaks) <= 0)) return(Inf)
  value <- data$value
  m <- length(value)
  inner <- breaks[breaks > value[1] & breaks <= value[m]]
  if (length(inner) < sum(target > value[1] & target <= value[m])) return(Inf)
  starts <- c(0, findInterval(inner, value, left.open = TRUE), m)
  if (any(diff(starts) <= 0)) return(Inf)
  if (narrowest(breaks, value) < min(0.1, narrowest(target, value))) return(Inf)
  moved <- moved_past(target, breaks, data) / max(1, most_moved * sum(data$weight))
  if (any(moved > 1)) return(Inf)
  # Of two that cost the same the one with fewer digits.
  mean(moved) + 1.01 * mean(written_digits(breaks))
}

# The least share of the width of a class beside it that a class has.
narrowest <- function(breaks, value) {
  ends <- sort(unique(c(value[1], breaks[breaks > value[1]], value[length(value)])))
  width <- diff(ends)
  if (length(width) < 2) return(1)
  min(width[-1] / width[-length(width)], width[-length(width)] / width[-1])
}

# Significant digits; a five at the end counts half.
written_digits <- function(x) {
  text <- sub("0+$", "", sub("[.]", "", sub("e.*", "", sprintf("%.14e", abs(x)))))
  pmax(1, nchar(text)) - 0.5 * (nchar(text) > 1 & endsWith(text, "5"))
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

# How many values lie between each break of `from` and that of `to`; and how many of all are in
# another class.
moved_past <- function(from, to, data) {
  below <- function(breaks) {
    c(0, cumsum(data$weight))[findInterval(breaks, data$value, left.open = TRUE) + 1L]
  }
  abs(below(from) - below(to))
}
moved_values <- function(from, to, data) sum(moved_past(from, to, data))
