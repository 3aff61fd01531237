# The figure as a ggplot2 object, drawn from a plan and nothing else. ggplot2 is loaded here and in
# figure-compare.R only; what is published is drawn by figure-paper.R.

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
  refuse_missing(missing(sheet), "sheet", rlang::current_env())
  check_number(base_size, "base_size", min = 4, max = 40, null = TRUE)
  check_number(width, "width", min = 1.5, max = 100, null = TRUE)
  if (inherits(sheet, "ochre_comparison")) return(figure_comparison(sheet, base_size %||% 10))
  plan <- resolve_sheet(sheet)
  draw_plan(plan, figure_layout(plan, width, base_size))
}

draw_plan <- function(plan, at) {
  frame <- at$frame
  ggplot2::ggplot() +
    ggplot2::geom_blank(
      columns_as(x = "x", y = "y"),
      data = figure_data(list(x = frame[c("x0", "x1")], y = frame[c("y0", "y1")]))
    ) + lapply(plan_pieces(plan, at), piece_layer) +
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
    figure_labs(plan, at) + figure_theme(plan, at)
}

# A piece of the figure as a layer: its geom hands the rows of each map to the piece.
piece_layer <- function(piece) {
  geom <- ggplot2::ggproto(
    "GeomOchrePiece",
    ggplot2::Geom,
    required_aes = character(),
    draw_panel = function(data, panel_params, coord, draw) {
      place <- function(p) coord$transform(figure_data(list(x = p$x, y = p$y)), panel_params)
      draw(data, place, as.integer(data$PANEL[1]))
    },
    draw_key = ggplot2::draw_key_blank
  )
  columns <- setdiff(names(piece$data), c("one", "panel"))
  ggplot2::layer(
    geom = geom,
    stat = "identity",
    position = "identity",
    data = piece$data,
    mapping = do.call(columns_as, as.list(stats::setNames(columns, columns))),
    inherit.aes = FALSE,
    show.legend = FALSE,
    check.aes = FALSE,
    params = list(draw = piece$draw, na.rm = TRUE)
  )
}

figure_labs <- function(plan, at) {
  texts <- figure_texts(plan, at)
  ggplot2::labs(
    title = texts$title,
    subtitle = texts$subtitle,
    caption = texts$caption,
    alt = plan$alt
  )
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
      vjust = 1,
      margin = ggplot2::margin(b = 0.3 * size)
    ),
    panel.spacing = grid::unit(size, "pt"),
    panel.spacing.y = grid::unit(size + at$under_each * 72.27, "pt")
  )
}

# Which column of the layer's data goes where, by name.
columns_as <- function(...) ggplot2::aes(!!!rlang::syms(c(...)))
