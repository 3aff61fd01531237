# Scale bar, north mark and ranked bars of a figure.

figure_furniture <- function(plan, at) {
  if (is.null(at$furniture)) return(NULL)
  list(note_piece(
    grid::gTree(plan = plan, at = at, cl = "ochre_furniture"),
    if (!is.null(plan$panels)) (at$rows - 1L) * at$columns + 1L,
    plan
  ))
}

#' @exportS3Method grid::makeContent
makeContent.ochre_furniture <- function(x) {  # nolint: object_name_linter.
  place <- furniture_place(x$at)
  style <- x$plan$style$figure
  bar <- if (style$scale_bar) scale_bar_grobs(x$plan, x$at, place)
  if (style$scale_bar) place$low <- place$low + 1.7 * place$line
  north <- if (style$north) north_grobs(x$plan, x$at, place)
  grid::setChildren(x, do.call(grid::gList, c(bar, north)))
}

# The box in inches of the map, whose size is known only now.
furniture_place <- function(at) {
  width <- grid::convertWidth(grid::unit(1, "npc"), "inches", valueOnly = TRUE)
  height <- grid::convertHeight(grid::unit(1, "npc"), "inches", valueOnly = TRUE)
  box <- at$furniture
  low <- if (is.null(box$under)) {
    box$y * (height - box$height) + 0.04
  } else {
    -at$under_each - box$height
  }
  list(
    width = width, height = height, box = box, low = low,
    left = box$x * (width - box$width) + 0.04, line = 1.3 * at$text / 72.27
  )
}

scale_bar_grobs <- function(plan, at, place) {
  ink <- plan$inks
  box <- place$box
  line <- place$line
  long <- plan$scale_bar$length * place$width / (at$frame[["x1"]] - at$frame[["x0"]])
  # On the right side the bar ends where the box does.
  from <- if (box$x > 0) place$left + box$width - long - 0.08 else place$left
  stroke <- grid::gpar(col = ink$text, lwd = 1.1, linejoin = "mitre", lineend = "square")
  label_y <- place$low + 0.85 * line
  pen <- legend_pen(plan, at)
  list(
    grid::polylineGrob(
      inch(from + c(0, 0, long, long)),
      inch(place$low + c(0.35, 0, 0, 0.35) * line),
      gp = stroke
    ),
    words_grob(plan$scale_bar$label, from + long / 2, label_y, pen, just = 0.5)
  )
}

north_grobs <- function(plan, at, place) {
  ink <- plan$inks
  line <- place$line
  box <- place$box
  right <- box$x > 0
  middle <- if (right) place$left + box$width - line else place$left + 0.8 * line
  frame <- at$frame
  x <- frame[["x0"]] + middle / place$width * (frame[["x1"]] - frame[["x0"]])
  y <- frame[["y0"]] + place$low / place$height * (frame[["y1"]] - frame[["y0"]])
  turn <- north_at(x, y, plan$projection) * pi / 180
  needle <- function(px, py) {
    list(
      x = inch(middle + px * cos(turn) + py * sin(turn)),
      y = inch(place$low + 0.8 * line - px * sin(turn) + py * cos(turn))
    )
  }
  arm <- needle(c(0, 0), c(-0.8, 0.8) * line)
  head <- needle(c(-0.28, 0, 0.28) * line, c(0.25, 0.85, 0.25) * line)
  letter <- needle(0, 1.35 * line)
  pen <- legend_pen(plan, at)
  bold <- grid::gpar(fontsize = pen$size, fontface = "bold", col = ink$text)
  list(
    grid::polylineGrob(arm$x, arm$y, gp = grid::gpar(col = ink$text, lwd = 1.1)),
    grid::polygonGrob(head$x, head$y, gp = grid::gpar(fill = ink$text, col = NA)),
    grid::textGrob(plan$words$north, letter$x, letter$y, hjust = 0.5, gp = bold)
  )
}

ranking_row <- 1.75  # of the pen's line, for a name and its bar

ranking_height <- function(plan, at) {
  if (is.null(plan$ranking)) return(0)
  -ranking_part(plan$ranking, plan, legend_pen(plan, at))$top
}

# Names over bars in the colours of their classes, with the values after them.
ranking_part <- function(ranking, plan, pen) {
  layer <- plan$layers[layers_are(plan$layers, "shaded")][[1]]
  title <- legend_title(ranking$title, pen)
  n <- length(ranking$names)
  y <- title$top - (seq_len(n) - 1) * ranking_row * pen$line
  names <- vapply(
    ranking$names,
    function(t) {
      lines <- pen_wrap(t, pen$width * 0.96, pen)
      if (length(lines) > 1) paste0(lines[1], "\u2026") else lines
    },
    "",
    USE.NAMES = FALSE
  )
  room <- pen$width - (max(nchar(ranking$values)) + 1) * 0.58 * pen$size / 72.27
  long <- pmax(0.01, ranking$share * room)
  colours <- c(layer$no_data$colour, layer$colours)[ranking$class + 1L]
  list(
    grobs = c(
      title$grobs,
      list(
        words_grob(names, pen$left, y - 0.4 * pen$line, pen),
        grid::rectGrob(
          inch(pen$left),
          inch(y - 1.15 * pen$line),
          inch(long),
          inch(0.5 * pen$line),
          hjust = 0,
          gp = grid::gpar(fill = colours, col = NA)
        ),
        words_grob(
          ranking$values,
          pen$left + long + 0.06 * pen$unit,
          y - 1.15 * pen$line,
          pen,
          colour = pen$ink$text
        )
      )
    ),
    top = title$top - n * ranking_row * pen$line
  )
}
