# Which value a first sheet shows, and how: a rate on areas, a count by symbols, in steps that fit.

choose_value <- function(start, wanted, call) {
  if (is.null(start$main)) {
    if (!is.null(wanted)) refuse_value(wanted, character(), call)
    return(start)
  }
  data <- start$data[[start$main]]
  columns <- column_facts(without_geometry(data))
  if (!is.null(wanted) && !wanted %in% columns$column) refuse_value(wanted, columns$column, call)
  found <- ranked_values(data, columns, names(start$data$areas))
  value <- wanted %||% found$column[1]
  if (is.na(value)) return(draw_plain(start))
  role <- columns$role[columns$column == value]
  if (role %in% c("text", "code", "yes/no")) return(shade_kinds(start, value))
  people <- people_column(columns, value)
  counted <- role == "count" && !grepl(level_words, lower_case(value)) &&
    (is.na(people) || grows_with(data[[value]], data[[people]]))
  is_people <- grepl(people_words, lower_case(value))
  if (counted && !is.na(people) && !is_people) {
    return(shade_rate(start, value, people, data))
  }
  if (counted || is_people) return(size_by(start, value))
  shade_value(start, value, data[[value]])
}

refuse_value <- function(wanted, known, call) {
  ochre_abort("column", "No file has a column `{wanted}` that could be shown.",
              if (length(known)) "{did_you_mean(wanted, known, 'Columns')}", column = wanted)
}

# A count is larger where more people live; a mean is not.
grows_with <- function(count, people) {
  isTRUE(stats::cor(count, people, use = "complete.obs", method = "spearman") > 0.3)
}

# Columns that could be shown, best first: what most areas have, what was joined before what the
# `boundaries` have, rates before counts, the later of two years; not sizes of areas, residents and
# coordinates, which maps of something else rest on.
ranked_values <- function(data, columns, boundaries) {
  known <- columns[columns$role %in% c("number", "count") & columns$distinct > 1, ]
  # A name that reads as a named value of a sheet cannot stand in one.
  known <- known[!named_like_order(known$column) & !grepl(value_mark, known$column), ]
  lower <- lower_case(known$column)
  support <- grepl(
    "(^|_)(area|km2|sqkm|lon|lat|long|longitude|latitude|length|perimeter|x|y)([0-9_]|$)", lower
  ) | grepl("^(pop|population|residents|inhabitants)(_|[0-9]|$)", lower)
  rate <- known$role == "number" | grepl(level_words, lower)
  lost <- known$missing > 0.3 * nrow(data)
  year <- as.numeric(stringi::stri_extract_last_regex(lower, "(?<![0-9])[12][0-9]{3}(?![0-9])"))
  own <- known$column %in% boundaries
  known[order(support, lost, own, !rate, -ifelse(is.na(year), 0, year)), ]
}

people_words <- paste0(
  "(^|_)(pop|population|residents|inhabitants|people|persons|einwohner|habitants|poblacion)",
  "(_?(20|19)[0-9]{2})?(_(total|est|estimate))?$"
)
# Whole numbers that are not counts all the same.
level_words <- paste0(
  "rate|share|percent|pct|per_|ratio|index|median|mean|average|wage|salary|price|rent|score|",
  "density|expectancy"
)

# Residents that a count could be set against; the latest ones.
people_column <- function(columns, value) {
  counted <- columns$role %in% c("count", "number")
  found <- columns$column[counted & grepl(people_words, lower_case(columns$column))]
  utils::tail(sort(setdiff(found, value), method = "radix"), 1)[1]
}

shade_rate <- function(start, value, people, data) {
  rate <- paste0(value, "_per_1000")
  start$tables[[start$main]] <- c(
    start$tables[[start$main]],
    sprintf("    # Large areas have large counts: %s is set against %s.", value, people),
    step_yaml("rate_per", list(count = value, population = people, per = 1000L))
  )
  start <- because(start, "%s is a count: it is shown per 1,000 of %s.", value, people)
  shown <- suppressWarnings(rate_per(data, !!value, !!people, per = 1000))
  shade_value(start, rate, shown[[rate]], paste(words_of(value), "per 1,000 residents"))
}

shade_value <- function(start, value, x, legend = words_of(value)) {
  steps <- choose_steps(x)
  arguments <- list(data = start$main, value = value, steps = steps$verb, ramp = steps$ramp,
                    legend = legend)
  start$layers <- c(list(c(
    sprintf("  # %s", steps$why),
    layer_yaml("shade_areas", arguments)
  )), start$layers)
  start$title <- legend
  because(because(start, "Shown: %s.", value), "%s", steps$why)
}

# The least number of classes that tells nine tenths of the differences, by round breaks where those
# tell as much.
choose_steps <- function(x) {
  x <- as.numeric(x[is.finite(x)])
  if (any(x < 0) && any(x > 0)) {
    return(list(
      verb = list(steps_around = list(midpoint = 0L, n = 6L)), ramp = ramp_names("diverging")[1],
      why = "Values lie on both sides of zero: so do the classes, in two colours."
    ))
  }
  distinct <- length(unique(x))
  if (distinct < 5) {
    verb <- list(steps_natural = list(n = max(1L, distinct)))
    why <- sprintf("%s: a class for each.", sentence(count_words(distinct, "value")))
    return(list(verb = verb, ramp = "madder", why = why))
  }
  tried <- suppressWarnings(suppressMessages(
    compare_steps(x, n = 4:7, methods = c("natural", "rounded"))
  ))
  natural <- tried[tried$method == "natural", ]
  n <- c(natural$n[natural$fit >= 0.9], 5L)[1]
  of <- function(method) tried[tried$method == method & tried$n == n, ]
  if (of("natural")$largest > 0.6) {
    why <- sprintf(
      "Natural classes would put %.0f %% of the areas into one: round breaks near quantiles.",
      100 * of("natural")$largest
    )
    verb <- list(steps_rounded = list(n = 5L, near = "quantile"))
    return(list(verb = verb, ramp = "madder", why = why))
  }
  round <- of("rounded")
  if (nrow(round) && round$fit >= of("natural")$fit - 0.03 && !round$empty) {
    why <- sprintf("%d round classes tell %.0f %% of the differences; natural ones %.0f %%.", n,
                   100 * round$fit, 100 * of("natural")$fit)
    return(list(verb = list(steps_rounded = list(n = n)), ramp = "madder", why = why))
  }
  why <- sprintf("%d natural classes tell %.0f %% of the differences.", n, 100 * of("natural")$fit)
  list(verb = list(steps_natural = list(n = n)), ramp = "madder", why = why)
}

# A count without residents is shown by symbols on plain areas.
size_by <- function(start, value) {
  start <- draw_plain(start)
  arguments <- list(data = start$main, size = value, legend = words_of(value))
  start$layers <- append(start$layers, list(c(
    "  # A count: symbols, because shaded large areas would look like large counts.",
    layer_yaml("place_symbols", arguments)
  )), 1)
  start$title <- words_of(value)
  because(
    start, "%s is a count without residents to set it against: it is shown by symbols.", value
  )
}

shade_kinds <- function(start, value) {
  none <- stats::setNames(list(), character())
  arguments <- list(data = start$main, value = value, steps = list(steps_categories = none),
                    legend = words_of(value))
  start$layers <- c(list(layer_yaml("shade_areas", arguments)), start$layers)
  start$title <- words_of(value)
  because(start, "Shown: %s, a colour for each kind.", value)
}

draw_plain <- function(start) {
  start$layers <- c(list(layer_yaml("shade_areas", list(data = start$main))), start$layers)
  start$title <- start$title %||% "A map"
  start
}
