# A placed picture under a figure: its pixels are put where the plan's net bends them to. Tiles are left to pages.

figure_pixels <- 1600  # along the longer side of the map

# The backdrop that is shown at first, if a figure can show it.
figure_picture <- function(plan) {
  first <- plan$backdrops[1][[1]]
  if (identical(first$kind, "picture") && startsWith(first$address, "data:")) first
}

# As a layer of the figure; NULL for plain paper.
figure_backdrop <- function(plan) {
  shown <- figure_picture(plan)
  if (is.null(shown)) {
    if (length(plan$backdrops) && plan$backdrops[[1]]$kind != "plain") ochre_tell("Backdrops that a reader's browser fetches are for pages; the figure has the plain ground.")
    return(NULL)
  }
  frame <- plan$frame
  picture <- bend_picture(decode_picture(shown), shown, frame)
  if (shown$opacity < 1) picture[!is.na(picture)] <- grDevices::adjustcolor(picture[!is.na(picture)], alpha.f = shown$opacity)
  ggplot2::annotation_raster(picture, frame[["x0"]], frame[["x1"]], frame[["y0"]], frame[["y1"]], interpolate = TRUE)
}

# Colours of the pixels, row by row from the top.
decode_picture <- function(backdrop) {
  bytes <- jsonlite::base64_dec(sub("^[^,]*,", "", backdrop$address))
  type <- picture_type(bytes)
  if (!type %in% c("png", "jpeg")) ochre_abort("picture", sprintf("The picture `%s` is a %s, which figures cannot show.", backdrop$name, toupper(type)), "Save it as PNG or JPEG.")
  need_package(type, "a picture for a figure")
  pixels <- tryCatch(if (type == "png") png::readPNG(bytes) else jpeg::readJPEG(bytes), error = function(e) {
    ochre_abort("picture", sprintf("The picture `%s` cannot be read: %s.", backdrop$name, strip_period(conditionMessage(e))), "Save it anew.")
  })
  planes <- if (length(dim(pixels)) == 2) list(pixels, pixels, pixels) else lapply(seq_len(dim(pixels)[3]), function(k) pixels[, , k])
  if (length(planes) < 3) planes <- c(planes[c(1, 1, 1)], planes[2])
  matrix(do.call(grDevices::rgb, planes), nrow(pixels))
}

# For each pixel of the frame the one of the picture that lies there, triangle by triangle of the net, as the page draws it.
bend_picture <- function(pixels, net, frame) {
  size <- c(frame[["x1"]] - frame[["x0"]], frame[["y1"]] - frame[["y0"]])
  unit <- max(size) / figure_pixels
  columns <- ceiling(size[1] / unit)
  rows <- ceiling(size[2] / unit)
  out <- matrix(NA_character_, rows, columns)
  n <- net$cells
  px <- (net$x - frame[["x0"]]) / size[1] * columns
  py <- (frame[["y1"]] - net$y) / size[2] * rows
  for (j in seq_len(n) - 1) for (i in seq_len(n) - 1) {
    at <- 1 + c(i + (n + 1) * j, i + 1 + (n + 1) * j, i + 1 + (n + 1) * (j + 1), i + (n + 1) * (j + 1))
    u <- c(i, i + 1, i + 1, i) / n
    v <- c(j, j, j + 1, j + 1) / n
    for (k in list(c(1, 2, 3), c(1, 3, 4))) {
      x <- px[at[k]]
      y <- py[at[k]]
      # Pixels whose middles lie in the triangle, by their weights of its corners.
      cx <- seq(max(0, floor(min(x))), min(columns - 1, ceiling(max(x))))
      cy <- seq(max(0, floor(min(y))), min(rows - 1, ceiling(max(y))))
      if (max(x) < 0 || max(y) < 0 || min(x) > columns || min(y) > rows) next
      mx <- rep(cx + 0.5, length(cy))
      my <- rep(cy + 0.5, each = length(cx))
      det <- (y[2] - y[3]) * (x[1] - x[3]) + (x[3] - x[2]) * (y[1] - y[3])
      if (det == 0) next
      a <- ((y[2] - y[3]) * (mx - x[3]) + (x[3] - x[2]) * (my - y[3])) / det
      b <- ((y[3] - y[1]) * (mx - x[3]) + (x[1] - x[3]) * (my - y[3])) / det
      inside <- a >= -1e-9 & b >= -1e-9 & a + b <= 1 + 1e-9
      if (!any(inside)) next
      weight <- cbind(a, b, 1 - a - b)[inside, , drop = FALSE]
      column <- pmin(ncol(pixels), 1 + floor(drop(weight %*% u[k]) * ncol(pixels)))
      row <- pmin(nrow(pixels), 1 + floor(drop(weight %*% v[k]) * nrow(pixels)))
      out[cbind(my + 0.5, mx + 0.5)[inside, , drop = FALSE]] <- pixels[cbind(pmax(1, row), pmax(1, column))]
    }
  }
  out
}
