# Panels: a map of each period or group. A layer whose data have each area several times keeps its areas once; what differs
# from panel to panel (classes, texts, counts) is kept for each. Layers without panels are the same in all of them.

# The labels of all panels of a sheet, in order: levels of factors as they are, else sorted.
panel_labels <- function(layers) {
  found <- lapply(layers, function(l) {
    if (is.null(l$by)) return(NULL)
    value <- l$data[[l$by]]
    if (is.factor(value)) levels(value)[levels(value) %in% value] else as.character(sort(unique(value)))
  })
  found <- Filter(length, found)
  if (!length(found)) return(NULL)
  all <- Reduce(union, found)
  if (length(found) > 1 && all(vapply(layers, function(l) is.null(l$by) || !is.factor(l$data[[l$by]]), NA))) sort(all) else all
}

panel_of_rows <- function(layer, labels) match(as.character(layer$data[[layer$by]]), labels)

# Geometries of a layer, each once, and for each panel the row of every one of them (NA where it has none).
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
    ochre_abort("argument", sprintf("`data` has %s more than once for `%s` %s (row %d).", if (is.na(name)) "an area" else paste0("`", layer$data[[name]][one], "`"), layer$by, labels[panel[one]], one),
                "Sum or filter the rows first, so that each area has one for each panel; see sum_areas() and keep_where().", arg = "data", rows = known[twice], call = call)
  }
  rows[at] <- known
  list(wkb = wkb[once], rows = rows, labels = labels)
}

# A layer of areas with panels: its own fields hold what is common, `panels` what is not.
plan_area_panels <- function(layer, areas) {
  value <- area_values(layer)
  warn_unmatched(layer$data)
  shared <- if (!layer$own_steps) fit_steps(value, layer$steps, step_weights(layer))
  # Names and codes stay known where a panel has no row of an area.
  filled <- apply(areas$rows, 1, function(r) r[!is.na(r)][1])
  # A class of hatched areas is there in all panels when it is in one.
  if (!is.null(layer$hatch)) layer$hatch_all <- any(is_hatched(layer$data[[layer$hatch]]))
  ends <- if (is.numeric(value) && any(is.finite(value))) range(value[is.finite(value)])
  layer$format <- layer_format(layer)
  if (!is.null(shared) && layer$steps$method != "categories") layer$shared_format <- own_format(layer$format, shared, value)
  parts <- lapply(seq_along(areas$labels), function(p) {
    rows <- areas$rows[, p]
    one <- layer
    one$data <- panel_data(layer, rows, filled)
    steps <- shared %||% fit_steps(area_values(one), one$steps, step_weights(one))
    shade_by(one, steps, ends)
  })
  if (!is.null(shared)) warn_misleading(layer, shared, areas$wkb, areas$rows) else layer$hover <- layer$hover %||% default_hover(layer$data, layer$value)
  first <- parts[[1]]
  total <- function(field) as.integer(Reduce(`+`, lapply(parts, function(p) p[[field]])))
  lost <- no_data_entry(sum(vapply(parts, function(p) p$no_data$count, 0)))
  keep <- if (layer$own_steps) c("class", "labels", "colours", "counts", "count_labels", "breaks", "digits", "hover", "popup", "no_data", "hatch", "histogram", "share", "rank", "numbers", "values") else c("class", "counts", "count_labels", "hover", "popup", "no_data", "share", "rank", "numbers", "values")
  common <- first[setdiff(names(first), c("class", "hover", "popup", "facts", "share", "rank", "numbers", "values"))]
  if (!layer$own_steps) {
    common$counts <- total("counts")
    common$count_labels <- format_number(common$counts, 0)
    common$no_data <- lost
    common$histogram <- step_histogram(shared, layer, length(common$colours))
  }
  common$legend_note <- if (layer$own_steps) wording$now$own_steps else wording$now$shared_steps
  c(common, list(facts = panel_fact(value, layer, shared), panels = lapply(parts, function(p) p[intersect(keep, names(p))])))
}

# The layer's rows for one panel, one for each area. An area without a row keeps its texts and loses its numbers.
panel_data <- function(layer, rows, filled) {
  data <- as.data.frame(layer$data)[ifelse(is.na(rows), filled, rows), setdiff(names(layer$data), "geometry"), drop = FALSE]
  gone <- is.na(rows)
  if (any(gone)) for (column in names(data)) {
    if (is.numeric(data[[column]]) || column == layer$value || identical(column, layer$hatch)) data[[column]][gone] <- NA
    if (column == layer$by) data[[column]][gone] <- data[[column]][!gone][1]
  }
  data
}

panel_fact <- function(value, layer, shared) {
  if (layer$steps$method == "categories") return(NULL)
  range_fact(value, is.finite(value), layer$data, layer$legend, layer$shared_format %||% unclass(layer$format), layer$by)
}
