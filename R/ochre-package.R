#' @keywords internal
"_PACKAGE"

# Only what is small and always needed is imported; everything else is called with `::`, so
# that library(ochre) and `ochre --help` load nothing heavy. Package wk is loaded so that boundaries
# from readRDS() are the vectors that they were.

#' @useDynLib ochre, .registration = TRUE
#' @importFrom wk wk_crs
#' @keywords internal
#' @name ochre-internal
#' @noRd
NULL

# Packages are loaded when they are first used, so that starting costs little: of rlang these are
# words of its language.
utils::globalVariables(c(".data", ":="))
