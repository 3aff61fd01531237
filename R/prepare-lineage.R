# Which columns were made from which: what is derived from a hidden count gives it away, and is
# hidden with it. Ochre's verbs note what they make; what others made is known by its values.

note_made <- function(data, new, from) {
  made <- attr(data, "ochre_made")
  made[new] <- rep(list(from), length(new))
  attr(data, "ochre_made") <- made
  data
}

# The table with other names of its columns.
rename_made <- function(data, names) {
  swap <- function(from) ifelse(from %in% names(data), names[match(from, names(data))], from)
  made <- attr(data, "ochre_made")
  if (length(made)) {
    attr(data, "ochre_made") <- stats::setNames(lapply(made, swap), swap(names(made)))
  }
  names(data) <- names
  data
}

# The columns that were made from some, also by way of others.
derived_columns <- function(data, columns) {
  made <- attr(data, "ochre_made")
  found <- columns
  repeat {
    more <- names(made)[vapply(made, function(from) any(from %in% found), NA)]
    more <- setdiff(c(more, proportional_columns(data, columns)), found)
    if (!length(more)) break
    found <- c(found, more)
  }
  intersect(setdiff(found, columns), names(data))
}

# Columns that are a multiple of a count, or of the count over another column, in nearly all rows;
# rates that were rounded are, too. Of a rate and what it is over, the rate is the one with
# decimals, or the later column.
proportional_columns <- function(data, columns) {
  others <- setdiff(names(data)[vapply(data, is.numeric, NA)], columns)
  x <- lapply(stats::setNames(data[others], others), as.numeric)
  parts <- vapply(x, function(v) any(v != round(v), na.rm = TRUE), NA)
  later <- function(i, j) if (parts[i] == parts[j]) i > j else parts[i]
  found <- vapply(seq_along(x), function(i) {
    bases <- c(list(rep(1, nrow(data))), x[vapply(seq_along(x), later, NA, i = i)])
    any(vapply(data[columns], function(y) {
      any(vapply(bases, is_proportional, NA, x = x[[i]], y = y))
    }, NA))
  }, NA)
  others[found]
}

# Is x = k * y / base, with one k for nearly all rows? Few rows, or alike ones, say nothing.
is_proportional <- function(x, y, base) {
  known <- which(is.finite(x) & is.finite(y) & is.finite(base) & x != 0 & y > 0 & base > 0)
  if (length(known) > 2000) known <- known[seq(1, length(known), length.out = 2000)]
  if (length(known) < 5 || length(unique(y[known])) < 3) return(FALSE)
  factor <- x[known] * base[known] / y[known]
  middle <- stats::median(factor)
  mean(abs(factor / middle - 1) < 0.02) > 0.9
}

# Hides what is derived from a hidden count. An index tells the count of the area that it refers to
# from any other count, and goes altogether, whatever it is called: it is 100 there.
hide_derived <- function(data, hidden, derived) {
  for (name in derived) {
    whole <- is.numeric(data[[name]]) && any(data[[name]][hidden] %in% 100)
    data[[name]][if (whole) seq_len(nrow(data)) else hidden] <- NA
  }
  data
}

# Readers find hidden counts out of columns that add up.
warn_adding_up <- function(data, count, parts) {
  if (length(parts)) return(invisible())
  numbers <- Filter(function(x) is.numeric(x) && all(x == round(x) & x >= 0, na.rm = TRUE), data)
  others <- setdiff(names(numbers), count)
  rows <- which(stats::complete.cases(numbers) & numbers[[count]] > 0)
  if (length(others) < 2 || length(rows) < 3) return(invisible())
  rows <- utils::head(rows, 500)
  x <- lapply(numbers, function(v) as.numeric(v[rows]))
  for (size in 2:4) {
    if (length(others) < size || choose(length(others), size) > 1e5) break
    for (set in utils::combn(others, size, simplify = FALSE)) {
      if (adds_up(x, count, set)) return(tell_adding_up(count, set, x))
    }
  }
}

# Is one of the columns the sum of the others?
adds_up <- function(x, count, set) {
  sums <- Reduce(`+`, x[c(count, set)])
  moves <- all(vapply(x[set], function(v) any(v > 0), NA))
  moves && any(vapply(x[c(count, set)], function(v) all(2 * v == sums), NA))
}

tell_adding_up <- function(count, set, x) {
  all <- c(count, set)
  sums <- Reduce(`+`, x[all])
  total <- all[vapply(x[all], function(v) all(2 * v == sums), NA)][1]
  parts <- setdiff(all, total)
  ochre_warn(
    "adding_up",
    "`{total}` is the sum of {list_words(parts)}: hidden counts can be recovered by subtraction.",
    paste0("Hide them together: hide_small(data, {total}, parts = ",
           "c({paste(parts, collapse = ', ')})); or leave one column out."), parts = parts
  )
}
