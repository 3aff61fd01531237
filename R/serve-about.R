# What a service says of itself: landing page, conformance, collections, maps and their legends.

conformance_classes <- c(
  "http://www.opengis.net/spec/ogcapi-common-1/1.0/conf/core",
  "http://www.opengis.net/spec/ogcapi-features-1/1.0/conf/core",
  "http://www.opengis.net/spec/ogcapi-features-1/1.0/conf/geojson",
  "http://www.opengis.net/spec/ogcapi-features-1/1.0/conf/html",
  "http://www.opengis.net/spec/ogcapi-features-1/1.0/conf/oas30",
  "http://www.opengis.net/spec/ogcapi-features-2/1.0/conf/crs",
  "http://www.opengis.net/spec/ogcapi-features-3/1.0/conf/queryables",
  "http://www.opengis.net/spec/ogcapi-features-3/1.0/conf/queryables-query-parameters",
  "http://www.opengis.net/spec/ogcapi-features-3/1.0/conf/filter",
  "http://www.opengis.net/spec/ogcapi-features-3/1.0/conf/features-filter",
  "http://www.opengis.net/spec/cql2/1.0/conf/cql2-text",
  "http://www.opengis.net/spec/cql2/1.0/conf/basic-cql2",
  "http://www.opengis.net/spec/cql2/1.0/conf/advanced-comparison-operators",
  "http://www.opengis.net/spec/ogcapi-tiles-1/1.0/conf/core",
  "http://www.opengis.net/spec/ogcapi-tiles-1/1.0/conf/tileset",
  "http://www.opengis.net/spec/ogcapi-tiles-1/1.0/conf/tilesets-list",
  "http://www.opengis.net/spec/ogcapi-tiles-1/1.0/conf/geodata-tilesets",
  "http://www.opengis.net/spec/ogcapi-tiles-1/1.0/conf/mvt"
)

# An answer that is a list as JSON, and a page for people; `page` makes the body of it.
answer_facts <- function(facts, page, ask, title) {
  refuse_unknown(ask$query, "f")
  form <- wanted_form(c("json", "html"), ask$query[["f"]], ask$accept)
  facts$links <- c(own_links(ask, form), facts$links)
  body <- if (form == "html") {
    service_page(title, page(), facts$links, ask)
  } else {
    write_json(facts)
  }
  new_answer(body, form, Link = link_header(facts$links))
}

# This page, and the same in the other form.
own_links <- function(ask, form) {
  own <- paste0(ask$base, "/", paste(vapply(ask$path, curl::curl_escape, ""), collapse = "/"))
  other <- setdiff(c("json", "html"), form)
  list(
    link_to(paste0(own, "?f=", form), "self", form, "This page"),
    link_to(paste0(own, "?f=", other), "alternate", other, paste("This page as", upper_case(other)))
  )
}

answer_landing <- function(service, ask) {
  at <- function(...) paste0(ask$base, "/", ...)
  maps <- lapply(names(service$maps), function(name) {
    link_to(at("maps/", name), "preview", "html", service$maps[[name]]$title)
  })
  facts <- list(
    title = service$title,
    description = paste("Maps and their data, made with Ochre", utils::packageVersion("ochre")),
    links = c(
      list(
        link_to(at("api"), "service-desc", "openapi", "What can be asked, as OpenAPI 3.0"),
        link_to(at("api?f=html"), "service-doc", "html", "What can be asked"),
        link_to(at("conformance"), "conformance", "json", "Which parts of standards are met"),
        link_to(at("collections"), "data", "json", "The layers and their features")
      ),
      maps
    )
  )
  answer_facts(facts, function() landing_html(service, facts, at), ask, service$title)
}

# Each map as its still picture, with its layers below.
landing_html <- function(service, facts, at) {
  listed <- function(own) {
    titles <- vapply(own, function(c) c$title, "")
    html_links(at("collections/", names(own), "/items?f=html"), titles)
  }
  tables <- Filter(is_there, service$collections)
  of_map <- lapply(names(service$maps), function(name) {
    own <- Filter(function(c) identical(c$map, name), service$collections)
    plan <- service$maps[[name]]
    c(
      sprintf("<h2>%s</h2>", html_link(at("maps/", name), plan$title)),
      "<div class=\"map\">", first_map(plan), "</div>",
      html_text("Its layers, with all their features:"),
      listed(own)
    )
  })
  c(
    html_text(facts$description),
    unlist(of_map),
    if (length(tables)) c("<h2>Tables</h2>", listed(tables))
  )
}

answer_conformance <- function(ask) {
  facts <- list(conformsTo = I(conformance_classes))
  answer_facts(facts, function() html_list(conformance_classes), ask, "Conformance")
}

# ---- collections ---------------------------------------------------------------------------------

answer_collections <- function(service, ask) {
  facts <- list(
    links = list(),
    collections = I(unname(lapply(service$collections, collection_facts, ask)))
  )
  page <- function() {
    html_links(
      paste0(ask$base, "/collections/", names(service$collections)),
      vapply(service$collections, function(c) c$title, "")
    )
  }
  answer_facts(facts, page, ask, "Collections")
}

answer_collection <- function(collection, ask) {
  facts <- collection_facts(collection, ask)
  page <- function() {
    c(
      html_text(collection$source %||% ""),
      if (!is_there(collection)) html_text(count_words(length(collection$ids), "feature")),
      html_table(
        data.frame(Column = names(collection$table), Kind = vapply(collection$table, json_type, ""))
      )
    )
  }
  answer_facts(facts, page, ask, collection$title)
}

collection_facts <- function(collection, ask) {
  at <- paste0(ask$base, "/collections/", collection$id)
  box <- collection_box(collection)
  time <- collection$time
  extent <- list(
    spatial = if (!is.null(box)) list(bbox = I(list(I(box))), crs = longitude_latitude),
    temporal = if (!is.null(time)) {
      ends <- paste0(c(min(time$from), max(time$to)), c("T00:00:00Z", "T23:59:59Z"))
      list(interval = I(list(I(ends))))
    }
  )
  facts <- list(
    id = collection$id,
    title = collection$title,
    description = collection$source,
    itemType = "feature",
    crs = I(unname(system_uris(systems_of(collection)))),
    storageCrs = longitude_latitude,
    extent = Filter(Negate(is.null), extent),
    links = c(
      lapply(item_forms, function(form) {
        title <- paste(collection$title, "as", upper_case(form))
        link_to(paste0(at, "/items?f=", form), "items", form, title)
      }),
      list(link_to(
        paste0(at, "/queryables"), "http://www.opengis.net/def/rel/ogc/1.0/queryables", "schema",
        "Columns that can be asked for"
      )),
      if (!is.null(collection$map)) map_links(collection, at, ask)
    )
  )
  Filter(Negate(is.null), facts)
}

map_links <- function(collection, at, ask) {
  map <- paste0(ask$base, "/maps/", collection$map)
  sets <- "http://www.opengis.net/def/rel/ogc/1.0/tilesets-vector"
  list(
    link_to(paste0(at, "/tiles"), sets, "json", "Tiles of vectors"),
    link_to(map, "preview", "html", "The map"),
    link_to(paste0(map, "/legend"), "describedby", "json", "Classes and colours")
  )
}

# ---- maps ----------------------------------------------------------------------------------------

answer_map <- function(service, path, ask) {
  plan <- service$maps[[path[1]]]
  if (is.null(plan)) {
    refuse_request(404, sprintf("There is no map `%s`.", substr(path[1], 1, 60)))
  }
  refuse_unknown(ask$query, "f")
  if (length(path) == 1) {
    wanted_form("html", ask$query[["f"]], ask$accept)
    return(new_answer(page_text(plan), "html"))
  }
  if (path[2] != "legend") refuse_request(404, "There is nothing here.")
  wanted_form("json", ask$query[["f"]], ask$accept)
  new_answer(write_json(legend_facts(plan)), "json")
}

# What the legend of a map says, layer by layer: classes of areas, or those of the colours of
# symbols and lines. Several small maps may have classes of their own.
legend_facts <- function(plan) {
  of_layer <- function(l) {
    classed <- l$key %||% l
    list(
      title = l$legend, colours = l$key$legend, kind = l$kind, method = l$method, fit = l$fit,
      breaks = if (length(l$breaks)) I(l$breaks),
      classes = if (length(classed$labels)) I(legend_classes(classed)),
      no_data = classed$no_data[c("label", "colour", "count")],
      panels = if (!is.null(l$panels[[1]]$labels)) {
        I(lapply(seq_along(l$panels), function(p) {
          list(panel = plan$panels[p], classes = I(legend_classes(in_panel(l, p))))
        }))
      }
    )
  }
  layers <- Filter(function(l) !is.null(l$legend), plan$layers)
  said <- lapply(layers, function(l) Filter(Negate(is.null), of_layer(l)))
  facts <- list(title = plan$title, source = plan$source, layers = I(said))
  Filter(Negate(is.null), facts)
}

legend_classes <- function(classed) {
  counts <- classed$counts %||% tabulate(classed$class, length(classed$labels))
  lapply(seq_along(classed$labels), function(k) {
    list(class = k, label = classed$labels[k], colour = classed$colours[k], count = counts[k])
  })
}
