# What was worked out before, under a key of all that went into it: in memory, and in a folder of
# bounded size that several processes may use at once. Whoever keeps nothing hands on NULL.

# `folder` is NULL for memory alone; `most` are the bytes that it may hold, `held` the values that
# are kept in memory.
new_cache <- function(folder = NULL, most = cache_bytes, held = 32L) {
  if (!is.null(folder)) dir.create(folder, recursive = TRUE, showWarnings = FALSE, mode = "0700")
  memory <- new.env(parent = emptyenv())
  memory$entries <- list()
  list(memory = memory, folder = folder, most = most, held = held)
}
cache_bytes <- 1e9

user_cache <- function() new_cache(file.path(user_folder(), "kept"))

# The value of `code`, or the one that is kept under `key` for `what`. Warnings and messages that it
# gave are given again.
from_cache <- function(cache, what, key, code) {
  if (is.null(cache)) return(code)
  name <- paste0(what, "-", rlang::hash(list(key, session_facts())))
  entry <- cache$memory$entries[[name]] %||% stored_entry(cache, name)
  if (is.null(entry)) {
    entry <- with_said(code)
    store_entry(cache, name, entry)
  } else {
    say_again(entry$said)
  }
  hold_entry(cache, name, entry)
  entry$value
}

# Another program, or one that reads and warns otherwise, works things out anew.
session_facts <- function() {
  list(
    program_facts(),
    options()[c("ochre.quiet", "OutDec", "digits", "scipen", "encoding")],
    Sys.getlocale("LC_COLLATE"),
    Sys.getenv("TZ")
  )
}

# Of which program something is: another build of Ochre may make it otherwise.
program_facts <- function() {
  list(
    ochre = as.character(utils::packageVersion("ochre")),
    built = utils::packageDescription("ochre")$Built,
    r = as.character(getRversion())
  )
}

# ---- what was said -------------------------------------------------------------------------------

with_said <- function(code) {
  said <- list()
  note <- function(one) said <<- c(said, list(one))
  value <- withCallingHandlers(
    code,
    ochre_warning = function(w) {
      plain <- setdiff(names(w), c("message", "call", "trace", "parent", "rlang", "use_cli_format"))
      kind <- sub("^ochre_warning_", "", class(w)[1])
      note(list(warning = c(list(kind = kind), Filter(is.atomic, unclass(w)[plain]))))
    },
    ochre_message = function(m) note(list(message = sub("\n$", "", conditionMessage(m))))
  )
  list(value = value, said = said)
}

say_again <- function(said) {
  for (one in said) {
    text <- one$message
    kept <- one$warning
    if (!is.null(text)) ochre_tell(text)
    more <- kept[setdiff(names(kept), c("kind", "what", "mend"))]
    if (!is.null(kept)) raise("warning", kept$kind, kept$what, kept$mend, more)
  }
}

# ---- memory --------------------------------------------------------------------------------------

# What was asked for last stays longest.
hold_entry <- function(cache, name, entry) {
  others <- cache$memory$entries[setdiff(names(cache$memory$entries), name)]
  cache$memory$entries <- utils::tail(c(others, stats::setNames(list(entry), name)), cache$held)
}

# ---- folder --------------------------------------------------------------------------------------

entry_path <- function(cache, name) file.path(cache$folder, paste0(name, ".rds"))

# One that another process has just taken away, or that is spoilt, is as if it had never been.
stored_entry <- function(cache, name) {
  if (is.null(cache$folder)) return(NULL)
  path <- entry_path(cache, name)
  if (!file.exists(path)) return(NULL)
  entry <- suppressWarnings(tryCatch(readRDS(path), error = function(e) NULL))
  if (!is.list(entry) || !identical(entry$name, name) || !is.list(entry$said)) return(NULL)
  suppressWarnings(Sys.setFileTime(path, Sys.time()))
  entry
}

# Written whole and then named, so that nobody reads a half. A folder that cannot be written keeps
# nothing.
store_entry <- function(cache, name, entry) {
  if (is.null(cache$folder) || utils::object.size(entry$value) > cache$most / 4) return(invisible())
  part <- tempfile("part-", cache$folder)
  on.exit(remove_path(part))
  suppressWarnings(tryCatch(
    {
      saveRDS(c(entry, name = name), part, compress = FALSE)
      file.rename(part, entry_path(cache, name))
      shrink_folder(cache)
    },
    error = function(e) NULL
  ))
  invisible()
}

# What was not asked for the longest goes first; pieces of runs that were ended go after a day.
shrink_folder <- function(cache) {
  files <- list.files(cache$folder, full.names = TRUE)
  facts <- file.info(files, extra_cols = FALSE)
  part <- startsWith(basename(files), "part-")
  remove_path(files[part & facts$mtime < Sys.time() - 86400])
  newest <- order(facts$mtime, decreasing = TRUE)
  remove_path(files[newest][cumsum(facts$size[newest]) > cache$most])
}
