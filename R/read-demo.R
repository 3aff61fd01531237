# Where the demo's files lie.

#' The demo's files
#'
#' Ochre ships made-up data of two made-up worlds. The island state of Orvane: districts, hay-fever
#' visits, clinics, pollen stations, ferry lines and a proposed border. And Tarvossa, which is as
#' hard as real files are: 3,000 counties of a union with far-off states, their figures by codes
#' that lost a zero, 2,200 municipalities with their places in one column, and an atlas of 180
#' countries with figures by names that are written in another way.
#'
#' @param file Names of files: texts; `NULL` (default) lists them.
#' @return Paths, or the names of all files: a character vector.
#' @section Errors: `ochre_error_file` when there is no such demo file.
#' @examples
#' ochre_demo()
#' @export
ochre_demo <- function(file = NULL) {
  folders <- system.file(c("orvane", "tarvossa"), package = "ochre")
  known <- unlist(lapply(folders, list.files, full.names = TRUE))
  if (is.null(file)) return(basename(known))
  file <- check_texts(file, "file")
  lost <- setdiff(file, basename(known))
  if (length(lost)) {
    ochre_abort("file", "The demo has no file `{lost[1]}`.",
                did_you_mean(lost[1], basename(known), "Its files"), file = lost[1])
  }
  known[match(file, basename(known))]
}
