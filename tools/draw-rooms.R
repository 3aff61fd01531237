# Draws docs/rooms.svg: the rooms of the package, each on its level, with an arrow for the calls
# from one to another, as wide as there are many. From the installed package and its sources.
source("tests/testthat/helper-rooms.R")
where <- files_of_names("R")
namespace <- asNamespace("ochre")
room <- stats::setNames(sub("[-.].*", "", where), names(where))

calls <- do.call(rbind, lapply(names(where), function(name) {
  f <- get(name, namespace)
  if (!is.function(f)) return(NULL)
  used <- setdiff(intersect(codetools::findGlobals(f), names(where)), name)
  if (length(used)) data.frame(from = room[[name]], to = unname(room[used]))
}))
calls <- as.data.frame(table(calls), stringsAsFactors = FALSE)
calls <- calls[calls$Freq > 0 & calls$from != calls$to, ]

rooms <- data.frame(room = setdiff(names(levels_of_rooms), "ochre"))
rooms$level <- levels_of_rooms[rooms$room]
rooms$files <- vapply(rooms$room, function(r) length(unique(where[room == r])), 0L)
rooms <- rooms[rooms$files > 0, ]
# Work on data to the left, on maps to the right, what both need below; in a zigzag, so that an
# arrow passes beside the rooms between.
left <- rooms$room %in% c("engine", "read", "write", "shape", "join", "prepare")
side <- ifelse(left, -1, ifelse(rooms$level %in% c(0, 1, 12, 13), 0, 1))
spread <- function(v) seq_along(v) - mean(seq_along(v))
beside <- stats::ave(rooms$level, rooms$level, side, FUN = spread)
rooms$x <- 3 * side + ifelse(rooms$level %% 2, 0.7, -0.7) + 1.8 * beside

from <- match(calls$from, rooms$room)
to <- match(calls$to, rooms$room)
arrows <- data.frame(
  x = rooms$x[from], y = rooms$level[from] - 0.3, xend = rooms$x[to],
  yend = rooms$level[to] + 0.3, calls = calls$Freq
)
arrows <- arrows[rooms$level[from] > rooms$level[to], ]

figure <- ggplot2::ggplot() +
  ggplot2::geom_segment(
    ggplot2::aes(
      x = .data$x, y = .data$y, xend = .data$xend, yend = .data$yend, linewidth = .data$calls
    ),
    data = arrows,
    colour = "#8A8580",
    alpha = 0.55,
    arrow = grid::arrow(length = grid::unit(5, "pt"), type = "closed")
  ) +
  ggplot2::geom_label(
    ggplot2::aes(x = .data$x, y = .data$level, label = paste0(.data$room, "\n", .data$files)),
    data = rooms,
    size = 3.4,
    lineheight = 0.9,
    fill = "#F4EFE8",
    colour = "#2B2824",
    label.padding = grid::unit(5, "pt")
  ) +
  ggplot2::scale_linewidth(range = c(0.2, 1.8), guide = "none") +
  ggplot2::labs(
    title = "The rooms of Ochre",
    subtitle = "R files by prefix, with how many there are; arrows are calls, and go down only"
  ) +
  ggplot2::theme_void(base_size = 11) +
  ggplot2::theme(
    plot.background = ggplot2::element_rect(fill = "white", colour = NA),
    plot.margin = ggplot2::margin(12, 12, 12, 12),
    plot.title = ggplot2::element_text(face = "bold")
  )
svglite::svglite("docs/rooms.svg", width = 9, height = 8.5)
print(figure)
invisible(grDevices::dev.off())
