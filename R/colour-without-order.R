# Colours that must be told apart without an order: for categories by a search, for two variables
# by adding two ramps.

# Each colour is the candidate that is farthest from those before it, to the least lucky of all
# eyes; then single colours are exchanged while the nearest pair moves apart. Deterministic.
search_categories <- function(path, background) {
  grid <- expand.grid(
    hue = seq(0, 345, by = 15) + path$seed,
    lightness = seq(path$lightness[1], path$lightness[2], by = 8),
    chroma = path$chroma
  )
  if (background == "dark") grid$lightness <- grid$lightness + 8
  lab <- unique(round(in_gamut(grid$lightness, grid$chroma, grid$hue), 1))
  colours <- lab_to_hex(lab)
  views <- lapply(
    c(normal = "normal", protan = "protan", deutan = "deutan", tritan = "tritan"),
    function(v) seen_lab(colours, v)
  )
  ground <- seen_lab(c(page_colour(background), no_data_colour(background)))
  good <- apply(colour_distance(views$normal, ground), 1, min) > 14
  views <- lapply(views, function(v) v[good, , drop = FALSE])
  colours <- colours[good]
  wanted <- c(
    normal = ramp_limits[["categories"]],
    protan = ramp_limits[["categories_vision"]],
    deutan = ramp_limits[["categories_vision"]],
    tritan = ramp_limits[["categories_vision"]]
  )
  apart_by <- Reduce(pmin, Map(function(v, w) colour_distance(v, v) / w, views, wanted))
  chosen <- which.max(views$normal[, 2]^2 + views$normal[, 3]^2 - 4 * (views$normal[, 1] - 50)^2)
  while (length(chosen) < path$most) {
    room <- apply(apart_by[, chosen, drop = FALSE], 1, min)
    chosen <- c(chosen, which.max(room))
  }
  chosen <- exchange_nearest(chosen, apart_by)
  colours[chosen]
}

exchange_nearest <- function(chosen, apart_by) {
  least <- function(set) {
    d <- apart_by[set, set]
    min(d[upper.tri(d)])
  }
  for (round in 1:60) {
    d <- apart_by[chosen, chosen]
    diag(d) <- Inf
    now <- min(d)
    at <- which(d == now, arr.ind = TRUE)[1, ]
    better <- FALSE
    for (k in at) {
      room <- apply(apart_by[, chosen[-k], drop = FALSE], 1, min)
      tried <- replace(chosen, k, which.max(room))
      if (least(tried) > now + 1e-6) {
        chosen <- tried
        better <- TRUE
        break
      }
    }
    if (!better) break
  }
  chosen
}

# What one variable takes from the pale corner is added to what the other takes. Both reach about
# half way down their ramp, so that together they end dark.
square_colours <- function(first, second, n) {
  pale <- (first[1, ] + second[1, ]) / 2
  side <- function(lab) {
    reach <- which.min(abs(lab[, 1] - 57)) / nrow(lab)
    lab_at(lab, even_places(lab, n, 0, reach))
  }
  a <- sweep(side(first), 2, first[1, ])
  b <- sweep(side(second), 2, second[1, ])
  lab <- do.call(rbind, lapply(seq_len(n), function(j) sweep(a, 2, pale + b[j, ], "+")))
  polar <- in_gamut(
    pmax(lab[, 1], 12),
    sqrt(lab[, 2]^2 + lab[, 3]^2),
    atan2(lab[, 3], lab[, 2]) * 180 / pi
  )
  matrix(lab_to_hex(polar), n)
}

# The searches take a while and always find the same; they are made when the package is built.
# This file comes after those that the search calls.
category_paths <- Filter(function(path) path$kind == "categories", ramp_paths)
category_sets <- list(
  light = lapply(category_paths, search_categories, background = "light"),
  dark = lapply(lapply(category_paths, on_dark), search_categories, background = "dark")
)

category_colours <- function(name, background) category_sets[[background]][[name]]
