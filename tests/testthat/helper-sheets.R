# Random sheets from the schema: words where words may stand, names of columns and tables mostly
# where such are meant, now and then what nobody would write.

sheet_world <- function(folder) {
  n <- 6
  areas <- data.frame(
    code = sprintf("%02d", 1:n),
    name = LETTERS[1:n],
    region = rep(c("North", "South"), 3),
    population = 1000L * (1:n)
  )
  features <- sprintf(
    paste0(
      '{"type":"Feature","properties":{"code":"%s","name":"%s","region":"%s",',
      '"population":%d},"geometry":{"type":"Polygon","coordinates":%s}}'
    ),
    areas$code,
    areas$name,
    areas$region,
    areas$population,
    vapply(1:n, square, "")
  )
  writeLines(
    sprintf('{"type":"FeatureCollection","features":[%s]}', paste(features, collapse = ",")),
    file.path(folder, "areas.geojson")
  )
  long <- expand.grid(code = areas$code, month = c("2031-01", "2031-02"))
  long$cases <- seq_len(nrow(long))
  long$rate <- round(sqrt(long$cases), 2)
  utils::write.csv(long, file.path(folder, "cases.csv"), row.names = FALSE)
  utils::write.csv(
    stats::aggregate(cases ~ code, long, sum),
    file.path(folder, "wide.csv"),
    row.names = FALSE
  )
  utils::write.csv(
    data.frame(place = letters[1:3], longitude = 1:3 + 0.5, latitude = 0.5, beds = c(5, 50, 0)),
    file.path(folder, "places.csv"),
    row.names = FALSE
  )
  folder
}

# Words by the name of the key that they stand under.
sheet_pool <- list(
  file = c("areas.geojson", "cases.csv", "places.csv", "nothing.csv"),
  data = c("areas", "joined", "places"), boundaries = "areas",
  statistics = c("cases", "wide"), aliases = "cases", standard = "cases",
  changes = "cases", points = "places", table = "wide",
  # What stands at the top of a sheet and would else mostly be refused.
  source_link = "https://registry.example/", budget = c("500 kB", "2 MB"), code = "it",
  decimal = ",", thousands = ".", fill = c("red", "#ddd8cc")
)
sheet_columns <- c(
  "code", "name", "region", "population", "cases", "rate", "month", "beds", "geometry",
  "none"
)
sheet_oddities <- list(
  "", " ", strrep("x", 5000), "\u00e9\n", "{name}", "{rate|0}", "{", "{}", "<b>", "%n%s",
  "NA", "10", 0L, 1L, -1L, 5L, 0.5, 1e308, -1e308, 1e-308, 2147483647, Inf, NaN, TRUE,
  list(), NULL
)

random_value <- function(rule, key, schema, odd) {
  if (!is.null(rule[["$ref"]])) rule <- schema$`$defs`[[sub("^#/\\$defs/", "", rule[["$ref"]])]]
  if (stats::runif(1) < odd) return(sample(sheet_oddities, 1)[[1]])
  if (!is.null(rule$enum)) return(sample(rule$enum, 1)[[1]])
  switch(sample(unlist(rule$type), 1),
    string = if (!is.null(sheet_pool[[key]])) {
      sample(sheet_pool[[key]], 1)
    } else if (stats::runif(1) < 0.7) {
      sample(sheet_columns, 1)
    } else {
      sample(c("A", "red", "madder", "{name}: {rate}", "500 kB", "2031-01"), 1)
    },
    number = sample(c(0, 1, 0.5, 3, 10, 100, -1), 1),
    integer = sample(c(0L, 1:7), 1),
    boolean = sample(c(TRUE, FALSE), 1),
    array = lapply(seq_len(max(rule$minItems %||% 0, sample(0:4, 1))), function(i) {
      random_value(rule$items, key, schema, odd)
    }),
    object = random_object(rule, schema, odd)
  )
}

random_object <- function(rule, schema, odd) {
  known <- names(rule$properties)
  if (is.null(known)) {
    keys <- sample(c("A", "B", "Name", ""), sample(1:2, 1), prob = c(5, 5, 5, 0.1))
    return(stats::setNames(
      lapply(keys, function(key) random_value(rule$additionalProperties, key, schema, odd)),
      keys
    ))
  }
  most <- rule$maxProperties %||% 4
  free <- setdiff(known, unlist(rule$required))
  keys <- c(unlist(rule$required), utils::head(sample(free), sample(0:min(most, length(free)), 1)))
  keys <- utils::head(keys, most + length(rule$required))
  if (identical(rule$minProperties, 1L) && !length(keys)) keys <- sample(known, 1)
  stats::setNames(
    lapply(keys, function(key) random_value(rule$properties[[key]], key, schema, odd)),
    keys
  )
}

# A layer that would do, with one or two keys more.
sound_layer <- function(schema, odd) {
  sound <- list(
    shade_areas = list(data = "joined", value = "cases_per_1000"),
    place_symbols = list(data = "places", size = "beds"),
    draw_lines = list(data = "areas"),
    write_labels = list(data = "areas", text = "name"),
    shade_density = list(data = "places", kernel = 40000),
    shade_heat = list(data = "places"),
    lay_plain = list(),
    show_layer = list(off = TRUE)
  )
  verb <- sample(names(sound), 1, prob = c(6, 3, 1, 2, 1, 1, 1, 1))
  rule <- schema$`$defs`$layer$properties[[verb]]
  more <- utils::head(sample(setdiff(names(rule$properties), names(sound[[verb]]))), sample(0:2, 1))
  given <- c(
    sound[[verb]],
    stats::setNames(
      lapply(more, function(key) random_value(rule$properties[[key]], key, schema, odd)),
      more
    )
  )
  stats::setNames(list(given), verb)
}

random_sheet <- function(schema, odd = 0.02) {
  step <- function(verb, ...) stats::setNames(list(list(...)), verb)
  tables <- list(
    areas = list(step("read_boundaries", file = "areas.geojson")),
    wide = list(step("read_statistics", file = "wide.csv")),
    joined = list(
      step("join_statistics", boundaries = "areas", statistics = "wide", by = list(code = "code")),
      step("rate_per", count = "cases", population = "population")
    ),
    places = list(step("read_statistics", file = "places.csv"))
  )
  if (stats::runif(1) < 0.5) {
    tables <- c(
      tables["areas"],
      list(cases = list(step("read_statistics", file = "cases.csv"))),
      tables[-1]
    )
  }
  grown <- sample(c(names(tables), rep("joined", 5)), 1)
  tables[[grown]] <- c(
    tables[[grown]],
    lapply(seq_len(sample(0:2, 1)), function(i) {
      random_value(list(`$ref` = "#/$defs/step"), "", schema, odd)
    })
  )
  top <- random_object(schema, schema, odd)
  top$title <- top$title %||% "T"
  if (stats::runif(1) < 0.7) top <- top[setdiff(names(top), "inset")]
  top$ochre <- 1L
  if (stats::runif(1) < 0.95) top$tables <- tables
  top$layers <- lapply(seq_len(sample(3, 1)), function(i) {
    if (stats::runif(1) < 0.8) {
      sound_layer(schema, odd)
    } else {
      random_value(list(`$ref` = "#/$defs/layer"), "", schema, odd)
    }
  })
  top$publish <- list("map.html")
  top
}

sheet_yaml <- function(sheet) {
  yaml::as.yaml(
    sheet,
    handlers = list(logical = function(x) {
      structure(stringi::stri_trans_tolower(x), class = "verbatim")
    })
  )
}

# Every place in a value: a list of lists of keys.
places_in <- function(x, at = list()) {
  if (!is.list(x) || !length(x)) return(list(at))
  keys <- if (is.null(names(x))) as.list(seq_along(x)) else as.list(names(x))
  c(
    if (length(at)) list(at),
    unlist(lapply(seq_along(x), function(i) places_in(x[[i]], c(at, keys[i]))), recursive = FALSE)
  )
}

put_at <- function(x, place, value) {
  if (!length(place)) return(value)
  x[place[[1]]] <- list(put_at(x[[place[[1]]]], place[-1], value))
  x
}
