# Land that falls apart into areas: a polygon is cut again and again, from corner to corner along
# a crooked line, so that all areas share their borders corner by corner. Polygons are matrices of
# two columns, open, counter-clockwise.

polygon_area <- function(p) {
  n <- c(2:nrow(p), 1)
  sum(p[, 1] * p[n, 2] - p[n, 1] * p[, 2]) / 2
}

# A round coast with bays, of `n` corners.
blob <- function(x, y, wide, high, n, rough = 0.25) {
  turn <- seq(0, 2 * pi, length.out = n + 1)[-1]
  waves <- 2:9
  bays <- rowSums(vapply(waves, function(k) {
    rnorm(1) / k * cos(k * turn + runif(1, 0, 2 * pi))
  }, turn))
  uneven <- stats::filter(rnorm(n, 0, 0.008), rep(1, 5), circular = TRUE)
  r <- pmin(1.35, pmax(0.5, 1 + rough * bays)) + uneven
  r <- as.numeric(r)
  cbind(x + wide * r * cos(turn), y + high * r * sin(turn))
}

# Do the pieces of path `a` meet edges of the ring `p` other than at its ends?
meets <- function(a, p) {
  m <- nrow(a) - 1
  n <- nrow(p)
  to <- p[c(2:n, 1), , drop = FALSE]
  side <- function(px, py, qx, qy, rx, ry) (qx - px) * (ry - py) - (qy - py) * (rx - px)
  for (k in seq_len(m)) {
    x0 <- a[k, 1]
    y0 <- a[k, 2]
    x1 <- a[k + 1, 1]
    y1 <- a[k + 1, 2]
    d1 <- side(x0, y0, x1, y1, p[, 1], p[, 2])
    d2 <- side(x0, y0, x1, y1, to[, 1], to[, 2])
    d3 <- side(p[, 1], p[, 2], to[, 1], to[, 2], x0, y0)
    d4 <- side(p[, 1], p[, 2], to[, 1], to[, 2], x1, y1)
    if (any(d1 * d2 < -1e-18 & d3 * d4 < -1e-18)) return(TRUE)
  }
  FALSE
}

inside <- function(p, x, y) {
  n <- nrow(p)
  q <- p[c(2:n, 1), , drop = FALSE]
  cross <- (p[, 2] > y) != (q[, 2] > y)
  sum(cross & x < p[, 1] + (y - p[, 2]) / (q[, 2] - p[, 2]) * (q[, 1] - p[, 1])) %% 2 == 1
}

# A crooked line between two points, without its ends.
crooked <- function(from, to, step, rough = 0.16) {
  far <- sqrt(sum((to - from)^2))
  k <- max(1, min(24, round(far / step)))
  at <- seq_len(k) / (k + 1)
  off <- cumsum(rnorm(k, 0, rough * far / (k + 1)))
  off <- off - at * off[k] * 0.8
  across <- c(from[2] - to[2], to[1] - from[1]) / far
  cbind(from[1] + at * (to[1] - from[1]) + off * across[1],
        from[2] + at * (to[2] - from[2]) + off * across[2])
}

# Cuts `p` in two, of which the smaller has about `share` of the area; NULL where no cut is found.
cut_two <- function(p, share, step, tries = 60) {
  n <- nrow(p)
  if (n < 6) return(NULL)
  whole <- polygon_area(p)
  best <- NULL
  off <- Inf
  for (t in seq_len(tries)) {
    i <- sample.int(n, 1)
    j <- (i + sample(2:(n - 2), 1) - 1) %% n + 1
    a <- min(i, j)
    b <- max(i, j)
    if (b - a < 2 || n - (b - a) < 2) next
    path <- crooked(p[a, ], p[b, ], step)
    line <- rbind(p[a, ], path, p[b, ])
    one <- rbind(p[a:b, ], path[rev(seq_len(nrow(path))), , drop = FALSE])
    two <- rbind(p[b:n, , drop = FALSE], p[seq_len(a), , drop = FALSE], path)
    s <- polygon_area(one) / whole
    if (s <= 0.0005 || s >= 0.9995) next
    far <- sum(sqrt(rowSums(diff(line)^2)))
    miss <- abs(log(min(s, 1 - s) / share)) + 0.25 * far / sqrt(whole)
    if (miss >= off) next
    if (!all(apply(path, 1, function(v) inside(p, v[1], v[2]))) || meets(line, p)) next
    if (any(duplicated(round(path, 4)))) next
    best <- list(one, two)
    off <- miss
    if (miss < 0.35) break
  }
  best
}

# Into `count` areas: the one that is largest for its wish is cut next.
cut_into <- function(p, count, step, shares = c(0.5, 0.4, 0.3)) {
  parts <- list(p)
  stuck <- rep(FALSE, 1)
  while (length(parts) < count && !all(stuck)) {
    size <- vapply(parts, polygon_area, 0)
    size[stuck] <- 0
    pick <- sample.int(length(parts), 1, prob = size)
    two <- cut_two(parts[[pick]], sample(shares, 1), step)
    if (is.null(two)) {
      stuck[pick] <- TRUE
      next
    }
    parts[[pick]] <- two[[1]]
    parts <- c(parts, two[2])
    stuck <- c(stuck, FALSE)
    stuck[pick] <- FALSE
  }
  parts
}
