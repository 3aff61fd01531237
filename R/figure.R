# The figure: a ggplot2 object drawn from a plan and nothing else. ggplot2 is loaded here only.

#' A map as a ggplot2 figure
#'
#' @param sheet A sheet from [map_sheet()], a plan from [resolve_sheet()], or a comparison from [compare_steps()].
#' @param base_size Size of the running text in points: one number.
#' @return A ggplot object. Its layers hold projected coordinates (map units, about metres) and
#'   the plan's colours; the legend stands in the right margin, which is 2.1 inches wide.
#' @section Errors: Those of [resolve_sheet()].
#' @examples
#' areas <- read_boundaries(ochre_demo("districts.geojson"))
#' areas <- rate_per(areas, population_65_plus, population, 100, name = "share")
#' map_sheet("People over 64, in percent") |> shade_areas(areas, share) |> as_figure()
#' @export
as_figure <- function(sheet, base_size = 10) {
  check_number(base_size, "base_size", min = 4, max = 40)
  if (inherits(sheet, "ochre_comparison")) return(figure_comparison(sheet, base_size))
  plan <- resolve_sheet(sheet)
  frame <- plan$frame
  drawn <- vapply(plan$layers, function(l) l$kind != "symbols", NA)
  layers <- lapply(seq_along(plan$layers), function(i) {
    layer <- plan$layers[[i]]
    if (layer$kind == "symbols") return(figure_symbols(layer))
    paths <- paths_core(plan$topology, match(i, which(drawn)))
    if (layer$kind == "areas") figure_areas(layer, paths, hatch_spacing(frame)) else figure_lines(layer, paths)
  })
  legend <- ggplot2::annotation_custom(legend_grob(plan, base_size))
  ggplot2::ggplot() + figure_insets(plan$insets, base_size) + layers + legend + ggplot2::scale_fill_identity(guide = "none") +
    ggplot2::coord_equal(xlim = unname(frame[c("x0", "x1")]), ylim = unname(frame[c("y0", "y1")]), expand = FALSE, clip = "off") +
    ggplot2::labs(title = plan$title, subtitle = plan$subtitle, caption = paste(c(plan$note, plan$source), collapse = "\n"), alt = plan$alt) +
    figure_theme(base_size)
}

figure_theme <- function(base_size) {
  text <- ink_colour("line")
  ggplot2::theme_void(base_size = base_size) + ggplot2::theme(
    plot.background = ggplot2::element_rect(fill = "white", colour = NA),
    plot.margin = ggplot2::margin(base_size, legend_inches * 72.27, base_size, base_size, "pt"),
    plot.title = ggplot2::element_text(face = "bold", size = 1.5 * base_size, colour = text, margin = ggplot2::margin(b = 0.35 * base_size)),
    plot.subtitle = ggplot2::element_text(size = 1.1 * base_size, colour = text, margin = ggplot2::margin(b = 0.8 * base_size)),
    plot.caption = ggplot2::element_text(size = 0.8 * base_size, colour = text, hjust = 0, margin = ggplot2::margin(t = base_size), lineheight = 1.1),
    plot.title.position = "plot", plot.caption.position = "plot"
  )
}

# Outer rings and holes of a part are one path, filled by the even-odd rule.
figure_areas <- function(layer, paths, spacing) {
  data <- figure_data(paths)
  class <- layer$class[data$feature]
  data$class <- class
  data$colour <- c(layer$no_data$colour, layer$colours)[class + 1L]
  list(
    ggplot2::geom_polygon(columns_as(x = "x", y = "y", group = "part", subgroup = "ring", fill = "colour"),
                          data = data, colour = layer$outline, linewidth = 0.2, linejoin = "round", rule = "evenodd"),
    if (!is.null(layer$hatch)) figure_hatch(layer, data, spacing)
  )
}

# About two hundred and forty lines across the map, whatever its size on paper.
hatch_spacing <- function(frame) sqrt((frame[["x1"]] - frame[["x0"]])^2 + (frame[["y1"]] - frame[["y0"]])^2) / 240

figure_hatch <- function(layer, data, spacing) {
  hatched <- data[data$class == layer$hatch$class, ]
  list(
    ggplot2::geom_segment(columns_as(x = "x", y = "y", xend = "xend", yend = "yend"), data = hatch_lines(hatched, spacing), colour = layer$hatch$colour, linewidth = 0.25),
    ggplot2::geom_polygon(columns_as(x = "x", y = "y", group = "ring"), data = hatched, fill = NA, colour = layer$hatch$colour, linewidth = 0.2)
  )
}

# Where rising diagonals, so far apart, lie inside the rings: each is cut wherever it crosses an edge,
# and every other piece is inside (the even-odd rule).
hatch_lines <- function(rings, spacing) {
  same <- c(rings$ring[-1] == rings$ring[-nrow(rings)], FALSE)
  turn <- sqrt(0.5)
  u <- (rings$x + rings$y) * turn / spacing
  v <- (rings$y - rings$x) * turn / spacing
  # A ring ends in its first corner.
  first <- match(rings$ring, rings$ring)
  to <- ifelse(same, seq_along(same) + 1L, first)
  low <- pmin(v, v[to])
  high <- pmax(v, v[to])
  from <- ceiling(low)
  n <- pmax(0, ceiling(high) - from)
  edge <- rep(seq_along(n), n)
  line <- from[edge] + sequence(n) - 1
  at <- u[edge] + (line - v[edge]) * (u[to[edge]] - u[edge]) / (v[to[edge]] - v[edge])
  order <- order(line, at)
  odd <- order[c(TRUE, FALSE)]
  even <- order[c(FALSE, TRUE)]
  back <- function(u, v) list(x = (u - v) * turn * spacing, y = (u + v) * turn * spacing)
  a <- back(at[odd], line[odd])
  b <- back(at[even], line[even])
  data.frame(x = a$x, y = a$y, xend = b$x, yend = b$y)
}

# A frame around each inset, with its label inside at the top.
figure_insets <- function(insets, base_size) {
  if (!length(insets)) return(NULL)
  frame <- figure_data(as.list(as.data.frame(do.call(rbind, lapply(insets, function(i) i$frame)))))
  frame$label <- vapply(insets, function(i) i$label, "")
  list(
    ggplot2::geom_rect(columns_as(xmin = "x0", ymin = "y0", xmax = "x1", ymax = "y1"), data = frame, fill = NA, colour = "grey60", linewidth = 0.3),
    ggplot2::geom_text(columns_as(x = "x0", y = "y1", label = "label"), data = frame, hjust = 0, vjust = -0.5, size = 0.75 * base_size / ggplot2::.pt, colour = "grey35")
  )
}

figure_lines <- function(layer, paths) {
  ggplot2::geom_path(columns_as(x = "x", y = "y", group = "ring"), data = figure_data(paths), colour = layer$colour,
                     linewidth = layer$width / 72.27 * 25.4, linetype = if (layer$dash) "33" else "solid", lineend = "butt")
}

# Circles are drawn in map units, so that the legend's circles and the map's keep one scale at
# any size of the figure.
figure_symbols <- function(layer) {
  n <- length(layer$x)
  corners <- if (n > 2000) 16L else 60L
  turn <- seq(0, 2 * pi, length.out = corners + 1L)[-1]
  data <- figure_data(list(
    x = rep(layer$x, each = corners) + rep(layer$r, each = corners) * cos(turn),
    y = rep(layer$y, each = corners) + rep(layer$r, each = corners) * sin(turn), symbol = rep(seq_len(n), each = corners)
  ))
  fills <- if (is.null(layer$key)) rep(layer$colour, n) else c(layer$key$no_data$colour, layer$key$colours)[layer$key$class + 1L]
  data$colour <- symbol_fill(fills, layer)[data$symbol]
  ggplot2::geom_polygon(columns_as(x = "x", y = "y", group = "symbol", fill = "colour"), data = data, colour = "white", linewidth = 0.3)
}

# Which column of the layer's data goes where, by name.
columns_as <- function(...) ggplot2::aes(!!!rlang::syms(c(...)))
figure_data <- function(columns) as.data.frame(columns, stringsAsFactors = FALSE)
# Colours of a key are seen as they are in the legend; one colour lets the map shine through.
symbol_fill <- function(colour, layer) grDevices::adjustcolor(colour, alpha.f = if (is.null(layer$key)) 0.62 else 0.9)

# Height that fits the map's shape, in inches.
figure_height <- function(plan, width, base_size = 10) {
  frame <- plan$frame
  panel <- max(1, width - legend_inches - base_size / 72.27)
  words <- (1.5 * 1.4 + (if (!is.null(plan$subtitle)) 2.1 else 0.3) + 1.5 + 1.1 * length(c(plan$note, plan$source)) + 2) * base_size / 72.27
  min(3 * width, max(2.5, panel * (frame[["y1"]] - frame[["y0"]]) / (frame[["x1"]] - frame[["x0"]]) + words))
}
