# Breaks as short decimals, and labels that are true. A break may lie anywhere between the
# greatest value below it and the least value not below it. Of the numbers there the one with
# the fewest decimals is taken, and so that the value below it, rounded to the decimals shown,
# still reads as below it. Then a label "10–19" is true of every value as the reader sees it.

# `target` are the breaks as the method wants them, `value` the distinct values. A break moves by
# at most `slack`, so that classes which should be equally wide look so.
short_breaks <- function(target, value, slack = Inf) {
  m <- length(value)
  if (!length(target)) return(list(breaks = numeric(), digits = 0))
  at <- findInterval(target, value, left.open = TRUE)
  low <- value[at]
  high <- value[pmin(at + 1L, m)]
  coarsest <- -floor(log10(value[m] - value[1]))
  least <- ifelse(high == 0, high - low, pmin(abs(high), high - low))
  finest <- max(coarsest, 14 - floor(log10(least)))
  fallback <- NULL
  for (digits in seq(coarsest, finest)) {
    breaks <- decimals_between(target, low, high, digits)
    if (anyNA(breaks) || any(diff(breaks) <= 0)) next
    found <- list(breaks = breaks, digits = digits)
    if (all(abs(breaks - target) <= slack)) return(found)
    # The first that moves farther will do where numbers have no more digits.
    if (is.null(fallback)) fallback <- found
  }
  fallback %||% list(breaks = unique(high), digits = max(decimals_of(high)))
}

# For each target the nearest number of so many decimals above `low` and up to `high`, where `low`
# as shown still reads below it; NA where there is none.
decimals_between <- function(target, low, high, digits) {
  shown <- max(digits, 0)
  reads <- if (shown <= 12) round(low, shown) else low
  unit <- 10^-digits
  first <- floor(reads / unit)
  last <- floor(high / unit)
  near <- pmin(pmax(round(target / unit), first), last)
  found <- rep(NA_real_, length(target))
  for (units in list(near, near + 1, near - 1, first + 1, last, last - 1)) {
    b <- as_decimal(units, digits)
    good <- b > low & b <= high & b - 10^-shown / 4 > reads
    better <- good & (is.na(found) | abs(b - target) < abs(found - target))
    found[better %in% TRUE] <- b[better %in% TRUE]
  }
  found
}

# Quantiles of many values: a break may pass a few of them if that makes it shorter, so many as are
# a hundredth of a class. NULL where that does not make it shorter.
loose_breaks <- function(target, data, steps, weights) {
  if (steps$method != "quantile" || !is.null(weights) || !length(target)) return(NULL)
  value <- data$value
  below <- cumsum(data$weight)
  room <- floor(0.01 * below[length(below)] / steps$n)
  if (room < 1) return(NULL)
  at <- findInterval(target, value, left.open = TRUE)
  low <- value[pmax(1L, findInterval(below[at] - room, below))]
  high <- value[pmin(length(value), findInterval(below[at] + room, below) + 1L)]
  exact <- short_breaks(target, value)
  for (digits in seq(min(exact$digits, 0), exact$digits - 1)) {
    breaks <- as_decimal(round(target * 10^digits), digits)
    if (all(breaks > low & breaks <= high) && all(diff(breaks) > 0)) {
      return(list(breaks = breaks, digits = digits))
    }
  }
  NULL
}

rounded_breaks <- function(target, value, digits) {
  breaks <- unique(as_decimal(round(target * 10^digits), digits))
  list(breaks = breaks[breaks > value[1] & breaks <= value[length(value)]], digits = digits)
}

# The double nearest to units of 10^-digits, without the noise of a multiplication and with no more
# digits than values are read at.
as_decimal <- function(units, digits) {
  units[!is.finite(units)] <- NA
  text <- sprintf("%.0fe%d", units, as.integer(-digits))
  fifteen_digits(as.numeric(ifelse(is.na(units), NA, text)))
}

# Does the value below each break still read as below it at these decimals?
reads_true <- function(inner, value, digits) {
  if (!length(inner)) return(TRUE)
  at <- findInterval(inner, value, left.open = TRUE)
  low <- ifelse(at > 0, value[pmax(at, 1L)], -Inf)
  shown <- max(digits, 0)
  if (shown > 12 || shown > 15 - digits_before(c(inner, value[length(value)]))) return(FALSE)
  all(round(low, shown) < inner - 10^-shown / 2)
}

# Digits before the decimal mark of the greatest number.
digits_before <- function(x) {
  x <- abs(x[is.finite(x)])
  ceiling(log10(max(x, 1) * (1 + 1e-12)))
}

# The least number of decimals that writes each number, at fifteen significant digits.
decimals_of <- function(x) {
  text <- sprintf("%.14e", abs(x))
  parts <- regmatches(text, regexec("^([0-9])\\.([0-9]+)e([+-][0-9]+)$", text))
  vapply(
    parts,
    function(p) {
      if (!length(p)) return(0)
      max(0, nchar(sub("0+$", "", p[3])) - as.numeric(p[4]))
    },
    numeric(1)
  )
}

# The last class is not the greatest value alone: its break comes down to half way between what is
# shown of the value below and of it, so that breaks rise. Where no number lies there, it stays.
below_greatest <- function(breaks, value, digits, closed) {
  k <- length(breaks)
  m <- length(value)
  if (!k || m < 2 || breaks[k] < value[m]) return(breaks)
  least <- max(value[m - 1], breaks[k - 1])
  lower <- if (closed) value[m] - 10^-max(digits, 0) / 2 else least / 2 + value[m] / 2
  lower <- fifteen_digits(lower)
  if (lower > least && lower < value[m]) breaks[k] <- lower
  breaks
}

# Numbers of so many decimals, none with more than seventeen digits, because a double has no more.
show_break <- function(v, digits, format, locale) {
  out <- character(length(v))
  places <- pmax(0, pmin(digits, 17 - ceiling(log10(pmax(abs(v), 1e-300) * (1 + 1e-12)))))
  places[!is.finite(v)] <- 0
  for (d in unique(places)) {
    here <- places == d
    out[here] <- format_number(v[here], d, format$marks %||% TRUE, locale)
  }
  plus <- isTRUE(format$plus) & is.finite(v) & round(v, digits) > 0
  ifelse(plus, paste0("+", out), out)
}

# The nearest number of so many decimals that is not above, or not below.
floor_at <- function(x, digits) {
  r <- round(x, digits)
  # Rounding has noise of its own in the last bits.
  ifelse(is.finite(x) & r - x > 1e-6 * 10^-digits, r - 10^-digits, r)
}
ceiling_at <- function(x, digits) -floor_at(-x, digits)

# "10–19" where the values allow it, else "10 to <20"; open ends in words. `fitted` has `digits`,
# `closed` and, where all values are one, `only`.
label_classes <- function(breaks, fitted, format = NULL, locale = english) {
  k <- length(breaks) - 1L
  if (k < 1) return(character())
  digits <- max(fitted$digits, 0)
  show <- function(v) show_break(v, digits, format, locale)
  if (!is.null(fitted$only)) return(with_unit(show(fitted$only), format))
  breaks <- fifteen_digits(breaks)
  low <- breaks[-length(breaks)]
  high <- breaks[-1]
  ends <- if (fitted$closed) closed_ends(low, high, digits) else open_ends(low, high, digits)
  from <- show(ends$from)
  upto <- show(ends$upto)
  dash <- if (any(breaks < 0)) paste0(" ", locale$to, " ") else "\u2013"
  between <- if (fitted$closed) {
    paste0(from, dash, upto)
  } else {
    between_ends(from, upto, fitted$right, locale)
  }
  one <- from == upto & (fitted$closed | seq_len(k) == k)
  label <- with_unit(ifelse(one, from, between), format)
  named <- function(text) with_unit(text, format)
  shown <- list(low = named(show(low)), high = named(show(high)))
  with_open_ends(label, shown, breaks, fitted, locale)
}

# "10 to <20"; where limits are closed on the right ">10 to 20".
between_ends <- function(from, upto, right, locale) {
  at <- seq_along(from)
  to <- paste0(" ", locale$to, " ")
  if (isTRUE(right)) return(paste0(ifelse(at == 1, "", ">"), from, to, upto))
  paste0(from, to, ifelse(at == length(at), "", "<"), upto)
}

# Labels of classes that are open at an end, in words; `shown` are the limits as they are written.
with_open_ends <- function(label, shown, breaks, fitted, locale) {
  right <- isTRUE(fitted$right)
  low <- is.infinite(breaks[-length(breaks)])
  high <- is.infinite(breaks[-1])
  label[low] <- sprintf(if (right) locale$up_to else locale$under, shown$high[low])
  label[high] <- sprintf(if (right) locale$above else locale$over, shown$low[high])
  label[low & high] <- locale$all
  label
}

# The least and the greatest number of so many decimals in each class; the outer ends as the reader
# sees the data.
closed_ends <- function(low, high, digits) {
  k <- length(low)
  first <- seq_len(k) == 1
  last <- seq_len(k) == k
  list(
    from = ifelse(first, round(low, digits), ceiling_at(low, digits)),
    upto = ifelse(last, round(high, digits), ceiling_at(high, digits) - 10^-digits)
  )
}

# The breaks themselves. Values are shown with more decimals here, so the outer ends hold them all.
open_ends <- function(low, high, digits) {
  k <- length(low)
  low[1] <- floor_at(low[1], digits)
  high[k] <- ceiling_at(high[k], digits)
  list(from = low, upto = high)
}
