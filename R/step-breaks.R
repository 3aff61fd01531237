# Breaks as short decimals, and labels that are true. A break may lie anywhere between the
# greatest value below it and the least value not below it. Of the numbers there the one with
# the fewest decimals is taken, and so that the value below it, rounded to the decimals shown,
# still reads as below it. Then a label "10–19" is true of every value as the reader sees it.

# `target` are the breaks as the method wants them, `value` the distinct values. A break moves by
# at most `slack`, so that classes which should be equally wide look so.
short_breaks <- function(target, value, slack = Inf) {
  at <- findInterval(target, value, left.open = TRUE)
  low <- value[at]
  high <- value[pmin(at + 1L, length(value))]
  coarsest <- -floor(log10(max(value[length(value)] - value[1], .Machine$double.xmin)))
  for (digits in seq(min(coarsest, 12), 15)) {
    unit <- 10^-digits
    shown <- 10^-max(digits, 0)
    least <- floor((low + shown / 2) / unit * (1 + 1e-15)) + 1
    most <- floor(high / unit * (1 + 1e-15))
    if (!all(is.finite(c(least, most))) || any(least > most)) next
    breaks <- as_decimal(pmin(pmax(round(target / unit), least), most), digits)
    if (all(diff(breaks) > 0) && all(breaks > low) && all(breaks <= high) && all(abs(breaks - target) <= slack)) return(list(breaks = breaks, digits = digits))
  }
  list(breaks = high, digits = 15)
}

rounded_breaks <- function(target, value, digits) {
  breaks <- unique(as_decimal(round(target * 10^digits), digits))
  list(breaks = breaks[breaks > value[1] & breaks <= value[length(value)]], digits = digits)
}

# The double nearest to units of 10^-digits, without the noise of a multiplication.
as_decimal <- function(units, digits) {
  if (digits > 0) as.numeric(sprintf("%.0fe-%d", units, as.integer(digits))) else units * 10^-digits
}

# Does the value below each break still read as below it at these decimals?
reads_true <- function(inner, value, digits) {
  if (!length(inner)) return(TRUE)
  at <- findInterval(inner, value, left.open = TRUE)
  low <- ifelse(at > 0, value[pmax(at, 1L)], -Inf)
  shown <- max(digits, 0)
  if (shown > 12) return(FALSE)
  all(round(low, shown) < inner - 10^-shown / 2)
}

decimals_of <- function(x) {
  vapply(x, function(v) {
    for (d in 0:15) if (isTRUE(all.equal(round(v, d), v, tolerance = 1e-15))) return(d)
    15L
  }, numeric(1))
}

# "10–19" where the values allow it, else "10 to <20"; open ends in words.
label_classes <- function(breaks, data, fitted, format = NULL) {
  k <- length(breaks) - 1L
  if (k < 1) return(character())
  words <- wording$now
  digits <- min(max(fitted$digits, 0), 15)
  show <- function(v) {
    out <- format_number(v, digits, format$marks %||% TRUE)
    if (isTRUE(format$plus)) ifelse(!is.na(v) & round(v, digits) > 0, paste0("+", out), out) else out
  }
  low <- breaks[-length(breaks)]
  high <- breaks[-1]
  # Outer ends that are data are rounded as the reader sees the data.
  from <- show(low)
  upto <- show(if (fitted$closed) ifelse(seq_len(k) < k, high - 10^-digits, high) else high)
  to <- paste0(" ", words$to, " ")
  dash <- if (any(breaks < 0)) to else if (fitted$closed) "\u2013" else " \u2013 "
  label <- ifelse(from == upto & (fitted$closed | seq_len(k) == k), from,
                  paste0(from, if (fitted$closed) dash else ifelse(seq_len(k) < k, paste0(to, "<"), to), upto))
  label <- with_unit(label, format)
  open_low <- is.infinite(low)
  open_high <- is.infinite(high)
  label[open_low] <- sprintf(words$under, with_unit(show(high[open_low]), format))
  label[open_high] <- sprintf(words$over, with_unit(show(low[open_high]), format))
  label[open_low & open_high] <- words$all
  label
}
