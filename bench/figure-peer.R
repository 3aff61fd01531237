# The same figure as a user would write it with jsonlite and ggplot2.
args <- commandArgs(TRUE)
library(ggplot2)
features <- jsonlite::fromJSON(args[1], simplifyVector = TRUE)$features
rings <- features$geometry$coordinates
corners <- do.call(rbind, lapply(seq_along(rings), function(i) {
  ring <- matrix(unlist(rings[[i]]), ncol = 2)
  data.frame(x = ring[, 1], y = ring[, 2], id = i)
}))
value <- features$properties$rate
class <- cut(value, quantile(value, 0:5 / 5), include.lowest = TRUE)
corners$class <- class[corners$id]
map <- ggplot(corners, aes(x, y, group = id, fill = class)) +
  geom_polygon(colour = "white", linewidth = 0.2) +
  scale_fill_manual(values = hcl(30, 40, seq(90, 25, length.out = 5))) +
  coord_fixed(1 / cos(48 * pi / 180)) +
  theme_void() +
  labs(title = "Rates")
ggsave(args[2], map, width = 8, height = 6, dpi = 200)
