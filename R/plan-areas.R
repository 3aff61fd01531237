# A layer of areas shaded by one variable: its classes, colours and texts.

plan_areas <- function(layer, wkb, setting) {
  if (is.null(layer$value)) return(plain_areas(layer, setting))
  layer$counted <- counted_rows(layer)
  layer$hover <- layer$hover %||% default_hover(layer$data, layer$value)
  steps <- fit_steps(counted_values(layer), layer$steps, step_weights(layer))
  warn_unmatched(layer$data)
  warn_misleading(layer, steps, wkb)
  fields <- shade_by(layer, steps, setting)
  layer$format <- layer_format(layer)
  if (isTRUE(layer$live)) {
    own <- own_format(layer$format, steps, area_values(layer))
    fields$facts <- NULL
    return(c(fields, list(live = plan_live(layer, steps, own, setting))))
  }
  fields["histogram"] <- list(step_histogram(steps, layer, setting))
  fields$repeated <- repeated_items(layer)
  fields
}

# Areas of one colour: a single class, which the legend names if it is to be there.
plain_areas <- function(layer, setting) {
  n <- nrow(layer$data)
  name <- name_column(layer$data)
  layer$hover <- layer$hover %||% if (!is.na(name)) as_field(name)
  about <- list(
    legend = layer$legend,
    class = rep(1L, n),
    labels = layer$legend %||% "",
    counts = n,
    count_labels = format_number(n, 0, locale = setting$locale),
    colours = layer$fill %||% ink_colour("land", setting$ground),
    digits = 0L,
    method = "categories",
    fit = NA_real_,
    no_data = no_data_entry(0L, setting)
  )
  formats <- lapply(layer$field_formats, unclass)
  c(about, plan_texts(layer, formats, setting))
}

# A variable's own format; years and codes without thousands marks.
layer_format <- function(layer) {
  if (!is.null(layer$format)) return(layer$format)
  plain <- plain_format(layer$data[[layer$value]], layer$value)
  if (!is.null(plain)) number_format(marks = FALSE)
}

# Which rows the numbers of a map speak of: breaks, counts, ranks, bars, cards, its words and its
# report. Areas that are hatched, because their value is uncertain or hidden, count in none of them,
# and an area of several parts counts once.
counted_rows <- function(layer) {
  hatched <- if (!is.null(layer$hatch)) is_hatched(layer$data[[layer$hatch]])
  !repeated_rows(layer) & !(hatched %||% FALSE)
}

# The values that count; those that do not are missing.
counted_values <- function(layer) {
  value <- area_values(layer)
  value[!layer$counted] <- NA
  value
}

# Which rows show the value of a whole that an earlier row shows, too: a join with
# `repeats = "share"` gives it to each part.
repeated_rows <- function(layer) {
  audits <- attr(layer$data, "ochre_joins")
  shared <- vapply(audits, function(audit) isTRUE(attr(audit, "shared")), NA)
  others <- unlist(lapply(audits[!shared], attr, "columns"))
  out <- logical(nrow(layer$data))
  if (layer$value %in% others) return(out)
  value <- layer$data[[layer$value]]
  for (audit in audits[shared]) {
    keys <- attr(audit, "by")$boundaries
    if (!all(keys %in% names(layer$data))) next
    key <- key_of(layer$data, c(keys, layer$by))
    first <- match(key, key)
    same <- is.na(key) | value == value[first] | (is.na(value) & is.na(value[first]))
    # Columns made from those of the join are known by having one value for each whole.
    if (layer$value %in% attr(audit, "columns") || all(same %in% TRUE)) {
      out <- out | (duplicated(key) & !is.na(key))
    }
  }
  out
}

# Their positions, counted from zero; NULL for none.
repeated_items <- function(layer, rows = NULL) {
  part <- repeated_rows(layer)
  if (!is.null(rows)) part <- apply(rows, 1, function(row) any(part[row], na.rm = TRUE))
  if (any(part)) which(part) - 1L
}

area_values <- function(layer) {
  value <- layer$data[[layer$value]]
  if (layer$steps$method == "categories") value else as.numeric(value)
}
step_weights <- function(layer) {
  if (!is.null(layer$steps$weight)) as.numeric(layer$data[[layer$steps$weight]])
}

# The classes, colours and texts of areas by fitted steps. `range` are the ends of all panels.
shade_by <- function(layer, steps, setting, range = NULL) {
  layer$format <- layer_format(layer)
  value <- area_values(layer)
  shaded <- shade_classes(layer, steps, setting)
  formats <- field_formats(layer, steps)
  locale <- setting$locale
  about <- list(
    legend = layer$legend,
    facts = area_facts(layer, steps, shaded, formats[[1]], locale),
    count_labels = format_number(shaded$counts, 0, locale = locale),
    breaks = if (steps$method != "categories") steps$breaks,
    digits = steps$digits,
    method = steps$method,
    fit = steps$fit,
    no_data = no_data_entry(sum(shaded$class == 0L & !repeated_rows(layer)), setting)
  )
  values <- if (steps$method == "categories") {
    list(values = as.character(value))
  } else {
    written <- format_field(value, NULL, formats[[1]], locale)
    c(value_places(value, shaded, layer$counted, range), list(values = written))
  }
  c(about, shaded, values, plan_texts(layer, formats, setting))
}

# `class` of each area, and of each class its label, count and colour; hatched areas are one more.
shade_classes <- function(layer, steps, setting) {
  class <- class_of(steps, area_values(layer))
  class[is.na(class)] <- 0L
  finer <- shows_between(layer, layer$value, steps, layer$format)
  shaded <- list(
    class = class,
    labels = class_labels(steps, layer$format, setting$locale, finer),
    counts = tabulate(class[layer$counted], length(steps$counts)),
    colours = layer_colours(layer, steps, setting$ground)
  )
  if (is.null(layer$hatch)) shaded else hatch_areas(shaded, layer, setting)
}

# How columns are written: the shaded one first, unless it holds categories.
field_formats <- function(layer, steps) {
  others <- lapply(layer$field_formats, unclass)
  if (steps$method == "categories") return(others)
  own <- layer$shared_format %||% own_format(layer$format, steps, area_values(layer))
  c(stats::setNames(list(own), layer$value), others)
}

area_facts <- function(layer, steps, shaded, format, locale) {
  if (steps$method == "categories") {
    counts <- format_number(steps$counts, 0, locale = locale)
    return(category_fact(steps$labels, counts, layer$legend))
  }
  range_fact(area_values(layer), in_class(shaded) & layer$counted, layer, format, locale)
}

# Which areas have a class of the ramp: what is hatched is not told apart from others by its value.
in_class <- function(shaded) {
  shaded$class > 0L & shaded$class != (shaded$hatch$class %||% -1L)
}

# Where each value lies between the least and the greatest, in thousandths (-1 for none), and its
# rank from the highest (0 for none).
value_places <- function(value, shaded, counted, range = NULL) {
  known <- is.finite(value) & in_class(shaded)
  ranked <- sort(value[known & counted], decreasing = TRUE)
  ends <- range %||% suppressWarnings(range(value[known]))
  share <- rep(-1L, length(value))
  share[known] <- if (diff(ends) > 0) {
    as.integer(round(1000 * (value[known] - ends[1]) / diff(ends)))
  } else {
    500L
  }
  rank <- integer(length(value))
  rank[known] <- match(value[known], ranked)
  list(share = share, rank = rank, numbers = ifelse(is.finite(value), signif(value, 15), NA))
}

# Bars of a histogram in the colours of their classes: `counts` are relative to the highest,
# `ends` say what the axis begins and ends with.
step_histogram <- function(steps, layer, setting) {
  counts <- steps$values$counts
  if (length(counts) < 2 || steps$method == "categories") return(NULL)
  from <- steps$values$from
  to <- steps$values$to
  edges <- seq(from, to, length.out = length(counts) + 1)
  class <- class_of(steps, (edges[-1] + edges[-length(edges)]) / 2)
  inner <- steps$breaks[-c(1, length(steps$breaks))]
  new_part(setting, "histogram", list(
    counts = round(counts / max(counts), 4),
    class = ifelse(is.na(class), 0L, class),
    breaks = round((inner - from) / (to - from), 5),
    ends = format_field(c(from, to), NULL, own_format(layer$format, steps), setting$locale)
  ))
}

# Hatched areas are a class of their own after the others, on the colour of paper.
hatch_areas <- function(shaded, layer, setting) {
  hatched <- is_hatched(layer$data[[layer$hatch]])
  if (!any(hatched) && !isTRUE(layer$hatch_all)) return(shaded)
  last <- length(shaded$colours) + 1L
  shaded$class[hatched] <- last
  shaded$counts <- c(shaded$counts, sum(hatched & !repeated_rows(layer)))
  shaded$labels <- c(shaded$labels, layer$hatch_label %||% setting$locale$page$uncertain)
  shaded$colours <- c(shaded$colours, ink_colour("paper", setting$ground))
  shaded$hatch <- list(class = last, colour = ink_colour("hatch", setting$ground))
  shaded
}

is_hatched <- function(mark) {
  !is.na(mark) & (if (is.logical(mark)) mark else nzchar(as.character(mark)))
}
