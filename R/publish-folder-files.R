# The files of a folder: written where they have other bytes, listed, and those of before removed.

# What has other bytes is written, pages last; what is not needed any more goes. `there` are files
# that have been written already.
write_site <- function(files, there, folder, before) {
  facts <- c(there, lapply(files, function(f) c(f[c("file", "part")], facts_of_bytes(f$bytes))))
  index <- site_file(site_list, "list", site_index(facts))
  facts <- c(facts, list(c(index[c("file", "part")], facts_of_bytes(index$bytes))))
  for (f in c(files, list(index))) {
    path <- file.path(folder, f$file)
    if (!holds_bytes(path, f$bytes)) write_whole(path, function(part) writeBin(f$bytes, part))
  }
  of <- function(what) unlist(lapply(facts, `[[`, what))
  unlink(file.path(folder, setdiff(before, of("file"))))
  remove_empty(file.path(folder, unique(dirname(before))))
  structure(
    tibble::tibble(
      file = of("file"), bytes = of("bytes"), gzipped = of("gzipped"), part = of("part")
    ),
    class = c("ochre_folder", "tbl_df", "tbl", "data.frame")
  )
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
    if (!length(list.files(folder, all.files = TRUE, no.. = TRUE))) unlink(folder, recursive = TRUE)
  }
}

site_index <- function(facts) {
  list <- lapply(facts, `[`, c("file", "part", "bytes", "sha256"))
  as.character(jsonlite::toJSON(list(files = list), auto_unbox = TRUE, pretty = 1))
}

zip_site <- function(folder, files) {
  write_whole(paste0(folder, ".zip"), function(part) {
    zip::zip(normalizePath(part, mustWork = FALSE), files, root = folder, mode = "mirror")
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
