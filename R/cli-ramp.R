# Ramps in the terminal: a patch of each colour beside its code, where the terminal has colours.

#' @export
format.ochre_ramp <- function(x, ...) {
  vapply(
    unclass(x),
    function(colour) paste0(cli::make_ansi_style(colour, bg = TRUE)("  "), " ", colour),
    "",
    USE.NAMES = FALSE
  )
}

#' @export
print.ochre_ramp <- function(x, ...) {
  cat(format(x), sep = "\n")
  invisible(x)
}
