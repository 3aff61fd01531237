# One account of what reading a file may take. Each limit is an option, so that whoever trusts a
# source can raise it.

#' What reading may take
#'
#' Files from elsewhere can be larger, deeper or slower than they seem. Reading them ends in a
#' classed error that names the limit, and each can be set with `options()`:
#' * `ochre.unpack_limit`: bytes that are fetched, or that an archive unpacks to; 2 GiB.
#' * `ochre.time_limit`: seconds that one file or page from the web may take as a whole; 600.
#' * `ochre.column_limit`: columns of a table, or names of properties; 20,000.
#' * `ochre.depth_limit`: how deep JSON may be nested; 200.
#' * `ochre.cache`: the folder of files from the web.
#' * `ochre.cores`: how many cores may work at once, where work falls apart by itself (points into
#'   areas, label points, reading); 2 by default. The environment variable `OCHRE_CORES`
#'   sets it, too.
#'
#' Of a service, [service_request()] says how many pages and tries. Pipes, devices and sockets are
#' not read.
#' @name limits
NULL

unpack_limit <- function() getOption("ochre.unpack_limit", 2^31)
time_limit <- function() getOption("ochre.time_limit", 600)
column_limit <- function() getOption("ochre.column_limit", 20000)
depth_limit <- function() getOption("ochre.depth_limit", 200)

check_depth <- function(depth, file, call) {
  if (depth <= depth_limit()) return(invisible())
  ochre_abort(
    "file", "`{file}` is nested {format(depth, big.mark = ',')} deep.",
    "If that is right, raise the limit: options(ochre.depth_limit = {as.integer(depth)})."
  )
}

# Records that share few names make a table of which nearly all is empty.
check_cells <- function(rows, columns, file, call) {
  if (rows * columns <= 2e8) return(invisible())
  ochre_abort(
    "file",
    paste0("`{file}`: {count_words(rows, 'record')} and {count_words(columns, 'name')} make a ",
           "table that is too large."), "Leave out names that few records have."
  )
}

check_column_limit <- function(n, file, call) {
  if (n <= column_limit()) return(invisible())
  ochre_abort("file", "`{file}` has {count_words(n, 'column')}.",
              "If that is right, raise the limit: options(ochre.column_limit = {ceiling(n)}).")
}

grid_levels <- 32768L
