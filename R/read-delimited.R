# Delimited text: all fields as text; title lines, rows that do not fit and footer told apart. The
# core counts what is there (src/core/csv-account.hpp), package data.table reads it, and both must
# agree.

delimited_rows <- function(source, wishes, call = rlang::caller_env()) {
  found <- guess_format(source$path, source$name, wishes$delimiter, wishes$encoding, call)
  path <- source$path
  if (!identical(found$encoding, "UTF-8") || !is.null(wishes$encoding)) {
    path <- in_utf8(path, found$encoding)
    on.exit(remove_path(path))
  }
  rows <- read_fields(path, source$name, found, call)
  c(rows, list(delimiter = found$delimiter, encoding = paste(found$encoding, collapse = " and ")))
}

# A copy in UTF-8. Of a file in two encodings each line is brought over by itself.
in_utf8 <- function(path, encoding) {
  bytes <- readBin(path, "raw", file.size(path))
  copy <- tempfile("ochre-")
  if (length(encoding) == 1) {
    text <- suppressWarnings(
      stringi::stri_encode(list(bytes), encoding, "UTF-8", to_raw = TRUE)[[1]]
    )
    writeBin(text, copy)
    return(copy)
  }
  writeBin(charToRaw(paste0(mixed_lines(bytes, encoding[2]), collapse = "\n")), copy)
  copy
}

# Lines of bytes as UTF-8; those that are not take the other encoding.
mixed_lines <- function(bytes, encoding) {
  lines <- strsplit(rawToChar(bytes), "\n", fixed = TRUE, useBytes = TRUE)[[1]]
  odd <- which(!stringi::stri_enc_isutf8(lines))
  lines[odd] <- stringi::stri_encode(lapply(lines[odd], charToRaw), encoding, "UTF-8")
  Encoding(lines) <- "UTF-8"
  lines
}

read_fields <- function(path, file, found, call = rlang::caller_env()) {
  titles <- length(found$titles)
  account <- call_core(csv_account_core(path, found$delimiter, titles), file = file, call = call)
  check_account(account, file, call)
  header <- read_records(path, found, account, 1, header = FALSE)
  given <- clean_fields(vapply(header, as.character, ""))
  check_names(given, file, call)
  names <- tidy_names(given)
  ends <- split_footer(path, account, found, file, call)
  table <- whole_records(path, file, found, account, ends, call)
  rows <- NROW(table[[1]])
  if (!rows) table <- rep(list(character()), length(names))
  names(table) <- names
  columns <- lapply(table, clean_fields)
  blank <- rows_where(columns, function(x, name) is.na(x), given)
  # Where files were put together, rows say the names of the columns.
  again <- rows_where(columns, function(x, name) if (is.na(name)) is.na(x) else x == name, given)
  gone <- c(blank, setdiff(again, blank))
  if (length(gone)) columns <- lapply(columns, `[`, -gone)
  list(
    table = tibble::as_tibble(columns, .name_repair = "minimal"),
    footer = ends$footer,
    titles = found$titles,
    blank = length(blank),
    headers = length(again),
    renamed = renamed_columns(given, names)
  )
}

# All records between header and footer, as many as a count by other means says.
whole_records <- function(path, file, found, account, ends, call) {
  rows <- account$records - 1 - length(ends$footer)
  if (!rows) return(NULL)
  fits <- function(table) NROW(table[[1]]) == rows && length(table) == account$fields
  table <- read_records(path, found, account, rows, header = TRUE)
  if (fits(table)) return(table)
  # What comes after the rows can lead the reader astray.
  end <- ends$stop %||% account$end
  table <- read_records(path, found, account, rows, header = TRUE, end)
  if (fits(table)) return(table)
  ochre_abort(
    "file",
    paste0("`{file}`: {format(NROW(table[[1]]), big.mark = ',')} were read of ",
           "{count_words(rows, 'row')}."), "Look for quotes within fields that are not doubled."
  )
}

check_account <- function(account, file, call) {
  if (account$nul_line) {
    ochre_abort(
      "file",
      sprintf("`%s`, line %.0f: holds a zero byte, which no text has.", file, account$nul_line),
      "The file is damaged; fetch it again.", file = file, row = as.integer(account$nul_line)
    )
  }
  if (account$open_line) {
    what <- if (account$to_the_end) {
      "opens a quote that is never closed"
    } else {
      "has a quote within a quoted field"
    }
    ochre_abort(
      "file", sprintf("`%s`, line %.0f: %s.", file, account$open_line, what),
      paste0("Quotes within a field are doubled, and the field as a whole stands in quotes; ",
             "or the file is cut off."), file = file, row = as.integer(account$open_line)
    )
  }
  if (!account$records) {
    ochre_abort("file", "`{file}` has no columns.", "Its first line must name them.")
  }
  check_column_limit(account$fields, file, call)
}

# A text without lines is no header.
check_names <- function(names, file, call) {
  longest <- max(0, nchar(names, "bytes"), na.rm = TRUE)
  if (longest <= 10000) return(invisible())
  ochre_abort("file", "`{file}`: a name in the first line is {size_words(longest)} long.",
              "Is this a table? Its first line must name the columns.")
}

# The first records of the file, without its header if that is one, as a list of columns of text.
read_records <- function(path, found, account, n, header, stop = NULL) {
  text <- if (!is.null(stop) || account$lone_returns) {
    cut_text(path, stop %||% account$end, account$lone_returns)
  }
  on.exit(remove_path(text))
  table <- suppressWarnings(data.table::fread(
    file = text %||% path, sep = found$delimiter, header = header,
    colClasses = "character", quote = "\"", na.strings = NULL,
    skip = length(found$titles), nrows = n, strip.white = TRUE, blank.lines.skip = TRUE,
    fill = FALSE, encoding = "UTF-8", data.table = FALSE, showProgress = FALSE
  ))
  unname(as.list(table))
}

# A copy up to a byte, with line feeds as line ends.
cut_text <- function(path, stop, returns) {
  bytes <- readBin(path, "raw", stop)
  if (returns) {
    feed <- as.raw(10)
    back <- bytes == as.raw(13)
    bytes[back & c(bytes[-1], as.raw(0)) != feed] <- feed
  }
  copy <- tempfile("ochre-")
  writeBin(bytes, copy)
  copy
}

# Blanks around a field go, doubled quotes are one, an empty field is missing, and the apostrophe
# goes that util-csv.R puts before a formula.
clean_fields <- function(x) {
  if (!is.character(x)) x <- as.character(x)
  found <- distinct_texts(x)
  clean <- clean_texts(found$text)
  if (identical(clean, found$text)) x else clean[found$at]
}

clean_texts <- function(x) {
  Encoding(x) <- "UTF-8"
  doubled <- which(stringi::stri_detect_fixed(x, "\"\""))
  x[doubled] <- gsub("\"\"", "\"", x[doubled], fixed = TRUE)
  around <- which(stringi::stri_detect_regex(x, "^\\s|\\s$"))
  x[around] <- stringi::stri_trim_both(x[around])
  x[!nzchar(x)] <- NA
  without_apostrophe(x)
}

# Rows for which a test of a column and its name holds in every column.
rows_where <- function(columns, test, names) {
  rows <- which(test(columns[[1]], names[[1]]))
  for (k in seq_along(columns)[-1]) {
    if (!length(rows)) break
    rows <- rows[which(test(columns[[k]][rows], names[[k]]))]
  }
  rows
}

renamed_columns <- function(given, names) {
  given[is.na(given)] <- ""
  changed <- which(given != names)
  stats::setNames(given[changed], names[changed])
}

# Records of another length than the header: those at the end that hold a note are a footer; others
# are faults, and a last one that looks like a row was cut off.
split_footer <- function(path, account, found, file, call) {
  odd <- as.data.frame(account$odd)
  last <- account$records - 1
  run <- odd$number == last - (nrow(odd) - seq_len(nrow(odd)))
  tail <- odd[run & rev(cummin(rev(run))) == 1 & odd$fields < account$fields, ]
  text <- record_texts(path, tail, account$end)
  note <- !looks_like_row(text, path, found, account, tail)
  # A footer is what follows the last row; before a row-like piece nothing is one.
  keep <- rev(cummin(rev(note))) == 1
  wrong <- odd[!odd$number %in% tail$number[keep], ]
  if (nrow(wrong)) abort_fields(wrong, account, found, file, call)
  footer <- text[keep]
  list(footer = unname(footer), stop = if (any(keep)) min(tail$start[keep]))
}

abort_fields <- function(wrong, account, found, file, call) {
  at <- wrong[1, ]
  cut <- at$number == account$records - 1 &&
    !account$ends_in_line_end &&
    at$fields < account$fields
  what <- sprintf(
    "found %s, but the header has %s",
    count_words(at$fields, "column"),
    count_words(account$fields, "column")
  )
  ochre_abort(
    "file",
    if (cut) {
      sprintf("`%s` is cut off in line %.0f: %s.", file, at$line, what)
    } else {
      sprintf("`%s`, line %.0f: %s.", file, at$line, what)
    },
    c(
      if (nrow(wrong) > 1) sprintf("%d other lines have the same fault.", nrow(wrong) - 1L),
      if (cut) {
        "Fetch it again."
      } else {
        sprintf("Look for a missing or unquoted %s in that line.", shown_mark(found$delimiter))
      }
    ), file = file, row = as.integer(at$line)
  )
}

record_texts <- function(path, records, end) {
  if (!nrow(records)) return(character())
  con <- file(path, "rb")
  on.exit(close(con))
  stop <- c(records$start[-1], end)
  out <- vapply(
    seq_len(nrow(records)),
    function(i) {
      seek(con, records$start[i])
      rawToChar(readBin(con, "raw", min(stop[i] - records$start[i], 10000)))
    },
    ""
  )
  Encoding(out) <- "UTF-8"
  trimws(gsub("[\r\n]+$", "", out))
}

# Is a short record the beginning of a row? Then its fields are like those of their columns (letters
# where letters are, digits where digits are), while a note is of words.
looks_like_row <- function(text, path, found, account, tail) {
  if (!length(text)) return(logical())
  rows <- read_records(path, found, account, min(201, account$records - nrow(tail)), header = FALSE)
  shape <- function(x) gsub("[A-Za-z\u00c0-\u024f]+", "a", gsub("[0-9]+", "0", x))
  known <- lapply(rows, function(column) unique(shape(column[-1])))
  cut <- !account$ends_in_line_end & seq_along(text) == length(text)
  fields <- strsplit(gsub("\"", "", text, fixed = TRUE), found$delimiter, fixed = TRUE)
  vapply(
    seq_along(text),
    function(i) {
      f <- trimws(fields[[i]])
      alike <- all(mapply(
        function(one, shapes) !nzchar(one) || shape(one) %in% shapes,
        f,
        known[seq_along(f)]
      ))
      # A single word may be a note as well.
      alike && (length(f) > 1 || cut[i] || grepl("[0-9]", f[1]))
    },
    NA
  )
}

tidy_names <- function(names) {
  names[is.na(names) | names == ""] <- "unnamed"
  make.unique(enc2utf8(names), sep = "_")
}
