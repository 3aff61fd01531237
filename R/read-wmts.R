# Capabilities of a WMTS server (OGC 07-057r7): of one layer the address of its tiles and the levels of its matrix set in web Mercator.

mercator_names <- "(EPSG:([0-9.]*:)?(3857|900913|3785|102100)|GoogleMapsCompatible|/(3857|900913|3785|102100))$"
pixel_metres <- 0.00028  # what the standard takes a pixel to be (clause 6.1)

read_wmts <- function(capabilities, layer, style = NULL, call = rlang::caller_env()) {
  doc <- with_copy(capabilities, function(copy) {
    read_markup(
      list(path = copy %||% check_file(capabilities, call = call), name = capabilities), call
    )
  })
  fault <- function(what, mend = NULL) ochre_abort("service", sprintf("`%s` %s.", capabilities, what), mend, file = capabilities, call = call)
  layers <- find_all(doc, "/Capabilities/Contents/Layer")
  if (!length(layers)) fault("names no tile layers", "It must be a capabilities document of WMTS 1.0.0.")
  names <- vapply(layers, first_text, "", "./Identifier")
  if (!layer %in% names) fault(sprintf("has no layer `%s`", layer), did_you_mean(layer, names, "Layers"))
  node <- layers[[match(layer, names)]]
  sets <- find_all(doc, "/Capabilities/Contents/TileMatrixSet")
  offered <- texts(node, "./TileMatrixSetLink/TileMatrixSet")
  fits <- vapply(sets, function(s) first_text(s, "./Identifier") %in% offered && (grepl(mercator_names, first_text(s, "./SupportedCRS")) || grepl(mercator_names, first_text(s, "./WellKnownScaleSet"))), NA)
  if (!any(fits)) fault(sprintf("offers the layer `%s` in %s, none of them in web Mercator", layer, list_words(offered)), "Ask its keepers for tiles in EPSG:3857, or use another backdrop.")
  set <- sets[[which(fits)[1]]]
  styles <- find_all(node, "./Style")
  named <- vapply(styles, first_text, "", "./Identifier")
  if (!is.null(style) && !style %in% named) fault(sprintf("has no style `%s`", style), did_you_mean(style, named, "Styles"))
  style <- style %||% c(named[xml2::xml_attr(styles, "isDefault") %in% "true"], named, "default")[1]
  list(url = tile_address(doc, node, layer, style, first_text(set, "./Identifier"), fault, capabilities), levels = matrix_levels(set, fault))
}

# Elements by their names alone: prefixes differ from server to server.
by_name <- function(path) gsub("(?<=/)([A-Za-z]+)(?=/|\\[|$)", "*[local-name() = '\\1']", path, perl = TRUE)
find_all <- function(node, path) xml2::xml_find_all(node, by_name(path))
texts <- function(node, path) trimws(xml2::xml_text(find_all(node, path)))
first_text <- function(node, path) child_text(node, by_name(path))[1]

# By a template of the layer, or by keys and values, with `{z}`, `{x}`, `{y}` for what the viewer fills in.
tile_address <- function(doc, node, layer, style, set, fault, capabilities) {
  encode <- function(v) utils::URLencode(v, reserved = TRUE)
  formats <- texts(node, "./Format")
  wanted <- intersect(c("image/png", "image/webp", "image/jpeg", "image/png8"), formats)
  resources <- find_all(node, "./ResourceURL[@resourceType = 'tile']")
  resources <- resources[xml2::xml_attr(resources, "format") %in% c(wanted, "image/jpg")]
  if (length(resources)) {
    url <- xml2::xml_attr(resources[[order(match(xml2::xml_attr(resources, "format"), wanted))[1]]], "template")
    fill <- c(Style = encode(style), style = encode(style), TileMatrixSet = encode(set), TileMatrix = "{z}", TileRow = "{y}", TileCol = "{x}")
    for (dimension in find_all(node, "./Dimension")) {
      value <- c(first_text(dimension, "./Default"), texts(dimension, "./Value"))
      value <- value[!is.na(value)][1]
      if (is.na(value)) fault(sprintf("gives no value for `%s` of the layer `%s`", first_text(dimension, "./Identifier"), layer))
      fill[[first_text(dimension, "./Identifier")]] <- encode(value)
    }
    for (key in names(fill)) url <- gsub(paste0("{", key, "}"), fill[[key]], url, fixed = TRUE)
  } else {
    if (!length(wanted)) fault(sprintf("offers the layer `%s` as %s, which browsers do not show", layer, list_words(formats)))
    get <- find_all(doc, "/Capabilities/OperationsMetadata/Operation[@name = 'GetTile']//Get")
    kvp <- vapply(get, function(g) "KVP" %in% texts(g, ".//Value"), NA)
    base <- c(xml2::xml_attr(get[kvp], "href"), xml2::xml_attr(get, "href"))[1]
    if (is.na(base)) fault("gives no address for tiles")
    url <- paste0(base, if (!grepl("?", base, fixed = TRUE)) "?" else if (!grepl("[?&]$", base)) "&", sprintf("SERVICE=WMTS&REQUEST=GetTile&VERSION=1.0.0&LAYER=%s&STYLE=%s&FORMAT=%s&TILEMATRIXSET=%s&TILEMATRIX={z}&TILEROW={y}&TILECOL={x}",
                                                                                                                   encode(layer), encode(style), encode(wanted[1]), encode(set)))
  }
  tryCatch(check_tile_address(url, "capabilities"), ochre_error_argument = function(e) fault(sprintf("gives the address \"%s\" for tiles, which cannot be used", substr(url, 1, 80))))
}

# From the coarsest: the matrix's name, metres of a pixel, its upper left corner, the tiles' size and how many there are.
matrix_levels <- function(set, fault) {
  matrices <- find_all(set, "./TileMatrix")
  level <- function(m) {
    number <- function(field, n = 1) as.numeric(strsplit(trimws(first_text(m, paste0("./", field))), "[ ,]+")[[1]])[seq_len(n)]
    corner <- number("TopLeftCorner", 2)
    list(id = first_text(m, "./Identifier"), metres = number("ScaleDenominator") * pixel_metres, x = corner[1], y = corner[2], width = number("TileWidth"), height = number("TileHeight"), columns = number("MatrixWidth"), rows = number("MatrixHeight"))
  }
  levels <- lapply(matrices, level)
  good <- vapply(levels, function(l) !is.na(l$id) && all(is.finite(unlist(l[-1]))) && l$metres > 0 && min(l$width, l$height) >= 16 && max(l$width, l$height) <= 4096 && min(l$columns, l$rows) >= 1, NA)
  if (!length(levels) || any(!good)) fault("has a matrix set whose numbers cannot be read")
  levels[order(-vapply(levels, function(l) l$metres, 0))]
}
