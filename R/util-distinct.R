# What is done to texts is done once for each distinct one: a long column has few.

# The distinct `text` of a column in order of appearance, missing ones left out, and where each
# value stands `at` among them.
distinct_texts <- function(x) {
  found <- call_core(group_rows_core(list(x)))
  at <- found$index + 1L
  if (anyNA(x)) at[at == 0L] <- NA
  list(text = x[found$first], at = at)
}

# Where a value begins that is another than the one before.
changes <- function(v) c(TRUE, v[-1] != v[-length(v)])
