# Plans of every kind of layer, over the whole language, for the contract of a plan.

plan_world <- function() {
  areas <- squares(sprintf("%02d", 1:6))
  areas$v <- c(3, 1, 4, 1, 5, NA)
  areas$w <- c(2, 7, 1, 8, 2, 8)
  areas$kind <- rep(c("a", "b"), 3)
  areas$few <- c(TRUE, rep(FALSE, 5))
  long <- areas[rep(1:6, 2), ]
  long$month <- rep(c("May", "June"), each = 6)
  long$v <- 1:12
  places <- data.frame(
    name = letters[1:4], longitude = c(1, 1.2, 3, 4), latitude = 0.5, n = c(9, 4, 1, 16),
    m = c(1, 2, 3, 4), kind = c("x", "y", "x", NA)
  )
  list(areas = areas, long = long, places = places)
}

# One layer of a random kind with random wishes, added to a sheet.
any_layer <- function(sheet, world) {
  pick <- function(...) sample(list(...), 1)[[1]]
  layer <- sample(plan_layer_makers, 1)[[1]]
  sheet <- layer(sheet, world, pick)
  if (runif(1) < 0.3) sheet <- show_layer(sheet, off = TRUE, zooms = c(1, 8), opacity = 0.5)
  sheet
}

plan_layer_makers <- list(
  areas = function(sheet, world, pick) {
    shade_areas(
      sheet, world$areas, v,
      steps = pick(steps_equal(2), steps_quantile(3), steps_natural(2)),
      hatch = !!pick(NULL, "few"), popup = c("Value" = v), hover = pick(NULL, "{v}")
    )
  },
  categories = function(sheet, world, pick) {
    shade_areas(sheet, world$areas, kind, steps = steps_categories())
  },
  panels = function(sheet, world, pick) {
    shade_areas(
      sheet, world$long, v,
      by = "month", steps = steps_equal(2), own_steps = pick(TRUE, FALSE), hatch = few
    )
  },
  pairs = function(sheet, world, pick) {
    shade_pairs(sheet, world$areas, v, w, steps = steps_quantile(2))
  },
  symbols = function(sheet, world, pick) {
    place_symbols(
      sheet, world$places, n,
      colour = !!pick(NULL, "kind"), shape = pick("circle", "square", "triangle", "bar"),
      overlap = pick("order", "transparent", "move"), group = pick(TRUE, FALSE),
      popup = c("Link" = popup_link("https://example.org/{name}", "On {name}"))
    )
  },
  split = function(sheet, world, pick) place_symbols(sheet, world$places, n, second = m),
  lines = function(sheet, world, pick) {
    draw_lines(
      sheet, world$areas,
      width = !!pick(1.5, "w", by_zoom(c(1, 8), c(1, 3))), dash = pick(TRUE, FALSE),
      casing = TRUE, arrow = pick(TRUE, FALSE), colour = !!pick(NULL, "kind")
    )
  },
  density = function(sheet, world, pick) shade_density(sheet, world$places, kernel = 60000),
  heat = function(sheet, world, pick) shade_heat(sheet, world$places, weight = !!pick(NULL, "n")),
  labels = function(sheet, world, pick) {
    write_labels(sheet, world$areas, "{code}", halo = pick(TRUE, FALSE))
  }
)

any_sheet <- function(world, layers = sample(4, 1)) {
  pick <- function(...) sample(list(...), 1)[[1]]
  sheet <- map_sheet(
    "T",
    subtitle = pick(NULL, "S"), source = pick(NULL, "Q"), locale = sample(locale_codes, 1),
    ground = pick("light", "dark", "follow"),
    figure = figure_style(bars = pick(0, 2), scale_bar = pick(TRUE, FALSE)),
    page = page_style(cards = c("sum", "highest"), tools = "print", table = pick(TRUE, FALSE))
  )
  for (i in seq_len(layers)) sheet <- any_layer(sheet, world)
  sheet
}

# Every place of a field in a plan, as paths of names and numbers; topology is looked at as one.
field_paths <- function(x, at = list()) {
  if (!is.list(x)) return(list())
  keys <- if (is.null(names(x))) seq_along(x) else names(x)
  unlist(
    lapply(keys, function(key) {
      path <- c(at, list(key))
      own <- if (is.character(key)) list(path)
      inside <- if (!identical(key, "topology")) field_paths(x[[key]], path)
      c(own, inside)
    }),
    recursive = FALSE
  )
}

# The same list with something else at a path.
with_path <- function(x, path, value) {
  if (!length(path)) return(value)
  x[[path[[1]]]] <- with_path(x[[path[[1]]]], path[-1], value)
  x
}

# Kilometres along a great circle of a sphere; the globe is not quite one.
km_between <- function(lon1, lat1, lon2, lat2) {
  rad <- pi / 180
  across <- cos(lat1 * rad) * cos(lat2 * rad) * sin((lon2 - lon1) * rad / 2)^2
  2 * 6371 * asin(sqrt(sin((lat2 - lat1) * rad / 2)^2 + across))
}
