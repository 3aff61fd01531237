# What several rooms do with tables.

is_lazy <- function(x) inherits(x, "tbl_lazy")

# Sums of a column by group: numbers from 1 to `n`, or a factor; values of no group are left out.
rowsum_by <- function(x, group, n = nlevels(group)) {
  call_core(group_sums_core(as.numeric(x), as.integer(group), n))$sums
}

# Number of each row's group (from 0, -1 without one) and the first row of each group.
group_rows <- function(data, columns) {
  alone <- length(columns) == 1
  plain <- function(x) {
    if (is.factor(x) || is.integer(x)) return(as.integer(x))
    if (is.numeric(x) && all(is.na(x) | (x == round(x) & abs(x) < 2e9))) return(as.integer(x))
    if (!is.character(x)) return(as_key(x))
    # Texts are told apart by where they are kept; those few that differ in encoding only, or are
    # empty, show here.
    groups <- call_core(group_rows_core(list(x)))
    distinct <- x[groups$first]
    if (!identical(as_key(distinct), distinct)) {
      as_key(x)
    } else if (alone) {
      groups
    } else {
      x
    }
  }
  parts <- lapply(columns, function(column) plain(data[[column]]))
  if (is.list(parts[[1]])) parts[[1]] else call_core(group_rows_core(parts))
}

move_geometry_last <- function(data) {
  if ("geometry" %in% names(data)) {
    data[c(setdiff(names(data), "geometry"), "geometry")]
  } else {
    data
  }
}
