# KML and GPX, with xml2. Documents that declare types of their own are refused, so that no entity
# is ever expanded; the XML parser bounds depth and size by itself.

read_markup <- function(source, call) {
  start <- rawToChar(first_bytes(source$path, 65536)[first_bytes(source$path, 65536) != 0])
  if (grepl("<!DOCTYPE|<!ENTITY", start, ignore.case = TRUE, useBytes = TRUE)) {
    ochre_abort("file", sprintf("`%s` declares a document type, which is not read.", source$name), "Files of boundaries need none; remove the line with <!DOCTYPE.", file = source$name, call = call)
  }
  doc <- tryCatch(xml2::read_xml(source$path), error = function(e) {
    ochre_abort("file", sprintf("`%s` is not well-formed XML: %s.", source$name, strip_period(gsub("\\s+", " ", conditionMessage(e)))), "It may be cut off; fetch it again.", file = source$name, call = call)
  })
  doc
}

# Elements by their names, whatever namespace or prefix a program gave them.
any_space <- function(path) gsub(
  "(?<=/|::)([A-Za-z]+)(?![A-Za-z(-])", "*[local-name()='\\1']", path, perl = TRUE
)
find_elements <- function(nodes, path) xml2::xml_find_all(nodes, any_space(path))
find_element <- function(nodes, path) xml2::xml_find_first(nodes, any_space(path))

child_text <- function(nodes, path) {
  text <- xml2::xml_text(find_element(nodes, path))
  ifelse(is.na(text) | !nzchar(trimws(text)), NA_character_, trimws(text))
}

read_kml <- function(source, call = rlang::caller_env()) {
  doc <- read_markup(source, call)
  marks <- find_elements(doc, "descendant-or-self::Placemark")
  if (!length(marks)) ochre_abort("file", sprintf("`%s` has no placemarks.", source$name), "A file that only links to others holds no boundaries; fetch the one it links to.", file = source$name, call = call)
  n <- length(marks)
  # Numbers written into the document say later which placemark a piece of geometry belongs to.
  xml2::xml_set_attr(marks, "ochre-row", seq_len(n))
  row_of <- function(nodes) as.integer(
    xml2::xml_attr(find_element(nodes, "ancestor::Placemark[1]"), "ochre-row")
  )
  columns <- list(
    name = child_text(marks, "./name"), description = child_text(marks, "./description"),
    folder = child_text(find_element(marks, "ancestor::Folder[1]"), "./name")
  )
  columns <- columns[c(TRUE, !vapply(columns[-1], function(x) all(is.na(x)), NA))]
  data <- find_elements(
    doc,
    "descendant-or-self::Placemark/ExtendedData//Data[@name] | descendant-or-self::Placemark/ExtendedData//SimpleData[@name]"
  )
  if (length(data)) {
    value <- ifelse(
      xml2::xml_name(data) == "Data", xml2::xml_text(find_element(data, "./value")),
      xml2::xml_text(data)
    )
    key <- xml2::xml_attr(data, "name")
    key[key %in% names(columns)] <- paste0(key[key %in% names(columns)], "_data")
    row <- row_of(data)
    fields <- lapply(stats::setNames(unique(key), unique(key)), function(k) {
      out <- rep(NA_character_, n)
      out[row[key == k]] <- value[key == k]
      ifelse(nzchar(out), out, NA_character_)
    })
    typed <- type_columns(tibble::as_tibble(fields, .name_repair = "minimal"), ".", NULL)
    columns <- c(columns, as.list(typed$table))
  }
  runs <- find_elements(
    doc, "descendant-or-self::Placemark//coordinates | descendant-or-self::Placemark//Track"
  )
  track <- xml2::xml_name(runs) == "Track"
  text <- xml2::xml_text(runs)
  text[track] <- vapply(
    runs[track],
    function(t) paste(
      gsub("\\s+", ",", trimws(xml2::xml_text(find_elements(t, "./coord")))), collapse = " "
    ),
    ""
  )
  above <- xml2::xml_name(xml2::xml_parent(xml2::xml_parent(runs)))
  kind <- ifelse(track, 2L, c(Point = 1L, LineString = 2L, LinearRing = 2L)[xml2::xml_name(xml2::xml_parent(runs))])
  kind[above == "outerBoundaryIs"] <- 3L
  kind[above == "innerBoundaryIs"] <- 4L
  keep <- !is.na(kind)
  geometry <- runs_to_features(text[keep], kind[keep], row_of(runs)[keep], n, source, call)
  list(columns = columns, geometry = geometry)
}

runs_to_features <- function(text, kind, row, n, source, call) {
  runs <- call_core(position_runs_core(text))
  if (!is.null(runs$bad)) {
    ochre_abort("file", sprintf("`%s`, feature %d: its coordinates cannot be read: \"%s\".", source$name, row[runs$bad], substr(trimws(text[runs$bad]), 1, 60)),
                "They are written longitude,latitude with a blank between positions.", file = source$name, feature = row[runs$bad], call = call)
  }
  order <- order(row)
  if (is.unsorted(row)) {
    # Runs of one feature must follow each other.
    size <- diff(c(0L, runs$end))
    start <- c(0L, runs$end)[order]
    at <- unlist(Map(function(s, k) s + seq_len(k), start, size[order]))
    runs <- list(lon = runs$lon[at], lat = runs$lat[at], end = cumsum(size[order]))
  }
  call_core(features_core(runs$lon, runs$lat, as.integer(runs$end), kind[order], row[order], n), file = source$name, call = call)$geometry
}

gpx_kinds <- c(waypoints = "waypoint", tracks = "track", routes = "route")

read_gpx <- function(source, layer, call = rlang::caller_env()) {
  doc <- read_markup(source, call)
  if (!is.null(layer)) choose_layer(names(gpx_kinds), layer, source$name, "layers", call)
  wanted <- function(name) is.null(layer) || tolower(layer) == name
  point <- if (wanted("waypoints")) find_elements(doc, "./wpt") else list()
  track <- if (wanted("tracks")) find_elements(doc, "./trk") else list()
  route <- if (wanted("routes")) find_elements(doc, "./rte") else list()
  found <- list(point, track, route)
  n <- lengths(found)
  if (!sum(n)) ochre_abort("file", sprintf("`%s` holds no waypoints, tracks or routes.", source$name), file = source$name, call = call)
  both <- function(f) unlist(lapply(found[n > 0], f))
  columns <- list(kind = rep(unname(gpx_kinds), n))
  for (field in c("name", "cmt", "desc", "type", "time", "ele")) {
    text <- both(function(nodes) child_text(nodes, paste0("./", field)))
    if (!all(is.na(text))) columns[[c(name = "name", cmt = "comment", desc = "description", type = "type", time = "time", ele = "elevation")[[field]]]] <- if (field == "ele") suppressWarnings(as.numeric(text)) else text
  }
  # One run a waypoint, a track's segment, a route.
  at <- function(nodes) paste(paste(xml2::xml_attr(nodes, "lon"), xml2::xml_attr(nodes, "lat"), sep = ","), collapse = " ")
  single <- if (n[1]) paste(xml2::xml_attr(point, "lon"), xml2::xml_attr(point, "lat"), sep = ",")
  segments <- lapply(seq_len(n[2]), function(i) find_elements(track[[i]], "./trkseg"))
  lines <- unlist(
    lapply(segments, function(s) vapply(s, function(one) at(find_elements(one, "./trkpt")), ""))
  )
  ways <- if (n[3]) vapply(route, function(one) at(find_elements(one, "./rtept")), "")
  text <- c(single, lines, ways)
  text[text == ","] <- ""
  row <- c(seq_len(n[1]), n[1] + rep(seq_len(n[2]), lengths(segments)), n[1] + n[2] + seq_len(n[3]))
  kind <- rep(c(1L, 2L), c(n[1], length(text) - n[1]))
  list(columns = columns, geometry = runs_to_features(text, kind, as.integer(row), sum(n), source, call))
}
