# Where boundaries come from: a path, a web address or a connection becomes a file on disk, and an
# archive the file in it that is wanted. What is unpacked is counted while it is unpacked, names in
# an archive are never used as paths, and nothing is left behind.

# A list (`copy` is where an address was fetched to, see with_copy()): `path` to read, `name` for
# messages, `temporary` paths to delete, `layer` when one was chosen on the way.
find_source <- function(file, layer = NULL, kinds = boundary_kinds, copy = NULL,
                        call = rlang::caller_env()) {
  # What was unpacked so far, so that it goes even when the rest fails or is stopped.
  trash <- new.env()
  trash$paths <- character()
  done <- FALSE
  on.exit(if (!done) remove_path(trash$paths))
  source <- open_source(file, layer, trash, kinds, copy, call)
  source$temporary <- trash$paths
  done <- TRUE
  source
}

# Endings of the files that are looked for in an archive.
boundary_kinds <- c(
  "shp", "geojson", "json", "topojson", "geojsonl", "gpkg", "parquet", "kml", "gpx",
  "csv", "tsv", "xlsx", "ods", "gz"
)
statistics_kinds <- c(
  "csv", "tsv", "txt", "tab", "xlsx", "xls", "ods", "json", "jsonl", "ndjson", "parquet",
  "dbf", "gz", "bz2", "xz"
)

open_source <- function(file, layer, trash, kinds, copy, call) {
  if (inherits(file, "connection")) {
    path <- temporary_path(trash)
    copy_limited(file, path, "the connection", call)
    return(unpack_source(
      list(path = path, name = "the connection", kinds = kinds),
      layer,
      trash,
      call
    ))
  }
  if (is_address(file)) {
    return(unpack_source(list(path = copy, name = file, kinds = kinds), layer, trash, call))
  }
  if (has_pattern(file, "^[a-z][a-z0-9+.-]+://")) {
    ochre_abort("url", "`{file}` is an address that Ochre does not read.",
                "Give one that begins with https:// or http://, or a path.")
  }
  file <- as_path(file, call)
  path <- path.expand(file)
  if (dir.exists(path)) return(source_in_folder(path, file, layer, call))
  unpack_source(list(path = check_file(file, call), name = file, kinds = kinds), layer, trash, call)
}

temporary_path <- function(trash) {
  path <- tempfile("ochre-")
  trash$paths <- c(trash$paths, path)
  path
}

check_file <- function(file, call = rlang::caller_env()) {
  file <- as_path(file, call)
  path <- path.expand(file)
  if (dir.exists(path)) {
    ochre_abort("file", "`{file}` is a folder, not a file.", "Name the file in it.")
  }
  if (!file.exists(path)) {
    here <- list.files(dirname(path))
    near <- nearest_word(basename(path), here)
    ochre_abort(
      "file", "There is no file `{file}`.",
      if (is.null(near)) {
        sprintf("Looked in `%s`.", normalizePath(dirname(path), "/", mustWork = FALSE))
      } else {
        sprintf("Did you mean `%s`?", file.path(dirname(file), near))
      }
    )
  }
  if (call_core(file_kind_core(path)) == "other") {
    ochre_abort("file", "`{file}` is no plain file but a pipe or device.",
                "Save what it gives to a file first.")
  }
  as_path(normalizePath(path, "/"))
}

# A folder is read as the shapefile in it, or as the parts of one Parquet table.
source_in_folder <- function(path, file, layer, call) {
  inside <- list.files(path, pattern = "\\.shp$", ignore.case = TRUE)
  if (!length(inside)) {
    parts <- list.files(path, pattern = "[.]parquet$", recursive = TRUE)
    # What begins with "_" is a writer's own.
    parts <- parts[!grepl("(^|/)_", parts)]
    if (length(parts)) {
      count <- count_words(length(parts), "Parquet part")
      ochre_tell("`{file}`: {count} of one table.")
      parts <- stats::setNames(file.path(path, parts), dirname(parts))
      return(list(path = parts[[1]], parts = parts, name = file))
    }
    ochre_abort("file", "The folder `{file}` has neither a shapefile nor parts of a Parquet table.",
                "Name a file in it.")
  }
  chosen <- choose_layer(tools::file_path_sans_ext(inside), layer, file, "shapefiles", call)
  list(
    path = file.path(path, inside[chosen]),
    name = file.path(file, inside[chosen]),
    layer = tools::file_path_sans_ext(inside[chosen])
  )
}

# The number of the wanted one among several.
choose_layer <- function(names, layer, file, what, call = rlang::caller_env()) {
  if (length(names) == 1 && is.null(layer)) return(1L)
  at <- if (!is.null(layer)) match(layer, names, match(lower_case(layer), lower_case(names)))
  if (length(at) == 1 && !is.na(at)) return(at)
  ochre_abort(
    "layer",
    if (is.null(layer)) {
      "`{file}` holds {length(names)} {what}: {list_words(names, 12)}."
    } else {
      "`{file}` has no layer `{layer}`."
    },
    if (is.null(layer)) {
      "Name one, for example layer = \"{names[1]}\"."
    } else {
      "{did_you_mean(layer, names, 'Its layers')}"
    }, file = file, layers = names, holds = what
  )
}

# Reads a connection to a file, and stops at the limit: an archive may say that it is small.
copy_limited <- function(from, to, name, call) {
  own <- !isOpen(from)
  if (own) open(from, "rb")
  if (own || inherits(from, c("gzfile", "bzfile", "xzfile", "unz"))) on.exit(close(from))
  out <- file(to, "wb")
  on.exit(close(out), add = TRUE)
  total <- 0
  repeat {
    bytes <- read_piece(from, name, call)
    if (!length(bytes)) break
    total <- total + length(bytes)
    if (total > unpack_limit()) {
      limit <- size_words(unpack_limit())
      what <- sprintf("`%s` is larger than %s when it is unpacked.", name, limit)
      refuse_size(what, name, call)
    }
    writeBin(bytes, out)
  }
  total
}

read_piece <- function(from, name, call) {
  fail <- function(words, condition, mend) {
    what <- sprintf(words, name, strip_period(conditionMessage(condition)))
    ochre_abort("file", what, mend, file = name)
  }
  tryCatch(
    readBin(from, "raw", 2^20),
    error = function(e) {
      fail("`%s` cannot be read to its end: %s.", e, "It may be cut off; fetch it again.")
    },
    warning = function(w) fail("`%s` is damaged: %s.", w, "Fetch it again.")
  )
}

refuse_size <- function(what, name, call) {
  mend <- "If it is to be trusted, raise the limit: options(ochre.unpack_limit = 8e9)."
  ochre_abort("file", what, mend, file = name)
}

first_bytes <- function(path, n = 4096) readBin(path, "raw", n)
begins_with <- function(bytes, ...) {
  length(bytes) >= ...length() && all(bytes[seq_len(...length())] == as.raw(c(...)))
}

# Gzip, bzip2, xz and zip are opened until something else comes to light, at most twice.
unpack_source <- function(source, layer, trash, call, depth = 0) {
  start <- first_bytes(source$path, 8)
  if (depth > 2) {
    ochre_abort("file", "`{source$name}` is nested in too many archives.", "Unpack it first.",
                file = source$name)
  }
  if (begins_with(start, 0x1f, 0x8b) ||
      begins_with(start, 0x42, 0x5a, 0x68) ||
      begins_with(start, 0xfd, 0x37, 0x7a, 0x58, 0x5a)) {
    path <- temporary_path(trash)
    copy_limited(gzfile(source$path, "rb"), path, source$name, call)
    source$path <- path
    return(unpack_source(source, layer, trash, call, depth + 1))
  }
  if (begins_with(start, 0x50, 0x4b, 0x03, 0x04) ||
      begins_with(start, 0x50, 0x4b, 0x05, 0x06)) {
    return(unpack_zip(source, layer, trash, call, depth))
  }
  source
}

zip_members <- function(source, call) {
  inside <- tryCatch(
    suppressWarnings(utils::unzip(source$path, list = TRUE)),
    error = function(e) {
      ochre_abort("file", "`{source$name}` is a zip archive that cannot be opened.",
                  "It may be cut off; fetch it again.", file = source$name)
    }
  )
  # Names are in any encoding; `Member` opens the file, `Name` is looked at and shown.
  inside$Member <- inside$Name
  odd <- !validUTF8(inside$Name)
  inside$Name[odd] <- stringi::stri_encode(lapply(inside$Name[odd], charToRaw), "IBM437", "UTF-8")
  inside <- inside[
    !grepl("/$", inside$Name) & !grepl("(^|/)(__MACOSX/|\\._|\\.DS_Store)", inside$Name),

  ]
  climbs <- climbs_out(inside$Name)
  if (any(climbs)) {
    ochre_abort(
      "file",
      paste0("`{source$name}` holds a file that would be unpacked elsewhere: ",
             "`{substr(inside$Name[climbs][1], 1, 80)}`."),
      "Such an archive is not to be trusted; ask for another.", file = source$name
    )
  }
  inside
}

unpack_zip <- function(source, layer, trash, call, depth) {
  inside <- zip_members(source, call)
  if (any(grepl("^xl/|^content\\.xml$", inside$Name))) return(source)  # a workbook
  inside$kind <- lower_case(tools::file_ext(inside$Name))
  wanted <- wanted_members(inside, source, call)
  names <- inside$Name[wanted]
  short <- tools::file_path_sans_ext(basename(names))
  label <- if (anyDuplicated(short)) names else short
  one <- length(names) == 1  # then `layer` may name what is in it
  at <- wanted[if (one) 1L else choose_layer(label, layer, source$name, "files", call)]
  stem <- tools::file_path_sans_ext(inside$Name[at])
  if (has_pattern(source$name, "[.]kmz$") && inside$kind[at] != "kml") {
    ochre_warn("format",
               "`{source$name}` is named as KML in an archive, and holds `{inside$Name[at]}`.",
               "It is read as what it is; look at how the file was made.", file = source$name)
  }
  whole <- inside$kind[at] %in% c("shp", "dbf")
  alike <- lower_case(tools::file_path_sans_ext(inside$Name)) == lower_case(stem)
  folder <- unpack_parts(inside[if (whole) which(alike) else at, ], source, trash, call)
  source$path <- file.path(folder, paste0("part.", inside$kind[at]))
  source$name <- paste0(source$name, " (", inside$Name[at], ")")
  source$layer <- basename(stem)
  source$inner_layer <- if (one && !identical(layer, source$layer)) layer
  unpack_source(source, layer, trash, call, depth + 1)
}

# Members that can be read; of a shapefile its main file stands for all.
wanted_members <- function(inside, source, call) {
  wanted <- which(inside$kind %in% source$kinds)
  if (any(inside$kind[wanted] == "shp")) wanted <- which(inside$kind == "shp")
  if (length(wanted)) return(wanted)
  held <- if (nrow(inside)) list_words(inside$Name, 6) else "nothing"
  ochre_abort("file", "`{source$name}` holds no file that can be read.", "It holds {held}.",
              file = source$name)
}

# The members as files `part.*` in a folder.
unpack_parts <- function(parts, source, trash, call) {
  size <- sum(parts$Length)
  if (size > unpack_limit()) {
    what <- sprintf("`%s` says that it unpacks to %s.", source$name, size_words(size))
    refuse_size(what, source$name, call)
  }
  folder <- temporary_path(trash)
  dir.create(folder)
  for (i in seq_len(nrow(parts))) {
    from <- unz(source$path, parts$Member[i], "rb")
    to <- file.path(folder, paste0("part.", parts$kind[i]))
    copy_limited(from, to, paste0(source$name, " (", parts$Name[i], ")"), call)
  }
  folder
}
