# Delimited text: all fields as text; title lines, rows that do not fit and footer told apart.

delimited_rows <- function(source, wishes, call = rlang::caller_env()) {
  found <- guess_format(source$path, source$name, wishes$delimiter, wishes$encoding, call)
  path <- source$path
  if (found$encoding != "UTF-8" || !is.null(wishes$encoding)) {
    path <- in_utf8(path, found$encoding)
    on.exit(unlink(path))
  }
  c(read_fields(path, source$name, found, call), list(delimiter = found$delimiter, encoding = found$encoding))
}

# A copy in UTF-8: readr can crash on bytes that an encoding does not have.
in_utf8 <- function(path, encoding) {
  bytes <- suppressWarnings(stringi::stri_encode(list(readBin(path, "raw", file.size(path))), encoding, "UTF-8", to_raw = TRUE)[[1]])
  copy <- tempfile("ochre-")
  writeBin(bytes, copy)
  copy
}

read_fields <- function(path, file, found, call = rlang::caller_env()) {
  table <- tryCatch(suppressWarnings(readr::read_delim(
    path, delim = found$delimiter, quote = "\"", escape_double = TRUE, trim_ws = TRUE, na = "", lazy = FALSE, skip = length(found$titles),
    col_types = readr::cols(.default = readr::col_character()), locale = readr::locale(encoding = "UTF-8"),
    name_repair = "minimal", progress = FALSE, show_col_types = FALSE
  )), error = function(e) {
    ochre_abort("file", sprintf("`%s` cannot be read as a table: %s.", file, strip_period(gsub("\\s+", " ", sub("\n.*", "", conditionMessage(e))))),
                "Is it a table of lines with the same delimiter?", file = file, call = call)
  })
  problems <- readr::problems(table)
  table <- tibble::as_tibble(as.list(table), .name_repair = "minimal")
  names(table) <- tidy_names(names(table))
  if (ncol(table) == 0) ochre_abort("file", sprintf("`%s` has no columns.", file), "Its first line must name them.", file = file, call = call)

  rows <- seq_len(nrow(table))
  # Problems count the header and the rows, without title lines and empty lines.
  short <- unique(problems$row[grepl("columns", problems$expected) & count_of(problems$actual) < ncol(table)]) - 1L
  last_whole <- max(0L, setdiff(rows, short))
  footer <- rows[rows > last_whole]
  wrong <- setdiff(unique(problems$row) - 1L, footer)
  wrong <- wrong[wrong >= 1]
  if (length(wrong)) {
    at <- problems[problems$row == wrong[1] + 1L, ][1, ]
    line <- line_of_row(path, found, at$row)
    ochre_abort("file", sprintf("`%s`, line %d: found %s, but the header has %s.", file, line, count_words(count_of(at$actual), "column"), count_words(ncol(table), "column")),
                c(if (length(wrong) > 1) sprintf("%d other lines have the same fault.", length(wrong) - 1L),
                  sprintf("Look for a missing or unquoted %s in that line.", shown_mark(found$delimiter))),
                file = file, row = line, call = call)
  }
  notes <- apply(as.matrix(table[footer, ]), 1, function(x) paste(stats::na.omit(x), collapse = ", "))
  body <- table[setdiff(rows, footer), ]
  blank <- Reduce(`&`, lapply(body, is.na))
  list(table = body[!blank, ], footer = unname(notes), titles = found$titles, blank = sum(blank), mend = "Fetch it again, or name the `delimiter`.")
}

# The line in the file of a row that is counted without title lines and empty ones.
line_of_row <- function(path, found, row) {
  lines <- stringi::stri_read_lines(path, encoding = "UTF-8")
  filled <- which(nzchar(trimws(lines)) & seq_along(lines) > length(found$titles))
  if (row <= length(filled)) filled[row] else row
}

count_of <- function(x) suppressWarnings(as.integer(sub("^(\\d+) columns?$", "\\1", x)))

tidy_names <- function(names) {
  names[is.na(names) | names == ""] <- "unnamed"
  make.unique(enc2utf8(names), sep = "_")
}
