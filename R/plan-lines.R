# A layer of lines: width and colour of each, and the entries of both in the legend.

resolve_lines <- function(layer, on, setting) {
  width <- line_widths(layer, setting)
  key <- colour_key(layer, setting)
  formats <- sized_formats(layer, layer$size, layer$width_steps)
  c(
    list(
      legend = layer$legend,
      legend_note = if (!any(width$width > 0) || !nrow(layer$data)) setting$locale$none,
      colour = layer$colour %||% ink_colour("line", setting$ground),
      width = width$width,
      widths = width$marks,
      dash = if (layer$dash) c(4, 3),
      casing = if (layer$casing) ink_colour("rim", setting$ground),
      arrow = layer$arrow,
      key = key
    ),
    plan_texts(layer, Filter(Negate(is.null), formats), setting)
  )
}

# A point is 1/72 inch, a CSS pixel 1/96.
pixels_of_points <- 96 / 72

# In CSS pixels: one width for all, or one for each line with the marks of the legend. A line
# without a value is not drawn: its width is zero.
line_widths <- function(layer, setting) {
  if (is.null(layer$size)) return(list(width = layer$width * pixels_of_points))
  widest <- layer$widest * pixels_of_points
  value <- as.numeric(layer$data[[layer$size]])
  shown <- is.finite(value) & value > 0
  if (any(!shown)) {
    ochre_warn(
      "symbols",
      paste0("{count_words(sum(!shown), 'line is', 'lines are')} not drawn: the value that ",
             "sets the width is missing or zero."), rows = which(!shown)
    )
  }
  if (!any(shown)) return(list(width = rep(0, max(1, length(value)))))
  sizes <- sizes_of(value[shown], layer, layer$width_steps, setting$locale)
  width <- numeric(length(value))
  width[shown] <- widest * sizes$value / sizes$top
  list(width = width, marks = list(labels = sizes$labels, width = widest * sizes$marks / sizes$top))
}

# How the columns that set sizes and colours are written in labels: as ones of their classes where
# they have some.
sized_formats <- function(layer, sizes, size_steps) {
  one <- function(format, column, steps) {
    value <- layer$data[[column]]
    if (is.null(steps) || steps$method == "categories" || !is.numeric(value)) {
      return(unclass(format) %||% plain_format(value, column))
    }
    fitted <- suppressWarnings(fit_steps(as.numeric(value), steps))
    own_format(format, fitted, as.numeric(value))
  }
  formats <- lapply(stats::setNames(nm = sizes), function(column) {
    one(layer$format, column, size_steps)
  })
  coloured <- setdiff(layer$colour_by, sizes)
  formats <- c(
    formats,
    lapply(stats::setNames(nm = coloured), function(column) one(NULL, column, layer$steps))
  )
  c(
    lapply(layer$field_formats, unclass),
    formats[setdiff(names(formats), names(layer$field_formats))]
  )
}

# What sizes follow: the values themselves with round marks, or the means of their classes with
# the classes as marks.
sizes_of <- function(value, layer, steps, locale) {
  format <- layer$format
  if (is.null(steps)) {
    top <- max(value)
    # None that is smaller than what is on the map.
    marks <- round_sizes(top)
    marks <- marks[seq_along(marks) == 1 | marks >= min(value[value > 0])]
    return(list(
      value = value,
      top = top,
      marks = marks,
      labels = mark_labels(marks, format, locale)
    ))
  }
  fitted <- fit_steps(value, steps)
  full <- which(fitted$counts > 0)
  finer <- shows_between(layer, layer$size, fitted, format)
  list(
    value = fitted$means[class_of(fitted, value)],
    top = max(fitted$means[full]),
    marks = rev(fitted$means[full]),
    labels = rev(class_labels(fitted, format, locale, finer)[full])
  )
}

# Classes of the column that colours lines or symbols; NULL when one colour does.
colour_key <- function(layer, setting) {
  if (is.null(layer$colour_by)) return(NULL)
  value <- layer$data[[layer$colour_by]]
  steps <- fit_steps(value, layer$steps)
  class <- class_of(steps, value)
  class[is.na(class)] <- 0L
  shaded <- list(ramp = layer$ramp, reverse = FALSE, value = layer$colour_by)
  new_part(setting, "key", list(
    legend = layer$colour_legend,
    class = class,
    labels = class_labels(
      steps, NULL, setting$locale, shows_between(layer, layer$colour_by, steps)
    ),
    colours = layer_colours(shaded, steps, setting$ground),
    count_labels = format_number(steps$counts, 0, locale = setting$locale),
    no_data = no_data_entry(sum(class == 0L), setting)
  ))
}
