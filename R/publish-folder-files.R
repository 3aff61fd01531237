# The files of a folder. What is new is written beside, to a folder of its own within; when all of
# it is there, it takes its places in one go, the list of files last, and what is not needed any
# more is removed. A run that was ended from outside leaves the old set or a whole new one: the next
# run finishes that, or throws away what had been begun.

site_list <- "files.json"
site_next <- ".ochre-next"

# The files of an earlier publication, after what a run before this one began is settled. A folder
# of others is left alone.
ready_site <- function(folder, call = rlang::caller_env()) {
  begun <- file.path(folder, site_next)
  # A link would take files away from where it leads.
  if (!Sys.readlink(begun) %in% c("", NA)) remove_path(begun)
  if (file.exists(file.path(begun, site_list))) finish_site(folder)
  forget_begun(folder)
  there <- list.files(folder, all.files = TRUE, recursive = TRUE, no.. = TRUE)
  strange <- setdiff(there, c(listed_files(folder), site_list))
  if (!length(strange)) return(invisible())
  ochre_abort("file",
              "The folder `{folder}` holds files that Ochre did not write: {list_words(strange)}.",
              "Name an empty folder, or one of an earlier publication.", file = folder)
}

# TRUE where there was none.
make_folder <- function(folder, call = rlang::caller_env(), recursive = FALSE) {
  if (dir.exists(folder)) return(FALSE)
  if (suppressWarnings(dir.create(folder, recursive = recursive))) return(TRUE)
  lost <- !recursive && !dir.exists(dirname(folder))
  ochre_abort(
    "file", "The folder `{folder}` cannot be made.",
    if (lost) "Make the folder above it first." else "Check the rights on the folder above it.",
    file = folder
  )
}

# Those that are there of the files that the list names. The list may be anybody's: what leads out
# of the folder, by its name or by a link, is not Ochre's.
listed_files <- function(folder) {
  files <- names_in_list(file.path(folder, site_list))
  paths <- file.path(folder, files)
  folders <- unique(dirname(paths))
  own <- folders[vapply(folders, in_folder, NA, folder)]
  files[file.exists(paths) & !dir.exists(paths) & dirname(paths) %in% own]
}

names_in_list <- function(path) {
  if (!file.exists(path)) return(character())
  tryCatch(
    vapply(jsonlite::read_json(path)$files, function(f) f$file, ""),
    error = function(e) character()
  )
}

in_folder <- function(path, folder) {
  identical(normalizePath(path, "/", mustWork = FALSE), normalizePath(folder, "/")) ||
    is_below(path, folder)
}

# What has other bytes is written beside; `there` are files that have been written already.
write_site <- function(files, there, folder) {
  facts <- c(there, lapply(files, function(f) c(f[c("file", "part")], facts_of_bytes(f$bytes))))
  index <- site_file(site_list, "list", site_index(facts))
  facts <- c(facts, list(c(index[c("file", "part")], facts_of_bytes(index$bytes))))
  for (f in files) {
    if (!holds_bytes(file.path(folder, f$file), f$bytes)) write_beside(f$file, f$bytes, folder)
  }
  # The list comes last: with it the new set is whole.
  write_beside(site_list, index$bytes, folder)
  finish_site(folder)
  of <- function(what) unlist(lapply(facts, `[[`, what))
  structure(
    tibble::tibble(
      file = of("file"), bytes = of("bytes"), gzipped = of("gzipped"), part = of("part")
    ),
    class = c("ochre_folder", "tbl_df", "tbl", "data.frame")
  )
}

write_beside <- function(file, bytes, folder) {
  path <- file.path(folder, site_next, file)
  if (!dir.exists(dirname(path))) dir.create(dirname(path), recursive = TRUE)
  write_whole(path, function(part) writeBin(bytes, part))
}

# A whole new set takes its places, pages after what they load; then what only the old one needs
# goes, and the lists are swapped. Until then all of this can be done again.
finish_site <- function(folder) {
  begun <- file.path(folder, site_next)
  before <- listed_files(folder)
  files <- list.files(begun, all.files = TRUE, recursive = TRUE, no.. = TRUE)
  files <- setdiff(files[order(grepl("[.]html$", files))], site_list)
  for (sub in setdiff(unique(dirname(files)), ".")) make_folder(file.path(folder, sub))
  take_places(files, begun, folder)
  after <- names_in_list(file.path(begun, site_list))
  remove_path(file.path(folder, setdiff(before, c(after, site_list))))
  remove_empty(file.path(folder, unique(dirname(before))))
  list <- file.path(begun, site_list)
  same <- holds_bytes(file.path(folder, site_list), readBin(list, "raw", file.size(list)))
  if (!same) take_places(site_list, begun, folder)
  remove_path(begun)
}

take_places <- function(files, from, to) {
  moved <- suppressWarnings(file.rename(file.path(from, files), file.path(to, files)))
  if (all(moved)) return(invisible())
  ochre_abort("file", "`{files[!moved][1]}` cannot be replaced in `{to}`.",
              "Check the rights on the folder, and publish again: all files lie ready in it.",
              file = file.path(to, files[!moved][1]))
}

# What was begun and is not whole.
forget_begun <- function(folder) {
  begun <- file.path(folder, site_next)
  if (!file.exists(file.path(begun, site_list))) remove_path(begun)
}

# What the list of a folder says of a file, and what a server that compresses sends of it.
facts_of_bytes <- function(bytes) {
  list(
    bytes = length(bytes), gzipped = length(memCompress(bytes, "gzip")),
    sha256 = digest::digest(bytes, "sha256", serialize = FALSE)
  )
}

holds_bytes <- function(path, bytes) {
  file.exists(path) && file.size(path) == length(bytes) &&
    identical(readBin(path, "raw", length(bytes)), bytes)
}

# Folders within a publication that has nothing in them any more.
remove_empty <- function(folders) {
  for (folder in folders[dir.exists(folders)]) {
    if (!length(list.files(folder, all.files = TRUE, no.. = TRUE))) remove_path(folder)
  }
}

site_index <- function(facts) {
  list <- lapply(facts, `[`, c("file", "part", "bytes", "sha256"))
  as.character(jsonlite::toJSON(list(files = list), auto_unbox = TRUE, pretty = 1))
}

zip_site <- function(folder, files) {
  # What is named within goes from the folder on, so both paths are whole ones.
  root <- normalizePath(folder, "/")
  write_whole(paste0(root, ".zip"), function(part) {
    zip::zip(part, files, root = root, mode = "mirror")
  }, "zip")
}

#' @export
format.ochre_folder <- function(x, ...) {
  of <- function(part) sum(x$gzipped[x$part %in% part])
  maps <- sum(x$part == "picture")
  many <- x[x$part == "section", ]
  x <- x[x$part != "section", ]
  loaded <- x$part %in% c("page", "script", "style", "data")
  gzipped <- ifelse(loaded, paste(vapply(x$gzipped, size_words, ""), "gzipped"), "")
  c(
    sprintf(
      "%s, %s together; a reader loads about %s of one map.",
      count_words(nrow(x) + nrow(many), "file"),
      size_words(sum(x$bytes) + sum(many$bytes)),
      size_words(round(of(c("script", "style")) + of(c("page", "data")) / maps))
    ),
    sub(" +$", "", sprintf(
      "  %s  %s  %s",
      format(x$file),
      format(vapply(x$bytes, size_words, ""), justify = "right"),
      format(gzipped, justify = "right")
    )),
    if (nrow(many)) {
      sprintf(
        "  and %s in %s, %s together, %s at most, of which a view loads a few.",
        count_words(nrow(many), "file"), list_words(unique(dirname(many$file))),
        size_words(sum(many$bytes)), size_words(max(many$bytes))
      )
    },
    if (of("data") / maps > of("script")) {
      "Data weigh most: simplify_boundaries() makes borders lighter, fewer popup fields the rest."
    }
  )
}

#' @export
print.ochre_folder <- function(x, ...) {
  cat(format(x), sep = "\n")
  invisible(x)
}
