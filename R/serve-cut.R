# Tiles of vectors of a collection, cut when they are asked for: paths of OGC API - Tiles, and the
# facts about them as the standard and as a short list of addresses.

vector_levels <- 20L
tile_matrix_set <- "WebMercatorQuad"
tile_matrix_uri <- "http://www.opengis.net/def/tilematrixset/OGC/1.0/WebMercatorQuad"

# Made at the first tile that is asked for.
collection_tiles <- function(collection) {
  made <- collection$made
  if (is.null(made$tiles)) {
    columns <- lapply(collection$table, function(x) {
      if (is.object(x) || is.character(x)) enc2utf8(as.character(x)) else x
    })
    made$tiles <- call_core(tile_pyramid_core(collection$wkb, columns, vector_levels))$tiles
  }
  made$tiles
}

# Below `/collections/{id}/tiles`.
answer_tiles <- function(collection, path, ask) {
  n <- length(path)
  if (n > 0 && path[1] != tile_matrix_set) {
    refuse_request(404, sprintf("Tiles lie in %s only.", tile_matrix_set))
  }
  if (n == 0) {
    facts <- list(tilesets = I(list(tileset_facts(collection, ask))))
    title <- paste("Tiles:", collection$title)
    return(answer_facts(facts, function() html_text(tile_matrix_set), ask, title))
  }
  if (n == 1) {
    refuse_unknown(ask$query, "f")
    form <- wanted_form(c("json", "tilejson"), ask$query[["f"]], ask$accept)
    if (form == "tilejson") {
      return(new_answer(write_json(tile_addresses(collection, ask)), "tilejson"))
    }
    return(new_answer(write_json(tileset_facts(collection, ask)), "json"))
  }
  if (n != 4) refuse_request(404, "There is nothing here.")
  refuse_unknown(ask$query, "f")
  wanted_form("mvt", ask$query[["f"]], ask$accept)
  at <- tile_place(path[2:4])
  tile <- call_core(cut_tile_core(
    collection_tiles(collection), at[1], at[3], at[2], collection$id
  ))$tile
  new_answer(tile, "mvt")
}

# Level, row from the north, column from the west.
tile_place <- function(parts) {
  good <- all(grepl("^[0-9]{1,7}$", parts))
  at <- if (good) as.numeric(parts)
  if (!good || at[1] >= vector_levels || any(at[2:3] >= 2^at[1])) {
    refuse_request(404, sprintf(
      "There is no such tile: level 0 to %d, then row and column from 0 to 2^level - 1.",
      vector_levels - 1L
    ))
  }
  at
}

tile_template <- function(collection, ask) {
  paste0(
    ask$base, "/collections/", collection$id, "/tiles/", tile_matrix_set,
    "/{tileMatrix}/{tileRow}/{tileCol}"
  )
}

tileset_facts <- function(collection, ask) {
  own <- paste0(ask$base, "/collections/", collection$id, "/tiles/", tile_matrix_set)
  box <- collection_box(collection)
  facts <- list(
    title = collection$title,
    dataType = "vector",
    crs = "http://www.opengis.net/def/crs/EPSG/0/3857",
    tileMatrixSetURI = tile_matrix_uri,
    boundingBox = if (!is.null(box)) {
      list(lowerLeft = I(box[1:2]), upperRight = I(box[3:4]), crs = longitude_latitude)
    },
    links = list(
      link_to(own, "self", "json", collection$title),
      link_to(
        tile_matrix_uri, "http://www.opengis.net/def/rel/ogc/1.0/tiling-scheme", "json",
        tile_matrix_set
      ),
      link_to(paste0(own, "?f=tilejson"), "describedby", "tilejson", "Addresses of tiles"),
      c(
        link_to(tile_template(collection, ask), "item", "mvt", collection$title),
        list(templated = TRUE)
      )
    )
  )
  Filter(Negate(is.null), facts)
}

# The list of addresses that many programs read (TileJSON 3.0.0).
tile_addresses <- function(collection, ask) {
  names <- c(tileMatrix = "z", tileRow = "y", tileCol = "x")
  address <- tile_template(collection, ask)
  for (name in names(names)) address <- sub(name, names[[name]], address, fixed = TRUE)
  fields <- lapply(collection$table, function(x) {
    switch(json_type(x), boolean = "Boolean", string = "String", "Number")
  })
  box <- collection_box(collection)
  list(
    tilejson = "3.0.0",
    name = collection$title,
    tiles = I(address),
    minzoom = 0L,
    maxzoom = vector_levels - 1L,
    bounds = if (!is.null(box)) I(box),
    vector_layers = I(list(list(id = collection$id, fields = fields)))
  )
}
