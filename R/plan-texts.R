# The texts of a layer: a hover label for each row, and popup fields as one vector a field.

plan_texts <- function(layer, formats, setting) {
  locale <- setting$locale
  hover <- if (!is.null(layer$hover)) fill_template(layer$hover, layer$data, formats, locale)
  list(hover = hover, popup = plan_popup(layer, formats, setting))
}

plan_popup <- function(layer, formats, setting) {
  popup <- layer$popup
  if (!length(popup)) return(NULL)
  kinds <- attr(popup, "kinds") %||% rep("text", length(popup))
  folders <- attr(popup, "folders")
  fill <- function(template) {
    fill_template(template, layer$data, formats, setting$locale, blank = TRUE)
  }
  fields <- lapply(seq_along(popup), function(i) {
    if (kinds[i] == "text") return(fill(popup[[i]]))
    fill_address(popup[[i]], layer$data, kinds[i], folders[i])
  })
  beside <- if (any(kinds != "text")) {
    lapply(attr(popup, "words"), function(words) if (!is.null(words)) fill(words))
  }
  labels <- names(popup)
  numbers <- Map(field_numbers, popup, kinds, list(layer$data))
  new_part(setting, "popup", list(
    labels = labels, kinds = kinds, fields = fields, texts = beside,
    numbers = if (any(lengths(numbers) > 0)) unname(numbers)
  ))
}

# The values of a field that shows one number and nothing else; a table sorts and saves them.
field_numbers <- function(template, kind, data) {
  pieces <- parse_template(template)
  if (kind != "text" || length(pieces) != 1 || is.null(pieces[[1]]$column)) return(NULL)
  value <- data[[pieces[[1]]$column]]
  if (!is.numeric(value) || is.object(value)) return(NULL)
  ifelse(is.finite(value), signif(as.numeric(value), 7), NA)
}

# The label that stands where none was asked for: name and value.
default_hover <- function(data, value) {
  name <- name_column(data)
  if (is.na(name)) as_field(value) else paste0(as_field(name), ": ", as_field(value))
}
