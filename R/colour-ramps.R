# Ochre's ramps: what each looks like, said as a path through lightness, chroma and hue. The
# colours themselves are computed in colour-generate.R; none is written down as a code.

# Anchors are read from light to dark. `lightness` is CIE L*, `chroma` and `hue` (degrees) those
# of CIE L*C*h(ab). A diverging ramp is two arms that meet in a pale middle; one of categories has
# no path, its colours are placed apart from each other; a square ramp mixes two sequential ones.
arm <- function(lightness, chroma, hue) list(lightness = lightness, chroma = chroma, hue = hue)
sequential <- function(...) c(list(kind = "sequential"), arm(...))
ramp_paths <- list(
  madder = sequential(c(90, 62, 22), c(14, 56, 34), c(62, 34, 14)),
  woad = sequential(c(90, 60, 20), c(12, 34, 30), c(200, 246, 278)),
  weld = sequential(c(92, 66, 24), c(24, 54, 24), c(98, 112, 148)),
  umber = sequential(c(91, 60, 18), c(16, 42, 16), c(86, 66, 44)),
  orchil = sequential(c(90, 58, 20), c(12, 44, 36), c(20, 338, 312)),
  verdigris = sequential(c(93, 61, 16), c(18, 33, 15), c(165, 183, 204)),
  saffron = sequential(c(93, 70, 24), c(34, 68, 40), c(96, 68, 30)),
  heather = sequential(c(88.5, 57, 15), c(13, 42, 40), c(268, 296, 303)),
  woad_madder = list(
    kind = "diverging",
    low = arm(c(91, 62, 26), c(5, 34, 32), c(218, 246, 276)),
    high = arm(c(91, 62, 26), c(7, 54, 40), c(66, 36, 18))
  ),
  weld_orchil = list(
    kind = "diverging",
    low = arm(c(91, 64, 30), c(7, 48, 30), c(104, 116, 146)),
    high = arm(c(91, 62, 28), c(5, 42, 38), c(350, 336, 314))
  ),
  verdigris_umber = list(
    kind = "diverging",
    low = arm(c(91, 63, 27), c(6, 36, 24), c(178, 192, 210)),
    high = arm(c(91, 62, 26), c(7, 46, 26), c(82, 68, 48))
  ),
  heather_saffron = list(
    kind = "diverging",
    low = arm(c(91, 60, 25), c(5, 38, 40), c(280, 296, 302)),
    high = arm(c(91, 68, 32), c(9, 66, 46), c(90, 70, 46))
  ),
  woad_umber = list(
    kind = "diverging",
    low = arm(c(91, 61, 24), c(5, 34, 32), c(222, 248, 276)),
    high = arm(c(91, 64, 30), c(8, 52, 34), c(88, 74, 58))
  ),
  meadow = list(kind = "categories", most = 8, seed = 3, lightness = c(36, 84), chroma = c(26, 46)),
  hedgerow = list(
    kind = "categories", most = 12, seed = 5, lightness = c(28, 88), chroma = c(22, 48)
  ),
  woad_and_madder = list(kind = "square", first = "woad", second = "madder"),
  verdigris_and_orchil = list(kind = "square", first = "verdigris", second = "orchil"),
  heather_and_weld = list(kind = "square", first = "heather", second = "weld")
)

#' Names of the ramps
#'
#' @param kind `"sequential"` (light to dark, for amounts), `"diverging"` (two arms from a pale
#'   middle, for differences), `"categories"` (colours without an order), `"square"` (two
#'   variables at once, see [ramp_square()]), or `NULL` (default) for all of the first three.
#' @return A character vector.
#' @section Errors: `ochre_error_argument`.
#' @examples
#' ramp_names("diverging")
#' @concept palette
#' @concept colour palette
#' @concept colour ramp
#' @concept color ramp
#' @concept sequential
#' @concept diverging
#' @export
ramp_names <- function(kind = NULL) {
  kinds <- vapply(ramp_paths, function(p) p$kind, "")
  if (is.null(kind)) return(names(kinds)[kinds != "square"])
  check_choice(kind, unique(kinds), "kind")
  names(kinds)[kinds == kind]
}

#' Colours of a ramp
#'
#' Colours that are evenly spaced to the eye: neighbours are equally far apart in CIEDE2000. In a
#' sequential ramp lightness falls from the first to the last; in a diverging one it rises to the
#' middle and falls. The lightest is still seen on white paper. On a dark page the order of
#' lightness is the other way round, so that large values still stand out most. Colours for
#' categories are as far from each other as a search finds, also with colour-blind eyes.
#'
#' @param name One of [ramp_names()].
#' @param n Number of colours: one whole number from 1 to 12, for categories to 8 (`meadow`) or 12
#'   (`hedgerow`).
#' @param reverse `TRUE` turns the order round.
#' @param background `"light"` (default) or `"dark"`, the page that they are for.
#' @return Character vector of `n` colours as `#RRGGBB`, of class `ochre_ramp`.
#' @section Errors: `ochre_error_argument`.
#' @source Sharma, G., Wu, W., Dalal, E.N. (2005) The CIEDE2000 color-difference formula,
#'   Color Research and Application 30, 21-30.
#' @examples
#' ramp_colours("madder", 5)
#' ramp_colours("meadow", 4)
#' @concept palette
#' @concept sequential
#' @concept diverging
#' @export
ramp_colours <- function(name, n = 5, reverse = FALSE, background = "light") {
  check_choice(name, ramp_names(), "name")
  path <- ramp_paths[[name]]
  check_number(n, "n", min = 1, max = path$most %||% 12, whole = TRUE)
  check_flag(reverse, "reverse")
  check_choice(background, c("light", "dark"), "background")
  path <- if (background == "dark") on_dark(path) else path
  colours <- switch(path$kind,
    diverging = diverging_colours(path, n),
    sequential = sequential_colours(path, n),
    categories = category_colours(name, background)[seq_len(n)]
  )
  new_ramp(if (reverse) rev(colours) else colours, path$kind)
}

new_ramp <- function(colours, kind) structure(colours, kind = kind, class = "ochre_ramp")

# On a dark page the first step is dark and the last one light; hues stay with their end.
on_dark <- function(path) {
  turn <- function(a) {
    a$lightness <- stats::approx(range(a$lightness), c(91, 25), a$lightness)$y
    a
  }
  switch(path$kind,
    sequential = turn(path),
    diverging = list(kind = "diverging", low = turn(path$low), high = turn(path$high)),
    path
  )
}

#' A ramp between given colours
#'
#' Colours between two ends, or three, through perceptual space, evenly spaced to the eye. Check
#' them with [check_ramp()].
#'
#' @param from,to The first and the last colour, as `#RRGGBB` or a name that R knows.
#' @param middle The colour in the middle, or `NULL` (default).
#' @param n Number of colours: one whole number from 2 to 12.
#' @return Character vector of `n` colours, of class `ochre_ramp`.
#' @section Errors: `ochre_error_argument`.
#' @examples
#' ramp_between("#F3E3D3", "#5A1E14", n = 5)
#' @export
ramp_between <- function(from, to, n = 5, middle = NULL) {
  refuse_missing(missing(from), "from", rlang::current_env())
  refuse_missing(missing(to), "to", rlang::current_env())
  ends <- c(check_colour(from, "from"), check_colour(middle, "middle"), check_colour(to, "to"))
  check_number(n, "n", min = 2, max = 12, whole = TRUE)
  lab <- seen_lab(ends)
  at <- seq(0, 1, length.out = nrow(lab))
  # Straight in L*a*b*, so that no other hue comes in between; only lightness and chroma that a
  # screen has.
  fine <- vapply(
    1:3,
    function(k) stats::approx(at, lab[, k], seq(0, 1, length.out = 513))$y,
    numeric(513)
  )
  new_ramp(lab_to_hex(lab_at(fine, even_places(fine, n, 0, 1))), NULL)
}

#' A square of colours for two variables
#'
#' @param name One of `ramp_names("square")`.
#' @param n Classes of each variable: 2 or 3.
#' @param background `"light"` (default) or `"dark"`, the page that they are for; on a dark one
#'   both low is dark, both high pale.
#' @return A matrix of colours as `#RRGGBB`, `n` by `n`: the first variable rises with the rows,
#'   the second with the columns. Both low is pale, both high is dark; equal steps of one variable
#'   are equally far apart at either end of the other.
#' @section Errors: `ochre_error_argument`.
#' @examples
#' ramp_square("woad_and_madder")
#' @export
ramp_square <- function(name, n = 3, background = "light") {
  check_choice(name, ramp_names("square"), "name")
  check_number(n, "n", min = 2, max = 3, whole = TRUE)
  check_choice(background, c("light", "dark"), "background")
  path <- ramp_paths[[name]]
  side <- function(which) {
    path_lab(
      if (background == "dark") {
        on_dark(ramp_paths[[path[[which]]]])
      } else {
        ramp_paths[[path[[which]]]]
      }
    )
  }
  square_colours(side("first"), side("second"), n)
}

#' The colour of areas without data
#'
#' A neutral grey, which no ramp uses.
#' @param background `"light"` (default) or `"dark"`, the page that it is for.
#' @return One colour as `#RRGGBB`.
#' @section Errors: `ochre_error_argument`.
#' @examples
#' no_data_colour()
#' @concept missing data
#' @export
no_data_colour <- function(background = "light") {
  check_choice(background, c("light", "dark"), "background")
  lab_to_hex(cbind(if (background == "light") 80 else 38, 0, 0))
}
