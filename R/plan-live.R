# What a page needs to take new values of a layer: how they are classed and written, and the texts
# that they stand in.

# Stands in a text where the value will: of the letters that Unicode leaves to private use.
live_mark <- "\ue001"

# The layers, the one that takes new values marked as such.
with_live <- function(sheet, call = rlang::caller_env()) {
  if (is.null(sheet$page$live)) return(sheet$layers)
  at <- which(vapply(sheet$layers, can_be_live, NA))[1]
  if (is.na(at)) {
    ochre_abort("sheet", "The page is to take new values, and no layer can.",
                "It takes areas with codes or names, shaded by numbers of one period.")
  }
  layer <- sheet$layers[[at]]
  refuse_own_formats(layer, call)
  format <- layer_format(layer) %||% number_format()
  format$open_ends <- TRUE
  layer$format <- format
  layer$live <- TRUE
  sheet$layers[[at]] <- layer
  sheet$layers
}

can_be_live <- function(layer) {
  layer_is(layer, "shaded") && !is.null(layer$value) && is.null(layer$second) &&
    is.null(layer$by) && is.null(layer$hatch) && is.numeric(layer$data[[layer$value]]) &&
    layer$steps$method != "categories" &&
    (!is.na(name_column(layer$data)) || !is.na(code_column(layer$data)))
}

# The page writes all new values in one way.
refuse_own_formats <- function(layer, call) {
  pieces <- unlist(lapply(c(layer$hover, layer$popup), parse_template), recursive = FALSE)
  own <- vapply(pieces, function(p) identical(p$column, layer$value) && !is.null(p$format), NA)
  if (!any(own)) return(invisible())
  ochre_abort(
    "sheet",
    "A text writes `{layer$value}` with a format of its own, and the page takes new values of it.",
    "Write {{{layer$value}}}, and give the layer a number_format()."
  )
}

# `own` is how values are written.
plan_live <- function(layer, steps, own, setting) {
  percent <- isTRUE(own$percent)
  inner <- steps$breaks[-c(1, length(steps$breaks))]
  layer$data[[layer$value]] <- rep(live_mark, nrow(layer$data))
  texts <- plan_texts(layer, lapply(layer$field_formats, unclass), setting)
  new_part(setting, "live", list(
    breaks = if (percent) in_percent(inner) else fifteen_digits(inner),
    right = isTRUE(steps$right),
    percent = percent,
    digits = own$digits,
    true = !is.null(own$breaks),
    plus = isTRUE(own$plus),
    grouped = own$marks %||% TRUE,
    unit = if (percent) "%" else own$unit,
    missing = setting$locale$missing,
    hover = texts$hover,
    fields = lapply(seq_along(texts$popup$fields), function(i) {
      live_field(layer$popup[[i]], texts$popup$fields[[i]], texts$popup$kinds[i], setting)
    })
  ))
}

# The texts of a popup field that has the value in it; NULL for others. One that has nothing else
# is left out where there is no value.
live_field <- function(template, texts, kind, setting) {
  if (kind != "text" || !any(grepl(live_mark, texts, fixed = TRUE))) return(NULL)
  columns <- Filter(function(p) !is.null(p$column), parse_template(template))
  new_part(setting, "live_field", list(texts = texts, alone = length(columns) == 1))
}
