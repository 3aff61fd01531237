# Reference systems of answers and boxes. Three are always there: longitude and latitude, the same
# the other way round, web Mercator. Others by their codes, for layers that have places there
# (package PROJ): their geometry is brought there once, when the service starts.

longitude_latitude <- "http://www.opengis.net/def/crs/OGC/1.3/CRS84"
register_uri <- function(code) {
  paste0("http://www.opengis.net/def/crs/EPSG/0/", code, recycle0 = TRUE)
}

# `turned`: the north comes first; `digits` of a coordinate.
service_digits <- 6L
service_systems <- list(
  degrees = list(uri = longitude_latitude, turned = FALSE, digits = service_digits),
  turned = list(uri = register_uri(4326), turned = TRUE, digits = service_digits),
  mercator = list(uri = register_uri(3857), turned = FALSE, digits = 2L)
)

# The systems in which a collection is given, by their names, and their addresses.
systems_of <- function(collection) {
  c(service_systems, lapply(collection$elsewhere, function(e) e$system))
}
system_uris <- function(systems) vapply(systems, function(s) s$uri, "")

# ---- when the service starts ---------------------------------------------------------------------

# What is known of systems given by codes such as "EPSG:25832", apart from those always there.
check_systems <- function(systems, call = rlang::caller_env()) {
  codes <- unique(upper_case(check_texts(systems, "systems", call)))
  codes <- sub("^([0-9]+)$", "EPSG:\\1", codes)
  odd <- !grepl("^EPSG:[0-9]{1,7}$", codes)
  if (any(odd)) {
    ochre_abort("argument",
                "`systems` has \"{codes[odd][1]}\", which is no code of the register EPSG.",
                "As in \"EPSG:25832\".", arg = "systems")
  }
  uris <- register_uri(sub("EPSG:", "", codes, fixed = TRUE))
  new <- !uris %in% system_uris(service_systems)
  if (any(new)) need_system_package(codes[new][1], "systems", call)
  Map(function(code, uri) {
    axes <- system_axes(code)
    if (is.list(axes)) return(c(list(code = code, uri = uri), axes))
    ochre_abort("system", "Maps cannot be served in {code}: {axes}.",
                "Give the code of a flat system, with axes to the east and the north.",
                arg = "systems")
  }, codes[new], uris[new])
}

# The collection, and its geometry and boxes in other systems.
add_systems <- function(collection, systems, call = rlang::caller_env()) {
  if (is_there(collection)) return(collection)
  collection$elsewhere <- lapply(systems, function(system) {
    at <- call_core(positions_core(collection$wkb))
    moved <- if (nrow(at)) transform_positions(at, "OGC:CRS84", system$code) else at
    lost <- if (is.character(moved)) moved else lost_positions(at, moved, system$code)
    if (!is.null(lost)) {
      ochre_abort("system", "`{collection$title}` cannot be served in {system$code}: {lost}.",
                  "Leave that system out, or serve this map by itself.", arg = "systems")
    }
    wkb <- call_core(with_positions_core(collection$wkb, moved[, 1], moved[, 2]))
    list(system = system, wkb = wkb, boxes = geometry_boxes(wkb))
  })
  collection
}

# Far outside of where a system is meant to be used its formulas fold: what does not come back is no
# place in it. In words, or NULL.
lost_positions <- function(at, moved, code) {
  if (!nrow(at)) return(NULL)
  back <- transform_positions(moved, code, "OGC:CRS84")
  if (is.character(back)) return(back)
  turns <- (back[, 1] - at[, 1] + 180) %% 360 - 180
  # A hundred metres: ways between two datums there and back may differ by some.
  lost <- pmax(abs(turns) * cos(at[, 2] * pi / 180), abs(back[, 2] - at[, 2])) > 1e-3
  if (any(lost, na.rm = TRUE)) places_lost(sum(lost, na.rm = TRUE))
}

# West, south, east and north of each geometry, as a matrix.
geometry_boxes <- function(wkb) {
  attributes(wkb) <- NULL
  boxes <- as.data.frame(wk::wk_envelope(wk::wkb(wkb)))
  as.matrix(boxes[c("xmin", "ymin", "xmax", "ymax")])
}

# ---- what is asked for ---------------------------------------------------------------------------

# The name of the reference system that a parameter has as its address.
system_parameter <- function(query, name, collection) {
  uri <- query[[name]]
  if (is.null(uri)) return("degrees")
  known <- system_uris(systems_of(collection))
  at <- match(uri, known)
  if (is.na(at)) {
    refuse_request(400, sprintf("`%s` must be one of %s.", name, list_words(known)))
  }
  names(known)[at]
}

# West, south, east and north, and the system in which they are: degrees, or one by its code.
box_of_query <- function(query, collection) {
  box <- box_parameter(query[["bbox"]])
  system <- system_parameter(query, "bbox-crs", collection)
  if (is.null(box)) return(NULL)
  other <- collection$elsewhere[[system]]$system
  if (systems_of(collection)[[system]]$turned) box <- box[c(2, 1, 4, 3)]
  if (system == "mercator") {
    place <- function(x, y) call_core(from_mercator_core(x, y))
    box <- c(place(box[1], box[2]), place(box[3], box[4]))
  }
  if (box[2] > box[4]) refuse_request(400, "`bbox` has its south above its north.")
  if (!is.null(other) && box[1] > box[3]) {
    refuse_request(400, sprintf("`bbox` has its west east of its east in %s.", other$code))
  }
  if (is.null(other)) box[c(1, 3)] <- wrapped_ends(box[1], box[3])
  list(at = box, system = if (is.null(other)) "degrees" else system)
}

# The ends of a box in degrees of longitude, brought to those that places have.
wrapped_ends <- function(west, east) {
  if (east - west >= 360) return(c(-180, 180))
  wrapped <- function(x) if (abs(x) <= 180) x else (x + 180) %% 360 - 180
  c(wrapped(west), wrapped(east))
}

# Four numbers; heights in a box of six are passed over.
box_parameter <- function(text) {
  if (is.null(text)) return(NULL)
  parts <- strsplit(substr(text, 1, 300), ",", fixed = TRUE)[[1]]
  number <- "^ *[-+]?([0-9]+\\.?[0-9]*|\\.[0-9]+)([eE][-+]?[0-9]{1,2})? *$"
  box <- if (all(grepl(number, parts))) as.numeric(parts)
  if (length(box) == 6) box <- box[c(1, 2, 4, 5)]
  good <- length(box) == 4 && all(is.finite(box))
  if (!good) {
    refuse_request(400, paste(
      "`bbox` must be four numbers: west, south, east and north, in degrees where `bbox-crs` names",
      "no other system, such as bbox=-38.5,46,-37,47.5."
    ))
  }
  box
}

# Which of the features that `keep` names meet a box.
rows_meeting <- function(collection, box, keep) {
  of <- collection$elsewhere[[box$system]] %||% collection
  meets_box(of$boxes, of$wkb, box$at, keep)
}

# By the boxes of the features first; where a feature's box is not wholly within, by its geometry.
# A box whose west lies east of its east end runs over 180 degrees.
meets_box <- function(boxes, wkb, box, keep) {
  if (box[1] > box[3]) {
    return(meets_box(boxes, wkb, c(box[1:2], 180, box[4]), keep) |
             meets_box(boxes, wkb, c(-180, box[2:4]), keep))
  }
  b <- boxes
  near <- keep & is.finite(b[, 1]) & b[, 1] <= box[3] & b[, 3] >= box[1] & b[, 2] <= box[4] &
    b[, 4] >= box[2]
  within <- near & b[, 1] >= box[1] & b[, 3] <= box[3] & b[, 2] >= box[2] & b[, 4] <= box[4]
  open <- which(near & !within)
  if (length(open)) near[open] <- call_core(box_meets_core(wkb[open], box))$meets
  near
}

# ---- answers -------------------------------------------------------------------------------------

system_header <- function(collection, system) sprintf("<%s>", systems_of(collection)[[system]]$uri)

# Features as GeoJSON; in another system their geometry is written anew.
feature_texts <- function(collection, rows, system) {
  if (system == "degrees") return(collection$features[rows])
  about <- systems_of(collection)[[system]]
  wkb <- (collection$elsewhere[[system]] %||% collection)$wkb[rows]
  way <- if (system == "mercator") "mercator" else if (about$turned) "turned"
  if (!is.null(way)) wkb <- call_core(geometry_in_core(wkb, way))$geometry
  geojson_features(
    collection$ids[rows],
    call_core(geometry_texts_core(wkb, about$digits))$geometry,
    property_texts(collection$table[rows, , drop = FALSE])
  )
}
