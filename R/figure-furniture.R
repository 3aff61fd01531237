# Scale bar, north mark and ranked bars of a figure.

figure_furniture <- function(plan, at) {
  if (is.null(at$furniture)) return(NULL)
  note_layer(grid::gTree(plan = plan, at = at, cl = "ochre_furniture"), if (!is.null(plan$panels)) (at$rows - 1L) * at$columns + 1L, plan)
}

#' @exportS3Method grid::makeContent
makeContent.ochre_furniture <- function(x) {
  at <- x$at
  width <- grid::convertWidth(grid::unit(1, "npc"), "inches", valueOnly = TRUE)
  height <- grid::convertHeight(grid::unit(1, "npc"), "inches", valueOnly = TRUE)
  box <- at$furniture
  line <- 1.3 * at$text / 72.27
  left <- box$x * (width - box$width) + 0.04
  low <- if (is.null(box$under)) box$y * (height - box$height) + 0.04 else -at$under_each - box$height
  pen <- legend_pen(x$plan, at)
  ink <- x$plan$inks
  grobs <- list()
  if (x$plan$style$figure$scale_bar) {
    long <- x$plan$scale_bar$length * width / (at$frame[["x1"]] - at$frame[["x0"]])
    # On the right side the bar ends where the box does.
    from <- if (box$x > 0) left + box$width - long - 0.08 else left
    grobs <- list(grid::polylineGrob(inch(from + c(0, 0, long, long)), inch(low + c(0.35, 0, 0, 0.35) * line), gp = grid::gpar(col = ink$text, lwd = 1.1, linejoin = "mitre", lineend = "square")),
                  words_grob(x$plan$scale_bar$label, from + long / 2, low + 0.85 * line, pen, hjust = 0.5))
    low <- low + 1.7 * line
  }
  if (x$plan$style$figure$north) {
    middle <- if (box$x > 0) left + box$width - line else left + 0.8 * line
    map <- c(at$frame[["x0"]] + middle / width * (at$frame[["x1"]] - at$frame[["x0"]]), at$frame[["y0"]] + low / height * (at$frame[["y1"]] - at$frame[["y0"]]))
    turn <- north_at(map[1], map[2], x$plan$projection) * pi / 180
    needle <- function(px, py) list(x = middle + px * cos(turn) + py * sin(turn), y = low + 0.8 * line - px * sin(turn) + py * cos(turn))
    arm <- needle(c(0, 0), c(-0.8, 0.8) * line)
    head <- needle(c(-0.28, 0, 0.28) * line, c(0.25, 0.85, 0.25) * line)
    letter <- needle(0, 1.35 * line)
    grobs <- c(grobs, list(grid::segmentsGrob(inch(arm$x[1]), inch(arm$y[1]), inch(arm$x[2]), inch(arm$y[2]), gp = grid::gpar(col = ink$text, lwd = 1.1)),
                           grid::polygonGrob(inch(head$x), inch(head$y), gp = grid::gpar(fill = ink$text, col = NA)), words_grob("N", letter$x, letter$y, pen, hjust = 0.5, bold = TRUE)))
  }
  grid::setChildren(x, do.call(grid::gList, grobs))
}

ranking_row <- 1.75   # of the pen's line, for a name and its bar

ranking_height <- function(plan, at) {
  if (is.null(plan$ranking)) return(0)
  -ranking_part(plan$ranking, plan, legend_pen(plan, at))$top
}

# Names over bars in the colours of their classes, with the values after them.
ranking_part <- function(ranking, plan, pen) {
  layer <- Filter(function(l) l$kind == "areas", plan$layers)[[1]]
  title <- legend_title(ranking$title, pen)
  n <- length(ranking$names)
  y <- title$top - (seq_len(n) - 1) * ranking_row * pen$line
  names <- vapply(ranking$names, function(t) { lines <- pen_wrap(t, pen$width * 0.96, pen); if (length(lines) > 1) paste0(lines[1], "\u2026") else lines }, "", USE.NAMES = FALSE)
  room <- pen$width - (max(nchar(ranking$values)) + 1) * 0.58 * pen$size / 72.27
  long <- pmax(0.01, ranking$share * room)
  colours <- c(layer$no_data$colour, layer$colours)[ranking$class + 1L]
  list(grobs = c(title$grobs, list(
    words_grob(names, pen$left, y - 0.4 * pen$line, pen),
    grid::rectGrob(inch(pen$left), inch(y - 1.15 * pen$line), inch(long), inch(0.5 * pen$line), hjust = 0, gp = grid::gpar(fill = colours, col = NA)),
    words_grob(ranking$values, pen$left + long + 0.06 * pen$unit, y - 1.15 * pen$line, pen, colour = pen$ink$text)
  )), top = title$top - n * ranking_row * pen$line)
}
