# From a path through lightness, chroma and hue to evenly spaced colours. The path is a smooth
# curve through its anchors in CIE L*C*h(ab); it is sampled finely, pulled into the gamut of a
# screen, measured with CIEDE2000, and cut into equal lengths. Conversions are package farver's.

sequential_colours <- function(path, n) {
  lab <- path_lab(path)
  if (n == 1) return(lab_to_hex(lab_at(lab, 0.45)))
  # Few steps need not go to the ends of the path to be told apart.
  spare <- max(0, 7 - n) / 5
  lab_to_hex(lab_at(lab, even_places(lab, n, 0.04 * spare, 1 - 0.14 * spare)))
}

# Both arms are bent to begin in one pale middle. It is used by an odd number only; with an even
# one the arms begin a little way along.
diverging_colours <- function(path, n) {
  low <- path_lab(path$low)
  high <- path_lab(path$high)
  middle <- (low[1, ] + high[1, ]) / 2
  bend <- function(lab) lab + outer(seq(1, 0, length.out = nrow(lab))^2, middle - lab[1, ])
  half <- n %/% 2
  far <- 1 - 0.2 * max(0, 3 - half) / 2
  arm <- function(lab) {
    if (half == 0) return(character())
    if (n %% 2) return(lab_to_hex(lab_at(lab, even_places(lab, half + 1, 0, far)[-1])))
    lab_to_hex(lab_at(lab, if (half == 1) 0.6 else even_places(lab, half, 0.5 / half, far)))
  }
  c(rev(arm(bend(low))), if (n %% 2) lab_to_hex(matrix(middle, 1)), arm(bend(high)))
}

# The path as a fine table of CIE L*a*b*, all of it within the gamut of a screen.
path_lab <- function(path, fine = 513L) {
  at <- seq(0, 1, length.out = length(path$lightness))
  to <- seq(0, 1, length.out = fine)
  # Monotone cubic, so that lightness cannot turn back between anchors.
  smooth <- function(v) stats::splinefun(at, v, method = "monoH.FC")(to)
  turn <- diff(path$hue)
  hue <- cumsum(c(path$hue[1], turn - 360 * round(turn / 360)))
  in_gamut(smooth(path$lightness), smooth(path$chroma), smooth(hue))
}

# Chroma is lowered until the colour can be shown; lightness and hue stay.
in_gamut <- function(lightness, chroma, hue) {
  lab <- function(c) cbind(lightness, c * cos(hue * pi / 180), c * sin(hue * pi / 180))
  shown <- function(c) {
    rgb <- farver::convert_colour(lab(c), "lab", "rgb")
    rowSums(rgb < -0.4 | rgb > 255.4) == 0
  }
  low <- rep(0, length(lightness))
  high <- chroma
  inside <- shown(chroma)
  for (i in 1:24) {
    middle <- (low + high) / 2
    good <- shown(middle)
    low <- ifelse(good, middle, low)
    high <- ifelse(good, high, middle)
  }
  lab(ifelse(inside, chroma, low))
}

lab_at <- function(lab, at) {
  place <- seq(0, 1, length.out = nrow(lab))
  vapply(1:3, function(k) stats::approx(place, lab[, k], at)$y, numeric(length(at))) |>
    matrix(ncol = 3)
}

# Places along a path whose colours are equally far from their neighbours. CIEDE2000 does not
# add up along a path, so the places are moved until the distances agree.
even_places <- function(lab, n, from, to) {
  at <- seq(from, to, length.out = n)
  if (n < 3) return(at)
  for (i in 1:60) {
    walked <- c(0, cumsum(neighbour_distances(lab_at(lab, at))))
    before <- at
    at <- stats::approx(walked, at, seq(0, walked[n], length.out = n))$y
    if (max(abs(at - before)) < 1e-7) break
  }
  at
}

neighbour_distances <- function(lab) {
  n <- nrow(lab)
  vapply(
    seq_len(n - 1),
    function(i) {
      farver::compare_colour(
        lab[i, , drop = FALSE],
        lab[i + 1, , drop = FALSE],
        from_space = "lab",
        method = "cie2000"
      )[1]
    },
    numeric(1)
  )
}

lab_to_hex <- function(lab) {
  rgb <- round(pmin(pmax(farver::convert_colour(lab, "lab", "rgb"), 0), 255))
  grDevices::rgb(rgb[, 1], rgb[, 2], rgb[, 3], maxColorValue = 255)
}
