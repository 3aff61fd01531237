# Capabilities of a WMTS server (OGC 07-057r7): of one layer the address of its tiles and the
# levels of its matrix set in web Mercator.

mercator_codes <- "(3857|900913|3785|102100)"
mercator_names <- sprintf(
  "(EPSG:([0-9.]*:)?%s|GoogleMapsCompatible|/%s)$",
  mercator_codes,
  mercator_codes
)
pixel_metres <- 0.00028  # what the standard takes a pixel to be (clause 6.1)

read_wmts <- function(capabilities, layer, style = NULL, call = rlang::caller_env()) {
  doc <- with_copy(capabilities, function(copy) {
    path <- copy %||% check_file(capabilities, call = call)
    read_markup(list(path = path, name = capabilities), call)
  })
  fault <- function(what, mend = NULL) {
    what <- sprintf("`%s` %s.", capabilities, what)
    ochre_abort("service", what, mend, file = capabilities)
  }
  layers <- find_all(doc, "/Capabilities/Contents/Layer")
  if (!length(layers)) {
    fault("names no tile layers", "It must be a capabilities document of WMTS 1.0.0.")
  }
  names <- vapply(layers, first_text, "", "./Identifier")
  if (!layer %in% names) {
    fault(sprintf("has no layer `%s`", layer), did_you_mean(layer, names, "Layers"))
  }
  node <- layers[[match(layer, names)]]
  set <- mercator_set(doc, node, layer, fault)
  asked <- list(
    layer = layer,
    style = wmts_style(node, style, fault),
    set = first_text(set, "./Identifier")
  )
  list(url = tile_address(doc, node, asked, fault), levels = matrix_levels(set, fault))
}

# The set of levels in web Mercator that a layer is offered in.
mercator_set <- function(doc, node, layer, fault) {
  sets <- find_all(doc, "/Capabilities/Contents/TileMatrixSet")
  offered <- texts(node, "./TileMatrixSetLink/TileMatrixSet")
  fits <- vapply(sets, function(s) {
    system <- c(first_text(s, "./SupportedCRS"), first_text(s, "./WellKnownScaleSet"))
    first_text(s, "./Identifier") %in% offered && any(grepl(mercator_names, system))
  }, NA)
  if (any(fits)) return(sets[[which(fits)[1]]])
  words <- "offers the layer `%s` in %s, none of them in web Mercator"
  fault(
    sprintf(words, layer, list_words(offered)),
    "Ask its keepers for tiles in EPSG:3857, or use another backdrop."
  )
}

# The style that was asked for, else the layer's own.
wmts_style <- function(node, style, fault) {
  styles <- find_all(node, "./Style")
  named <- vapply(styles, first_text, "", "./Identifier")
  if (!is.null(style) && !style %in% named) {
    fault(sprintf("has no style `%s`", style), did_you_mean(style, named, "Styles"))
  }
  own <- named[xml2::xml_attr(styles, "isDefault") %in% "true"]
  style %||% c(own, named, "default")[1]
}

# Elements by their names alone: prefixes differ from server to server.
by_name <- function(path) {
  gsub("(?<=/)([A-Za-z]+)(?=/|\\[|$)", "*[local-name() = '\\1']", path, perl = TRUE)
}
find_all <- function(node, path) xml2::xml_find_all(node, by_name(path))
texts <- function(node, path) trimws(xml2::xml_text(find_all(node, path)))
first_text <- function(node, path) child_text(node, by_name(path))[1]

# By a template of the layer, or by keys and values, with `{z}`, `{x}`, `{y}` for what the viewer
# fills in.
tile_address <- function(doc, node, asked, fault) {
  formats <- texts(node, "./Format")
  wanted <- intersect(c("image/png", "image/webp", "image/jpeg", "image/png8"), formats)
  resources <- find_all(node, "./ResourceURL[@resourceType = 'tile']")
  format <- xml2::xml_attr(resources, "format")
  resources <- resources[format %in% c(wanted, "image/jpg")]
  url <- if (length(resources)) {
    order <- order(match(xml2::xml_attr(resources, "format"), wanted))
    template <- xml2::xml_attr(resources[[order[1]]], "template")
    filled_template(template, node, asked, fault)
  } else {
    if (!length(wanted)) {
      words <- "offers the layer `%s` as %s, which browsers do not show"
      fault(sprintf(words, asked$layer, list_words(formats)))
    }
    keyed_address(doc, asked, wanted[1], fault)
  }
  tryCatch(check_tile_address(url, "capabilities"), ochre_error_argument = function(e) {
    words <- "gives the address \"%s\" for tiles, which cannot be used"
    fault(sprintf(words, substr(url, 1, 80)))
  })
}

encode_part <- function(text) utils::URLencode(text, reserved = TRUE)

# An address by template, with style, set and dimensions put in.
filled_template <- function(template, node, asked, fault) {
  style <- encode_part(asked$style)
  fill <- c(
    Style = style, style = style, TileMatrixSet = encode_part(asked$set),
    TileMatrix = "{z}", TileRow = "{y}", TileCol = "{x}"
  )
  for (dimension in find_all(node, "./Dimension")) {
    name <- first_text(dimension, "./Identifier")
    value <- c(first_text(dimension, "./Default"), texts(dimension, "./Value"))
    value <- value[!is.na(value)][1]
    if (is.na(value)) {
      fault(sprintf("gives no value for `%s` of the layer `%s`", name, asked$layer))
    }
    fill[[name]] <- encode_part(value)
  }
  for (key in names(fill)) {
    template <- gsub(paste0("{", key, "}"), fill[[key]], template, fixed = TRUE)
  }
  template
}

# An address by keys.
keyed_address <- function(doc, asked, format, fault) {
  get <- find_all(doc, "/Capabilities/OperationsMetadata/Operation[@name = 'GetTile']//Get")
  by_keys <- vapply(get, function(g) "KVP" %in% texts(g, ".//Value"), NA)
  base <- c(xml2::xml_attr(get[by_keys], "href"), xml2::xml_attr(get, "href"))[1]
  if (is.na(base)) fault("gives no address for tiles")
  mark <- if (!grepl("?", base, fixed = TRUE)) "?" else if (!grepl("[?&]$", base)) "&" else ""
  query <- sprintf(
    paste0(
      "SERVICE=WMTS&REQUEST=GetTile&VERSION=1.0.0&LAYER=%s&STYLE=%s&FORMAT=%s",
      "&TILEMATRIXSET=%s&TILEMATRIX={z}&TILEROW={y}&TILECOL={x}"
    ),
    encode_part(asked$layer),
    encode_part(asked$style),
    encode_part(format),
    encode_part(asked$set)
  )
  paste0(base, mark, query)
}

# From the coarsest: the matrix's name, metres of a pixel, its upper left corner, the tiles' size
# and how many there are.
matrix_levels <- function(set, fault) {
  matrices <- find_all(set, "./TileMatrix")
  level <- function(m) {
    number <- function(field, n = 1) {
      as.numeric(strsplit(trimws(first_text(m, paste0("./", field))), "[ ,]+")[[1]])[seq_len(n)]
    }
    corner <- number("TopLeftCorner", 2)
    list(
      id = first_text(m, "./Identifier"),
      metres = number("ScaleDenominator") * pixel_metres,
      x = corner[1],
      y = corner[2],
      width = number("TileWidth"),
      height = number("TileHeight"),
      columns = number("MatrixWidth"),
      rows = number("MatrixHeight")
    )
  }
  levels <- lapply(matrices, level)
  good <- vapply(
    levels,
    function(l) {
      !is.na(l$id) &&
        all(is.finite(unlist(l[-1]))) &&
        l$metres > 0 &&
        min(l$width, l$height) >= 16 &&
        max(l$width, l$height) <= 4096 &&
        min(l$columns, l$rows) >= 1
    },
    NA
  )
  if (!length(levels) || any(!good)) fault("has a matrix set whose numbers cannot be read")
  levels[order(-vapply(levels, function(l) l$metres, 0))]
}
