# What must hold of a ramp so that readers can tell its steps apart and read them in order.

page_colours <- list(light = "white", dark = c(13, 3, 265))
page_colour <- function(background) {
  if (background == "light") {
    "#FFFFFF"
  } else {
    lab_to_hex(in_gamut(page_colours$dark[1], page_colours$dark[2], page_colours$dark[3]))
  }
}

# The least distances that are asked for, in CIEDE2000. One is about what an eye can tell side by
# side.
ramp_limits <- c(
  neighbours = 5, vision = 3, grey = 2.5, page = 5, no_data = 5, categories = 12,
  categories_vision = 5
)

#' Check the colours of a ramp
#'
#' Measures what readers need: lightness that runs one way (in a diverging ramp, to both ends),
#' neighbouring steps that can be told apart, also with protan, deutan and tritan vision at full
#' severity and in a greyscale print; a first step that stands out from the page and from the
#' colour of "no data"; text that can be read on every step; no colour twice. Categories must
#' differ each from each, and need no order.
#'
#' @param colours Colours in order, as `#RRGGBB` or names that R knows: a character vector of 2 to
#'   12, such as [ramp_colours()] gives.
#' @param kind `"sequential"`, `"diverging"` or `"categories"`; `NULL` (default) takes that of
#'   [ramp_colours()], else finds it from lightness and hue.
#' @param background `"light"` (default) or `"dark"`, the page that they are seen on.
#' @return A tibble of class `ochre_ramp_check`: `check`, `value` (measured), `needed`, `passed`,
#'   and `what` (a sentence; of a failure the likely mend). Printed, it is text. Distances are
#'   CIEDE2000, contrast that of WCAG 2.2.
#' @section Errors: `ochre_error_argument`.
#' @source Sharma, G., Wu, W., Dalal, E.N. (2005) The CIEDE2000 color-difference formula, Color
#'   Research and Application 30, 21-30. Machado, G.M. et al. (2009), see [seen_colours()]. Web
#'   Content Accessibility Guidelines 2.2 (2023).
#' @examples
#' check_ramp(ramp_colours("woad", 5))
#' check_ramp(c("#EEF3F8", "#C3D5E8", "#5B8DBB", "#8FB3D3", "#2B5F93"))
#' @export
check_ramp <- function(colours, kind = NULL, background = "light") {
  refuse_missing(missing(colours), "colours", rlang::current_env())
  own_kind <- attr(colours, "kind")
  colours <- check_colours(colours, "colours")
  if (length(colours) < 2 || length(colours) > 12) {
    ochre_abort("argument", "`colours` must be 2 to 12 colours, not {length(colours)}.",
                arg = "colours")
  }
  check_choice(background, c("light", "dark"), "background")
  kind <- kind %||% own_kind %||% guess_kind(colours, background)
  check_choice(kind, c("sequential", "diverging", "categories"), "kind")
  rows <- c(
    list(check_twice(colours)),
    if (kind != "categories") list(check_order(colours, kind, background)),
    check_distances(colours, kind),
    check_ground(colours, kind, background)
  )
  out <- do.call(rbind, rows)
  structure(
    out, colours = colours, kind = kind, background = background,
    class = c("ochre_ramp_check", class(out))
  )
}

# What a row of colours is meant to be, from how lightness and hue go along it. Colours of
# categories jump about in hue; a diverging ramp has its turn of lightness inside, and other hues at
# its ends.
guess_kind <- function(colours, background) {
  lab <- seen_lab(colours)
  light <- if (background == "dark") -lab[, 1] else lab[, 1]
  n <- length(light)
  hue <- (atan2(lab[, 3], lab[, 2]) * 180 / pi)[sqrt(lab[, 2]^2 + lab[, 3]^2) > 15]
  steps <- abs((diff(hue) + 180) %% 360 - 180)
  ends <- if (length(hue) > 1) abs((hue[length(hue)] - hue[1] + 180) %% 360 - 180) else 0
  up <- diff(light) > 0
  turn <- which.max(light)
  inside <- turn > 1 && turn < n && min(turn - 1, n - turn) >= n %/% 4
  runs <- if (inside) mean(c(up[seq_len(turn - 1)], !up[turn:(n - 1)])) else 0
  if (ends > 60 && (n == 2 && abs(diff(light)) < 15 || n > 2 && runs > 0.8 && sum(steps) < 250)) {
    return("diverging")
  }
  # Two in the middle may be alike, and either the lightest.
  if (n > 3 && runs > 0.8) return("diverging")
  in_order <- all(up) || !any(up)
  if (n > 2 && sum(steps) > if (in_order) 200 else 120) {
    return("categories")
  }
  if (n < 4 || mean(up) > 0.7 || mean(up) < 0.3) "sequential" else "categories"
}

check_row <- function(check, value, needed, passed, good, bad) {
  tibble::tibble(
    check = check,
    value = as.numeric(value),
    needed = as.numeric(needed),
    passed = passed,
    what = if (passed) good else bad
  )
}

check_twice <- function(colours) {
  twice <- which(duplicated(colours))
  check_row(
    "no colour twice",
    length(twice),
    0,
    !length(twice),
    "All colours differ.",
    sprintf("Step %d repeats %s.", twice[1], colours[twice[1]])
  )
}

check_order <- function(colours, kind, background) {
  light <- seen_lab(colours)[, 1]
  n <- length(light)
  half <- n %/% 2
  down <- function(x) if (length(x) < 2) numeric() else diff(x)
  sign <- if (background == "dark") -1 else 1
  steps <- if (kind == "sequential") {
    way <- if (light[n] < light[1]) -1 else 1
    list(way * down(light))
  } else {
    list(sign * down(light[seq_len(n - half)]), -sign * down(light[(half + 1):n]))
  }
  at <- unlist(Map(function(d, from) which(d <= 0) + from, steps, c(0, half)[seq_along(steps)]))
  check_row(
    "lightness in order",
    if (length(unlist(steps))) min(unlist(steps)) else 0,
    0,
    !length(at),
    if (kind == "sequential") "Lightness runs one way." else "Lightness runs to both ends.",
    sprintf(
      "Steps %d and %d are in the wrong order of lightness (%s, %s)%s.",
      at[1],
      at[1] + 1,
      colours[at[1]],
      colours[at[1] + 1],
      swapped_hint(colours, at[1])
    )
  )
}

# Two codes exchanged, or two digits within one: putting them right mends the order.
swapped_hint <- function(colours, at) {
  runs <- function(x) {
    light <- seen_lab(x)[, 1]
    all(diff(light) < 0) || all(diff(light) > 0)
  }
  exchanged <- colours
  exchanged[c(at, at + 1)] <- colours[c(at + 1, at)]
  if (runs(exchanged)) return("; they look exchanged")
  for (i in c(at, at + 1)) {
    for (k in c(2:6)) {
      digits <- strsplit(colours[i], "")[[1]]
      digits[c(k, k + 1)] <- digits[c(k + 1, k)]
      tried <- colours
      tried[i] <- paste(digits, collapse = "")
      if (tried[i] != colours[i] && runs(tried)) {
        return(sprintf("; two digits of %s look swapped, perhaps it is %s", colours[i], tried[i]))
      }
    }
  }
  ""
}

check_distances <- function(colours, kind) {
  n <- length(colours)
  categories <- kind == "categories"
  pairs <- if (categories) {
    which(upper.tri(diag(n)), arr.ind = TRUE)
  } else {
    cbind(seq_len(n - 1), seq_len(n - 1) + 1)
  }
  # The two arms of a diverging ramp are alike in grey, so the two beside its middle are not
  # compared.
  grey <- pairs[kind != "diverging" | n %% 2 == 1 | pairs[, 1] != n / 2, , drop = FALSE]
  least <- ramp_limits[[if (categories) "categories" else "neighbours"]]
  by_vision <- ramp_limits[[if (categories) "categories_vision" else "vision"]]
  normal <- nearest_check(colours, pairs, "normal", "steps apart", least)
  visions <- lapply(c("protan", "deutan", "tritan"), function(v) {
    nearest_check(colours, pairs, v, paste("steps apart,", v), by_vision)
  })
  in_grey <- if (!categories && nrow(grey)) {
    label <- "steps apart, greyscale"
    list(nearest_check(colours, grey, "grey", label, ramp_limits[["grey"]]))
  }
  c(list(normal), visions, in_grey)
}

# How far the nearest two of some pairs are apart to one kind of eye.
nearest_check <- function(colours, pairs, vision, label, needed) {
  lab <- seen_lab(colours, vision)
  d <- colour_distance(lab, lab)[pairs]
  k <- which.min(d)
  apart <- format_number(d[k], 1)
  eyes <- switch(vision, normal = "", grey = " in greyscale", paste(" with", vision, "vision"))
  hard <- sprintf(
    "Steps %d and %d are hard to tell apart%s: %s, %s needed.",
    pairs[k, 1],
    pairs[k, 2],
    eyes,
    apart,
    format(needed)
  )
  fine <- sprintf("The nearest two are %s apart.", apart)
  check_row(label, d[k], needed, d[k] >= needed, fine, hard)
}

check_ground <- function(colours, kind, background) {
  lab <- seen_lab(colours)
  far <- function(other) colour_distance(lab, seen_lab(other))[, 1]
  page <- far(page_colour(background))
  lost <- far(no_data_colour(background))
  text <- pmax(contrast_ratio(colours, "#000000"), contrast_ratio(colours, "#FFFFFF"))
  nearest <- function(d) which.min(d)
  list(
    check_row(
      "stands out from the page",
      min(page),
      ramp_limits[["page"]],
      min(page) >= ramp_limits[["page"]],
      "Every step is seen on the page.",
      sprintf(
        "Step %d (%s) is too near the page: %s, %s needed%s.",
        nearest(page),
        colours[nearest(page)],
        format_number(min(page), 1),
        format(ramp_limits[["page"]]),
        if (background == "light") "; make it darker" else "; make it lighter"
      )
    ),
    check_row(
      "differs from no data",
      min(lost),
      ramp_limits[["no_data"]],
      min(lost) >= ramp_limits[["no_data"]],
      "No step looks like \"no data\".",
      sprintf(
        "Step %d (%s) looks like the grey of \"no data\": %s, %s needed.",
        nearest(lost),
        colours[nearest(lost)],
        format_number(min(lost), 1),
        format(ramp_limits[["no_data"]])
      )
    ),
    check_row(
      "text can be read",
      min(text),
      4.5,
      min(text) >= 4.5,
      "Black or white text can be read on every step.",
      sprintf("Neither black nor white text has contrast on step %d.", nearest(text))
    )
  )
}

#' @export
format.ochre_ramp_check <- function(x, ...) {
  bad <- sum(!x$passed)
  head <- sprintf(
    "%s colours, %s, on a %s page: %s.",
    length(attr(x, "colours")),
    attr(x, "kind"),
    attr(x, "background"),
    if (bad) {
      sprintf("%d of %d checks fail", bad, nrow(x))
    } else {
      sprintf("all %d checks hold", nrow(x))
    }
  )
  c(head, paste0("  ", ifelse(x$passed, "ok   ", "FAIL "), format(x$check), "  ", x$what))
}

#' @export
print.ochre_ramp_check <- function(x, ...) {
  cat(format(x), sep = "\n")
  invisible(x)
}
