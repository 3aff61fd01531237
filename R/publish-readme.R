# The word to those who take a folder over: what its files are, where the numbers come from, how
# classes were made.

# `sectioned` is TRUE where areas lie in folders of their own.
hand_over <- function(maps, plans, sectioned) {
  site_file("README.md", "words", c(
    unlist(Map(map_words, names(plans), plans, maps), use.names = FALSE),
    "## Files", "",
    "* Pages (`.html`) load the script, the style and their data from this folder, and nothing",
    "  else; files whose names hold a hash never change and may be kept for ever by browsers.",
    "* `-data` files hold what the map shows, with class, label and colour of each row.",
    if (sectioned) {
      c(
        "* `-sections` folders hold the areas in squares of the map, which a page loads as they",
        "  come into view."
      )
    },
    "* `-card.png` is a picture for social cards. `files.json` lists all files with their hashes.",
    "",
    "## In an article", "", "```html",
    format(embed_markup(paste0(names(plans)[1], ".html"), title = plans[[1]]$title)), "```"
  ))
}

map_words <- function(name, plan, sheet) {
  c(
    paste("#", one_line(plan$title)), "",
    if (!is.null(plan$subtitle)) c(one_line(plan$subtitle), ""),
    paste0("* Page: `", name, ".html`"),
    if (!is.null(plan$source)) paste("*", one_line(plan$source)),
    if (!is.null(plan$note)) paste("* Note:", one_line(plan$note)),
    paste("* Projection:", projection_words(plan$projection)),
    unlist(lapply(plan$layers, method_lines)),
    ""
  )
}

# Marks of Markdown within a text from data are letters.
one_line <- function(text) {
  gsub("([\\\\`*_<>\\[\\]#|])", "\\\\\\1", gsub("\\s+", " ", text), perl = TRUE)
}

method_lines <- function(layer) {
  if (!layer_is(layer, "shaded") || (layer$method %||% "categories") == "categories") return(NULL)
  now <- in_panel(layer, length(layer$panels))
  fit <- if (is.numeric(now$fit) && !is.na(now$fit)) {
    sprintf("; goodness of variance fit %.3f", now$fit)
  }
  c(
    sprintf(
      "* %s: %s by the method \"%s\"%s", one_line(layer$legend %||% "Areas"),
      count_words(length(now$labels), "class", "classes"), layer$method, fit %||% ""
    ),
    sprintf(
      "    * %s: %s", one_line(now$labels), vapply(now$counts, count_words, "", one = "area")
    ),
    if (now$no_data$count > 0) {
      sprintf("    * %s: %s", one_line(now$no_data$label), count_words(now$no_data$count, "area"))
    }
  )
}
