# Parts of the land that a map leaves out by a word: specks far off, and land round a pole.

# The shapes of a map without those parts, with a message that counts them.
leave_out_parts <- function(map, wanted) {
  if (!length(wanted)) return(map)
  drawn <- which(kinds_are(map$kinds, "outlines"))
  wkb <- lapply(map$shapes[drawn], function(s) s$wkb)
  gone <- list(
    specks = if ("specks" %in% wanted) speck_test(wkb),
    poles = if ("poles" %in% wanted) function(box) box$ymax < -60 | box$ymin > 84
  )
  for (word in names(Filter(Negate(is.null), gone))) {
    counts <- c(parts = 0, areas = 0)
    for (i in drawn) {
      left <- drop_parts(map$shapes[[i]]$wkb, gone[[word]])
      map$shapes[[i]]$wkb <- left$wkb
      counts <- counts + c(left$parts, left$whole)
    }
    tell_left_out(word, counts)
  }
  map
}

tell_left_out <- function(word, counts) {
  ochre_tell(sprintf(
    if (word == "specks") {
      "Left out %s far off; of %s nothing is left."
    } else {
      "Left out %s round a pole; of %s nothing is left."
    },
    count_words(counts[["parts"]], "part"),
    count_words(counts[["areas"]], "area")
  ))
}

# Groups of parts that lie far off and have next to no land.
speck_land <- 0.002
speck_test <- function(wkb) {
  far <- call_core(far_parts_core(wkb))$far
  boxes <- lapply(Filter(function(f) f$land < speck_land, far), function(f) f$box)
  function(box) {
    inside <- lapply(boxes, function(b) {
      turn <- floor((box$xmin - b[1]) / 360) * 360
      box$xmin - turn >= b[1] & box$xmax - turn <= b[3] & box$ymin >= b[2] & box$ymax <= b[4]
    })
    Reduce(`|`, inside, rep(FALSE, length(box$xmin)))
  }
}

# Geometries without the parts that the test says of their boxes, how many those are, and of how
# many geometries nothing is left.
drop_parts <- function(wkb, goes) {
  none <- list(wkb = wkb, parts = 0, whole = 0)
  known <- which(lengths(wkb) > 0)
  if (!length(known)) return(none)
  whole <- wk::wkb(wkb[known])
  parts <- wk::wk_flatten(whole, max_depth = 2)
  feature <- rep(seq_along(known), parts_in(whole))
  out <- goes(unclass(wk::wk_envelope(parts)))
  if (!any(out)) return(none)
  touched <- unique(feature[out])
  kept <- which(!out & feature %in% touched)
  left <- split(kept, factor(feature[kept], touched))
  wkb[known[touched]] <- lapply(left, function(here) {
    if (length(here)) unclass(join_parts(parts[here]))[[1]]
  })
  list(wkb = wkb, parts = sum(out), whole = sum(lengths(left) == 0))
}

# How many parts each geometry falls into.
parts_in <- function(whole) {
  meta <- wk::wk_meta(whole)
  count <- ifelse(meta$geometry_type > 3, meta$size, 1L)
  for (k in which(meta$geometry_type == 7)) {
    count[k] <- length(wk::wk_flatten(whole[k], max_depth = 2))
  }
  count
}

join_parts <- function(parts) {
  if (length(parts) == 1) return(parts)
  kind <- wk::wk_meta(parts)$geometry_type[1]
  several <- c(point = 4L, line = 5L, area = 6L)[[kind]]
  wk::wk_collection(parts, several)
}
