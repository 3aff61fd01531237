# Files are written whole or not at all: to a name of their own beside the wanted one, looked at,
# brought to the disk, and only then moved to their place in one step.

# `write` fills the file whose path it is given; `kind`, the ending, says how a whole one ends.
write_whole <- function(file, write, kind = lower_case(tools::file_ext(file)),
                        call = rlang::caller_env()) {
  file <- as_path(file, call)
  fail <- function(what, mend) ochre_abort("file", what, mend, file = file)
  place <- final_place(file)
  folder <- dirname(place)
  if (!dir.exists(folder)) {
    fail(sprintf("There is no folder `%s`.", folder), "Make it first, or correct the path.")
  }
  if (dir.exists(place)) fail(sprintf("`%s` is a folder.", file), "Name a file in it.")
  remove_leftovers(folder)
  part <- part_name(folder, kind)
  on.exit(remove_path(part))
  can_write <- suppressWarnings(tryCatch(file.create(part), error = function(e) FALSE))
  if (!can_write) {
    fail(sprintf("`%s` cannot be written.", file), "Check the rights on its folder.")
  }
  fault <- write_fault(write, part) %||% incomplete(part, kind)
  if (!is.null(fault)) {
    fail(
      sprintf("`%s` cannot be written to its end: %s.", file, strip_period(fault)),
      paste(
        if (grepl("space|full|quota|end is missing|nothing was written|large", fault)) {
          "Is the disk full?"
        },
        "What was there before is unchanged."
      )
    )
  }
  if (!suppressWarnings(file.rename(part, place))) {
    fail(sprintf("`%s` cannot be replaced.", file), "Is it open in another program, or a folder?")
  }
  invisible(file)
}

# What the system says when it cannot write; it has many words for a full disk, and what is not
# whole is refused later.
write_fault <- function(write, part) {
  tryCatch(
    {
      write(part)
      NULL
    },
    error = function(e) if (is_write_fault(e)) conditionMessage(e) else stop(e)
  )
}

# Removes files and folders of these very names: letters that other programs expand, as in "g[1]" or
# "s*", stand for themselves.
remove_path <- function(paths) unlink(paths, recursive = TRUE, expand = FALSE)

# Where a symbolic link leads.
final_place <- function(file) {
  place <- path.expand(file)
  for (i in 1:40) {
    link <- Sys.readlink(place)
    if (is.na(link) || !nzchar(link)) break
    place <- if (is_rooted(link)) link else file.path(dirname(place), link)
  }
  place
}

# Whether a path leads elsewhere than below where it is read: from a root, a drive or a home.
is_rooted <- function(path) grepl("^([/\\\\]|~[^/\\\\$.]*([/\\\\]|$)|[A-Za-z]:)", path)
climbs_out <- function(path) is_rooted(path) | grepl("(^|[/\\\\])\\.\\.([/\\\\]|$)", path)

# A plain name: devices take percent signs in theirs for numbers of pages.
part_name <- function(folder, kind) {
  ending <- if (grepl("^[a-z0-9]{1,8}$", kind)) paste0(".", kind) else ""
  stem <- basename(tempfile(sprintf(".ochre-%d-", Sys.getpid())))
  file.path(folder, paste0(stem, ending))
}

# Pieces of runs that were ended from outside: nobody has written to them for a day. Whether their
# process is still there cannot be asked: it may be another user's, or on another machine.
remove_leftovers <- function(folder) {
  found <- list.files(
    folder,
    "^\\.ochre-[0-9]+-[0-9a-f]+(\\.[a-z0-9]+)?$",
    all.files = TRUE,
    no.. = TRUE
  )
  found <- file.path(folder, found)
  remove_path(found[difftime(Sys.time(), file.mtime(found), units = "days") > 1])
}

is_write_fault <- function(e) {
  if (inherits(e, "incomplete_file")) return(TRUE)
  !inherits(e, "ochre_error") && grepl(
    paste0(
      "no space left|disk (is )?full|quota|cannot write|write error|input/output error|file ",
      "too large"
    ),
    conditionMessage(e),
    ignore.case = TRUE
  )
}

# What a whole file of a kind ends with, among its last bytes.
end_marks <- c(
  list(png = c(charToRaw("IEND"), as.raw(c(0xae, 0x42, 0x60, 0x82)))),
  lapply(
    list(
      pdf = "%%EOF", svg = "</svg>", html = "</html>", geojson = "]}", topojson = "}",
      json = "}", csv = "\n"
    ),
    charToRaw
  )
)

# Why a file is not whole, or NULL.
incomplete <- function(path, kind) {
  size <- file.size(path)
  if (is.na(size) || size == 0) return("nothing was written")
  mark <- end_marks[[kind]]
  if (!is.null(mark)) {
    con <- file(path, "rb")
    on.exit(close(con))
    seek(con, max(0, size - 64))
    end <- readBin(con, "raw", 64)
    if (!length(grepRaw(mark, end, fixed = TRUE))) return("its end is missing")
  }
  fault <- call_core(sync_file_core(path))
  if (nzchar(fault)) fault
}

# For writers that read again what they wrote.
stop_incomplete <- function(path, kind) {
  fault <- incomplete(path, kind)
  if (!is.null(fault)) {
    stop(structure(
      class = c("incomplete_file", "error", "condition"),
      list(message = fault, call = NULL)
    ))
  }
}

# Lines of text, and a fault when not all of them arrive.
write_lines <- function(lines, path, end = "\n") {
  bytes <- charToRaw(paste0(paste(enc2utf8(lines), collapse = "\n"), end))
  writeBin(bytes, path)
  if (!isTRUE(file.size(path) == length(bytes))) stop("no space left on the device")
}

# Waits for another run on the same file or folder; the system forgets the lock of a run that ends
# in whatever way. Gives back what lets the next one in.
lock_path <- function(path, call = rlang::caller_env()) {
  if (!file.exists(path)) return(function() NULL)
  name <- digest::digest(normalizePath(path, "/"), "sha1", serialize = FALSE)
  place <- file.path(lock_folder(), name)
  lock <- filelock::lock(place, timeout = 0)
  if (is.null(lock)) {
    ochre_tell("Waiting for another run on `{path}`.")
    lock <- filelock::lock(place, timeout = lock_patience)
  }
  if (is.null(lock)) {
    ochre_abort("busy", "Another run on `{path}` has not ended for ten minutes.",
                "Check it, and stop it if it hangs.", file = path)
  }
  function() filelock::unlock(lock)
}
lock_patience <- 6e5

# What is kept from one session to the next; the user may have no home at all.
user_folder <- function() suppressWarnings(tools::R_user_dir("ochre", "cache"))

# Beside the cache; for users without a home that can be written, in the system's folder for
# temporary files.
lock_folder <- function() {
  for (folder in c(user_folder(), file.path(dirname(tempdir()), "ochre"))) {
    folder <- file.path(folder, "locks")
    if (suppressWarnings(dir.create(folder, recursive = TRUE)) || file.access(folder, 2) == 0) break
  }
  folder
}

# Whether a path leads into a folder, also by way of links; it need not be there yet.
is_below <- function(path, folder) {
  is_link <- function(x) !Sys.readlink(x) %in% c("", NA)
  real <- function(x) {
    rest <- character()
    while (!file.exists(x) && !is_link(x) && dirname(x) != x) {
      rest <- c(basename(x), rest)
      x <- dirname(x)
    }
    if (".." %in% rest || is_link(x) && !file.exists(x)) return(NA)
    paste(c(normalizePath(x, "/"), rest), collapse = "/")
  }
  inside <- real(path)
  !is.na(inside) && startsWith(inside, paste0(sub("/$", "", normalizePath(folder, "/")), "/"))
}

read_text <- function(path) {
  text <- readChar(path, file.size(path), useBytes = TRUE)
  Encoding(text) <- "UTF-8"
  text
}

# A name of a file as the system takes it, and none longer than systems take. One with letters that
# this session cannot write, or that is there in UTF-8 only, goes as the bytes of UTF-8.
as_path <- function(path, call = rlang::caller_env()) {
  if (nzchar(path) &&
      nchar(path, "bytes") <= 4000 &&
      all(nchar(strsplit(path, "[/\\\\]")[[1]], "bytes") <= 255)) {
    if (Encoding(path) == "unknown") return(path)
    bytes <- enc2utf8(path)
    Encoding(bytes) <- "unknown"
    can_write <- enc2utf8(enc2native(path)) == enc2utf8(path)
    return(if (can_write && (file.exists(path) || !file.exists(bytes))) path else bytes)
  }
  what <- if (nzchar(path)) {
    sprintf("`%s` is too long to be the name of a file", shorten(path))
  } else {
    "The name of the file is empty"
  }
  ochre_abort("file", "{what}.", "Is it the text itself? Give the path of a file.", file = path)
}
