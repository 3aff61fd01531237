# A placed picture under a figure: its pixels are put where the plan's net bends them to. Tiles
# are left to pages.

figure_pixels <- 1600  # along the longer side of the map

# The backdrop that is shown at first, if a figure can show it.
figure_picture <- function(plan) {
  first <- plan$backdrops[1][[1]]
  if (identical(first$kind, "picture") && startsWith(first$address, "data:")) first
}

# As pieces of the figure; NULL for plain paper.
figure_backdrop <- function(plan) {
  shown <- figure_picture(plan)
  if (is.null(shown)) {
    if (length(plan$backdrops) && plan$backdrops[[1]]$kind != "plain") {
      ochre_tell(
        "Backdrops that a reader's browser fetches are for pages; the figure has the plain ground."
      )
    }
    return(NULL)
  }
  frame <- plan$frame
  pixels <- decode_picture(shown)
  from <- bend_picture(dim(pixels), shown, frame)
  picture <- matrix(native_colours(pixels[from], shown$opacity), nrow(from))
  list(picture_piece(picture, unname(frame[c("x0", "x1", "y0", "y1")]), smooth = TRUE))
}

# Pixels as whole numbers, row by row from the top (R's native rasters: alpha, blue, green, red in
# 32 bits).
decode_picture <- function(backdrop) {
  bytes <- jsonlite::base64_dec(sub("^[^,]*,", "", backdrop$address))
  type <- picture_type(bytes)
  if (!type %in% c("png", "jpeg")) {
    ochre_abort("picture",
                "The picture `{backdrop$name}` is a {upper_case(type)}, which figures cannot show.",
                "Save it as PNG or JPEG.")
  }
  need_package(type, "A picture in a figure")
  pixels <- tryCatch(
    if (type == "png") {
      png::readPNG(bytes, native = TRUE)
    } else {
      jpeg::readJPEG(bytes, native = TRUE)
    },
    error = function(e) {
      ochre_abort(
        "picture",
        "The picture `{backdrop$name}` cannot be read: {strip_period(conditionMessage(e))}.",
        "Save it anew."
      )
    }
  )
  # By rows in memory, whatever its dimensions say.
  matrix(as.integer(pixels), nrow(pixels), ncol(pixels), byrow = TRUE)
}

# NA stays NA: there is nothing of the picture.
native_colours <- function(pixels, opacity) {
  part <- function(shift) {
    bitwAnd(if (shift) as.integer(bitwShiftR(pixels, shift)) else pixels, 255L)
  }
  known <- !is.na(pixels)
  out <- rep(NA_character_, length(pixels))
  out[known] <- grDevices::rgb(
    part(0)[known],
    part(8)[known],
    part(16)[known],
    round(opacity * part(24)[known]),
    maxColorValue = 255
  )
  out
}

# For each pixel of the frame which one of the picture lies there, NA for none: triangle by
# triangle of the net, as the page draws it.
bend_picture <- function(dim, net, frame) {
  size <- c(frame[["x1"]] - frame[["x0"]], frame[["y1"]] - frame[["y0"]])
  unit <- max(size) / figure_pixels
  columns <- ceiling(size[1] / unit)
  rows <- ceiling(size[2] / unit)
  out <- matrix(NA_integer_, rows, columns)
  n <- net$cells
  px <- (net$x - frame[["x0"]]) / size[1] * columns
  py <- (frame[["y1"]] - net$y) / size[2] * rows
  for (j in seq_len(n) - 1) {
    for (i in seq_len(n) - 1) {
      at <- 1 + c(
        i + (n + 1) * j,
        i + 1 + (n + 1) * j,
        i + 1 + (n + 1) * (j + 1),
        i + (n + 1) * (j + 1)
      )
      u <- c(i, i + 1, i + 1, i) / n
      v <- c(j, j, j + 1, j + 1) / n
      for (k in list(c(1, 2, 3), c(1, 3, 4))) {
        x <- px[at[k]]
        y <- py[at[k]]
        # Pixels whose middles lie in the triangle, by their weights of its corners.
        from <- pmax(0, floor(c(min(x), min(y))))
        to <- pmin(c(columns, rows) - 1, ceiling(c(max(x), max(y))))
        if (any(from > to)) next
        cx <- from[1]:to[1]
        cy <- from[2]:to[2]
        mx <- rep(cx + 0.5, length(cy))
        my <- rep(cy + 0.5, each = length(cx))
        det <- (y[2] - y[3]) * (x[1] - x[3]) + (x[3] - x[2]) * (y[1] - y[3])
        if (det == 0) next
        a <- ((y[2] - y[3]) * (mx - x[3]) + (x[3] - x[2]) * (my - y[3])) / det
        b <- ((y[3] - y[1]) * (mx - x[3]) + (x[1] - x[3]) * (my - y[3])) / det
        inside <- a >= -1e-9 & b >= -1e-9 & a + b <= 1 + 1e-9
        if (!any(inside)) next
        weight <- cbind(a, b, 1 - a - b)[inside, , drop = FALSE]
        column <- pmax(1, pmin(dim[2], 1 + floor(drop(weight %*% u[k]) * dim[2])))
        row <- pmax(1, pmin(dim[1], 1 + floor(drop(weight %*% v[k]) * dim[1])))
        out[cbind(my + 0.5, mx + 0.5)[inside, , drop = FALSE]] <- as.integer(
          row + (column - 1) * dim[1]
        )
      }
    }
  }
  out
}
