# Checks that several layer verbs share.

# `colour` names a column of the data, or is a colour.
colour_column <- function(quo, data, call = rlang::caller_env()) {
  if (rlang::quo_is_null(quo)) return(list())
  expr <- rlang::quo_get_expr(quo)
  name <- if (is.symbol(expr) && as.character(expr) %in% names(data)) {
    as.character(expr)
  } else {
    value <- tryCatch(rlang::eval_tidy(quo), error = function(e) {
      if (is.symbol(expr)) {
        check_column(data, as.character(expr), "colour", call = call)
      } else {
        rlang::cnd_signal(e)
      }
    })
    check_text(value, "colour", null = TRUE, call = call)
    if (!isTRUE(value %in% names(data))) {
      return(list(colour = check_colour(value, "colour", call)))
    }
    value
  }
  list(column = name)
}

check_ramp_wish <- function(ramp, call = rlang::caller_env()) {
  if (is.null(ramp)) return(NULL)
  ramp <- check_texts(ramp, "ramp", call)
  if (!is.null(names(ramp))) {
    return(stats::setNames(check_colours(ramp, "ramp", call), names(ramp)))
  }
  if (length(ramp) > 1) return(check_colours(ramp, "ramp", call))
  near <- if (!isTRUE(ramp %in% ramp_names())) near_ramps(ramp)
  if (length(near)) {
    ochre_abort("argument", "`ramp` must be the name of a ramp or several colours, not `{ramp}`.",
                "The nearest ramps are {list_words(near)}; ramp_names() lists all.", arg = "ramp")
  }
  check_choice(ramp, ramp_names(), "ramp", call)
  ramp
}

# The three sequential ramps nearest in hue to the colour in a word such as "blues"; none for a word
# without one.
near_ramps <- function(word) {
  hue_of <- function(colours) farver::decode_colour(colours, to = "oklch")[, 2:3, drop = FALSE]
  wanted <- tryCatch(hue_of(sub("s$", "", lower_case(word))), error = function(e) NULL)
  if (is.null(wanted) || !isTRUE(wanted[1] > 0.03)) return(NULL)
  names <- ramp_names("sequential")
  hue <- hue_of(vapply(names, function(name) ramp_colours(name, 5)[4], ""))[, 2]
  names[order(abs((hue - wanted[2] + 180) %% 360 - 180))][1:3]
}

# How a colour column is stepped: given, five quantiles, or categories.
colour_steps <- function(column, data, steps, call = rlang::caller_env()) {
  if (is.null(column)) return(NULL)
  steps <- steps %||% if (is.numeric(data[[column]])) steps_quantile(5) else steps_categories()
  steps <- as_steps(steps, "steps", call)
  if (steps$method != "categories") check_numeric(data, column, "colour", call = call)
  steps
}

# Formats of columns that templates show beside the layer's own value.
check_field_formats <- function(formats, data, call = rlang::caller_env()) {
  if (is.null(formats)) return(NULL)
  if (!is.list(formats) || inherits(formats, "ochre_format") || is.null(names(formats))) {
    ochre_abort("argument", "`field_formats` must be a named list of formats.",
                "For example list(population = number_format(digits = 0)).", arg = "field_formats")
  }
  for (column in names(formats)) {
    check_numeric(
      data,
      check_column(data, column, "field_formats", call = call),
      "field_formats",
      call = call
    )
  }
  lapply(formats, check_format, call = call)
}

# The column of panels: the one named, or the periods of a join that has several.
panel_column <- function(quo, data, call = rlang::caller_env()) {
  column <- column_name(quo, data, "by", null = TRUE, call = call)
  period <- attr(data, "ochre_period")
  if (is.null(column) && !is.null(period) && length(unique(data[[period]])) > 1) {
    column <- period
  }
  if (is.null(column)) return(NULL)
  known <- sum(!duplicated(data[[column]]))
  if (known > 200) {
    ochre_abort("argument", "`by` names the column `{column}`, which has {known} different values.",
                "A map can have 200 panels; name a column of periods or groups.", arg = "by")
  }
  column
}

# Drawn over each other, only the last of several periods would be seen.
check_one_period <- function(data, call = rlang::caller_env()) {
  period <- attr(data, "ochre_period")
  if (is.null(period) || is.null(data[[period]])) return(invisible())
  known <- unique(data[[period]])
  if (length(known) < 2) return(invisible())
  ochre_abort(
    "argument",
    "`data` has each area {length(known)} times, once for each `{period}`; a layer shows one.",
    "Keep one, for example keep_where({period}, \"{format(known[length(known)])}\").", arg = "data"
  )
}
