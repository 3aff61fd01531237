# Sheets of Excel and OpenDocument workbooks, as they are laid out for people: title lines, merged
# headings, notes below. The cells come as text from the readers of packages readxl and readODS;
# where merged cells lie is read from the workbook's own XML.

workbook_rows <- function(source, format, sheet, call = rlang::caller_env()) {
  book <- open_workbook(source, format, call)
  on.exit(remove_path(book$path))
  several <- length(book$sheets) > 1
  tried <- if (is.null(sheet)) {
    seq_along(book$sheets)
  } else {
    choose_layer(book$sheets, sheet, source$name, "sheets", call)
  }
  for (chosen in tried) {
    table <- sheet_table(book, chosen)
    # A sheet of notes before the data is passed over.
    if (length(table$table) > 1 && length(table$table[[1]])) break
  }
  if (!length(table$table) || (several && is.null(sheet) && !length(table$table[[1]]))) {
    first <- if (is.null(sheet)) 1L else chosen
    table <- sheet_table(book, first)
    chosen <- first
  }
  if (!length(table$table)) {
    others <- setdiff(book$sheets, book$sheets[chosen])
    ochre_abort(
      "file", "`{source$name}`: the sheet `{book$sheets[chosen]}` is empty.",
      if (length(others)) {
        "It also has {list_words(others)}: layer = \"{others[1]}\"."
      } else {
        "Fetch it again."
      }, file = source$name
    )
  }
  # Which one was taken is said where nobody named one.
  c(
    table,
    list(
      layer = if (several) book$sheets[chosen],
      layers = if (several && is.null(sheet)) book$sheets,
      typed = FALSE
    )
  )
}

# The table on one sheet; nothing when all its cells are empty.
sheet_table <- function(book, i) {
  cells <- tryCatch(book$cells(i), error = book$fail)
  if (!any(!is.na(cells))) return(list())
  table_in_grid(cells, tryCatch(book$merged(i), error = book$fail))
}

# Names of the sheets of a workbook.
sheets_of <- function(source, call = rlang::caller_env()) {
  book <- open_workbook(source, statistics_format(source, call), call)
  remove_path(book$path)
  book$sheets
}

# `sheets`, their names, and functions for the cells and the merged ranges of one of them.
open_workbook <- function(source, format, call) {
  ods <- format == "opendocument"
  need_package(
    if (ods) "readODS" else "readxl",
    if (ods) "Reading an OpenDocument workbook" else "Reading an Excel workbook",
    call
  )
  if (!ods) need_package("xml2", "Reading an Excel workbook", call)
  fail <- function(e) {
    ochre_abort(
      "file",
      sprintf(
        "`%s` is not a workbook that can be read: %s.", source$name,
        strip_period(gsub("\\s+", " ", conditionMessage(e)))
      ), "It may be cut off; fetch it again.", file = source$name
    )
  }
  packed <- !begins_with(first_bytes(source$path, 4), 0xd0, 0xcf, 0x11, 0xe0)
  if (packed) check_unpacked(source, call)
  # The readers go by the name's ending.
  path <- tempfile(
    "ochre-",
    fileext = if (ods) {
      ".ods"
    } else if (packed) {
      ".xlsx"
    } else {
      ".xls"
    }
  )
  file.copy(source$path, path)
  book <- list(path = path, fail = fail)
  book$sheets <- tryCatch(
    if (ods) readODS::list_ods_sheets(path) else readxl::excel_sheets(path),
    error = function(e) {
      remove_path(path)
      fail(e)
    }
  )
  book$cells <- function(i) if (ods) ods_cells(path, i) else excel_cells(path, i)
  book$merged <- function(i) {
    if (packed && !ods) excel_merged(path, book$sheets[i]) else no_ranges
  }
  book
}

check_unpacked <- function(source, call) {
  size <- sum(zip_members(source, call)$Length)
  if (size > unpack_limit()) {
    ochre_abort("file", "`{source$name}` says that it unpacks to {size_words(size)}.",
                "If it is to be trusted, raise the limit: options(ochre.unpack_limit = 8e9).",
                file = source$name)
  }
}

# A matrix of texts, NA where a cell is empty, from the sheet's first row and column on.
excel_cells <- function(path, sheet) {
  cells <- suppressMessages(readxl::read_excel(
    path,
    sheet = sheet,
    range = readxl::cell_limits(c(1, 1), c(NA, NA)),
    col_names = FALSE,
    col_types = "list",
    .name_repair = "minimal",
    progress = FALSE
  ))
  if (!nrow(cells)) return(matrix(NA_character_, 0, 0))
  matrix(
    unlist(lapply(cells, function(column) vapply(column, cell_text, "")), use.names = FALSE),
    nrow = nrow(cells)
  )
}

cell_text <- function(x) {
  if (is.null(x) || is.na(x)) return(NA_character_)
  if (inherits(x, "POSIXct")) {
    return(
      if (as.numeric(x) %% 86400 == 0) {
        format(x, "%Y-%m-%d", tz = "UTC")
      } else {
        format(x, "%Y-%m-%d %H:%M:%S", tz = "UTC")
      }
    )
  }
  text <- if (is.numeric(x)) as_key(x) else trimws(as.character(x))
  if (nzchar(text)) text else NA_character_
}

ods_cells <- function(path, sheet) {
  cells <- suppressMessages(suppressWarnings(readODS::read_ods(
    path, sheet = sheet, col_names = FALSE, col_types = NA, strings_as_factors = FALSE,
    .name_repair = "minimal"
  )))
  out <- trimws(matrix(
    enc2utf8(unlist(lapply(cells, as.character), use.names = FALSE)),
    nrow = nrow(cells)
  ))
  out[!nzchar(out)] <- NA
  out
}

no_ranges <- matrix(integer(), 0, 4)

# Merged ranges of an .xlsx sheet: a matrix of first row, last row, first column, last column.
excel_merged <- function(path, sheet) {
  inside <- utils::unzip(path, list = TRUE)$Name
  part <- function(name) {
    if (name %in% inside) {
      con <- unz(path, name, "rb")
      on.exit(close(con))
      # No network and no entities of its own making.
      xml2::xml_ns_strip(xml2::read_xml(readBin(con, "raw", 2^28), options = c("NONET")))
    }
  }
  book <- part("xl/workbook.xml")
  links <- part("xl/_rels/workbook.xml.rels")
  if (is.null(book) || is.null(links)) return(no_ranges)
  sheets <- xml2::xml_find_all(book, ".//sheet")
  id <- xml2::xml_attr(sheets, "id")[match(sheet, xml2::xml_attr(sheets, "name"))]
  relations <- xml2::xml_find_all(links, ".//Relationship")
  target <- xml2::xml_attr(relations, "Target")[match(id, xml2::xml_attr(relations, "Id"))]
  if (is.na(target)) return(no_ranges)
  page <- part(if (startsWith(target, "/")) substring(target, 2) else paste0("xl/", target))
  if (is.null(page)) return(no_ranges)
  refs <- xml2::xml_attr(xml2::xml_find_all(page, ".//mergeCell"), "ref")
  ends <- regmatches(refs, regexec("^([A-Z]{1,3})([0-9]{1,7}):([A-Z]{1,3})([0-9]{1,7})$", refs))
  ends <- do.call(rbind, ends[lengths(ends) == 5])
  if (is.null(ends)) return(no_ranges)
  column <- function(letters) {
    vapply(
      strsplit(letters, ""),
      function(l) Reduce(function(a, b) 26 * a + b, match(l, LETTERS)),
      0
    )
  }
  cbind(as.integer(ends[, 3]), as.integer(ends[, 5]), column(ends[, 2]), column(ends[, 4]))
}
