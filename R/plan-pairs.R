# A layer of areas shaded by two variables: classes of both as one number, and the square legend.

plan_pairs <- function(layer) {
  x <- as.numeric(layer$data[[layer$value]])
  y <- as.numeric(layer$data[[layer$second]])
  first <- fit_steps(x, layer$steps)
  second <- fit_steps(y, layer$second_steps)
  n <- length(first$counts)
  if (!n %in% 2:3 || length(second$counts) != n) {
    ochre_abort("argument", sprintf("Two variables need 2 or 3 classes each, and as many of both; `%s` has %d, `%s` %d.", layer$value, n, layer$second, length(second$counts)),
                "Give steps of n = 2 or 3.", arg = "steps")
  }
  # Column by column of the square: the first variable runs fastest.
  class <- class_of(first, x) + n * (class_of(second, y) - 1L)
  class[is.na(class)] <- 0L
  labels <- as.vector(outer(first$labels, second$labels, paste, sep = paste0(" ", wording$now$and, " ")))
  warn_unmatched(layer$data)
  formats <- list(pair_format(layer, layer$value, first, x), pair_format(layer, layer$second, second, y))
  digits <- stats::setNames(formats, c(layer$value, layer$second))
  layer$hover <- layer$hover %||% paste0(default_hover(layer$data, layer$value), ", {", layer$second, "}")
  ticks <- function(steps) format_number(steps$breaks, steps$digits)
  said <- class > 0L
  said_both <- paste(format_field(x, NULL, formats[[1]]), format_field(y, NULL, formats[[2]]), sep = " / ")
  c(list(
    values = ifelse(class == 0L, NA, said_both), facts = paste(c(range_fact(x, said, layer$data, layer$legend[1], formats[[1]]), range_fact(y, said, layer$data, layer$legend[2], formats[[2]])), collapse = " "),
    legend = paste(layer$legend, collapse = paste0(" ", wording$now$and, " ")), class = class, labels = labels, counts = tabulate(class, n * n), count_labels = format_number(tabulate(class, n * n), 0), colours = as.vector(ramp_square(layer$ramp, n, look$ground)),
    breaks = numeric(), method = paste(first$method, second$method, sep = ", "), fit = NA_real_, outline = ink_colour("outline"),
    no_data = no_data_entry(sum(class == 0L)),
    square = list(n = n, titles = layer$legend, first = ticks(first), second = ticks(second))
  ), plan_texts(layer, digits))
}

# How the values of one of the two variables are written.
pair_format <- function(layer, column, steps, value) {
  plain <- plain_format(layer$data[[column]], column)
  own_format(if (!is.null(plain)) number_format(marks = FALSE), steps, value)
}
