#' @keywords internal
"_PACKAGE"

# Only what is small and always needed is imported; everything else is called with `::`, so
# that library(ochre) and `ochre --help` load nothing heavy. Package wk is loaded so that boundaries
# from readRDS() are the vectors that they were.

#' @useDynLib ochre, .registration = TRUE
#' @importFrom Rcpp sourceCpp
#' @importFrom rlang .data :=
#' @importFrom wk wk_crs
#' @keywords internal
#' @name ochre-internal
#' @noRd
NULL

#' The demo's files
#'
#' Ochre ships made-up data of a made-up island state, Orvane: districts, hay-fever visits,
#' clinics, pollen stations, ferry lines and a proposed border.
#'
#' @param file Name of a file: one text; `NULL` (default) lists them.
#' @return A path, or a character vector of file names.
#' @section Errors: `ochre_error_file` when there is no such demo file.
#' @examples
#' ochre_demo()
#' @export
ochre_demo <- function(file = NULL) {
  folder <- system.file("orvane", package = "ochre")
  if (is.null(file)) return(list.files(folder))
  check_text(file, "file")
  if (!file %in% list.files(folder)) {
    ochre_abort("file", sprintf("The demo has no file `%s`.", file), did_you_mean(file, list.files(folder), "Its files"), file = file)
  }
  file.path(folder, file)
}
