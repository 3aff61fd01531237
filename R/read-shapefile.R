# Shapefiles: the core reads geometry and table; here the parts are found and texts brought to
# UTF-8.

read_shapefile <- function(source, encoding, tell, call = rlang::caller_env()) {
  table <- part_beside(source$path, "dbf")
  if (is.null(table)) {
    ochre_warn("parts", "`{source$name}` has no .dbf part beside it, so there are no columns.",
               "Get all parts of the shapefile.", file = source$name)
  }
  read <- call_core(
    read_shapefile_core(source$path, table %||% "", tell),
    file = source$name,
    call = call
  )
  read$columns <- finish_table(read, source, encoding, call)
  prj <- part_beside(source$path, "prj")
  read$system <- if (!is.null(prj)) {
    text <- paste(readLines(prj, warn = FALSE, skipNul = TRUE), collapse = "")
    iconv(text, "UTF-8", "UTF-8", sub = "?")
  }
  read
}

# The table of a shapefile by itself, as statistics.
dbf_rows <- function(source, encoding, call = rlang::caller_env()) {
  read <- call_core(read_dbf_core(source$path), file = source$name, call = call)
  columns <- finish_table(read, source, encoding, call)
  check_column_limit(length(columns), source$name, call)
  list(table = columns, typed = TRUE)
}

# Another part of the same shapefile, whatever the case of its ending.
part_beside <- function(path, extension) {
  beside <- list.files(dirname(path), full.names = TRUE)
  wanted <- lower_case(paste0(tools::file_path_sans_ext(basename(path)), ".", extension))
  beside <- beside[lower_case(basename(beside)) == wanted]
  if (length(beside)) beside[1]
}

# Columns with names and texts in UTF-8, and dates as dates.
finish_table <- function(read, source, encoding, call) {
  columns <- read$columns
  is_text <- vapply(columns, is.character, NA)
  from <- encoding %||% page_encoding(part_beside(source$path, "cpg")) %||%
    (if (nzchar(read$encoding)) read$encoding)
  texts <- whole_texts(c(columns[is_text], list(names(columns))), from, source$name)
  from <- from %||% if (all(validUTF8(unlist(texts)))) "UTF-8" else "CP1252"
  texts <- lapply(texts, to_utf8, from, source$name, call)
  columns[is_text] <- texts[seq_len(sum(is_text))]
  names(columns) <- texts[[length(texts)]]
  none <- rep(as.Date(NA), if (length(columns)) length(columns[[1]]) else 0)
  columns[read$date] <- lapply(columns[read$date], function(x) {
    if (is.character(x)) as.Date(x, optional = TRUE) else none
  })
  if (read$deleted > 0) {
    ochre_warn("deleted",
               "`{source$name}`: left out {count_words(read$deleted, 'row')} marked as deleted.",
               file = source$name)
  }
  columns
}

# A column's width cuts texts off, and in UTF-8 perhaps within a character: that one is left out.
# Bytes that no text of the file shows to be UTF-8 are left as they are.
whole_texts <- function(columns, from, name) {
  if (!(from %||% "UTF-8") %in% c("UTF-8", "utf-8")) return(columns)
  cut_off <- "(?:[\\xc2-\\xdf]|[\\xe0-\\xef][\\x80-\\xbf]?|[\\xf0-\\xf4][\\x80-\\xbf]{0,2})$"
  mended <- 0
  whole <- lapply(columns, function(x) {
    size <- nchar(x, "bytes")
    odd <- which(!validUTF8(x) & !is.na(x) & size == max(size, na.rm = TRUE))
    if (!length(odd)) return(x)
    shorter <- sub(cut_off, "", x[odd], perl = TRUE, useBytes = TRUE)
    good <- validUTF8(shorter)
    mended <<- mended + sum(good)
    x[odd[good]] <- shorter[good]
    x
  })
  texts <- unlist(whole)
  beyond <- texts[grepl("[^\\x01-\\x7f]", texts, perl = TRUE, useBytes = TRUE)]
  if (!mended || is.null(from) && !(length(beyond) && all(validUTF8(beyond)))) return(columns)
  ochre_warn(
    "encoding",
    sprintf(
      "`%s`: %s within a character by the width of the column; that character is left out.", name,
      count_words(mended, "text is cut", "texts are cut")
    ), "The rest is as in the file; another format has room for the whole text.", file = name
  )
  whole
}

# A .cpg file names the encoding as a number (1252), or as UTF-8, ISO 8859-1, "ANSI 1252", …
page_encoding <- function(cpg) {
  if (is.null(cpg)) return(NULL)
  name <- trimws(gsub("[^A-Za-z0-9 _-]", "", readLines(cpg, 1, warn = FALSE, skipNul = TRUE)))
  if (!length(name) || !nzchar(name)) return(NULL)
  if (has_pattern(name, "^(ANSI |CP|WINDOWS-|OEM )?[0-9]{3,5}$")) {
    number <- sub("^[^0-9]*", "", name)
    if (number == "65001") return("UTF-8")
    if (grepl("^8859[0-9]{1,2}$", number)) return(paste0("ISO-8859-", substring(number, 5)))
    return(paste0("CP", number))
  }
  if (has_pattern(name, "^UTF-?8$")) {
    "UTF-8"
  } else {
    sub("^ISO ?(8859)", "ISO-\\1", gsub(" ", "-", name))
  }
}

to_utf8 <- function(x, from, name, call) {
  seen <- unique(x)
  if (upper_case(from) == "UTF-8") {
    Encoding(seen) <- "UTF-8"
    bad <- !is.na(seen) & !validUTF8(seen)
    if (any(bad)) {
      ochre_warn(
        "encoding",
        paste0("`{name}`: {count_words(sum(bad), 'text is', 'texts are')} not valid UTF-8, ",
               "which the file says it is; read as Windows-1252."),
        "Name the right one with `encoding`.", file = name
      )
    }
    seen[bad] <- iconv(seen[bad], "CP1252", "UTF-8", sub = "\ufffd")
    return(seen[match(x, unique(x))])
  }
  out <- tryCatch(iconv(seen, from, "UTF-8", sub = "\ufffd"), error = function(e) {
    ochre_abort("argument", "`{name}`: the encoding `{from}` is not known here.",
                "Name it with `encoding`; iconvlist() lists the names.", arg = "encoding")
  })
  out[match(x, seen)]
}
