# Panels: a map of each period or group. A layer whose data have each area several times keeps its
# areas once; what differs from panel to panel (classes, texts, counts) is kept for each. Layers
# without panels are the same in all of them.

# The labels of all panels of a sheet, in order: levels of factors as they are, else sorted.
panel_labels <- function(layers) {
  found <- lapply(layers, function(l) {
    if (is.null(l$by)) return(NULL)
    value <- l$data[[l$by]]
    if (is.factor(value)) {
      levels(value)[levels(value) %in% value]
    } else {
      if (is.character(value)) sort_words(unique(value)) else as.character(sort(unique(value)))
    }
  })
  found <- Filter(length, found)
  if (!length(found)) return(NULL)
  all <- Reduce(union, found)
  if (length(found) > 1 && all(vapply(
      layers,
      function(l) is.null(l$by) || !is.factor(l$data[[l$by]]),
      NA
    ))) {
    sort_words(all)
  } else {
    all
  }
}

panel_of_rows <- function(layer, labels) match(as.character(layer$data[[layer$by]]), labels)

# Geometries of a layer, each once, and for each panel the row of every one of them (NA where it
# has none).
panel_areas <- function(layer, labels, call = rlang::caller_env()) {
  wkb <- geometry_of(layer$data, "data")
  first <- first_of_shape(wkb)
  once <- unique(first[lengths(wkb) > 0])
  area <- match(first, once)
  panel <- panel_of_rows(layer, labels)
  rows <- matrix(NA_integer_, length(once), length(labels))
  known <- which(!is.na(area) & !is.na(panel))
  at <- cbind(area[known], panel[known])
  twice <- which(duplicated(at))
  if (length(twice)) {
    one <- known[twice[1]]
    name <- name_column(layer$data)
    ochre_abort(
      "argument",
      sprintf(
        "`data` has %s more than once for `%s` %s (row %d).",
        if (is.na(name)) "an area" else paste0("`", layer$data[[name]][one], "`"), layer$by,
        labels[panel[one]], one
      ),
      paste0("Sum or filter the rows first, so that each area has one for each panel; see ",
             "sum_areas() and keep_where()."), arg = "data", rows = known[twice]
    )
  }
  rows[at] <- known
  list(wkb = wkb[once], rows = rows, labels = labels)
}

# A layer of areas with panels: its own fields hold what is common, `panels` what is not.
plan_area_panels <- function(layer, areas, setting) {
  layer$counted <- counted_rows(layer)
  layer$hover <- layer$hover %||% default_hover(layer$data, layer$value)
  value <- counted_values(layer)
  warn_unmatched(layer$data)
  shared <- if (!layer$own_steps) fit_steps(value, layer$steps, step_weights(layer))
  # A class of hatched areas is there in all panels when it is in one.
  if (!is.null(layer$hatch)) layer$hatch_all <- any(is_hatched(layer$data[[layer$hatch]]))
  layer$format <- layer_format(layer)
  if (!is.null(shared) && layer$steps$method != "categories") {
    layer$shared_format <- own_format(layer$format, shared, value)
  }
  if (!is.null(shared)) warn_misleading(layer, shared, areas$wkb, areas$rows)
  parts <- shade_panels(layer, areas, shared, setting)
  common <- common_fields(parts, layer, shared, setting)
  own <- if (layer$own_steps) own_panel_fields else shared_panel_fields
  panels <- lapply(parts, function(p) {
    new_part(setting, "area_panel", p[intersect(own, names(p))])
  })
  facts <- panel_fact(value, layer, setting$locale)
  c(common, list(facts = facts, panels = panels, repeated = repeated_items(layer, areas$rows)))
}

# What differs from panel to panel when classes are shared, and when each panel has its own.
shared_panel_fields <- c(
  "class", "counts", "count_labels", "hover", "popup", "no_data", "share", "rank", "numbers",
  "values"
)
own_panel_fields <- c(
  shared_panel_fields, "labels", "colours", "breaks", "digits", "hatch", "histogram"
)

# Each panel as a layer of its own.
shade_panels <- function(layer, areas, shared, setting) {
  value <- counted_values(layer)
  ends <- if (is.numeric(value) && any(is.finite(value))) range(value[is.finite(value)])
  # Names and codes stay known where a panel has no row of an area.
  filled <- first_known(areas$rows)
  lapply(seq_along(areas$labels), function(p) {
    one <- layer
    one$data <- panel_data(layer, areas$rows[, p], filled)
    one$counted <- layer$counted[areas$rows[, p]] %in% TRUE
    steps <- shared %||% fit_steps(counted_values(one), one$steps, step_weights(one))
    shade_by(one, steps, setting, ends)
  })
}

# What all panels share, with the counts of all.
common_fields <- function(parts, layer, shared, setting) {
  locale <- setting$locale
  first <- parts[[1]]
  of_panels <- c("hover", "popup", "facts", "share", "rank", "numbers", "values")
  common <- first[setdiff(names(first), of_panels)]
  if (!layer$own_steps) {
    total <- Reduce(`+`, lapply(parts, function(p) p$counts))
    lost <- sum(vapply(parts, function(p) p$no_data$count, 0))
    common$counts <- as.integer(total)
    common$count_labels <- format_number(common$counts, 0, locale = locale)
    common$no_data <- no_data_entry(lost, setting)
    common["histogram"] <- list(step_histogram(shared, layer, setting))
  }
  common$legend_note <- if (layer$own_steps) locale$own_steps else locale$shared_steps
  common
}

# The layer's rows for one panel, one for each area. An area without a row keeps its texts and
# loses its numbers.
panel_data <- function(layer, rows, filled) {
  data <- as.data.frame(layer$data)[
    ifelse(is.na(rows), filled, rows),
    setdiff(names(layer$data), "geometry"),
    drop = FALSE
  ]
  gone <- is.na(rows)
  if (any(gone)) {
    for (column in names(data)) {
      if (is.numeric(data[[column]]) ||
          column == layer$value ||
          identical(column, layer$hatch)) {
        data[[column]][gone] <- NA
      }
      if (column == layer$by) data[[column]][gone] <- data[[column]][!gone][1]
    }
  }
  data
}

panel_fact <- function(value, layer, locale) {
  if (layer$steps$method == "categories") return(NULL)
  format <- layer$shared_format %||% unclass(layer$format)
  range_fact(value, is.finite(value), layer, format, locale)
}
