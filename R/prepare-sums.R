# What readers of a table of counts can add up: which cells stand in which published sums. Hiding
# (prepare-hide.R) and finding out what can be inferred (prepare-infer.R) both look at the table so.

# A list of `value` (counts of all cells), `member` (a data frame of `sum`, `cell` and `sign`: -1
# for the cell that holds the sum itself), `known` (what each sum adds up to apart from its cells,
# zero where the sum is a cell) and `label` (a name of each sum).
published_sums <- function(data, count, by, margins, sums, call = rlang::caller_env()) {
  value <- as.numeric(data[[count]])
  inner <- rep(TRUE, nrow(data))
  for (column in names(sums)) {
    inner <- inner & !(as_key(data[[column]]) %in% as_key(sums[[column]]))
  }
  parts <- c(
    lapply(margins, outer_sums, data = data, value = value, inner = inner),
    lapply(names(sums), inner_sums, data = data, value = value, by = by, total = sums)
  )
  number <- 0L
  member <- list()
  known <- numeric()
  label <- character()
  for (part in parts) {
    member <- c(
      member,
      list(data.frame(sum = part$sum + number, cell = part$cell, sign = part$sign))
    )
    known <- c(known, part$known)
    label <- c(label, part$label)
    number <- number + length(part$known)
  }
  none <- data.frame(sum = integer(), cell = integer(), sign = numeric())
  list(value = value, member = do.call(rbind, c(list(none), member)), known = known, label = label)
}

# Sums that are published beside the table, one for each value of some columns.
outer_sums <- function(columns, data, value, inner) {
  rows <- which(inner & !is.na(value))
  group <- if (length(columns)) {
    do.call(paste, c(lapply(data[rows, columns, drop = FALSE], as_key), sep = ", "))
  } else {
    rep("all", length(rows))
  }
  name <- unique(group)
  at <- match(group, name)
  words <- if (length(columns)) {
    sprintf("the total of %s %s", paste(columns, collapse = ", "), name)
  } else {
    "the total of all rows"
  }
  list(
    sum = at,
    cell = rows,
    sign = rep(1, length(rows)),
    known = as.numeric(rowsum_by(value[rows], factor(at, seq_along(name)))),
    label = words
  )
}

# Sums that are rows of the table: men and women, and both.
inner_sums <- function(column, data, value, by, total) {
  others <- setdiff(by, column)
  group <- if (length(others)) {
    do.call(paste, c(lapply(data[others], as_key), sep = "\r"))
  } else {
    rep("all", nrow(data))
  }
  is_total <- as_key(data[[column]]) %in% as_key(total[[column]])
  known <- !is.na(value)
  name <- unique(group[is_total & known])
  rows <- which(known & group %in% name)
  rows <- rows[order(match(group[rows], name))]
  at <- match(group[rows], name)
  words <- sprintf("the row `%s` of %s", total[[column]], gsub("\r", ", ", name))
  list(
    sum = at,
    cell = rows,
    sign = ifelse(is_total[rows], -1, 1),
    known = rep(0, length(name)),
    label = words
  )
}

# Hidden cells that can be reckoned with together: those that hang together through sums in which
# they stand. A list of vectors of cells.
linked_cells <- function(cells, table) {
  m <- table$member[table$member$cell %in% cells, ]
  root <- seq_along(cells)
  find <- function(i) {
    while (root[i] != i) i <- root[i]
    i
  }
  at <- match(m$cell, cells)
  for (rows in split(at, m$sum)) for (k in rows[-1]) root[find(k)] <- find(rows[1])
  unname(split(cells, vapply(seq_along(cells), find, 0L)))
}

# The sums of some cells as equations: a triplet matrix, and what is left for these cells.
equations_of <- function(cells, table) {
  m <- table$member[table$member$cell %in% cells, ]
  sums <- unique(m$sum)
  at <- match(m$sum, sums)
  rest <- rowsum_by(m$sign * table$value[m$cell], factor(at, seq_along(sums)))
  list(matrix = cbind(at, match(m$cell, cells), m$sign), right = as.numeric(rest), sums = sums)
}

# A row for each cell of several columns, of which the first is the sum of the others.
stack_parts <- function(data, columns, wish, call = rlang::caller_env()) {
  if (length(wish$sums) || length(wish$by)) {
    ochre_abort("argument", "`parts` cannot go with `by` and `sums`.",
                "Give columns that add up, or rows that do.", arg = "parts")
  }
  off <- which(rowSums(as.data.frame(data[columns[-1]])) != data[[columns[1]]])
  if (length(off)) {
    ochre_abort("column",
                "`{columns[1]}` is not the sum of {list_words(columns[-1])} in row {off[1]}.",
                "Name the columns that add up to it.", rows = off)
  }
  n <- nrow(data)
  long <- as.data.frame(data)[setdiff(names(data), c("geometry", columns))]
  long <- long[rep(seq_len(n), length(columns)), , drop = FALSE]
  long$.count <- unlist(lapply(data[columns], as.numeric), use.names = FALSE)
  long$.row <- rep(seq_len(n), length(columns))
  long$.column <- rep(columns, each = n)
  margins <- c(if (wish$total) list(as.character(wish$within)), wish$margins)
  list(long, ".count", list(
    total = FALSE, by = c(".row", ".column"), sums = list(.column = columns[1]),
    margins = lapply(margins, function(of) c(".column", of))
  ))
}
