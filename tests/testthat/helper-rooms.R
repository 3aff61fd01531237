# The graph of calls between the rooms of the package: what each function calls, or names as a
# value, by codetools; the room of a function is the prefix of its file. tools/draw-rooms.R draws
# it.

levels_of_rooms <- c(
  ochre = 0, util = 0, check = 1, format = 2, engine = 2, colour = 3, read = 3, step = 4,
  write = 4, shape = 5, join = 6, prepare = 6, sheet = 7, plan = 8, figure = 9, page = 10,
  publish = 11, shiny = 12, serve = 12, cli = 13
)

# The file of each name that the sources define.
files_of_names <- function(folder) {
  files <- list.files(folder, "[.]R$", full.names = TRUE)
  files <- files[basename(files) != "RcppExports.R"]
  defined <- lapply(files, function(file) {
    names <- vapply(as.list(parse(file)), function(e) {
      is_name <- is.call(e) && identical(e[[1]], as.name("<-")) && is.name(e[[2]])
      if (is_name) as.character(e[[2]]) else NA_character_
    }, "")
    stats::setNames(rep(basename(file), length(names)), names)
  })
  unlist(defined)[!is.na(names(unlist(defined)))]
}

upward_calls <- function(where, namespace) {
  level <- levels_of_rooms[sub("[-.].*", "", where)]
  names(level) <- names(where)
  found <- lapply(names(where), function(name) {
    f <- get(name, namespace)
    if (!is.function(f)) return(NULL)
    used <- setdiff(intersect(codetools::findGlobals(f), names(where)), name)
    room <- sub("[-.].*", "", where)
    up <- used[level[used] > level[[name]] |
                 level[used] == level[[name]] & room[used] != room[names(where) == name]]
    if (length(up)) sprintf("%s in %s calls %s in %s", name, where[[name]], up, where[up])
  })
  unlist(found)
}
