# What doubles do to values that are to be classed: noise in the last digits, and the ends of what
# they hold.

# Below these a double has fewer digits the smaller it is. `data` are distinct values in order, with
# how often each occurs.
check_not_tiny <- function(data, call = rlang::caller_env()) {
  tiny <- which(data$value != 0 & abs(data$value) < 1e-290)
  if (!length(tiny)) return(invisible())
  rows <- sum(data$weight[tiny])
  ochre_abort(
    "steps",
    paste0("{count_words(rows, 'value lies', 'values lie')} so near zero that a number has no ",
           "digits left there ({format(data$value[tiny[1]])})."),
    "Give the variable in another unit, multiplied by a power of ten.", values = rows
  )
}

range_of_sorted <- function(x) if (length(x)) x[c(1, length(x))]

# Distinct values read at fifteen digits, which leaves them in order: those that are one now are
# put together.
without_noise <- function(data) {
  if (!length(data$value)) return(data)
  value <- fifteen_digits(data$value)
  last <- which(c(value[-1] != value[-length(value)], TRUE))
  if (length(last) == length(value)) return(list(value = value, weight = data$weight))
  list(value = value[last], weight = diff(c(0, cumsum(data$weight)[last])))
}

scale_power <- function(value) {
  if (!length(value)) return(0)
  most <- max(abs(value[1]), abs(value[length(value)]))
  if (most == 0 || (most < 1e140 && most > 1e-100)) 0 else floor(log10(most)) - 15
}
