# What doubles do to values that are to be classed: noise in the last digits, and the ends of what
# they hold.

# Below these a double has fewer digits the smaller it is.
check_not_tiny <- function(x, call = rlang::caller_env()) {
  tiny <- x[x != 0 & abs(x) < 1e-290]
  if (!length(tiny)) return(invisible())
  ochre_abort(
    "steps",
    sprintf(
      "%s so near zero that a number has no digits left there (%s).",
      count_words(length(tiny), "value lies", "values lie"),
      format(tiny[1])
    ),
    "Give the variable in another unit, multiplied by a power of ten.",
    values = length(tiny),
    call = call
  )
}

# Fractions are read at fifteen digits, so that the noise of a sum (0.1 + 0.2 and 0.3) makes no
# class. Whole numbers have no noise as long as a double counts them.
has_noise <- function(x) length(x) > 0 && !(all_whole(x) && max(abs(x)) < 2^53)

# As signif(x, 15), which loses digits at the ends of what a double holds.
fifteen_digits <- function(x) {
  out <- signif(x, 15)
  far <- which(is.finite(x) & x != 0 & (abs(x) > 1e290 | abs(x) < 1e-290))
  if (length(far)) out[far] <- as.numeric(sprintf("%.14e", x[far]))
  out
}

scale_power <- function(value) {
  if (!length(value)) return(0)
  most <- max(abs(value[1]), abs(value[length(value)]))
  if (most == 0 || (most < 1e140 && most > 1e-100)) 0 else floor(log10(most)) - 15
}
