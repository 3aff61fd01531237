# How colours look to others: to people who see two kinds of cones only, in a greyscale print, as a
# ground for text. What a ramp must hold is measured with these (colour-check.R).

# Simulated at full severity in linear light. Machado, G.M., Oliveira, M.M., Fernandes, L.A.F.
# (2009) A physiologically-based model for simulation of color vision deficiency, IEEE
# Transactions on Visualization and Computer Graphics 15, 1291-1298, table 1 (severity 1.0).
vision_matrices <- list(
  protan = c(
    0.152286, 1.052583, -0.204868, 0.114503, 0.786281, 0.099216, -0.003882, -0.048116,
    1.051998
  ),
  deutan = c(
    0.367322, 0.860646, -0.227968, 0.280085, 0.672501, 0.047413, -0.011820, 0.042940,
    0.968881
  ),
  tritan = c(
    1.255528, -0.076749, -0.178779, -0.078411, 0.930809, 0.147602, 0.004733, 0.691367,
    0.303900
  )
)

# sRGB from 0 to 255 to linear light from 0 to 1, and back (IEC 61966-2-1).
to_linear <- function(rgb) {
  v <- rgb / 255
  ifelse(v <= 0.04045, v / 12.92, ((v + 0.055) / 1.055)^2.4)
}
from_linear <- function(v) {
  v <- pmin(pmax(v, 0), 1)
  255 * ifelse(v <= 0.0031308, 12.92 * v, 1.055 * v^(1 / 2.4) - 0.055)
}

# CIE L*a*b* of colours as they are seen: "normal", "protan", "deutan", "tritan" or "grey".
seen_lab <- function(colours, vision = "normal") {
  rgb <- farver::decode_colour(colours)
  linear <- matrix(to_linear(rgb), ncol = 3)
  if (vision == "grey") {
    linear <- matrix(linear %*% c(0.2126, 0.7152, 0.0722), nrow(linear), 3)
  } else if (vision != "normal") {
    linear <- linear %*% t(matrix(vision_matrices[[vision]], 3, byrow = TRUE))
  }
  farver::convert_colour(matrix(from_linear(linear), ncol = 3), "rgb", "lab")
}

#' Colours as others see them
#'
#' @param colours Colours as `#RRGGBB` or names that R knows: a character vector.
#' @param vision `"protan"`, `"deutan"` or `"tritan"` (at full severity), or `"grey"` for a
#'   greyscale print.
#' @return A character vector of colours as `#RRGGBB`.
#' @section Errors: `ochre_error_argument`.
#' @source Machado, G.M., Oliveira, M.M., Fernandes, L.A.F. (2009) A physiologically-based model
#'   for simulation of color vision deficiency, IEEE Transactions on Visualization and Computer
#'   Graphics 15, 1291-1298.
#' @examples
#' seen_colours(ramp_colours("madder", 3), "deutan")
#' @concept colour blind
#' @concept color blind
#' @concept colour vision deficiency
#' @export
seen_colours <- function(colours, vision = "deutan") {
  colours <- check_colours(colours, "colours")
  check_choice(vision, c("protan", "deutan", "tritan", "grey"), "vision")
  lab_to_hex(seen_lab(colours, vision))
}

# Contrast of two colours: Web Content Accessibility Guidelines 2.2, "contrast ratio".
contrast_ratio <- function(a, b) {
  light <- function(x) {
    as.vector(
      matrix(to_linear(farver::decode_colour(x)), ncol = 3) %*% c(0.2126, 0.7152, 0.0722)
    ) + 0.05
  }
  pmax(light(a), light(b)) / pmin(light(a), light(b))
}

# A colour drawn over another with an opacity, as screens mix them.
mix_colours <- function(over, under, opacity) {
  rgb <- function(x) farver::decode_colour(x)
  mixed <- opacity * rgb(over) + (1 - opacity) * rgb(rep_len(under, length(over)))
  farver::encode_colour(round(mixed))
}

colour_distance <- function(a, b) {
  farver::compare_colour(a, b, from_space = "lab", method = "cie2000")
}

check_colours <- function(colours, arg, call = rlang::caller_env()) {
  colours <- check_texts(colours, arg, call)
  if (!length(colours)) ochre_abort("argument", "`{arg}` must be colours.")
  vapply(colours, check_colour, "", arg = arg, call = call, USE.NAMES = FALSE)
}
