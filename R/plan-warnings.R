# The warnings about what would mislead a reader of a layer: what a join lost, counts on areas of
# unequal size, a projection that makes land larger, labels that say something else than the legend.

# What would mislead a reader, said once for a layer. `rows` are those of each area, where it has
# several.
warn_misleading <- function(layer, steps, wkb, rows = NULL) {
  if (steps$method == "categories") return(invisible())
  value <- area_values(layer)
  if (is.null(rows)) {
    warn_counts(value, layer, wkb)
  } else {
    warn_counts(value[rows], layer, rep(wkb, ncol(rows)))
  }
  warn_rounding(value, steps, layer)
  warn_unit(layer)
}

warn_unmatched <- function(data) {
  for (audit in attr(data, "ochre_joins")) warn_unmatched_join(finish_audit(audit))
}

warn_unmatched_join <- function(audit) {
  counts <- attr(audit, "counts")
  if (counts[["boundaries_alone"]] == 0 && counts[["statistics_alone"]] == 0) {
    return(invisible())
  }
  lost <- c(
    if (counts[["boundaries_alone"]]) {
      paste(count_words(counts[["boundaries_alone"]], "area"), "without statistics")
    },
    if (counts[["statistics_alone"]]) {
      paste(count_words(counts[["statistics_alone"]], "row"), "of statistics without an area")
    }
  )
  ochre_warn("unmatched", "The join left {paste(lost, collapse = ' and ')}.",
             "join_audit() names them and says why.", audit = audit)
}

# Both of these draw land larger the farther it lies from the equator, or from the parallel in the
# middle.
warn_projection <- function(projection, extent, kinds) {
  distorts <- projection$name %in% c("web Mercator", "equirectangular")
  if (!distorts || !any(kinds_are(kinds, "shaded"))) return(invisible())
  ends <- pmin(abs(extent[c("south", "north")]), 85)
  near <- if (prod(sign(extent[c("south", "north")])) < 0) 0 else min(ends)
  power <- if (projection$name == "web Mercator") 2 else 1
  times <- (cos(near * pi / 180) / cos(max(ends) * pi / 180))^power
  if (times < 1.2) return(invisible())
  ochre_warn(
    "projection",
    paste0("In the projection {projection$name} the same land takes up to ",
           "{format(signif(times, 2))} times as much room on this map; shaded areas will ",
           "mislead."), "Leave `projection` as it is by default, and the map gets equal areas."
  )
}

# Counts on areas of unequal size show where the large areas are.
warn_counts <- function(value, layer, wkb) {
  v <- value[is.finite(value)]
  # Years, codes and ranks are whole numbers, too.
  if (column_role(v, layer$value) != "count") return(invisible())
  if (length(v) < 5 || any(v != round(v)) || any(v < 0) || max(v) < 20) return(invisible())
  size <- call_core(measure_core(wkb))$area
  size <- size[!is.na(size) & size > 0]
  if (!length(size) || max(size) < 3 * min(size)) return(invisible())
  ochre_warn(
    "counts",
    paste0("`{layer$value}` looks like a count, and the areas are of unequal size: large ",
           "areas will seem to have more."),
    "Shade a rate (rate_per()), or show the counts with place_symbols().", column = layer$value
  )
}

# A percentage beside a legend of fractions would be two units for one variable.
warn_unit <- function(layer) {
  percent <- function(template) {
    any(vapply(
      parse_template(template),
      function(p) {
        identical(p$column, layer$value) && !is.null(p$format) && endsWith(p$format, "%")
      },
      NA
    ))
  }
  if (isTRUE(layer$format$percent) || !any(vapply(c(layer$hover, layer$popup), percent, NA))) {
    return(invisible())
  }
  ochre_abort(
    "template", "A label shows `{layer$value}` as a percentage, and the legend as a fraction.",
    paste0("Give `format = number_format(percent = TRUE)`, which both follow, and leave out ",
           "the % in the template."), column = layer$value
  )
}

# A label with fewer decimals than the legend may read as another class than its colour says.
warn_rounding <- function(value, steps, layer) {
  if (!length(steps$counts)) return(invisible())
  # Decimals of a percentage are two more of the fraction.
  more <- if (isTRUE(layer$format$percent)) 2 else 0
  digits <- unlist(lapply(
    c(layer$hover, layer$popup),
    template_digits,
    column = layer$value,
    own = layer$format$digits
  ))
  for (d in unique(digits[!is.na(digits)])) {
    shown <- pmin(pmax(round(value, d + more), min(steps$breaks)), max(steps$breaks))
    moved <- which(is.finite(value) & class_of(steps, shown) != class_of(steps, value))
    if (length(moved)) {
      wanted <- max(0, steps$digits - more)
      ochre_warn(
        "rounding",
        paste0("Rounded to {count_words(d, 'decimal')}, {count_words(length(moved), 'value')} ",
               "of `{layer$value}` read as another class than the colour says."),
        if (wanted > d) {
          paste0("Show {count_words(wanted, 'decimal')} in the label, or give the steps ",
                 "`digits = {d + more}`.")
        } else {
          "Show one decimal more in the label, or let the steps find their own decimals."
        }, rows = moved
      )
      return(invisible())
    }
  }
}
