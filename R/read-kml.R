# KML and GPX, with xml2. Documents that declare types of their own are refused, so that no entity
# is ever expanded; the XML parser bounds depth and size by itself.

read_markup <- function(source, call) {
  start <- rawToChar(first_bytes(source$path, 65536)[first_bytes(source$path, 65536) != 0])
  if (grepl("<!DOCTYPE|<!ENTITY", start, ignore.case = TRUE, useBytes = TRUE)) {
    ochre_abort(
      "file", "`{source$name}` declares a document type, which is not read.",
      "Files of boundaries need none; remove the line with <!DOCTYPE.", file = source$name
    )
  }
  need_package("xml2", "Reading KML, GPX or a list of tiles", call)
  doc <- tryCatch(xml2::read_xml(source$path), error = function(e) {
    ochre_abort(
      "file",
      sprintf(
        "`%s` is not well-formed XML: %s.", source$name,
        strip_period(gsub("\\s+", " ", conditionMessage(e)))
      ), "It may be cut off; fetch it again.", file = source$name
    )
  })
  doc
}

# Elements by their names, whatever namespace or prefix a program gave them.
any_space <- function(path) {
  gsub("(?<=/|::)([A-Za-z]+)(?![A-Za-z(-])", "*[local-name()='\\1']", path, perl = TRUE)
}
find_elements <- function(nodes, path) xml2::xml_find_all(nodes, any_space(path))
find_element <- function(nodes, path) xml2::xml_find_first(nodes, any_space(path))

child_text <- function(nodes, path) {
  text <- xml2::xml_text(find_element(nodes, path))
  ifelse(is.na(text) | !nzchar(trimws(text)), NA_character_, trimws(text))
}

read_kml <- function(source, call = rlang::caller_env()) {
  doc <- read_markup(source, call)
  marks <- find_elements(doc, "descendant-or-self::Placemark")
  if (!length(marks)) {
    ochre_abort("file", "`{source$name}` has no placemarks.",
                "A file that only links to others holds no boundaries; fetch the one it links to.",
                file = source$name)
  }
  n <- length(marks)
  # Numbers written into the document say later which placemark a piece of geometry belongs to.
  xml2::xml_set_attr(marks, "ochre-row", seq_len(n))
  columns <- list(
    name = child_text(marks, "./name"),
    description = child_text(marks, "./description"),
    folder = child_text(find_element(marks, "ancestor::Folder[1]"), "./name")
  )
  columns <- columns[c(TRUE, !vapply(columns[-1], function(x) all(is.na(x)), NA))]
  columns <- c(columns, placemark_data(doc, names(columns), n))
  runs <- placemark_runs(doc)
  keep <- !is.na(runs$kind)
  row <- runs$row[keep]
  geometry <- runs_to_features(runs$text[keep], runs$kind[keep], row, n, source, call)
  list(columns = columns, geometry = geometry)
}

placemark_of <- function(nodes) {
  as.integer(xml2::xml_attr(find_element(nodes, "ancestor::Placemark[1]"), "ochre-row"))
}

# The fields of the placemarks as columns of their types.
placemark_data <- function(doc, taken, n) {
  inside <- "descendant-or-self::Placemark/ExtendedData//"
  data <- find_elements(doc, sprintf("%sData[@name] | %sSimpleData[@name]", inside, inside))
  if (!length(data)) return(NULL)
  wrapped <- xml2::xml_name(data) == "Data"
  inner <- xml2::xml_text(find_element(data, "./value"))
  value <- ifelse(wrapped, inner, xml2::xml_text(data))
  key <- xml2::xml_attr(data, "name")
  clash <- key %in% taken
  key[clash] <- paste0(key[clash], "_data")
  row <- placemark_of(data)
  fields <- lapply(stats::setNames(nm = unique(key)), function(k) {
    out <- rep(NA_character_, n)
    out[row[key == k]] <- value[key == k]
    ifelse(nzchar(out), out, NA_character_)
  })
  typed <- type_columns(tibble::as_tibble(fields, .name_repair = "minimal"), ".", NULL)
  as.list(typed$table)
}

# Runs of positions: `text`, `kind` (1 a point, 2 a line, 3 an outer ring, 4 a hole) and `row`.
placemark_runs <- function(doc) {
  inside <- "descendant-or-self::Placemark//"
  runs <- find_elements(doc, sprintf("%scoordinates | %sTrack", inside, inside))
  track <- xml2::xml_name(runs) == "Track"
  text <- xml2::xml_text(runs)
  text[track] <- vapply(runs[track], track_text, "")
  parent <- xml2::xml_parent(runs)
  above <- xml2::xml_name(xml2::xml_parent(parent))
  kinds <- c(Point = 1L, LineString = 2L, LinearRing = 2L)
  kind <- ifelse(track, 2L, kinds[xml2::xml_name(parent)])
  kind[above == "outerBoundaryIs"] <- 3L
  kind[above == "innerBoundaryIs"] <- 4L
  list(text = text, kind = kind, row = placemark_of(runs))
}

track_text <- function(track) {
  positions <- trimws(xml2::xml_text(find_elements(track, "./coord")))
  paste(gsub("\\s+", ",", positions), collapse = " ")
}

runs_to_features <- function(text, kind, row, n, source, call) {
  runs <- call_core(position_runs_core(text))
  if (!is.null(runs$bad)) {
    ochre_abort(
      "file",
      paste0("`{source$name}`, feature {row[runs$bad]}: its coordinates cannot be read: ",
             "\"{substr(trimws(text[runs$bad]), 1, 60)}\"."),
      "They are written longitude,latitude with a blank between positions.", file = source$name,
      feature = row[runs$bad]
    )
  }
  order <- order(row)
  if (is.unsorted(row)) {
    # Runs of one feature must follow each other.
    size <- diff(c(0L, runs$end))
    start <- c(0L, runs$end)[order]
    at <- unlist(Map(function(s, k) s + seq_len(k), start, size[order]))
    runs <- list(lon = runs$lon[at], lat = runs$lat[at], end = cumsum(size[order]))
  }
  call_core(
    features_core(runs$lon, runs$lat, as.integer(runs$end), kind[order], row[order], n),
    file = source$name,
    call = call
  )$geometry
}

gpx_kinds <- c(waypoints = "waypoint", tracks = "track", routes = "route")

read_gpx <- function(source, layer, call = rlang::caller_env()) {
  doc <- read_markup(source, call)
  if (!is.null(layer)) choose_layer(names(gpx_kinds), layer, source$name, "layers", call)
  paths <- c(waypoints = "./wpt", tracks = "./trk", routes = "./rte")
  found <- lapply(names(paths), function(name) {
    wanted <- is.null(layer) || lower_case(layer) == name
    if (wanted) find_elements(doc, paths[[name]]) else list()
  })
  n <- lengths(found)
  if (!sum(n)) {
    ochre_abort("file", "`{source$name}` holds no waypoints, tracks or routes.", file = source$name)
  }
  runs <- gpx_runs(found, n)
  geometry <- runs_to_features(runs$text, runs$kind, runs$row, sum(n), source, call)
  list(columns = gpx_columns(found, n), geometry = geometry)
}

gpx_fields <- c(
  name = "name", cmt = "comment", desc = "description", type = "type", time = "time",
  ele = "elevation"
)

gpx_columns <- function(found, n) {
  columns <- list(kind = rep(unname(gpx_kinds), n))
  for (field in names(gpx_fields)) {
    text <- unlist(lapply(found[n > 0], child_text, paste0("./", field)))
    if (all(is.na(text))) next
    if (field == "ele") text <- suppressWarnings(as.numeric(text))
    columns[[gpx_fields[[field]]]] <- text
  }
  columns
}

# One run a waypoint, a track's segment, a route.
gpx_runs <- function(found, n) {
  at <- function(nodes) {
    paste(xml2::xml_attr(nodes, "lon"), xml2::xml_attr(nodes, "lat"), sep = ",")
  }
  line <- function(node, path) paste(at(find_elements(node, path)), collapse = " ")
  single <- if (n[1]) at(found[[1]])
  segments <- lapply(seq_len(n[2]), function(i) find_elements(found[[2]][[i]], "./trkseg"))
  lines <- unlist(lapply(segments, function(s) vapply(s, line, "", path = "./trkpt")))
  ways <- if (n[3]) vapply(found[[3]], line, "", path = "./rtept")
  text <- c(single, lines, ways)
  text[text == ","] <- ""
  tracks <- n[1] + rep(seq_len(n[2]), lengths(segments))
  list(
    text = text,
    kind = rep(c(1L, 2L), c(n[1], length(text) - n[1])),
    row = as.integer(c(seq_len(n[1]), tracks, n[1] + n[2] + seq_len(n[3])))
  )
}
