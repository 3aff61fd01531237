# The figure: a ggplot2 object drawn from a plan and nothing else. ggplot2 is loaded here and in
# the other figure files only.

#' A map as a ggplot2 figure
#'
#' @param sheet A sheet from [map_sheet()], a plan from [resolve_sheet()], or a comparison from
#'   [compare_steps()].
#' @param base_size Size of the running text in points: one number; `NULL` (default) as
#'   [figure_style()] says.
#' @param width Width in inches at which the figure will be drawn, so that words break and the
#'   legend stands where they should: one number; `NULL` (default) as [figure_style()] says.
#' @return A ggplot object, to which further layers and themes can be added. Its layers hold
#'   projected coordinates (map units, about metres) and the plan's colours; with panels it is
#'   faceted by a column `panel`. The legend stands in a margin that is kept free for it.
#' @section Errors: Those of [resolve_sheet()].
#' @examples
#' areas <- read_boundaries(ochre_demo("districts.geojson"))
#' areas <- rate_per(areas, population_65_plus, population, 100, name = "share")
#' map_sheet("People over 64, in percent") |> shade_areas(areas, share) |> as_figure()
#' @export
as_figure <- function(sheet, base_size = NULL, width = NULL) {
  check_number(base_size, "base_size", min = 4, max = 40, null = TRUE)
  check_number(width, "width", min = 1.5, max = 100, null = TRUE)
  if (inherits(sheet, "ochre_comparison")) return(figure_comparison(sheet, base_size %||% 10))
  plan <- resolve_sheet(sheet)
  draw_plan(plan, figure_layout(plan, width, base_size))
}

draw_plan <- function(plan, at) {
  plan$layers <- lapply(plan$layers, with_opacity)
  drawn <- vapply(plan$layers, function(l) l$kind %in% c("areas", "lines"), NA)
  layers <- lapply(seq_along(plan$layers), function(i) {
    layer <- plan$layers[[i]]
    if (!on_whole_map(layer)) return(NULL)
    switch(layer$kind,
      areas = figure_areas(
        layer,
        call_core(paths_core(plan$topology, match(i, which(drawn)))),
        plan,
        at
      ),
      lines = figure_lines(layer, call_core(paths_core(plan$topology, match(i, which(drawn))))),
      symbols = figure_symbols(layer, plan, at),
      density = ,
      heat = figure_density(layer),
      labels = figure_labels(layer, plan, at$text)
    )
  })
  frame <- at$frame
  ggplot2::ggplot() +
    ggplot2::geom_blank(
      columns_as(x = "x", y = "y"),
      data = figure_data(list(x = frame[c("x0", "x1")], y = frame[c("y0", "y1")]))
    ) + figure_backdrop(plan) + figure_insets(plan$insets, at$text, plan$inks) + layers +
    figure_furniture(plan, at) + figure_legends(plan, at) +
    ggplot2::scale_fill_identity(guide = "none") +
    ggplot2::coord_equal(
      xlim = unname(frame[c("x0", "x1")]),
      ylim = unname(frame[c("y0", "y1")]),
      expand = FALSE,
      clip = "off"
    ) +
    (if (!is.null(plan$panels)) {
        ggplot2::facet_wrap(ggplot2::vars(.data$panel), ncol = at$columns, drop = FALSE)
      }) +
    figure_texts(plan, at) + figure_theme(plan, at)
}

# Title, subtitle and what stands below the map, in lines as wide as the figure.
figure_texts <- function(plan, at) {
  words <- function(text, size) if (!is.null(text)) wrap_words(text, at$words, size)
  below <- c(plan$note, plan$source, figure_picture(plan)$attribution)
  ggplot2::labs(
    title = words(plan$title, title_size(at)),
    subtitle = words(plan$subtitle, 1.1 * at$text),
    caption = paste(vapply(below, words, "", 0.8 * at$text), collapse = "\n"),
    alt = plan$alt
  )
}

# A layer with the opacity that show_layer() says, in the map and its legend.
with_opacity <- function(layer) {
  share <- layer$show$opacity %||% 1
  if (share == 1) return(layer)
  if (!layer$kind %in% c("lines", "labels")) {
    layer$opacity <- (layer$opacity %||% 1) * share
    return(layer)
  }
  clear <- function(colour) {
    if (!is.null(colour)) grDevices::adjustcolor(colour, alpha.f = share)
  }
  for (field in c("colour", "casing", "halo", "inks", "halos")) {
    layer[[field]] <- clear(layer[[field]])
  }
  if (!is.null(layer$key)) {
    layer$key[c("colours", "no_data")] <- list(
      clear(layer$key$colours),
      utils::modifyList(layer$key$no_data, list(colour = clear(layer$key$no_data$colour)))
    )
  }
  layer
}

figure_theme <- function(plan, at) {
  size <- at$text
  text <- plan$inks$text
  ggplot2::theme_void(base_size = size) + ggplot2::theme(
    plot.background = if (plan$style$figure$transparent) {
      ggplot2::element_blank()
    } else {
      ggplot2::element_rect(fill = plan$inks$ground, colour = NA)
    },
    plot.margin = ggplot2::margin(size, at$right * 72.27 + size, size, size, "pt"),
    plot.title = ggplot2::element_text(
      face = "bold",
      size = 1.5 * size,
      colour = text,
      margin = ggplot2::margin(b = 0.35 * size),
      lineheight = 1.05
    ),
    plot.subtitle = ggplot2::element_text(
      size = 1.1 * size,
      colour = text,
      margin = ggplot2::margin(b = 0.8 * size),
      lineheight = 1.05
    ),
    plot.caption = ggplot2::element_text(
      size = 0.8 * size,
      colour = plan$inks$soft,
      hjust = 0,
      margin = ggplot2::margin(t = size + (at$below + at$under_each) * 72.27),
      lineheight = 1.1
    ),
    plot.title.position = "plot",
    plot.caption.position = "plot",
    strip.text = ggplot2::element_text(
      face = "bold",
      size = size,
      colour = text,
      hjust = 0,
      margin = ggplot2::margin(b = 0.3 * size)
    ),
    panel.spacing = grid::unit(size, "pt"),
    panel.spacing.y = grid::unit(size + at$under_each * 72.27, "pt")
  )
}

# Lines of at most so many inches, by the mean width of a letter.
wrap_words <- function(text, inches, size) {
  paste(strwrap(text, max(12, floor(inches * 72.27 / (0.5 * size)) + 1)), collapse = "\n")
}

# A frame around each inset, with its label inside at the top.
figure_insets <- function(insets, base_size, ink) {
  if (!length(insets)) return(NULL)
  frame <- figure_data(as.list(as.data.frame(do.call(
    rbind,
    lapply(insets, function(i) i$frame)
  ))))
  frame$label <- vapply(insets, function(i) i$label, "")
  list(
    ggplot2::geom_rect(
      columns_as(xmin = "x0", ymin = "y0", xmax = "x1", ymax = "y1"),
      data = frame,
      fill = NA,
      colour = ink$faint,
      linewidth = 0.3
    ),
    ggplot2::geom_text(
      columns_as(x = "x0", y = "y1", label = "label"),
      data = frame,
      hjust = 0,
      vjust = -0.5,
      size = 0.75 * base_size / ggplot2::.pt,
      colour = ink$soft
    )
  )
}

# Which column of the layer's data goes where, by name.
columns_as <- function(...) ggplot2::aes(!!!rlang::syms(c(...)))
figure_data <- function(columns) as.data.frame(columns, stringsAsFactors = FALSE)

# A factor of panels, so that ggplot2 draws a row in its own map only.
panel_factor <- function(at, plan) factor(plan$panels[at], plan$panels)
