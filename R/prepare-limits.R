# Confidence limits of counts and shares. Every formula has its source; tests hold published values.

# Limits of a Poisson count: a list of `low` and `high`. Missing counts give missing limits.
count_limits <- function(count, method, level) {
  a <- (1 - level) / 2
  if (method == "garwood") {
    # Garwood, F. (1936) Fiducial limits for the Poisson distribution, Biometrika 28, 437-442.
    low <- suppressWarnings(stats::qchisq(a, 2 * count) / 2)
    low[count %in% 0] <- 0
    return(list(low = low, high = suppressWarnings(stats::qchisq(1 - a, 2 * count + 2) / 2)))
  }
  # Byar's approximation: Breslow, N.E., Day, N.E. (1987) Statistical Methods in Cancer Research
  # II, page 69.
  z <- stats::qnorm(1 - a)
  up <- count + 1
  low <- ifelse(count > 0, count * (1 - 1 / (9 * count) - z / (3 * sqrt(count)))^3, 0)
  list(low = pmax(0, low), high = up * (1 - 1 / (9 * up) + z / (3 * sqrt(up)))^3)
}

# Wilson, E.B. (1927) Probable inference, the law of succession, and statistical inference,
# Journal of the American Statistical Association 22, 209-212.
share_limits <- function(count, total, level) {
  z <- stats::qnorm(1 - (1 - level) / 2)
  p <- count / total
  middle <- (p + z^2 / (2 * total)) / (1 + z^2 / total)
  half <- z * sqrt(p * (1 - p) / total + z^2 / (4 * total^2)) / (1 + z^2 / total)
  # At the ends the formula gives the ends, but for rounding.
  low <- ifelse(count %in% 0, 0, pmax(0, middle - half))
  list(
    low = ifelse(is.na(p), NA_real_, low),
    high = ifelse(!is.na(p) & count == total, 1, pmin(1, middle + half))
  )
}

check_level <- function(level, call = rlang::caller_env()) {
  check_number(level, "level", min = 0.5, max = 0.9999, call = call)
}

# Puts limits beside a column; nothing when none were asked for.
with_limits <- function(name) paste0(name, c("", "_low", "_high"))

add_limits <- function(data, name, limits, factor = 1) {
  if (is.null(limits)) return(data)
  data[[paste0(name, "_low")]] <- factor * limits$low
  data[[paste0(name, "_high")]] <- factor * limits$high
  data
}
