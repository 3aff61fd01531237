# One layer of a plan: its classes, colours, sizes and texts, and the warnings about what would
# mislead a reader.

plan_areas <- function(layer, wkb) {
  steps <- fit_steps(area_values(layer), layer$steps, step_weights(layer))
  warn_unmatched(layer$data)
  warn_misleading(layer, steps, wkb)
  plan <- shade_by(layer, steps)
  layer$format <- layer_format(layer)
  plan$histogram <- step_histogram(steps, layer, length(plan$colours))
  plan
}

# A variable's own format; years and codes without thousands marks.
layer_format <- function(layer) {
  plain <- if (is.null(layer$format)) plain_format(layer$data[[layer$value]], layer$value)
  layer$format %||% if (!is.null(plain)) number_format(marks = FALSE)
}

area_values <- function(layer) if (layer$steps$method == "categories") layer$data[[layer$value]] else as.numeric(layer$data[[layer$value]])
step_weights <- function(layer) if (!is.null(layer$steps$weight)) as.numeric(layer$data[[layer$steps$weight]])

# The classes, colours and texts of areas by fitted steps.
shade_by <- function(layer, steps, range = NULL) {
  category <- steps$method == "categories"
  value <- area_values(layer)
  class <- class_of(steps, value)
  k <- length(steps$counts)
  class[is.na(class)] <- 0L
  layer$format <- layer_format(layer)
  own <- if (!category) layer$shared_format %||% own_format(layer$format, steps, value)
  formats <- c(if (!category) stats::setNames(list(own), layer$value), lapply(layer$field_formats, unclass))
  layer$hover <- layer$hover %||% default_hover(layer$data, layer$value)
  shaded <- list(class = class, labels = class_labels(steps, layer$format), counts = tabulate(class, k), colours = layer_colours(layer, steps))
  if (!is.null(layer$hatch)) shaded <- hatch_areas(shaded, layer)
  facts <- if (category) category_fact(steps$labels, format_number(steps$counts, 0), layer$legend)
           else range_fact(value, shaded$class > 0L & shaded$class != (shaded$hatch$class %||% -1L), layer$data, layer$legend, formats[[1]])
  c(list(legend = layer$legend, facts = facts), shaded, list(count_labels = format_number(shaded$counts, 0), 
    breaks = steps$breaks, digits = steps$digits, method = steps$method, fit = steps$fit, outline = ink_colour("outline"),
    no_data = no_data_entry(sum(shaded$class == 0L))
  ), if (!category) c(value_places(value, shaded, range), list(values = format_field(value, NULL, formats[[1]]))) else list(values = as.character(value)), plan_texts(layer, formats))
}

# Where each value lies between the least and the greatest, in thousandths (-1 for none), and its rank from the highest (0 for none).
# What is hatched is not told apart from others by its place.
value_places <- function(value, shaded, range = NULL) {
  known <- is.finite(value) & shaded$class > 0L & shaded$class != (shaded$hatch$class %||% -1L)
  ends <- range %||% suppressWarnings(range(value[known]))
  share <- rep(-1L, length(value))
  share[known] <- if (diff(ends) > 0) as.integer(round(1000 * (value[known] - ends[1]) / diff(ends))) else 500L
  rank <- integer(length(value))
  rank[known] <- rank(-value[known], ties.method = "min")
  list(share = share, rank = rank, numbers = ifelse(is.finite(value), signif(value, 15), NA))
}

# Bars of a histogram in the colours of their classes: `counts` are relative to the highest, `ends` say what the axis begins and ends with.
step_histogram <- function(steps, layer, k) {
  counts <- steps$values$counts
  if (length(counts) < 2 || steps$method == "categories") return(NULL)
  from <- steps$values$from
  to <- steps$values$to
  edges <- seq(from, to, length.out = length(counts) + 1)
  class <- class_of(steps, (edges[-1] + edges[-length(edges)]) / 2)
  inner <- steps$breaks[-c(1, length(steps$breaks))]
  list(counts = round(counts / max(counts), 4), class = ifelse(is.na(class), 0L, class), breaks = round((inner - from) / (to - from), 5), ends = format_field(c(from, to), NULL, own_format(layer$format, steps)))
}

# What would mislead a reader, said once for a layer. `rows` are those of each area, where it has several.
warn_misleading <- function(layer, steps, wkb, rows = NULL) {
  if (steps$method == "categories") return(invisible())
  value <- area_values(layer)
  if (is.null(rows)) warn_counts(value, layer, wkb) else warn_counts(value[rows], layer, rep(wkb, ncol(rows)))
  layer$hover <- layer$hover %||% default_hover(layer$data, layer$value)
  warn_rounding(value, steps, layer)
  warn_unit(layer)
}

# Hatched areas are a class of their own after the others, on the colour of paper.
hatch_areas <- function(shaded, layer) {
  hatched <- is_hatched(layer$data[[layer$hatch]])
  if (!any(hatched) && !isTRUE(layer$hatch_all)) return(shaded)
  last <- length(shaded$colours) + 1L
  shaded$class[hatched] <- last
  shaded$counts <- c(tabulate(shaded$class, last - 1L), sum(hatched))
  shaded$labels <- c(shaded$labels, layer$hatch_label %||% wording$now$page$uncertain)
  shaded$colours <- c(shaded$colours, ink_colour("paper"))
  shaded$hatch <- list(class = last, colour = ink_colour("hatch"))
  shaded
}

is_hatched <- function(mark) !is.na(mark) & (if (is.logical(mark)) mark else nzchar(as.character(mark)))

# One colour a class. A diverging ramp has its middle at the midpoint of the steps, so that equally dark means
# equally far from it.
layer_colours <- function(layer, steps) {
  k <- length(steps$counts)
  if (!k) return(character())
  if (length(layer$ramp) > 1) return(own_colours(layer, steps, k))
  ramp <- layer$ramp %||% if (steps$method == "categories") (if (k > 8) "hedgerow" else "meadow") else if (!is.null(steps$below)) "woad_madder" else "madder"
  path <- ramp_paths[[ramp]]
  below <- if (layer$reverse) k - (steps$below %||% 0) else steps$below
  if (path$kind == "diverging" && !is.null(below)) {
    arm <- max(below, k - below)
    colours <- diverging_colours(if (look$ground == "dark") on_dark(path) else path, 2 * arm)[arm - below + seq_len(k)]
    return(if (layer$reverse) rev(colours) else colours)
  }
  if (k > (path$most %||% 12)) ochre_abort("argument", sprintf("The ramp `%s` has %d colours, and there are %d classes.", ramp, path$most, k), "Use `hedgerow`, which has 12, or join rare categories.", arg = "ramp")
  as.character(unclass(ramp_colours(ramp, k, layer$reverse, look$ground)))
}

own_colours <- function(layer, steps, k) {
  colours <- layer$ramp
  if (length(colours) != k && length(colours) <= 3 && k > 1) colours <- unclass(ramp_between(colours[1], colours[length(colours)], k, if (length(colours) == 3) colours[2]))
  if (length(colours) != k) {
    ochre_abort("argument", sprintf("`ramp` has %d colours, and there are %s.", length(colours), count_words(k, "class", "classes")), "Give one a class, or two ends, which a ramp is made between.", arg = "ramp")
  }
  if (layer$reverse) colours <- rev(colours)
  if (k > 1) {
    checked <- check_ramp(colours, if (steps$method == "categories") "categories", look$ground)
    bad <- checked$what[!checked$passed]
    if (length(bad)) ochre_warn("ramp", sprintf("The colours for `%s` fail %s: %s", layer$value, count_words(length(bad), "check"), bad[1]), bad[-1], check = checked)
  }
  as.character(colours)
}

# ---- what would mislead a reader ---------------------------------------------------------

warn_unmatched <- function(data) {
  for (audit in attr(data, "ochre_joins")) warn_unmatched_join(finish_audit(audit))
}

warn_unmatched_join <- function(audit) {
  counts <- attr(audit, "counts")
  if (counts[["boundaries_alone"]] == 0 && counts[["statistics_alone"]] == 0) return(invisible())
  lost <- c(if (counts[["boundaries_alone"]]) paste(count_words(counts[["boundaries_alone"]], "area"), "without statistics"),
            if (counts[["statistics_alone"]]) paste(count_words(counts[["statistics_alone"]], "row"), "of statistics without an area"))
  ochre_warn("unmatched", sprintf("The join left %s.", paste(lost, collapse = " and ")), "join_audit() names them and says why.", audit = audit)
}

# Both of these draw land larger the farther it lies from the equator, or from the parallel in the middle.
warn_projection <- function(projection, extent, layers) {
  if (!projection$name %in% c("web Mercator", "equirectangular") || !any(vapply(layers, function(l) l$kind == "areas", NA))) return(invisible())
  ends <- pmin(abs(extent[c("south", "north")]), 85)
  near <- if (prod(sign(extent[c("south", "north")])) < 0) 0 else min(ends)
  times <- (cos(near * pi / 180) / cos(max(ends) * pi / 180))^(if (projection$name == "web Mercator") 2 else 1)
  if (times < 1.2) return(invisible())
  ochre_warn("projection", sprintf("In the projection %s the same land takes up to %s times as much room on this map; shaded areas will mislead.", projection$name, format(signif(times, 2))),
             "Leave `projection` as it is by default, and the map gets equal areas.")
}

# Counts on areas of unequal size show where the large areas are.
warn_counts <- function(value, layer, wkb) {
  v <- value[is.finite(value)]
  if (length(v) < 5 || any(v != round(v)) || any(v < 0) || max(v) < 20) return(invisible())
  size <- call_core(measure_core(wkb))$area
  size <- size[!is.na(size) & size > 0]
  if (!length(size) || max(size) < 3 * min(size)) return(invisible())
  ochre_warn("counts", sprintf("`%s` looks like a count, and the areas are of unequal size: large areas will seem to have more.", layer$value),
             "Shade a rate (rate_per()), or show the counts with place_symbols().", column = layer$value)
}

# A percentage beside a legend of fractions would be two units for one variable.
warn_unit <- function(layer) {
  percent <- function(template) any(vapply(parse_template(template), function(p) identical(p$column, layer$value) && !is.null(p$format) && endsWith(p$format, "%"), NA))
  if (isTRUE(layer$format$percent) || !any(vapply(c(layer$hover, layer$popup), percent, NA))) return(invisible())
  ochre_abort("template", sprintf("A label shows `%s` as a percentage, and the legend as a fraction.", layer$value), "Give `format = number_format(percent = TRUE)`, which both follow, and leave out the % in the template.", column = layer$value)
}

# A label with fewer decimals than the legend may read as another class than its colour says.
warn_rounding <- function(value, steps, layer) {
  if (!length(steps$counts)) return(invisible())
  # Decimals of a percentage are two more of the fraction.
  more <- if (isTRUE(layer$format$percent)) 2 else 0
  digits <- unlist(lapply(c(layer$hover, layer$popup), template_digits, column = layer$value, own = layer$format$digits))
  for (d in unique(digits[!is.na(digits)])) {
    shown <- pmin(pmax(round(value, d + more), min(steps$breaks)), max(steps$breaks))
    moved <- which(is.finite(value) & class_of(steps, shown) != class_of(steps, value))
    if (length(moved)) {
      wanted <- max(0, steps$digits - more)
      ochre_warn("rounding", sprintf("Rounded to %s, %s of `%s` read as another class than the colour says.",
                                     count_words(d, "decimal"), count_words(length(moved), "value"), layer$value),
                 if (wanted > d) sprintf("Show %s in the label, or give the steps `digits = %d`.", count_words(wanted, "decimal"), d + more)
                 else "Show one decimal more in the label, or let the steps find their own decimals.", rows = moved)
      return(invisible())
    }
  }
}
