# Ochre's ramps: what each looks like, said as a path through lightness, chroma and hue. The
# colours themselves are computed in colour-generate.R; none is written down as a code.

# Anchors are read from light to dark. `lightness` is CIE L*, `chroma` and `hue` (degrees) those
# of CIE L*C*h(ab). A diverging ramp is two arms that meet in a pale middle.
ramp_paths <- list(
  madder = list(kind = "sequential", lightness = c(90, 62, 22), chroma = c(14, 56, 34), hue = c(62, 34, 14)),
  woad = list(kind = "sequential", lightness = c(90, 60, 20), chroma = c(12, 34, 30), hue = c(200, 246, 278)),
  weld = list(kind = "sequential", lightness = c(92, 66, 24), chroma = c(24, 54, 24), hue = c(98, 112, 148)),
  umber = list(kind = "sequential", lightness = c(91, 60, 18), chroma = c(16, 42, 16), hue = c(86, 66, 44)),
  orchil = list(kind = "sequential", lightness = c(90, 58, 20), chroma = c(12, 44, 36), hue = c(20, 338, 312)),
  woad_madder = list(
    kind = "diverging",
    low = list(lightness = c(91, 62, 26), chroma = c(5, 34, 32), hue = c(218, 246, 276)),
    high = list(lightness = c(91, 62, 26), chroma = c(7, 54, 40), hue = c(66, 36, 18))
  ),
  weld_orchil = list(
    kind = "diverging",
    low = list(lightness = c(91, 64, 30), chroma = c(7, 48, 30), hue = c(104, 116, 146)),
    high = list(lightness = c(91, 62, 28), chroma = c(5, 42, 38), hue = c(350, 336, 314))
  )
)

#' Names of the ramps
#'
#' @param kind `"sequential"` (light to dark, for amounts), `"diverging"` (two arms from a pale
#'   middle, for differences), or `NULL` (default) for all.
#' @return A character vector.
#' @section Errors: `ochre_error_argument`.
#' @examples
#' ramp_names("diverging")
#' @export
ramp_names <- function(kind = NULL) {
  kinds <- vapply(ramp_paths, function(p) p$kind, "")
  if (is.null(kind)) return(names(kinds))
  check_choice(kind, unique(kinds), "kind")
  names(kinds)[kinds == kind]
}

#' Colours of a ramp
#'
#' Colours that are evenly spaced to the eye: neighbours are equally far apart in CIEDE2000.
#' In a sequential ramp lightness falls from the first to the last; in a diverging one it rises
#' to the middle and falls. The lightest is still seen on white paper.
#'
#' @param name One of [ramp_names()].
#' @param n Number of colours: one whole number from 1 to 11.
#' @param reverse `TRUE` turns the order round.
#' @return Character vector of `n` colours as `#RRGGBB`, of class `ochre_ramp`.
#' @section Errors: `ochre_error_argument`.
#' @source Sharma, G., Wu, W., Dalal, E.N. (2005) The CIEDE2000 color-difference formula,
#'   Color Research and Application 30, 21-30.
#' @examples
#' ramp_colours("madder", 5)
#' @export
ramp_colours <- function(name, n = 5, reverse = FALSE) {
  check_choice(name, ramp_names(), "name")
  check_number(n, "n", min = 1, max = 11, whole = TRUE)
  check_flag(reverse, "reverse")
  path <- ramp_paths[[name]]
  colours <- if (path$kind == "diverging") diverging_colours(path, n) else sequential_colours(path, n)
  structure(if (reverse) rev(colours) else colours, class = "ochre_ramp")
}

#' The colour of areas without data
#'
#' A neutral grey, which no ramp uses.
#' @return One colour as `#RRGGBB`.
#' @examples
#' no_data_colour()
#' @export
no_data_colour <- function() lab_to_hex(cbind(80, 0, 0))
