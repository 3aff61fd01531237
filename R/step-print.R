# Steps in the terminal: a small histogram with the breaks under it, then the classes.

bin_values <- function(data, bins = 48L) {
  m <- length(data$value)
  if (m < 2) return(list(from = data$value, to = data$value, counts = data$weight))
  share <- seq(0, 1, length.out = bins + 1)[2:bins]
  edges <- (1 - share) * data$value[1] + share * data$value[m]
  below <- c(0, cumsum(data$weight))[findInterval(edges, data$value, left.open = TRUE) + 1L]
  list(from = data$value[1], to = data$value[m], counts = diff(c(0, below, sum(data$weight))))
}

#' @export
format.ochre_steps <- function(x, ...) {
  k <- length(x$counts)
  n <- sum(x$counts)
  lost <- c(
    if (x$missing) sprintf("%d missing", x$missing),
    if (x$infinite) sprintf("%d infinite", x$infinite)
  )
  head <- sprintf(
    "Steps: %s, %s, %s%s",
    x$method,
    count_words(k, "class", "classes"),
    count_words(n, "value"),
    if (length(lost)) paste0(" (", paste(lost, collapse = ", "), ")") else ""
  )
  if (k == 0) return(c(head, "No finite value, so no classes."))
  bar <- paste0(strrep("\u2588", round(20 * x$counts / max(x$counts))))
  rows <- sprintf(
    "  %s  %s  %s",
    formatC(x$labels, width = max(nchar(x$labels))),
    formatC(x$counts, width = max(nchar(x$counts))),
    bar
  )
  facts <- c(
    if (!is.na(x$fit)) {
      sprintf(
        "Goodness of variance fit: %s, tabular accuracy: %s",
        format_number(x$fit, 3),
        format_number(x$tabular, 3)
      )
    },
    if (!is.null(x$moved)) {
      sprintf("Rounding the breaks moved %s to another class.", count_words(x$moved, "value"))
    }
  )
  c(head, facts, "", histogram_lines(x), "", sub(" +$", "", rows))
}

histogram_lines <- function(x) {
  counts <- x$values$counts
  if (length(counts) < 2) return(NULL)
  blocks <- c(" ", "\u2581", "\u2582", "\u2583", "\u2584", "\u2585", "\u2586", "\u2587", "\u2588")
  heights <- ifelse(counts == 0, 0, pmax(1, round(8 * counts / max(counts))))
  inner <- x$breaks[-c(1, length(x$breaks))]
  axis <- rep("\u2500", length(counts))
  axis[
    pmin(
      length(counts),
      1 + floor((inner - x$values$from) / (x$values$to - x$values$from) * length(counts))
    )
  ] <- "\u2534"
  ends <- format_number(c(x$values$from, x$values$to), x$digits)
  c(
    paste0("  ", paste(blocks[heights + 1], collapse = "")),
    paste0("  ", paste(axis, collapse = "")),
    paste0("  ", ends[1], strrep(" ", max(1, length(counts) - sum(nchar(ends)))), ends[2])
  )
}

#' @export
print.ochre_steps <- function(x, ...) {
  cat(format(x), sep = "\n")
  invisible(x)
}
