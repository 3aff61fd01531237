# Finding the table in a grid of cells: where its header begins, how many rows it has, what lies
# above and below.

# `cells` is a matrix of texts, `merged` one of ranges (rows from, to; columns from, to).
table_in_grid <- function(cells, merged = no_ranges) {
  filled <- !is.na(cells)
  width <- rowSums(filled)
  usual <- stats::median(width[width > 1])
  wide <- if (is.na(usual)) width > 0 else width >= max(2, usual / 2)
  head <- which(wide)[1]
  used <- which(colSums(filled[head:nrow(cells), , drop = FALSE]) > 0)
  # A heading that spans later columns only, in the row just above, belongs to the header.
  over <- head > 1 && width[head - 1] > 0 && is.na(cells[head - 1, used[1]]) && length(used) > 1
  top <- if (over) head - 1 else head
  cells <- spread_merged(cells, merged, top)
  width <- rowSums(!is.na(cells))
  bottom <- last_row(cells, width, width >= max(2, usual / 2, na.rm = TRUE), used, head)
  last <- last_heading(cells, top, head, used)
  names <- heading_names(cells[top:last, used, drop = FALSE])
  body <- if (last < bottom) (last + 1):bottom else integer()
  blank <- rowSums(!is.na(cells[body, used, drop = FALSE])) == 0
  table <- lapply(used, function(k) cells[body[!blank], k])
  note <- function(rows) {
    unname(apply(cells[rows[width[rows] > 0], , drop = FALSE], 1, function(x) {
      paste(unique(stats::na.omit(x)), collapse = " ")
    }))
  }
  list(
    table = stats::setNames(table, tidy_names(names)),
    renamed = renamed_columns(names, tidy_names(names)),
    titles = note(seq_len(top - 1)),
    footer = note(seq_len(nrow(cells))[-seq_len(bottom)]),
    filled = sum(!is.na(cells[body, ])) - sum(filled[body, ]),
    blank = sum(blank)
  )
}

# The table ends where only notes follow: rows of one text in a wider table; in one of two columns,
# where one text alone may be a key without a value, after an empty row or where it reads as a note.
last_row <- function(cells, width, wide, used, head) {
  end <- max(head, which(wide))
  if (length(used) > 2 || end == nrow(cells)) return(end)
  key <- nchar(cells[head:end, used[1]])
  for (row in (end + 1):nrow(cells)) {
    text <- cells[row, used[1]]
    if (is.na(text) ||
        nchar(text) > 1.5 * max(key, na.rm = TRUE) ||
        has_pattern(text, "^(source|note|\\*|\u00b9|[0-9]\\))")) {
      break
    }
    end <- row
  }
  end
}

# A further row belongs to the header while the one above leaves columns without a name that it
# names, and it does not look like data: it leaves cells empty that are named above, or has no
# number but years.
last_heading <- function(cells, top, head, used) {
  last <- head
  while (last < nrow(cells) && last - top < 4) {
    above <- cells[top:last, used, drop = FALSE]
    row <- cells[last + 1, used]
    named <- colSums(!is.na(above)) > 0
    repeated <- duplicated(above[nrow(above), ]) & !is.na(above[nrow(above), ])
    open <- !named | repeated | c(repeated[-1], FALSE)
    here <- row[!is.na(row)]
    number <- here %in% missing_marks |
      grepl("^<", here) |
      (is_number(here, ".") & !grepl("^(1[89]|2[01])[0-9]{2}$", here))
    if (!any(open) || !any(!is.na(row[open])) || any(number)) break
    last <- last + 1
  }
  last
}

# One name a column: headings above it, from the left where a merged one has left gaps.
heading_names <- function(heading) {
  n <- nrow(heading)
  for (r in seq_len(n - 1)) {
    for (k in seq_len(ncol(heading))[-1]) {
      # Filled to the right only under the same heading above and over a heading below.
      same <- r == 1 || identical(heading[r - 1, k], heading[r - 1, k - 1])
      if (is.na(heading[r, k]) && same && !is.na(heading[n, k])) {
        heading[r, k] <- heading[r, k - 1]
      }
    }
  }
  apply(heading, 2, function(x) {
    x <- x[!is.na(x)]
    paste(x[!duplicated(x)], collapse = " ")
  })
}

# The text of a merged range in all of its cells, from the header on. One as wide as the table is a
# note or a heading between rows, not a value of all its columns.
spread_merged <- function(cells, merged, top) {
  for (i in seq_len(nrow(merged))) {
    m <- merged[i, ]
    if (m[1] < top ||
        m[2] > nrow(cells) ||
        m[4] > ncol(cells) ||
        (m[4] > m[3] && m[3] == 1 && m[4] == ncol(cells))) {
      next
    }
    part <- cells[m[1]:m[2], m[3]:m[4]]
    part[is.na(part)] <- cells[m[1], m[3]]
    cells[m[1]:m[2], m[3]:m[4]] <- part
  }
  cells
}
