# JSON as a table: where its rows lie, and in which of the usual shapes. Package jsonlite parses.

json_rows <- function(source, records, call = rlang::caller_env()) {
  bytes <- readBin(source$path, "raw", file.size(source$path))
  encoding <- guess_encoding(bytes)
  if (any(bytes == 0) && !startsWith(encoding, "UTF-16")) ochre_abort("file", sprintf("`%s` is not a text file.", source$name), "It begins like JSON but is spoilt; fetch it again.", file = source$name, call = call)
  text <- split_lines(sub("^\ufeff", "", suppressWarnings(stringi::stri_encode(list(bytes), encoding, "UTF-8"))))
  lines <- if (sum(nzchar(trimws(text))) > 1 && grepl("^\\s*\\{.*\\}\\s*$", text[1])) paste0("[", paste(text[nzchar(trimws(text))], collapse = ","), "]")
  parse <- function(text) jsonlite::parse_json(text, simplifyVector = FALSE, bigint_as_char = TRUE)
  content <- tryCatch(parse(lines %||% paste(text, collapse = "\n")), error = function(e) {
    reason <- sub("\n.*", "", sub("^(parse|lexical) error: *", "", conditionMessage(e)))
    ochre_abort("file", sprintf("`%s` is not valid JSON: %s.", source$name, strip_period(trimws(reason))), "It may be cut off; fetch it again.", file = source$name, call = call)
  })
  if (isTRUE(source$joined)) return(list(table = table_of_records(content), typed = TRUE, strings = TRUE))
  list(table = json_table(content, records, source$name, call), typed = TRUE, strings = TRUE)
}

json_table <- function(content, records, name, call) {
  table_of_json(at_pointer(content, records %||% pointer_to_rows(content, name, call), name, call), name, call)
}

pointer_to_rows <- function(content, name, call) {
  if (!is.na(json_shape(content))) return("")
  found <- find_records(content, "")
  if (length(found) == 1) return(found)
  ochre_abort("records", sprintf("`%s` holds %s.", name, if (length(found)) sprintf("%d lists of records: %s", length(found), list_words(found)) else "no list of records"),
              if (length(found)) sprintf("Name one: records = \"%s\".", found[1]) else sprintf("Say where the rows lie, as in records = \"/data/rows\". It begins with %s.", list_words(utils::head(names(content) %||% "a list", 8))),
              file = name, found = found, call = call)
}

# Follows a JSON Pointer (RFC 6901).
at_pointer <- function(content, pointer, name, call) {
  if (!nzchar(pointer)) return(content)
  if (!startsWith(pointer, "/")) pointer <- paste0("/", pointer)
  parts <- strsplit(substring(pointer, 2), "/", fixed = TRUE)[[1]]
  if (endsWith(pointer, "/")) parts <- c(parts, "")
  parts <- gsub("~0", "~", gsub("~1", "/", parts, fixed = TRUE), fixed = TRUE)
  for (i in seq_along(parts)) {
    known <- is.list(content) && (if (is.null(names(content))) grepl("^[0-9]{1,9}$", parts[i]) && as.integer(parts[i]) < length(content) else parts[i] %in% names(content))
    if (!known) {
      ochre_abort("records", sprintf("`%s` has nothing at `%s`: there is no `%s`.", name, pointer, parts[i]),
                  if (length(names(content))) did_you_mean(parts[i], names(content), "There are") else "Before it lies no object.", file = name, call = call)
    }
    content <- if (is.null(names(content))) content[[as.integer(parts[i]) + 1]] else content[[match(parts[i], names(content))]]
  }
  content
}

is_record <- function(x) is.list(x) && !is.null(names(x))
is_plain_list <- function(x) is.list(x) && is.null(names(x))
all_are <- function(x, test) length(x) > 0 && all(vapply(x, test, NA))

json_shape <- function(x) {
  if (is_plain_list(x)) {
    if (!length(x) || all_are(x, is_record)) return("records")
    if (length(x) > 1 && all_are(x, is_plain_list) && all_are(x[[1]], is.character)) return("lists")
    return(NA_character_)
  }
  if (!is_record(x)) return(NA_character_)
  heads <- x$columns %||% x$fields
  if (is_plain_list(heads) && all_are(heads, is.character) && is_plain_list(x$data %||% x$rows)) return("split")
  flat <- function(v) is_plain_list(v) && length(v) > 0 && all(vapply(v, function(one) is.null(one) || is.atomic(one), NA))
  if (all_are(x, flat) && length(unique(lengths(x))) == 1) return("columns")
  if (length(x) > 1 && all_are(x, is_record) && all(vapply(x, function(r) all_are(r, function(v) is.null(v) || is.atomic(v)), NA))) return("keyed")
  NA_character_
}

# Pointers to lists of records inside an object.
find_records <- function(x, at, depth = 0) {
  if (depth > 6 || !is_record(x)) return(character())
  escaped <- gsub("/", "~1", gsub("~", "~0", names(x), fixed = TRUE), fixed = TRUE)
  unlist(lapply(seq_along(x), function(i) {
    here <- paste0(at, "/", escaped[i])
    if (length(x[[i]]) && json_shape(x[[i]]) %in% c("records", "lists", "split")) here else find_records(x[[i]], here, depth + 1)
  }))
}

table_of_json <- function(x, name, call) {
  shape <- json_shape(x)
  if (is.na(shape)) {
    ochre_abort("records", sprintf("`%s` has no rows where it was looked.", name), "There should be a list of records, an object of columns, or a list of lists.", file = name, call = call)
  }
  lists <- function(names, rows) {
    odd <- which(lengths(rows) != length(names))
    if (length(odd)) ochre_abort("records", sprintf("`%s`: row %d has %s, but there are %s.", name, odd[1], count_words(length(rows[[odd[1]]]), "value"), count_words(length(names), "name")), file = name, row = odd[1], call = call)
    stats::setNames(lapply(seq_along(names), function(k) column_of(lapply(rows, `[[`, k))), tidy_names(unlist(names)))
  }
  switch(shape,
    records = table_of_records(x),
    lists = lists(x[[1]], x[-1]),
    split = lists(x$columns %||% x$fields, x$data %||% x$rows),
    columns = lapply(x, column_of),
    keyed = c(list(key = names(x)), table_of_records(unname(x)))
  )
}

# Records may differ in their names; nested objects become `a.b`, lists their JSON text.
table_of_records <- function(records) {
  flat <- lapply(records, function(r) if (any(vapply(r, is_record, NA))) flatten_record(r) else r)
  # A name that stands twice in one record is two columns.
  twice <- vapply(flat, function(r) anyDuplicated(names(r)) > 0, NA)
  flat[twice] <- lapply(flat[twice], function(r) stats::setNames(r, make.unique(names(r), sep = "_")))
  columns <- unique(unlist(lapply(flat, names)))
  stats::setNames(lapply(columns, function(name) column_of(lapply(flat, function(r) r[[name]]))), columns)
}

flatten_record <- function(r, prefix = "") {
  out <- list()
  for (name in names(r)) {
    value <- r[[name]]
    out <- c(out, if (is_record(value)) flatten_record(value, paste0(prefix, name, ".")) else stats::setNames(list(value), paste0(prefix, name)))
  }
  out
}

# One type for all values: logical, integer, double, or text.
column_of <- function(values) {
  values[lengths(values) == 0] <- NA
  deep <- vapply(values, is.list, NA)
  values[deep] <- lapply(values[deep], function(v) as.character(jsonlite::toJSON(v, auto_unbox = TRUE, null = "null", digits = NA)))
  kinds <- unique(vapply(values[!is.na(values)], typeof, ""))
  if (!length(kinds)) return(rep(NA_character_, length(values)))
  if (length(setdiff(kinds, c("integer", "double"))) && length(kinds) > 1) return(vapply(values, function(v) if (is.na(v)) NA_character_ else if (is.numeric(v)) as_key(v) else as.character(v), ""))
  unlist(values, use.names = FALSE)
}
