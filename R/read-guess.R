# Finding delimiter, encoding, title lines and decimal mark from the content of a delimited text
# file.

guess_format <- function(path, file, delimiter, encoding, call = rlang::caller_env()) {
  bytes <- readBin(path, "raw", file.size(path))
  encoding <- encoding %||% guess_encoding(bytes)
  sample <- bytes[seq_len(min(length(bytes), 262144L))]
  if (any(sample == 0) && !any(startsWith(upper_case(encoding), "UTF-16"))) {
    refuse_bytes(file, call)
  }
  text <- if (length(encoding) > 1) {
    paste(mixed_lines(sample, encoding[2]), collapse = "\n")
  } else {
    tryCatch(
      stringi::stri_encode(list(sample), encoding, "UTF-8"),
      error = function(e) {
        if (grepl("nul", conditionMessage(e), fixed = TRUE)) refuse_bytes(file, call)
        ochre_abort("argument", "`encoding` names `{encoding}`, which is not known here.",
                    "iconvlist() lists the names.", arg = "encoding")
      },
      warning = function(w) {
        suppressWarnings(stringi::stri_encode(list(sample), encoding, "UTF-8"))
      }
    )
  }
  lines <- split_lines(sub("^\ufeff", "", text))
  delimiter <- delimiter %||% guess_delimiter(lines)
  list(encoding = encoding, delimiter = delimiter, titles = guess_titles(lines, delimiter))
}

# At line feeds and carriage returns only; other marks that Unicode has for it are letters of a
# field.
split_lines <- function(text) {
  lines <- stringi::stri_split_regex(text, "\r\n|\n|\r")[[1]]
  if (length(lines) > 1 && !nzchar(lines[length(lines)])) lines[-length(lines)] else lines
}

guess_encoding <- function(bytes) {
  wide <- utf16_of(bytes)
  if (!is.null(wide)) return(wide)
  if (stringi::stri_enc_isutf8(list(bytes))) return("UTF-8")
  if (is_mixed(bytes)) c("UTF-8", "windows-1252") else "windows-1252"
}

refuse_bytes <- function(file, call) {
  ochre_abort(
    "file", "`{file}` is not a text file: it holds zero bytes.",
    "It is none of the formats that read_statistics() knows; save it as CSV, Excel or JSON."
  )
}

# UTF-16 by its mark of the byte order, or by the zero beside an ASCII first character.
utf16_of <- function(bytes) {
  if (length(bytes) < 2) return(NULL)
  if (begins_with(bytes, 0xff, 0xfe) || bytes[1] != 0 && bytes[1] < 0x80 && bytes[2] == 0) {
    return("UTF-16LE")
  }
  if (begins_with(bytes, 0xfe, 0xff) || bytes[1] == 0 && bytes[2] != 0 && bytes[2] < 0x80) {
    return("UTF-16BE")
  }
}

# Some lines are UTF-8 beyond ASCII, others are none: put together from files in two encodings.
is_mixed <- function(bytes) {
  if (any(bytes == 0)) return(FALSE)
  lines <- strsplit(rawToChar(bytes), "\n", fixed = TRUE, useBytes = TRUE)[[1]]
  beyond <- lines[!stringi::stri_enc_isascii(lines)]
  any(stringi::stri_enc_isutf8(beyond))
}

# The mark that splits most of the first lines into as many fields; of two that do it equally
# well, the one that gives more fields.
guess_delimiter <- function(lines) {
  lines <- utils::head(lines, 200)
  lines <- gsub("\"[^\"]*\"", "", lines[nzchar(trimws(lines))])
  marks <- c(",", ";", "\t", "|")
  fits <- vapply(
    marks,
    function(mark) {
      n <- stringi::stri_count_fixed(lines, mark)
      if (!any(n > 0)) return(0)
      most <- as.integer(names(which.max(table(n[n > 0]))))
      mean(n == most) + most / 1e4
    },
    numeric(1)
  )
  if (all(fits == 0)) "," else marks[which.max(fits)]
}

# Lines above the header: those before the first one with several fields, where most lines have
# several. Empty lines between them count, because the reader is told how many lines to skip.
guess_titles <- function(lines, delimiter) {
  lines <- utils::head(lines, 200)
  fields <- stringi::stri_split_fixed(gsub("\"[^\"]*\"", "x", lines), delimiter)
  filled <- vapply(fields, function(f) sum(nzchar(trimws(f))), 0L)
  width <- lengths(fields)
  several <- filled > 1
  if (sum(several) < 2 ||
      several[1] ||
      any(stringi::stri_count_fixed(lines[!several], "\"") %% 2 == 1)) {
    return(character())
  }
  header <- which(several)[1]
  # A table of one column that is mostly empty is no title.
  if (header > 25 || stats::median(width[several]) < 2) return(character())
  lines[seq_len(header - 1)]
}

# A comma is the decimal mark when some value can be read no other way and none needs the
# point for that.
guess_decimal_mark <- function(table, delimiter) {
  needs <- function(mark) {
    other <- if (mark == ",") "." else ","
    pattern <- sprintf(
      "^[-+]?([0-9]+|[0-9]{1,3}([%s '\u00a0\u202f][0-9]{3})+)[%s]([0-9]{1,2}|[0-9]{4,})$",
      other,
      mark
    )
    # A fraction of three digits is one only if the whole part cannot be a group of thousands.
    three <- sprintf("^[-+]?(0|[0-9]{4,})[%s][0-9]{3}$", mark)
    any(vapply(
      table,
      function(x) {
        x <- known_at_top(x, 5000)
        x <- without_signs(x[nchar(x, "bytes") <= 100])$text
        any(stringi::stri_detect_regex(x, pattern) | stringi::stri_detect_regex(x, three))
      },
      logical(1)
    ))
  }
  if (needs(",") && !needs(".")) "," else "."
}

# The first values that are not missing; mostly they stand at the top.
known_at_top <- function(x, n) {
  top <- utils::head(x, 2 * n)
  top <- top[!is.na(top)]
  if (length(top) < n && length(x) > 2 * n) top <- x[!is.na(x)]
  utils::head(top, n)
}
