# What can be asked of a service, as OpenAPI 3.0 and as a page.

answer_api <- function(service, ask) {
  refuse_unknown(ask$query, "f")
  form <- wanted_form(c("openapi", "html"), ask$query[["f"]], ask$accept)
  definition <- api_definition(service, ask)
  body <- if (form == "html") api_html(definition, ask) else write_json(definition)
  new_answer(body, form)
}

api_definition <- function(service, ask) {
  paths <- list(
    `/` = api_path("What there is", "landing", c("json", "html")),
    `/conformance` = api_path("Which parts of standards are met", "conformance", c("json", "html")),
    `/api` = api_path("What can be asked", "api", c("openapi", "html")),
    `/collections` = api_path("All collections", "collections", c("json", "html"))
  )
  for (c in service$collections) paths <- c(paths, collection_paths(c))
  for (name in names(service$maps)) {
    title <- service$maps[[name]]$title
    of <- list(
      api_path(paste("The page:", title), paste0("map.", name), "html"),
      api_path(paste("Classes and colours:", title), paste0("legend.", name), "json")
    )
    paths[paste0("/maps/", name, c("", "/legend"))] <- of
  }
  list(
    openapi = "3.0.3",
    info = list(title = service$title, version = as.character(utils::packageVersion("ochre"))),
    servers = I(list(list(url = ask$base))),
    paths = paths,
    components = list(
      schemas = list(problem = list(type = "object", properties = list(
        type = list(type = "string"), title = list(type = "string"),
        status = list(type = "integer"), detail = list(type = "string")
      ))),
      parameters = api_parameters()
    )
  )
}

api_path <- function(summary, id, forms, parameters = list(), errors = c("400", "406")) {
  content <- lapply(form_types[forms], function(type) list(schema = list(type = "object")))
  names(content) <- sub("; charset.*", "", form_types[forms])
  text <- grepl("^text/", names(content))
  content[text] <- list(list(schema = list(type = "string")))
  failed <- lapply(stats::setNames(errors, errors), function(code) {
    list(description = status_words[[code]], content = list(`application/problem+json` = list(
      schema = list(`$ref` = "#/components/schemas/problem")
    )))
  })
  form <- api_parameter("f", "The form of the answer, in place of the header Accept.", list(
    type = "string", enum = I(unname(forms))
  ))
  list(get = list(
    summary = summary,
    operationId = id,
    parameters = I(c(list(form), parameters)),
    responses = c(list(`200` = list(description = summary, content = content)), failed)
  ))
}

api_parameter <- function(name, description, schema, ...) {
  list(name = name, `in` = "query", description = description, required = FALSE, schema = schema,
       style = "form", explode = FALSE, ...)
}

# Those that name a reference system, with the systems of a collection.
system_parameters <- function(collection = NULL) {
  of_system <- list(
    type = "string", format = "uri",
    enum = I(unname(system_uris(systems_of(collection)))),
    default = longitude_latitude
  )
  list(
    `filter-crs` = api_parameter("filter-crs", "The system of places in the condition.", of_system),
    `bbox-crs` = api_parameter("bbox-crs", "In which system the box is given.", of_system),
    crs = api_parameter("crs", "In which system coordinates are wanted.", of_system)
  )
}

api_parameters <- function() {
  c(system_parameters(), list(
    limit = api_parameter("limit", "How many features at most.", list(
      type = "integer", minimum = 1, maximum = items_most, default = items_default
    )),
    offset = api_parameter("offset", "How many features come before the first.", list(
      type = "integer", minimum = 0, default = 0
    )),
    filter = api_parameter("filter", "Features that meet this condition (CQL2).", list(
      type = "string"
    )),
    `filter-lang` = api_parameter("filter-lang", "The language of the condition.", list(
      type = "string", enum = I("cql2-text"), default = "cql2-text"
    )),
    after = api_parameter("after", "Features whose key comes after this one.", list(
      type = "string"
    )),
    bbox = api_parameter(
      "bbox", "Features that meet this box: west, south, east, north in degrees.",
      list(oneOf = I(lapply(c(4, 6), function(n) {
        list(type = "array", items = list(type = "number"), minItems = n, maxItems = n)
      })))
    ),
    datetime = api_parameter("datetime", "Features of this date or interval (RFC 3339).", list(
      type = "string"
    ))
  ))
}

# By their names in the list above, or in full where a collection has systems of its own.
shared_parameters <- function(collection, names) {
  own <- if (length(collection$elsewhere)) system_parameters(collection)
  lapply(names, function(name) {
    own[[name]] %||% list(`$ref` = paste0("#/components/parameters/", name))
  })
}

# What chooses among the features of a collection: what all have, and its own columns.
choosing_parameters <- function(collection) {
  known <- setdiff(choosing_words(collection), "f")
  shared <- shared_parameters(collection, known)
  columns <- setdiff(names(collection$table), c("f", known))
  own <- lapply(columns, function(name) {
    api_parameter(name, "Features with this value.", list(
      type = json_type(collection$table[[name]])
    ))
  })
  c(shared, own)
}

collection_paths <- function(collection) {
  at <- paste0("/collections/", collection$id)
  chosen <- choosing_parameters(collection)
  feature <- list(
    name = "featureId", `in` = "path", required = TRUE, schema = list(type = "string"),
    description = "The code of a feature, or the number of its row."
  )
  place <- lapply(c("tileMatrix", "tileRow", "tileCol"), function(name) {
    list(name = name, `in` = "path", required = TRUE, schema = list(type = "string"),
         description = "Where the tile lies: level, row from the north, column from the west.")
  })
  id <- collection$id
  paths <- stats::setNames(
    list(
      api_path(collection$title, paste0("about.", id), c("json", "html"), errors = c("400", "404")),
      api_path(paste("Features:", collection$title), paste0("items.", id), item_forms, chosen),
      api_path(
        paste("One feature:", collection$title), paste0("item.", id), c("geojson", "html"),
        c(list(feature), shared_parameters(collection, "crs")), c("400", "404")
      ),
      api_path(paste("Columns:", collection$title), paste0("queryables.", id), c("schema", "html")),
      api_path(paste("Tiles:", collection$title), paste0("tilesets.", id), c("json", "html")),
      api_path(
        paste("About the tiles:", collection$title), paste0("tileset.", id), c("json", "tilejson")
      ),
      api_path(
        paste("One tile:", collection$title), paste0("tile.", id), "mvt", place, c("400", "404")
      )
    ),
    paste0(at, c(
      "", "/items", "/items/{featureId}", "/queryables", "/tiles",
      paste0("/tiles/", tile_matrix_set),
      sub("^.*/tiles", "/tiles", tile_template(collection, list(base = "")))
    ))
  )
  # Tables of a database have no tiles.
  if (is_there(collection)) paths[1:4] else paths
}

json_type <- function(x) {
  if (is.logical(x)) return("boolean")
  if (is.integer(x) && !is.object(x)) return("integer")
  if (is.numeric(x) && !is.object(x)) "number" else "string"
}

# For people: each path with its parameters.
api_html <- function(definition, ask) {
  known <- definition$components$parameters
  body <- unlist(lapply(names(definition$paths), function(path) {
    get <- definition$paths[[path]]$get
    parameters <- lapply(get$parameters, function(p) {
      if (is.null(p[["$ref"]])) p else known[[sub(".*/", "", p[["$ref"]])]]
    })
    forms <- unlist(parameters[[1]]$schema$enum)
    table <- data.frame(
      Parameter = vapply(parameters[-1], function(p) p$name, ""),
      Meaning = vapply(parameters[-1], function(p) p$description, "")
    )
    c(
      sprintf("<h2><code>%s</code></h2>", htmltools::htmlEscape(path)),
      html_text(sprintf("%s (f: %s).", get$summary, paste(forms, collapse = ", "))),
      if (nrow(table)) html_table(table)
    )
  }))
  about <- paste(
    "Each address is asked with GET or HEAD. The form of the answer is that of the parameter f,",
    "else of the header Accept."
  )
  service_page("What can be asked", c(html_text(about), body), list(), ask)
}
