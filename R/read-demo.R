# Where the demo's files lie.

#' The demo's files
#'
#' Ochre ships made-up data of a made-up island state, Orvane: districts, hay-fever visits,
#' clinics, pollen stations, ferry lines and a proposed border.
#'
#' @param file Names of files: texts; `NULL` (default) lists them.
#' @return Paths, or the names of all files: a character vector.
#' @section Errors: `ochre_error_file` when there is no such demo file.
#' @examples
#' ochre_demo()
#' @export
ochre_demo <- function(file = NULL) {
  folder <- system.file("orvane", package = "ochre")
  if (is.null(file)) return(list.files(folder))
  file <- check_texts(file, "file")
  lost <- setdiff(file, list.files(folder))
  if (length(lost)) {
    ochre_abort(
      "file",
      sprintf("The demo has no file `%s`.", lost[1]),
      did_you_mean(lost[1], list.files(folder), "Its files"),
      file = lost[1]
    )
  }
  file.path(folder, file)
}
