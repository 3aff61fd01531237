# Shapefiles: the core reads geometry and table; here the parts are found and texts brought to UTF-8.

read_shapefile <- function(source, encoding, tell, call = rlang::caller_env()) {
  part <- function(extension) {
    beside <- list.files(dirname(source$path), full.names = TRUE)
    beside <- beside[tolower(basename(beside)) == tolower(paste0(tools::file_path_sans_ext(basename(source$path)), ".", extension))]
    if (length(beside)) beside[1]
  }
  table <- part("dbf")
  if (is.null(table)) ochre_warn("parts", sprintf("`%s` has no .dbf part beside it, so there are no columns.", source$name), "Get all parts of the shapefile.", file = source$name)
  read <- call_core(read_shapefile_core(source$path, table %||% "", tell), file = source$name, call = call)
  from <- encoding %||% page_encoding(part("cpg")) %||% (if (nzchar(read$encoding)) read$encoding)
  names(read$columns) <- to_utf8(names(read$columns), from, source$name, call)
  read$columns <- lapply(read$columns, function(x) if (is.character(x)) to_utf8(x, from, source$name, call) else x)
  read$columns[read$date] <- lapply(read$columns[read$date], function(x) if (is.character(x)) as.Date(x, optional = TRUE) else as.Date(rep(NA, length(read$geometry))))
  if (read$deleted > 0) ochre_warn("deleted", sprintf("`%s`: left out %s marked as deleted.", source$name, count_words(read$deleted, "row")), file = source$name)
  prj <- part("prj")
  read$system <- if (!is.null(prj)) paste(readLines(prj, warn = FALSE, skipNul = TRUE), collapse = "")
  read
}

# A .cpg file names the encoding as a number (1252), or as UTF-8, ISO 8859-1, "ANSI 1252", …
page_encoding <- function(cpg) {
  if (is.null(cpg)) return(NULL)
  name <- trimws(gsub("[^A-Za-z0-9 _-]", "", readLines(cpg, 1, warn = FALSE, skipNul = TRUE)))
  if (!length(name) || !nzchar(name)) return(NULL)
  if (grepl("^(ANSI |CP|WINDOWS-|OEM )?[0-9]{3,5}$", name, ignore.case = TRUE)) {
    number <- sub("^[^0-9]*", "", name)
    if (number == "65001") return("UTF-8")
    if (grepl("^8859[0-9]{1,2}$", number)) return(paste0("ISO-8859-", substring(number, 5)))
    return(paste0("CP", number))
  }
  if (grepl("^UTF-?8$", name, ignore.case = TRUE)) "UTF-8" else sub("^ISO ?(8859)", "ISO-\\1", gsub(" ", "-", name))
}

# Without a name the bytes are UTF-8 where they are valid as that, else Windows-1252.
to_utf8 <- function(x, from, name, call) {
  seen <- unique(x)
  if (is.null(from)) from <- if (all(validUTF8(seen[!is.na(seen)]))) "UTF-8" else "CP1252"
  if (from == "UTF-8") {
    Encoding(seen) <- "UTF-8"
    bad <- !is.na(seen) & !validUTF8(seen)
    if (any(bad)) {
      ochre_warn("encoding", sprintf("`%s`: %s not valid UTF-8, which the file says it is; read as Windows-1252.", name, count_words(sum(bad), "text is", "texts are")),
                 "Name the right one with `encoding`.", file = name)
    }
    seen[bad] <- iconv(seen[bad], "CP1252", "UTF-8", sub = "\ufffd")
    return(seen[match(x, unique(x))])
  }
  out <- tryCatch(iconv(seen, from, "UTF-8", sub = "\ufffd"), error = function(e) {
    ochre_abort("argument", sprintf("`%s`: the encoding `%s` is not known here.", name, from), "Name it with `encoding`; iconvlist() lists the names.", arg = "encoding", call = call)
  })
  out[match(x, seen)]
}
