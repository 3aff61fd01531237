# Large numbers in a legend and periods, in few words of a language: "1.05 to <1.84 billion" and
# "June 2031".

large_powers <- c(million = 6, billion = 9, trillion = 12)

# The labels of classes in millions, billions or trillions; NULL where that is not wanted or not
# shorter. Breaks are written to their last digit, so that no class reads as another.
large_labels <- function(breaks, plain, fitted, format, locale) {
  if (!wants_large(plain, longest_plain, format, locale)) return(NULL)
  inner <- breaks[-c(1, length(breaks))]
  inner <- inner[is.finite(inner) & inner != 0]
  if (!length(inner)) inner <- breaks[is.finite(breaks)]
  # The word that suits the middle break: what is below a tenth of it has its own.
  power <- large_power(stats::median(abs(inner)))
  if (is.null(power)) return(NULL)
  digits <- exact_digits(inner / 10^power)
  if (is.na(digits)) return(NULL)
  scaled <- list(breaks = breaks / 10^power, digits = digits, word = locale$large[[names(power)]])
  labels <- write_large(scaled, fitted, format, locale)
  if (is.null(labels) || anyDuplicated(labels)) return(NULL)
  if (isTRUE(format$large) || max(nchar(labels)) < max(nchar(plain))) labels
}

# Labels of limits and of sizes with more letters than this are written shorter where they can be.
longest_plain <- 17L
longest_mark <- 11L

# Asked for, or, where nobody said, because the plain labels are long.
wants_large <- function(plain, longest, format, locale) {
  wish <- format$large
  if (is.null(locale$large) || isFALSE(wish) || isTRUE(format$percent)) return(FALSE)
  isTRUE(wish) || (!isFALSE(format$marks) && max(nchar(plain)) > longest)
}

# The greatest power with a word that a number reaches, by its name; NULL for small numbers.
large_power <- function(size) {
  reached <- large_powers[large_powers <= log10(max(abs(size), 1)) + 1e-9]
  if (length(reached)) reached[length(reached)]
}

# Round marks of a legend of sizes, each with the word that suits it: "2 trillion", "500 billion".
mark_labels <- function(marks, format, locale) {
  plain <- format_field(marks, NULL, format, locale)
  if (!wants_large(plain, longest_mark, format, locale)) return(plain)
  vapply(seq_along(marks), function(i) {
    power <- large_power(marks[i])
    if (is.null(power)) return(plain[i])
    scaled <- marks[i] / 10^power
    digits <- exact_digits(scaled)
    if (is.na(digits) || digits > 2) return(plain[i])
    number <- format_number(scaled, digits, locale = locale)
    with_unit(sprintf(locale$large[[names(power)]], number), format)
  }, "")
}

# The least number of decimals that loses nothing; NA when there are more than six.
exact_digits <- function(x) {
  x <- fifteen_digits(x)
  for (digits in 0:6) if (all(fifteen_digits(round(x, digits)) == x)) return(digits)
  NA_integer_
}

write_large <- function(scaled, fitted, format, locale) {
  breaks <- scaled$breaks
  show <- function(v) ifelse(v == 0, "0", show_break(v, scaled$digits, format, locale))
  named <- function(text) with_unit(sprintf(scaled$word, text), format)
  low <- breaks[-length(breaks)]
  high <- breaks[-1]
  ends <- open_ends(low, high, scaled$digits)
  # Ends that are written out hold all values.
  k <- length(breaks)
  if (ends$from[1] > breaks[1] || ends$upto[k - 1L] < breaks[k]) return(NULL)
  label <- named(between_ends(show(ends$from), show(ends$upto), fitted$right, locale))
  shown <- list(low = named(show(low)), high = named(show(high)))
  with_open_ends(label, shown, breaks, fitted, locale)
}

# Months and days as a language writes them, where all periods are such; other labels as they are.
period_words <- function(labels, locale) {
  if (is.null(labels) || is.null(locale$dates)) return(labels)
  dates <- locale$dates
  month <- function(names) names[as.integer(substr(labels, 6, 7))]
  year <- substr(labels, 1, 4)
  put <- function(pattern, day, month) {
    parts <- list(day, month, year)
    out <- rep(pattern, length(labels))
    for (i in seq_along(parts)) {
      out <- stringi::stri_replace_all_fixed(out, sprintf("{%d}", i - 1L), parts[[i]])
    }
    # Parts of a date stay in one line.
    gsub(" ", "\u00a0", out, fixed = TRUE)
  }
  if (all(grepl("^[0-9]{4}-(0[1-9]|1[0-2])$", labels))) {
    return(put(dates$month, "", month(dates$months)))
  }
  if (all(grepl("^[0-9]{4}-(0[1-9]|1[0-2])-(0[1-9]|[12][0-9]|3[01])$", labels))) {
    day <- as.character(as.integer(substr(labels, 9, 10)))
    return(put(dates$day, day, month(dates$months_in_dates)))
  }
  labels
}

# The labels of fitted steps in the variable's format. As percentages the breaks have two decimals
# less. `finer` says that a reader sees values with more decimals than the labels have, of which
# "10\u201319" would leave out 19.4.
class_labels <- function(steps, format, locale, finer = FALSE) {
  own <- steps$method == "categories" || !is.null(steps$words)
  if (own || !length(steps$labels)) return(steps$labels)
  fitted <- steps[c("digits", "closed", "only", "right")]
  fitted$closed <- fitted$closed && !finer
  breaks <- steps$breaks
  # Open ends are a way to write the classes; which values they hold stays the same.
  if (isTRUE(format$open_ends) && length(breaks) > 2) {
    breaks[c(1, length(breaks))] <- c(-Inf, Inf)
  }
  if (isTRUE(format$percent)) {
    fitted$digits <- max(0, steps$digits - 2)
    breaks <- in_percent(breaks)
    if (!is.null(fitted$only)) fitted$only <- in_percent(fitted$only)
  }
  plain <- label_classes(breaks, fitted, format, locale)
  if (!is.null(steps$only)) return(plain)
  large_labels(breaks, plain, fitted, format, locale) %||% plain
}
