# Hiding small counts so that nobody finds them out, whatever sums are published beside them. Which
# sums there are is told in prepare-sums.R, what can be inferred from them in prepare-infer.R.

#' Hide small counts
#'
#' Counts from 1 up to below the limit become missing. Where sums are published too, a hidden
#' count could be recovered by subtraction; so further counts above zero, partners, are hidden,
#' until what is published excludes no value from 1 to `limit` - 1 for any hidden small count. All
#' sums are looked at together. The reason that stays in the table is the same for small counts and
#' for partners, because it would give them away.
#'
#' Readers are taken to know the limit, that zeros are shown, all sums, and all other counts.
#' [infer_hidden()] shows what they can infer.
#'
#' @param data A data frame, or a lazy table, whose rows are fetched.
#' @param count Column, bare or as text; numeric, whole, not negative.
#' @param limit The least count that is shown: one whole number.
#' @param within Column whose values are groups with a published total, bare or as text; `NULL`
#'   (default) when only the total of all rows is published.
#' @param total Whether those totals are published: `TRUE` (default) hides partners, `FALSE` only
#'   small counts, where no `margins` or `sums` are named.
#' @param by Columns that tell rows apart, bare or as text, such as `c(area, age, sex)`; needed with
#'   `sums`.
#' @param margins Which totals are published beside the table: a list of character vectors, each
#'   the columns whose values have a total; `character()` is the total of all rows.
#'   `list("area", "age")` are the totals of each area over all ages, and of each age over all
#'   areas. `NULL` (default) is what `within` says.
#' @param sums Totals that are rows of the table: a named list of the value that stands for the
#'   sum of the others, such as `list(sex = "both")`. These rows are hidden where they are small
#'   or needed as partners.
#' @param parts Columns whose sum is `count`, such as `c(men, women)`, where they are published
#'   beside it: then counts of all of them are hidden, and totals are those of each column. `NULL`
#'   (default) when no column adds up to another; a warning says so where some do.
#' @param hide_totals `TRUE` gives up totals beside the table where no partner can protect a
#'   count: the message and the attribute `hidden_totals` name those that must not be published.
#'   `FALSE` (default) ends in an error that names them.
#' @return `data` with `count` (`NA` where hidden) and one more column `<count>_reason`:
#'   `"hidden"`, or `NA`; with `parts` the same for each. Columns derived from the count (rates and
#'   their limits, shares, indices, texts) are missing where it is hidden: those that Ochre's verbs
#'   made, and those whose values are in proportion to it. A message says how many small counts and
#'   partners were hidden, and which derived columns. Counts that were missing stay so, without a
#'   reason.
#' @section Errors: `ochre_error_hidden` when nothing can protect a count, for example the only
#' one of its group (fields `rows`,
#'   `totals`); `ochre_warning_adding_up` where columns add up and `parts` does not name them;
#'   `ochre_error_column`, `ochre_error_argument`; `ochre_error_package` without
#'   package lpSolve, which several sums at once need.
#' @source Hundepool, A. et al. (2012) Statistical Disclosure Control, Wiley, chapter 4 (primary
#'   and secondary suppression). Kelly, J.P., Golden, B.L., Assad, A.A. (1992) Cell suppression,
#'   Networks 22(4), 397-417.
#' @examples
#' hide_small(
#'   data.frame(region = c("a", "a", "a", "b", "b"), cases = c(3, 12, 40, 9, 6)),
#'   cases,
#'   within = region
#' )
#' @concept suppression
#' @concept disclosure control
#' @concept small numbers
#' @export
hide_small <- function(data, count, limit = 5, within = NULL, total = TRUE, by = NULL,
                       margins = NULL, sums = NULL, parts = NULL, hide_totals = FALSE) {
  check_table(data, "data", lazy = TRUE)
  data <- fetch_whole(data)
  count <- column_name(rlang::enquo(count), data, "count")
  within <- column_name(rlang::enquo(within), data, "within", null = TRUE)
  parts <- column_names(rlang::enquo(parts), data, "parts", null = TRUE)
  check_number(limit, "limit", min = 2, whole = TRUE)
  check_flag(total, "total")
  check_flag(hide_totals, "hide_totals")
  by <- column_names(rlang::enquo(by), data, "by", null = TRUE)
  wish <- list(within = within, total = total, by = by, margins = margins, sums = sums)
  columns <- c(count, parts)
  derived <- derived_columns(data, columns)
  warn_adding_up(data, count, parts)
  cells <- if (length(parts)) stack_parts(data, columns, wish) else list(data, count, wish)
  table <- do.call(sums_wanted, cells)
  small <- which(table$value > 0 & table$value < limit)
  found <- hide_cells(small, table, limit)
  given_up <- character()
  while (length(found$exposed)) {
    loose <- totals_over(found$exposed, table)
    if (!hide_totals || !length(loose)) abort_exposed(cells[[1]], found$exposed, table$label[loose])
    given_up <- c(given_up, table$label[loose])
    table$member <- table$member[!table$member$sum %in% loose, ]
    found <- hide_cells(small, table, limit)
  }
  for (k in seq_along(columns)) {
    rows <- found$hidden - (k - 1L) * nrow(data)
    rows <- rows[rows >= 1 & rows <= nrow(data)]
    data[[columns[k]]][rows] <- NA
    reason <- rep(NA_character_, nrow(data))
    reason[rows] <- "hidden"
    data[[paste0(columns[k], "_reason")]] <- reason
    data <- hide_derived(data, rows, derived)
  }
  tell_hidden(columns, limit, length(small), length(found$hidden), given_up, derived)
  attr(data, "hidden_totals") <- if (length(given_up)) given_up
  move_geometry_last(data)
}

# Checks what is said of sums, and finds them.
sums_wanted <- function(data, count, wish, call = rlang::caller_env()) {
  by <- wish$by
  margins <- wish$margins
  total <- wish$total
  check_counts(data, count, "count", whole = TRUE, call = call)
  check_flag(total, "total", call)
  sums <- as.list(wish$sums)
  if (!is.null(margins) && !is.list(margins)) margins <- as.list(margins)
  margins <- lapply(margins, check_texts, "margins", call)
  named <- c(by, unlist(margins), names(sums))
  if (length(sums) && (is.null(names(sums)) || is.null(by))) {
    ochre_abort("argument", "`sums` needs `by`, and a name for each value.",
                "For example by = c(\"area\", \"sex\"), sums = list(sex = \"both\").", arg = "sums")
  }
  if (length(named)) check_column(data, named, "by", call = call)
  if (!length(margins) && !length(sums) && total) margins <- list(character())
  if (!is.null(wish$within)) {
    margins <- c(if (total) list(wish$within), setdiff(margins, list(character())))
  }
  published_sums(data, count, by, margins, sums, call)
}

# Small cells and their partners: `hidden`, and `exposed`, the small ones that nothing can protect.
hide_cells <- function(small, table, limit) {
  if (!nrow(table$member)) return(list(hidden = small, exposed = integer()))
  found <- if (in_one_sum(table)) {
    partners_one_sum(small, table, limit)
  } else {
    partners_by_program(small, table, limit)
  }
  list(hidden = sort(unique(c(small, found$partners))), exposed = found$exposed)
}

in_one_sum <- function(table) !anyDuplicated(table$member$cell) && all(table$member$sign > 0)

# Each cell stands in one sum: hidden counts leave every value open when there are two, and
# together they are as many as the greatest value and one for each of the others. One partner is
# always enough; the smallest costs least.
partners_one_sum <- function(small, table, limit) {
  m <- table$member
  partners <- exposed <- integer()
  for (cells in split(m$cell, m$sum)[as.character(unique(m$sum[m$cell %in% small]))]) {
    hidden <- intersect(cells, small)
    if (length(hidden) > 1 && sum(table$value[hidden]) >= limit + length(hidden) - 2) next
    rest <- setdiff(cells[table$value[cells] > 0], hidden)
    if (length(rest)) {
      partners <- c(partners, rest[which.min(table$value[rest])])
    } else {
      exposed <- c(exposed, hidden)
    }
  }
  list(partners = partners, exposed = exposed)
}

# Cells stand in several sums: for each small count the cheapest way to move it up to the limit
# and down to 1 without changing any sum; what moves with it is hidden. The ways prove that it is
# protected, so partners that no way needs any more are shown again, the largest first.
partners_by_program <- function(small, table, limit) {
  need_package("lpSolve", "Hiding under several sums")
  table <- c(
    table,
    list(pairs = pair_index(table), sums_of = sums_of_cells(table), cells_of = cells_of_sums(table))
  )
  hidden <- seq_along(table$value) %in% small
  ways <- list()
  exposed <- integer()
  order <- small[order(table$value[small])]
  for (i in seq_along(order)) {
    if (i %% 20 == 0) signal_progress("Hiding small counts", i, length(order))
    way <- way_both(order[i], hidden, table, limit)
    if (is.null(way)) exposed <- c(exposed, order[i])
    ways[[i]] <- way %||% order[i]
    hidden[way] <- TRUE
  }
  if (!length(exposed)) hidden <- without_idle(hidden, ways, order, table, limit)
  list(partners = setdiff(which(hidden), small), exposed = exposed)
}

# Shows partners again that no way needs, or that all ways can do without.
without_idle <- function(hidden, ways, order, table, limit) {
  partners <- setdiff(which(hidden), order)
  for (cell in partners[order(-table$value[partners])]) {
    users <- which(vapply(ways, function(way) cell %in% way, NA))
    fewer <- hidden
    fewer[cell] <- FALSE
    other <- list()
    for (k in seq_along(users)) {
      way <- way_both(order[users[k]], fewer, table, limit, only = fewer)
      if (is.null(way)) break
      other[[k]] <- way
    }
    if (length(other) < length(users)) next
    ways[users] <- other
    hidden <- fewer
  }
  hidden
}

sums_of_cells <- function(table) {
  unname(split(table$member$sum, factor(table$member$cell, seq_along(table$value))))
}
cells_of_sums <- function(table) {
  unname(split(table$member$cell, factor(table$member$sum, seq_along(table$known))))
}

# The cells that move with one, up and down; NULL where there is no way. A near look is mostly
# enough.
way_both <- function(cell, hidden, table, limit, only = NULL) {
  square <- cheapest_square(cell, hidden, table, limit, only)
  large <- length(table$value) > 600
  if (!is.null(square) && (large || all(hidden[square]))) return(square)
  # Looking for what can be shown again must not take longer than hiding.
  if (large && !is.null(only)) return(NULL)
  for (most in c(30, 120, 1200)) {
    cells <- cells_around(cell, hidden, table, most, only)
    ways <- lapply(
      c(limit - 1, 1) - table$value[cell],
      cheapest_way,
      cell = cell,
      cells = cells,
      hidden = hidden,
      table = table
    )
    found <- !any(vapply(ways, is.null, NA))
    way <- unique(c(cell, unlist(ways)))
    # At a first glance only what needs nobody new will do.
    if (found && (most > 30 || length(cells) < most || all(hidden[way]))) return(way)
    if (length(cells) < most) return(NULL)
  }
  NULL
}

# Rows and columns of a table with two margins: for each cell its row and column, and the cell at
# each place.
pair_index <- function(table) {
  m <- table$member
  times <- tabulate(m$cell, length(table$value))
  if (any(m$sign < 0) || any(times != 2 & times != 0)) return(NULL)
  first <- m$sum[match(seq_along(times), m$cell)]
  last <- rev(m$sum)[match(seq_along(times), rev(m$cell))]
  row <- match(first, unique(first))
  column <- match(last, unique(last))
  if (max(row) * max(column) > 2e7 || anyDuplicated(
      cbind(row, column)[times == 2, , drop = FALSE]
    )) {
    return(NULL)
  }
  at <- matrix(NA_integer_, max(row), max(column))
  at[cbind(row, column)[times == 2, , drop = FALSE]] <- which(times == 2)
  list(row = row, column = column, at = at)
}

# Four cells in two rows and two columns, of which two go up by what the others go down: the
# square with the fewest cells that are not hidden yet, of several the smallest. Each is so large
# that the cell can move as far as it must.
cheapest_square <- function(cell, hidden, table, limit, only) {
  p <- table$pairs
  if (is.null(p)) return(NULL)
  value <- table$value
  up <- limit - 1 - value[cell]
  # Of a long row the hidden ones and the smallest.
  usable <- function(cells) {
    cells <- cells[!is.na(cells) & cells != cell]
    cells <- cells[value[cells] >= 1 + up]
    if (!is.null(only)) cells <- cells[only[cells]]
    utils::head(cells[order(!hidden[cells], value[cells])], 200)
  }
  beside <- usable(p$at[p$row[cell], ])
  below <- usable(p$at[, p$column[cell]])
  if (!length(beside) || !length(below)) return(NULL)
  a <- rep(beside, length(below))
  b <- rep(below, each = length(beside))
  d <- p$at[cbind(p$row[b], p$column[a])]
  good <- which(!is.na(d) & value[d] >= value[cell])
  if (!is.null(only)) good <- good[only[d[good]]]
  if (!length(good)) return(NULL)
  new <- function(cells) (!hidden[cells]) * (1 + 1e-4 * log1p(value[cells]))
  best <- good[which.min(new(a[good]) + new(b[good]) + new(d[good]))]
  c(cell, a[best], b[best], d[best])
}

# Cells that change when one changes by `change` and all sums stay: those not hidden yet cost one
# each unit, and a little more when they are large. NULL where there is no way.
cheapest_way <- function(change, cell, cells, hidden, table) {
  if (change == 0) return(integer())
  at <- equations_of(cells, table)
  n <- length(cells)
  value <- table$value[cells]
  cost <- ifelse(hidden[cells], 1e-4, 1 + 0.01 * log1p(value))
  up <- at$matrix
  down <- cbind(at$matrix[, 1], at$matrix[, 2] + n, -at$matrix[, 3])
  sums <- length(at$sums)
  # A count comes down to 1 at most, and the cell itself moves by what is asked.
  me <- match(cell, cells)
  rows <- rbind(
    up,
    down,
    cbind(sums + seq_len(n), n + seq_len(n), 1),
    cbind(sums + n + 1, c(me, n + me), c(1, -1))
  )
  solved <- lpSolve::lp(
    "min", objective.in = c(cost, cost), dense.const = rows,
    const.dir = c(rep("=", sums), rep("<=", n), "="),
    const.rhs = c(rep(0, sums), value - 1, change)
  )
  if (solved$status != 0) return(NULL)
  moved <- solved$solution[seq_len(n)] + solved$solution[n + seq_len(n)]
  cells[moved > 1e-6]
}

# A program over a whole country would be slow: cells above zero that hang together with the cell
# through sums, nearest ones and hidden ones first, so many of them; or `only` some.
cells_around <- function(cell, hidden, table, most, only = NULL) {
  found <- edge <- cell
  while (length(edge) && length(found) < most) {
    sums <- unique(unlist(table$sums_of[edge]))
    rows <- table$cells_of[sums]
    cells <- unlist(rows)
    sum <- rep(seq_along(rows), lengths(rows))
    new <- which(table$value[cells] > 0 & !cells %in% found & !duplicated(cells))
    if (!is.null(only)) new <- new[only[cells[new]]]
    new <- new[order(!hidden[cells[new]], table$value[cells[new]])]
    # From each sum some, so that a long one does not crowd out the others.
    turn <- stats::ave(seq_along(new), sum[new], FUN = seq_along)
    edge <- utils::head(cells[new[order(turn)]], most - length(found))
    found <- c(found, edge)
  }
  found
}

# Sums beside the table in which these cells stand.
totals_over <- function(cells, table) {
  m <- table$member
  outer <- setdiff(unique(m$sum), unique(m$sum[m$sign < 0]))
  intersect(unique(m$sum[m$cell %in% cells]), outer)
}

abort_exposed <- function(data, cells, totals, call = rlang::caller_env()) {
  ochre_abort(
    "hidden",
    c(
      sprintf(
        "Nothing can protect %s: %s.", count_words(length(cells), "small count"),
        list_words(row_names_of(data, cells), mark = "")
      ),
      if (length(totals)) sprintf("Given away by %s.", list_words(totals, mark = ""))
    ),
    c(
      paste0(
        "Do not publish those totals (hide_totals = TRUE names all that must go), or join ",
        "the group with another."
      ),
      if (!length(totals)) "Leave out the rows of sums that give it away."
    ), rows = cells, totals = totals
  )
}

tell_hidden <- function(columns, limit, small, hidden, given_up, derived) {
  ochre_tell(paste(
    c(
      sprintf(
        "%s: hid %s below %d%s.",
        list_words(columns),
        count_words(small, "count"),
        limit,
        if (hidden > small) sprintf(", and %d more to protect them", hidden - small) else ""
      ),
      if (length(derived) && hidden) {
        sprintf("Also missing there: %s, derived from it.", list_words(derived, 10))
      },
      if (length(given_up)) {
        sprintf(
          "Do not publish %s: %s given away.",
          list_words(given_up, 10, mark = ""),
          if (length(given_up) == 1) "a count would be" else "counts would be"
        )
      }
    ),
    collapse = "\n"
  ))
}
