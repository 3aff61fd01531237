# The land of Orvane: a lattice, islands by noise, districts that grow on it, and their borders.
# make-demo.R runs it first.

# ---- lattice ----------------------------------------------------------------------------

cols <- floor(width / pitch)
rows <- floor(height / (pitch * sqrt(3) / 2))
cell <- expand.grid(col = seq_len(cols), row = seq_len(rows))
cell$x <- (cell$col + 0.5 * (cell$row %% 2)) * pitch
cell$y <- cell$row * pitch * sqrt(3) / 2
n <- nrow(cell)
id_at <- function(col, row) {
  ifelse(col < 1 | col > cols | row < 1 | row > rows, NA, (row - 1) * cols + col)
}
odd <- cell$row %% 2
# Neighbours in the order of the edges between corners k and k + 1, counter-clockwise.
neighbour <- cbind(
  id_at(cell$col + 1, cell$row),
  id_at(cell$col + odd, cell$row + 1),
  id_at(cell$col - 1 + odd, cell$row + 1),
  id_at(cell$col - 1, cell$row),
  id_at(cell$col - 1 + odd, cell$row - 1),
  id_at(cell$col + odd, cell$row - 1)
)
angle <- (seq(-30, 270, by = 60)) * pi / 180
corner_x <- outer(cell$x, pitch / sqrt(3) * cos(angle), "+")
corner_y <- outer(cell$y, pitch / sqrt(3) * sin(angle), "+")
key <- paste(round(corner_x / (pitch / 2)), round(corner_y / (pitch / (2 * sqrt(3)))))
corner <- matrix(match(key, unique(key)), ncol = 6)
first <- match(seq_along(unique(key)), corner)
vertex <- cbind(corner_x[first], corner_y[first])
vertex <- vertex + matrix(runif(length(vertex), -0.3, 0.3) * pitch, ncol = 2)

# ---- land -------------------------------------------------------------------------------

noise <- function(x, y, scale, octaves = 5) {
  total <- 0
  for (o in seq_len(octaves)) {
    g <- scale / 2^(o - 1)
    nx <- ceiling(width * 1.1 / g) + 3
    ny <- ceiling(height * 1.1 / g) + 3
    lattice <- matrix(rnorm(nx * ny), nx)
    u <- x / g + 1
    v <- y / g + 1
    i <- floor(u)
    j <- floor(v)
    s <- function(t) t * t * (3 - 2 * t)
    fu <- s(u - i)
    fv <- s(v - j)
    total <- total +
      ((lattice[cbind(i, j)] * (1 - fu) + lattice[cbind(i + 1, j)] * fu) * (1 - fv) +
          (lattice[cbind(i, j + 1)] * (1 - fu) + lattice[cbind(i + 1, j + 1)] * fu) * fv) *
        0.55^(o - 1)
  }
  total
}
dome <- function(cx, cy, rx, ry, turn, top) {
  a <- turn * pi / 180
  dx <- cell$x - cx
  dy <- cell$y - cy
  u <- (dx * cos(a) + dy * sin(a)) / rx
  v <- (-dx * sin(a) + dy * cos(a)) / ry
  top * pmax(-1.5, 1 - (u^2 + v^2))
}
domes <- rbind(
  c(128, 142, 92, 50, 24, 1.5), c(108, 74, 56, 26, -18, 1.1),
  c(252, 100, 60, 40, -36, 1.4), c(300, 186, 38, 22, 30, 1.1),
  c(212, 204, 26, 14, -12, 0.9), c(42, 214, 18, 11, 15, 0.8), c(196, 32, 17, 9, 8, 0.7),
  c(334, 56, 14, 9, -30, 0.7)
)
islets <- cbind(
  runif(26, 205, 352), runif(26, 14, 238), runif(26, 3, 7.5), runif(26, 2.5, 5),
  runif(26, 0, 180), 0.75
)
chain <- cbind(
  seq(26, 88, length.out = 9) + rnorm(9, 0, 3),
  38 - seq(0, 16, length.out = 9) + rnorm(9, 0, 4),
  runif(9, 3.5, 7),
  runif(9, 2.5, 4.5),
  runif(9, 0, 180),
  0.8
)
row_max <- function(m) do.call(pmax, lapply(seq_len(ncol(m)), function(k) m[, k]))
high <- apply(rbind(domes, islets, chain), 1, function(d) {
  dome(d[1], d[2], d[3], d[4], d[5], d[6])
})
elevation <- 0.8 * row_max(high) + 0.5 * noise(cell$x, cell$y, 48, 3) +
  0.5 * noise(cell$x, cell$y, 13, 3)
edge <- pmin(cell$x, cell$y, width - cell$x, height - cell$y)
land <- elevation - pmax(0, 1 - (edge - 5) / 12) * 2 > 0.12

row_min <- function(m) {
  do.call(pmin, c(lapply(seq_len(ncol(m)), function(k) m[, k]), na.rm = TRUE))
}
components <- function(member) {
  label <- ifelse(member, seq_len(n), NA)
  repeat {
    new <- ifelse(member, row_min(cbind(label, matrix(label[neighbour], ncol = 6))), NA)
    new <- ifelse(member, new[new], NA)  # pointer jumping
    if (identical(new, label)) return(label)
    label <- new
  }
}
island <- components(land)
size <- table(island)
land[island %in% as.integer(names(size)[size < 6])] <- FALSE
island[!land] <- NA
# Bays closed off to puddles become land; a real lake may stay.
water <- components(!land)
pond <- table(water)
fill <- water %in% as.integer(names(pond)[pond < 14])
land[fill] <- TRUE
island <- components(land)
size <- sort(table(island), decreasing = TRUE)
cat(sum(land), "land cells on", length(size), "islands\n")

# ---- districts --------------------------------------------------------------------------

grow <- function(seed, allowed, rough) {
  cost <- rep(Inf, n)
  owner <- rep(NA_integer_, n)
  cost[seed] <- 0
  owner[seed] <- seq_along(seed)
  repeat {
    through <- matrix(cost[neighbour], ncol = 6) + rough
    through[is.na(through)] <- Inf
    best <- max.col(-through, "first")
    least <- through[cbind(seq_len(n), best)]
    better <- allowed & least < cost - 1e-9
    if (!any(better)) return(list(owner = owner, cost = cost))
    cost[better] <- least[better]
    owner[better] <- owner[neighbour[cbind(which(better), best[better])]]
  }
}
town <- noise(cell$x, cell$y, 60, 3)
apart <- 14 + 8.5 * pmin(pmax(0.8 - town, 0), 2)
seeds <- integer()
for (i in sample(which(land & island %in% as.integer(names(size)[size > 90])))) {
  if (!length(seeds) || all(
      sqrt((cell$x[seeds] - cell$x[i])^2 + (cell$y[seeds] - cell$y[i])^2) >
        pmin(apart[i], apart[seeds])
    )) {
    seeds <- c(seeds, i)
  }
}
rough <- exp(0.9 * noise(cell$x, cell$y, 14, 4))
district <- grow(seeds, land, rough)$owner
# The chain of islets is one district; other islets go to the nearest district.
in_chain <- land & is.na(district) & cell$x < 110 & cell$y < 60
district[in_chain] <- length(seeds) + 1L
left <- which(land & is.na(district))
owned <- which(!is.na(district))
for (i in unique(island[left])) {
  own <- which(island == i)
  far <- outer(cell$x[own], cell$x[owned], "-")^2 + outer(cell$y[own], cell$y[owned], "-")^2
  district[own] <- district[owned[which.min(row_min(t(far)))]]
}
# An enclave in the district with the deepest inside.
inside <- grow(
  which(apply(matrix(district[neighbour], ncol = 6) != district, 1, function(r) {
    any(is.na(r) | r)
  })),
  land,
  1
)$cost
inside[!land] <- 0
deepest <- which.max(inside)
near <- land &
  sqrt((cell$x - cell$x[deepest])^2 + (cell$y - cell$y[deepest])^2) <
    pitch * min(2.6, inside[deepest] - 1.2) &
  district == district[deepest]
district[near] <- max(district, na.rm = TRUE) + 1L
enclave <- max(district, na.rm = TRUE)
count <- enclave
cat(count, "districts\n")

# ---- borders ----------------------------------------------------------------------------

# Directed edges of every cell whose neighbour is another district (or the sea).
from <- corner
to <- corner[, c(2:6, 1)]
other <- matrix(district[neighbour], ncol = 6)
border <- !is.na(district) & (is.na(other) | other != district)
edges <- data.frame(
  district = matrix(district, n, 6)[border],
  other = other[border],
  from = from[border],
  to = to[border]
)
once <- edges[edges$from < edges$to | is.na(edges$other), ]
for (round in 1:2) {
  mean_near <- rowsum(vertex[c(once$to, once$from), ], c(once$from, once$to))
  degree <- table(c(once$from, once$to))
  at <- as.integer(rownames(mean_near))
  smooth <- degree[as.character(at)] == 2
  vertex[at[smooth], ] <- 0.5 * vertex[at[smooth], ] + 0.25 * mean_near[smooth, ]
}
lonlat <- function(xy) {
  lat <- centre[["lat"]] + (xy[, 2] - height / 2) / 111.2
  round(
    cbind(
      centre[["lon"]] + (xy[, 1] - width / 2) / (111.32 * cos(centre[["lat"]] * pi / 180)),
      lat
    ),
    4
  )
}
area_of <- function(p) {
  q <- p[c(2:nrow(p), 1), ]
  sum(p[, 1] * q[, 2] - q[, 1] * p[, 2]) / 2
}
trace_rings <- function(e) {
  nxt <- match(e$to, e$from)
  free <- rep(TRUE, nrow(e))
  rings <- list()
  for (i in seq_len(nrow(e))) {
    if (free[i]) {
      path <- integer()
      at <- i
      while (free[at]) {
        free[at] <- FALSE
        path <- c(path, e$from[at])
        at <- nxt[at]
      }
      rings[[length(rings) + 1]] <- path
    }
  }
  rings
}
inside_ring <- function(p, ring) {
  a <- ring
  b <- ring[c(2:nrow(ring), 1), ]
  hit <- (a[, 2] > p[2]) != (b[, 2] > p[2])
  sum(
    p[1] < (b[hit, 1] - a[hit, 1]) * (p[2] - a[hit, 2]) / (b[hit, 2] - a[hit, 2]) + a[hit, 1]
  ) %% 2 == 1
}
polygons <- lapply(seq_len(count), function(d) {
  rings <- lapply(trace_rings(edges[edges$district == d, ]), function(r) {
    vertex[r, , drop = FALSE]
  })
  signed <- vapply(rings, area_of, 0)
  shells <- rings[signed > 0][order(-signed[signed > 0])]
  parts <- lapply(shells, list)
  for (hole in rings[signed < 0]) {
    k <- which(vapply(shells, function(s) inside_ring(hole[1, ], s), NA))
    k <- k[length(k)]
    parts[[k]] <- c(parts[[k]], list(hole))
  }
  list(parts = parts, area = sum(signed))
})
area <- vapply(polygons, function(p) p$area, 0)
middle <- t(vapply(
  seq_len(count),
  function(d) c(mean(cell$x[which(district == d)]), mean(cell$y[which(district == d)])),
  c(0, 0)
))
