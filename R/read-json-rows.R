# JSON as a table: where its rows lie, and in which of the usual shapes. Package jsonlite parses.

json_rows <- function(source, records, call = rlang::caller_env()) {
  content <- parse_documents(source, call)
  if (isTRUE(source$joined)) {
    table <- table_of_records(content$value, source$name, call)
  } else if (content$documents > 1) {
    single <- all(vapply(content$value, is_record, NA))
    if (!single) warn_documents(content$documents, "JSON documents", source$name)
    table <- table_of_json(join_rows(content, records, source$name, call), source$name, call)
  } else {
    table <- json_table(content$value, records, source$name, call)
  }
  list(table = table, typed = TRUE, strings = TRUE)
}

# Records one a line are usual; whole documents one after the other are rather two files in one.
warn_documents <- function(count, what, name) {
  if (count < 2) return(invisible())
  ochre_warn("documents",
             "`{name}` holds {as.integer(count)} {what} one after the other; all are read.",
             "Was it put together by mistake? Give each a file of its own.", file = name)
}

json_table <- function(content, records, name, call) {
  rows <- at_pointer(content, records %||% pointer_to_rows(content, name, call), name, call)
  table_of_json(if (all_are(rows, is_feature)) lapply(rows, plain_feature) else rows, name, call)
}

# A feature of GeoJSON as a row of statistics: its properties, and its id where they have none.
is_feature <- function(x) {
  is_record(x) && identical(x$type, "Feature") && "properties" %in% names(x)
}
plain_feature <- function(x) {
  if (is.null(x$id) || "id" %in% names(x$properties)) return(x$properties)
  c(list(id = x$id), x$properties)
}

# `value`: the document, or a list of them where there are several.
parse_documents <- function(source, call) {
  path <- source$path
  bytes <- readBin(path, "raw", file.size(path))
  encoding <- guess_encoding(bytes)
  if (!identical(encoding, "UTF-8")) {
    path <- in_utf8(path, encoding)
    on.exit(remove_path(path))
    bytes <- readBin(path, "raw", file.size(path))
  }
  if (any(bytes == 0)) {
    ochre_abort("file", "`{source$name}` is not a text file.",
                "It begins like JSON but is spoilt; fetch it again.", file = source$name)
  }
  account <- call_core(json_account_core(path), file = source$name, call = call)
  check_depth(account$depth, source$name, call)
  text <- account$joined %||% rawToChar(bytes)
  Encoding(text) <- "UTF-8"
  refuse <- function(reason) {
    ochre_abort("file", "`{source$name}` is not valid JSON: {strip_period(reason)}.",
                "It may be cut off; fetch it again.", file = source$name)
  }
  if (account$documents && nzchar(trimws(account$rest))) {
    refuse(sprintf("after the last document stands \"%s\"", shorten(trimws(account$rest), 40)))
  }
  value <- tryCatch(
    jsonlite::parse_json(sub("^\ufeff", "", text), simplifyVector = FALSE, bigint_as_char = TRUE),
    error = function(e) {
      refuse(trimws(sub("\n.*", "", sub("^(parse|lexical) error: *", "", conditionMessage(e)))))
    }
  )
  list(value = value, documents = account$documents)
}

# Several documents in one file are a row each, or lists of rows that belong together. They may also
# hold their rows deeper: then someone must say which is meant.
join_rows <- function(content, records, name, call) {
  documents <- content$value
  if (all(vapply(documents, function(d) is_plain_list(d) && all_are(d, is_record), NA))) {
    return(unlist(documents, recursive = FALSE))
  }
  if (is.null(records)) {
    ends <- documents[c(1, length(documents))]
    inside <- Reduce(intersect, lapply(ends, function(d) if (is_record(d)) find_records(d, "")))
    if (!length(inside)) return(documents)
    ochre_abort(
      "records",
      "`{name}` holds {length(documents)} JSON documents, and each has rows of its own.",
      paste0("Put them together with records = \"{inside[1]}\", or take each document as one ",
             "row with records = \"\"."), file = name, found = inside
    )
  }
  if (!nzchar(records)) return(documents)
  rows <- lapply(documents, at_pointer, records, name, call)
  if (!all(vapply(rows, function(r) is_plain_list(r) && json_shape(r) %in% "records", NA))) {
    ochre_abort(
      "records",
      paste0("`{name}` holds {length(documents)} JSON documents, and not each has a list of ",
             "records at `{records}`."), "Split the file.", file = name
    )
  }
  unlist(rows, recursive = FALSE)
}

pointer_to_rows <- function(content, name, call) {
  if (!is.na(json_shape(content))) return("")
  features <- is_record(content) && identical(content$type, "FeatureCollection")
  if (features && is_plain_list(content$features)) return("/features")
  found <- find_records(content, "")
  if (length(found) == 1) return(found)
  ochre_abort(
    "records",
    sprintf(
      "`%s` holds %s.",
      name,
      if (length(found)) {
        sprintf("%d lists of records: %s", length(found), list_words(found))
      } else {
        "no list of records"
      }
    ),
    if (length(found)) {
      sprintf("Name one: records = \"%s\".", found[1])
    } else {
      sprintf(
        "Say where the rows lie, as in records = \"/data/rows\". It begins with %s.",
        list_words(utils::head(names(content) %||% "a list", 8))
      )
    }, file = name, found = found
  )
}

# Follows a JSON Pointer (RFC 6901).
at_pointer <- function(content, pointer, name, call) {
  if (!nzchar(pointer)) return(content)
  if (!startsWith(pointer, "/")) pointer <- paste0("/", pointer)
  parts <- strsplit(substring(pointer, 2), "/", fixed = TRUE)[[1]]
  if (endsWith(pointer, "/")) parts <- c(parts, "")
  parts <- gsub("~0", "~", gsub("~1", "/", parts, fixed = TRUE), fixed = TRUE)
  for (i in seq_along(parts)) {
    known <- is.list(content) && (if (is.null(names(content))) {
        grepl("^[0-9]{1,9}$", parts[i]) && as.integer(parts[i]) < length(content)
      } else {
        parts[i] %in% names(content)
      })
    if (!known) {
      ochre_abort(
        "records", "`{name}` has nothing at `{pointer}`: there is no `{parts[i]}`.",
        if (length(names(content))) {
          did_you_mean(parts[i], names(content), "There are")
        } else {
          "Before it lies no object."
        }, file = name
      )
    }
    content <- if (is.null(names(content))) {
      content[[as.integer(parts[i]) + 1]]
    } else {
      content[[match(parts[i], names(content))]]
    }
  }
  content
}

is_record <- function(x) is.list(x) && !is.null(names(x))
is_plain_list <- function(x) is.list(x) && is.null(names(x))
all_are <- function(x, test) length(x) > 0 && all(vapply(x, test, NA))

json_shape <- function(x) {
  if (is_plain_list(x)) {
    if (!length(x) || all_are(x, is_record)) return("records")
    if (length(x) > 1 && all_are(x, is_plain_list) && all_are(x[[1]], is.character)) {
      return("lists")
    }
    return(NA_character_)
  }
  if (!is_record(x)) return(NA_character_)
  heads <- x$columns %||% x$fields
  if (is_plain_list(heads) &&
      all_are(heads, is.character) &&
      is_plain_list(x$data %||% x$rows)) {
    return("split")
  }
  flat <- function(v) {
    is_plain_list(v) &&
      length(v) > 0 &&
      all(vapply(v, function(one) is.null(one) || is.atomic(one), NA))
  }
  if (all_are(x, flat) && length(unique(lengths(x))) == 1) return("columns")
  if (length(x) > 1 &&
      all_are(x, is_record) &&
      all(vapply(x, function(r) all_are(r, function(v) is.null(v) || is.atomic(v)), NA))) {
    return("keyed")
  }
  NA_character_
}

# Pointers to lists of records inside an object.
find_records <- function(x, at, depth = 0) {
  if (depth > 6 || !is_record(x)) return(character())
  escaped <- gsub("/", "~1", gsub("~", "~0", names(x), fixed = TRUE), fixed = TRUE)
  unlist(lapply(seq_along(x), function(i) {
    here <- paste0(at, "/", escaped[i])
    if (length(x[[i]]) && json_shape(x[[i]]) %in% c("records", "lists", "split")) {
      here
    } else {
      find_records(x[[i]], here, depth + 1)
    }
  }))
}

table_of_json <- function(x, name, call) {
  shape <- json_shape(x)
  if (is.na(shape)) {
    ochre_abort("records", "`{name}` has no rows where it was looked.",
                "There should be a list of records, an object of columns, or a list of lists.",
                file = name)
  }
  lists <- function(names, rows) {
    odd <- which(lengths(rows) != length(names))
    if (length(odd)) {
      ochre_abort(
        "records",
        paste0("`{name}`: row {odd[1]} has {count_words(length(rows[[odd[1]]]), 'value')}, ",
               "but there are {count_words(length(names), 'name')}."), file = name, row = odd[1]
      )
    }
    stats::setNames(
      lapply(seq_along(names), function(k) column_of(lapply(rows, `[[`, k))),
      tidy_names(unlist(names))
    )
  }
  switch(shape,
    records = table_of_records(x, name, call),
    lists = lists(x[[1]], x[-1]),
    split = lists(x$columns %||% x$fields, x$data %||% x$rows),
    columns = lapply(x, column_of),
    keyed = c(list(key = names(x)), table_of_records(unname(x), name, call))
  )
}

# Records may differ in their names; nested objects become `a.b`, lists their JSON text.
table_of_records <- function(records, name, call) {
  cells <- flat_cells(records)
  columns <- unique(cells$name)
  check_column_limit(length(columns), name, call)
  check_cells(length(records), length(columns), name, call)
  at <- split(seq_along(cells$value), factor(match(cells$name, columns), seq_along(columns)))
  stats::setNames(
    lapply(at, function(k) {
      values <- vector("list", length(records))
      values[cells$row[k]] <- cells$value[k]
      column_of(values)
    }),
    columns
  )
}

# All values of all records one after the other, each with its row and name; a level of nesting a
# turn.
flat_cells <- function(records) {
  value <- unlist(unname(records), recursive = FALSE, use.names = FALSE)
  name <- as.character(unlist(lapply(records, names)))
  row <- rep(seq_along(records), lengths(records))
  while (any(nested <- vapply(value, is_record, NA))) {
    inner <- value[nested]
    size <- rep(1L, length(value))
    size[nested] <- lengths(inner)
    before <- cumsum(size) - size
    at <- sequence(lengths(inner), before[nested] + 1L)
    wider <- vector("list", sum(size))
    wider[before[!nested] + 1L] <- value[!nested]
    wider[at] <- unlist(unname(inner), recursive = FALSE, use.names = FALSE)
    row <- rep(row, size)
    name <- rep(name, size)
    name[at] <- paste0(name[at], ".", unlist(lapply(inner, names)))
    value <- wider
  }
  # A name that stands twice in one record is two columns.
  again <- duplicated(data.frame(row, name))
  of <- which(row %in% row[again])
  if (length(of)) {
    name[of] <- unsplit(lapply(split(name[of], row[of]), make.unique, sep = "_"), row[of])
  }
  list(value = value, name = name, row = row)
}

# The JSON text of each list. The leaves of all are written at once: a call for each takes long.
nested_texts <- function(lists) {
  kind <- rapply(lists, class, how = "unlist")
  leaf <- character(length(kind))
  for (k in unique(kind)) {
    these <- rapply(lists, identity, classes = k, how = "unlist")
    leaf[kind == k] <- jsonlite::toJSON(unname(these), digits = NA, collapse = FALSE)
  }
  at <- 0
  write <- function(v) {
    if (is.null(v)) return("null")
    if (!is.list(v)) return(leaf[at <<- at + 1])
    inside <- vapply(v, write, "", USE.NAMES = FALSE)
    if (is.null(names(v))) return(paste0("[", paste(inside, collapse = ","), "]"))
    heads <- paste0("\"", names(v), "\"")
    odd <- grepl("[\"\\\\[:cntrl:]]", names(v))
    heads[odd] <- jsonlite::toJSON(names(v)[odd], collapse = FALSE)
    paste0("{", paste0(heads, ":", inside, recycle0 = TRUE, collapse = ","), "}")
  }
  lapply(lists, write)
}

# One type for all values: logical, integer, double, or text.
column_of <- function(values) {
  values[lengths(values) == 0] <- NA
  deep <- vapply(values, is.list, NA)
  values[deep] <- nested_texts(values[deep])
  kinds <- unique(vapply(values[!is.na(values)], typeof, ""))
  if (!length(kinds)) return(rep(NA_character_, length(values)))
  if (length(setdiff(kinds, c("integer", "double"))) && length(kinds) > 1) {
    return(vapply(
      values,
      function(v) {
        if (is.na(v)) {
          NA_character_
        } else if (is.numeric(v)) {
          as_key(v)
        } else {
          as.character(v)
        }
      },
      ""
    ))
  }
  unlist(values, use.names = FALSE)
}
