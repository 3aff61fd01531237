# What a service has: maps, and for each of their layers a collection of features. All is worked out
# once, before anybody asks; each feature is kept as the text of GeoJSON that it will be.

# `maps` are sheets by their names, `tables` collections that lie in a database.
new_service <- function(maps, tables = list(), fields = NULL) {
  made <- lapply(maps, function(sheet) list(sheet = sheet, plan = resolve_sheet(sheet)))
  collections <- Map(map_collections, made, names(made), list(fields))
  collections <- unlist(unname(collections), recursive = FALSE)
  several <- length(made) > 1
  ids <- vapply(collections, function(c) file_word(c$title), "")
  if (several) ids <- paste(vapply(collections, function(c) c$map, ""), ids, sep = ".")
  ids[!nzchar(ids)] <- "layer"
  ids <- make.unique(c(vapply(tables, function(t) t$id, ""), ids), sep = "-")
  collections <- c(unname(tables), collections)
  titles <- vapply(made, function(m) m$plan$title, "")
  if (!length(titles)) titles <- vapply(tables, function(t) t$title, "")
  list(
    title = paste(titles, collapse = " \u00b7 "),
    maps = lapply(made, function(m) m$plan),
    collections = stats::setNames(
      Map(function(c, id) utils::modifyList(c, list(id = id)), collections, ids),
      ids
    )
  )
}

map_collections <- function(made, name, fields) {
  plan <- made$plan
  first <- length(plan$layers) - length(made$sheet$layers)
  found <- lapply(seq_along(made$sheet$layers), function(k) {
    layer <- made$sheet$layers[[k]]
    drawn <- plan$layers[[first + k]]
    if (!layer_is(drawn, "listed")) return(NULL)
    data <- layer_rows(layer, drawn, plan, fields)
    if (is.null(data)) return(NULL)
    new_collection(data, list(
      title = drawn$name %||% drawn$legend %||% plan$title, map = name, kind = drawn$kind,
      source = plan$source, period = layer$by, codes = layer_codes(layer, drawn)
    ))
  })
  Filter(Negate(is.null), found)
}

# The rows of a layer with its geometry, and what the map says of each: class, label and colour.
layer_rows <- function(layer, drawn, plan, fields) {
  data <- layer$data
  if (!"geometry" %in% names(data)) {
    if (length(layer$at) != 2) return(NULL)
    data$geometry <- point_geometry(data[[layer$at[1]]], data[[layer$at[2]]])
  }
  data <- data[c(shown_columns(layer, fields), "geometry")]
  said <- row_classes(layer, drawn, plan)
  if (is.null(said)) return(data)
  class <- said$class
  data$class <- ifelse(class > 0, class, NA_integer_)
  data$label <- said$label
  data$colour <- said$colour
  data
}

# Points as well-known binary, missing where a coordinate is.
point_geometry <- function(longitude, latitude) {
  at <- lapply(list(longitude, latitude), function(v) suppressWarnings(as.numeric(v)))
  known <- is.finite(at[[1]]) & is.finite(at[[2]])
  out <- wk::wkb(vector("list", length(known)), crs = wk::wk_crs_longlat())
  points <- wk::xy(at[[1]][known], at[[2]][known], crs = wk::wk_crs_longlat())
  out[known] <- wk::as_wkb(points)
  out
}

# Class, label and colour of each row; NULL for a layer without classes.
row_classes <- function(layer, drawn, plan) {
  n <- nrow(layer$data)
  out <- list(class = rep(0L, n), label = rep(NA_character_, n), colour = rep(NA_character_, n))
  # What `now` says of the rows `at`, which are NA where an area has none.
  put <- function(out, now, at) {
    class <- as.integer(now$class)
    if (is.null(out) || length(class) != length(at)) return(NULL)
    known <- which(!is.na(at))
    out$class[at[known]] <- class[known]
    out$label[at[known]] <- c(now$no_data$label, now$labels)[class[known] + 1L]
    out$colour[at[known]] <- c(now$no_data$colour, now$colours)[class[known] + 1L]
    out
  }
  # Symbols stand in the plan from the largest on, and without those off the map.
  if (!is.null(drawn$key)) return(put(out, drawn$key, drawn$row %||% seq_len(n)))
  if (!layer_is(drawn, "shaded") || is.null(drawn$class %||% drawn$panels)) return(NULL)
  if (is.null(drawn$panels)) return(put(out, drawn, seq_len(n)))
  rows <- panel_areas(layer, panel_labels(list(layer)))$rows
  for (p in seq_len(ncol(rows))) out <- put(out, in_panel(drawn, p), rows[, p])
  out
}

# Codes of the rows, where the plan knows them.
layer_codes <- function(layer, drawn) {
  codes <- drawn$codes
  if (length(codes) == nrow(layer$data)) return(codes)
  NULL
}

new_collection <- function(data, about) {
  wkb <- geometry_of(data, "data")
  table <- as.data.frame(data[setdiff(names(data), "geometry")])
  plain <- vapply(table, function(x) is.null(dim(x)) && !is.list(x), NA)
  table <- table[plain]
  ids <- feature_ids(about$codes, nrow(table))
  geometry <- call_core(geometry_texts_core(wkb, service_digits))$geometry
  properties <- property_texts(table)
  features <- geojson_features(ids, geometry, properties)
  time <- if (!is.null(about$period)) period_spans(as.character(data[[about$period]]))
  c(about[c("title", "map", "kind", "source", "period")], list(
    table = table, wkb = wkb, ids = ids, boxes = geometry_boxes(wkb), features = features,
    time = time, made = new.env(parent = emptyenv())
  ))
}

geojson_features <- function(ids, geometry, properties) {
  sprintf(
    "{\"type\":\"Feature\",\"id\":%s,\"geometry\":%s,\"properties\":%s}",
    json_texts(ids), geometry, properties
  )
}

# Codes where each has one of its own, else the number of the row.
feature_ids <- function(codes, n) {
  whole <- length(codes) == n && !anyNA(codes) && !anyDuplicated(codes) && all(nzchar(codes))
  if (whole) as.character(codes) else as.character(seq_len(n))
}

# The first and the last day of "2031", "2031-03" or "2031-03-04"; NULL where any is another text.
period_spans <- function(text) {
  if (!length(text) || !all(grepl("^[0-9]{4}(-[0-9]{2}(-[0-9]{2})?)?$", text))) return(NULL)
  first <- as.Date(paste0(text, substring("0000-01-01", nchar(text) + 1)), optional = TRUE)
  if (anyNA(first)) return(NULL)
  after <- list(`4` = "1 year", `7` = "1 month", `10` = "1 day")
  last <- first
  for (long in unique(nchar(text))) {
    of <- nchar(text) == long
    step <- after[[as.character(long)]]
    known <- unique(first[of])
    ends <- do.call(c, lapply(known, function(d) seq(d, by = step, length.out = 2)[2] - 1))
    last[of] <- ends[match(first[of], known)]
  }
  list(from = first, to = last)
}

# West, south, east and north of all features; NULL without any.
collection_box <- function(collection) {
  if (is_there(collection)) return(collection$box)
  boxes <- collection$boxes
  known <- boxes[is.finite(boxes[, 1]), , drop = FALSE]
  if (!nrow(known)) return(NULL)
  unname(c(min(known[, 1]), min(known[, 2]), max(known[, 3]), max(known[, 4])))
}
