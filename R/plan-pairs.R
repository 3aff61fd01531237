# A layer of areas shaded by two variables: classes of both as one number, and the square legend.

plan_pairs <- function(layer, setting) {
  x <- as.numeric(layer$data[[layer$value]])
  y <- as.numeric(layer$data[[layer$second]])
  counted <- counted_rows(layer)
  first <- fit_steps(ifelse(counted, x, NA), layer$steps)
  second <- fit_steps(ifelse(counted, y, NA), layer$second_steps)
  n <- length(first$counts)
  check_pair_classes(n, length(second$counts), layer)
  # Column by column of the square: the first variable runs fastest.
  class <- class_of(first, x) + n * (class_of(second, y) - 1L)
  class[is.na(class)] <- 0L
  warn_unmatched(layer$data)
  locale <- setting$locale
  formats <- stats::setNames(
    list(pair_format(layer, layer$value, first, x), pair_format(layer, layer$second, second, y)),
    c(layer$value, layer$second)
  )
  layer$hover <- layer$hover %||% pair_hover(layer)
  texts <- list(
    format_field(x, NULL, formats[[1]], locale), format_field(y, NULL, formats[[2]], locale)
  )
  written <- paste(texts[[1]], texts[[2]], sep = " / ")
  counts <- tabulate(class[counted], n * n)
  titles <- layer$legend
  fields <- list(
    legend = paste(titles, collapse = both(locale)),
    facts = pair_facts(x, y, class > 0L, layer, formats, locale),
    class = class,
    values = ifelse(class == 0L, NA, written),
    labels = pair_labels(layer, first, second, locale),
    counts = counts,
    count_labels = format_number(counts, 0, locale = locale),
    colours = as.vector(ramp_square(layer$ramp, n, setting$ground)),
    breaks = numeric(),
    method = paste(first$method, second$method, sep = ", "),
    no_data = no_data_entry(sum(class == 0L & !repeated_rows(layer)), setting),
    repeated = repeated_items(layer),
    square = pair_square(first, second, titles, list(x, y), texts, setting)
  )
  c(fields, plan_texts(layer, formats, setting))
}

# "low and high", in the map's language.
both <- function(locale) paste0(" ", locale$and, " ")

check_pair_classes <- function(n, second, layer) {
  if (n %in% 2:3 && second == n) return(invisible())
  ochre_abort(
    "argument",
    paste0("Two variables need 2 or 3 classes each, and as many of both; `{layer$value}` has ",
           "{n}, `{layer$second}` {second}."), "Give steps of n = 2 or 3.", arg = "steps"
  )
}

pair_labels <- function(layer, first, second, locale) {
  one <- class_labels(first, NULL, locale, shows_between(layer, layer$value, first))
  other <- class_labels(second, NULL, locale, shows_between(layer, layer$second, second))
  as.vector(outer(one, other, paste, sep = both(locale)))
}

pair_hover <- function(layer) {
  paste0(default_hover(layer$data, layer$value), ", ", as_field(layer$second))
}

# One sentence for each variable.
pair_facts <- function(x, y, shown, layer, formats, locale) {
  titles <- layer$legend
  layer$legend <- titles[1]
  first <- range_fact(x, shown, layer, formats[[1]], locale)
  layer$legend <- titles[2]
  paste(c(first, range_fact(y, shown, layer, formats[[2]], locale)), collapse = " ")
}

pair_square <- function(first, second, titles, values, texts, setting) {
  ticks <- function(steps) format_number(steps$breaks, steps$digits, locale = setting$locale)
  new_part(setting, "square", list(
    n = length(first$counts),
    titles = titles,
    first = ticks(first),
    second = ticks(second),
    numbers = lapply(values, function(v) ifelse(is.finite(v), signif(v, 15), NA)),
    texts = texts
  ))
}

# How the values of one of the two variables are written.
pair_format <- function(layer, column, steps, value) {
  plain <- plain_format(layer$data[[column]], column)
  own_format(if (!is.null(plain)) number_format(marks = FALSE), steps, value)
}
