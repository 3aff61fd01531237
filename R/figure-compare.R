# A comparison of steps as a figure: for each way a small map, where there are areas, over a
# histogram in the colours of the classes, with the breaks marked.

figure_comparison <- function(comparison, base_size) {
  x <- attr(comparison, "value")
  wkb <- attr(comparison, "wkb")
  map <- if (!is.null(wkb)) small_map(wkb)
  words <- read_locale("en")$page
  panels <- lapply(seq_len(nrow(comparison)), function(i) {
    panel_of(comparison[i, ], x, map, words$compare_fit)
  })
  parts <- lapply(c(bars = "bars", marks = "marks", words = "words", areas = "areas"), bind_panels,
                  panels = panels, methods = unique(comparison$method))
  plain <- list(inks = as.list(plan_inks("light")), style = list(figure = figure_style()))
  room <- list(text = base_size, right = 0, below = 0, under_each = 0)
  ggplot2::ggplot() +
    comparison_layers(parts, base_size, plain$inks$text) +
    ggplot2::scale_fill_identity(guide = "none") +
    ggplot2::facet_grid(
      ggplot2::vars(.data$n),
      ggplot2::vars(.data$method),
      switch = "y",
      labeller = ggplot2::labeller(n = function(n) fill_word(words$compare_classes, n))
    ) +
    comparison_shape(is.null(map)) +
    ggplot2::labs(
      title = fill_word(words$compare_title, words_of(attr(comparison, "variable"))),
      subtitle = words$compare_note
    ) +
    figure_theme(plain, room) +
    comparison_theme(base_size, plain$inks$text)
}

# One kind of piece of all panels, the methods in their order.
bind_panels <- function(what, panels, methods) {
  pieces <- do.call(rbind, lapply(panels, function(p) p[[what]]))
  if (is.null(pieces)) return(NULL)
  named <- function(method) sub("headtail", "head and tail", method)
  pieces$method <- factor(named(pieces$method), named(methods))
  pieces
}

comparison_shape <- function(plain) {
  if (plain) return(ggplot2::coord_cartesian(expand = FALSE, clip = "off"))
  ggplot2::coord_equal(expand = FALSE, clip = "off")
}

comparison_layers <- function(parts, base_size, ink) {
  areas <- if (!is.null(parts$areas)) {
    ggplot2::geom_polygon(
      columns_as(x = "x", y = "y", group = "part", subgroup = "ring", fill = "colour"),
      data = parts$areas,
      colour = ink_colour("outline", "light"),
      linewidth = 0.08,
      rule = "evenodd"
    )
  }
  bars <- ggplot2::geom_rect(
    columns_as(xmin = "from", xmax = "to", ymin = "low", ymax = "high", fill = "colour"),
    data = parts$bars
  )
  marks <- ggplot2::geom_segment(
    columns_as(x = "x", xend = "x", y = "low", yend = "high"),
    data = parts$marks,
    colour = ink,
    linewidth = 0.35
  )
  words <- ggplot2::geom_text(
    columns_as(x = "x", y = "y", label = "label"),
    data = parts$words,
    hjust = 0,
    vjust = 1,
    size = 0.72 * base_size / ggplot2::.pt,
    colour = ink
  )
  list(areas, bars, marks, words)
}

comparison_theme <- function(base_size, ink) {
  strip <- ggplot2::element_text(
    size = 0.9 * base_size,
    face = "bold",
    colour = ink,
    margin = ggplot2::margin(2, 2, 4, 2)
  )
  ggplot2::theme(
    plot.margin = ggplot2::margin(base_size, base_size, base_size, base_size),
    panel.spacing = grid::unit(base_size, "pt"),
    strip.text = strip,
    strip.text.y.left = ggplot2::element_text(angle = 90)
  )
}

# Paths of the areas in a box that is one wide, lighter than a whole map's.
small_map <- function(wkb) {
  world <- call_core(extent_core(list(wkb), list(), "fitted"))
  topology <- call_core(topology_core(
    list(map = wkb),
    world$places[[1]]$projection,
    grid_levels,
    list()
  ))
  if (length(topology$x) > 4000) {
    topology <- call_core(lighter_topology_core(topology, 4000 / length(topology$x)))
  }
  paths <- figure_data(call_core(paths_core(topology, 1L)))
  width <- diff(range(paths$x))
  paths$y <- (paths$y - min(paths$y)) / width
  paths$x <- (paths$x - min(paths$x)) / width
  list(paths = paths, height = max(paths$y))
}

# The pieces of one panel in units of its width: the map stands over the histogram.
panel_of <- function(row, x, map, fit_word) {
  steps <- row$steps[[1]]
  colours <- as.character(unclass(ramp_colours("woad", length(steps$counts))))
  histogram <- if (is.null(map)) 1 else 0.28
  counts <- steps$values$counts
  edges <- seq(steps$values$from, steps$values$to, length.out = length(counts) + 1)
  place <- function(v) {
    (v - steps$values$from) / max(steps$values$to - steps$values$from, .Machine$double.xmin)
  }
  class <- class_of(steps, (edges[-1] + edges[-length(edges)]) / 2)
  bars <- data.frame(
    from = place(edges[-length(edges)]),
    to = place(edges[-1]),
    low = 0,
    high = histogram * counts / max(counts),
    colour = ifelse(is.na(class), no_data_colour(), colours[class])
  )
  inner <- steps$breaks[-c(1, length(steps$breaks))]
  marks <- data.frame(x = place(inner[inner >= steps$values$from & inner <= steps$values$to]))
  marks$low <- rep(-0.09 * histogram, nrow(marks))
  marks$high <- rep(0, nrow(marks))
  words <- data.frame(
    x = 0.52,
    y = histogram,
    label = fill_word(fit_word, format_number(steps$fit, 3))
  )
  areas <- if (!is.null(map)) {
    paths <- map$paths
    feature <- class_of(steps, x)[paths$feature]
    paths$colour <- ifelse(is.na(feature), no_data_colour(), colours[feature])
    paths$y <- paths$y + histogram + 0.08
    paths
  }
  lapply(list(bars = bars, marks = marks, words = words, areas = areas), function(d) {
    if (!is.null(d) && nrow(d)) cbind(d, method = row$method, n = row$n)
  })
}
