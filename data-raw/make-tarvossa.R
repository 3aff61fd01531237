# Makes the second made-up world, which has what real files have and Orvane has not: run
# `Rscript data-raw/make-tarvossa.R` from the package's folder, with Ochre installed. Everything is
# drawn from one seed.
#
# Tarvossa is a union of 50 states with about 3,000 counties whose sizes differ by five powers of
# ten: 48 on a continent, one far off and across 180 degrees, one of tiny islands in an ocean. Its
# atlas has 180 countries: one round a pole, two across 180 degrees, microstates and enclaves,
# codes of -99, and names that a table of statistics writes in another way.

library(ochre)
set.seed(20310917)
out_dir <- file.path("inst", "tarvossa")
dir.create(out_dir, showWarnings = FALSE)
source("data-raw/split-land.R", encoding = "UTF-8")

heads <- c(
  "Ar", "Bel", "Car", "Dun", "El", "Fen", "Gar", "Hol", "Is", "Jun", "Kar", "Lo", "Mar", "Nor",
  "Oster", "Pel", "Quin", "Ros", "Sel", "Tar", "Ul", "Ver", "Wen", "Yar", "Zel"
)
middles <- c("a", "e", "i", "o", "ander", "ever", "illi", "or", "un", "")
tails <- c(
  "by", "dale", "fell", "gate", "ham", "land", "mar", "nock", "ria", "sten", "vale", "wick"
)
make_names <- function(n) {
  all <- expand.grid(head = heads, middle = middles, tail = tails, stringsAsFactors = FALSE)
  plain <- unique(paste0(all$head, all$middle, all$tail))
  sample(plain, n, replace = n > length(plain))
}

# ---- counties ----------------------------------------------------------------------------------

continent <- blob(-62, 41, 21, 12, 560, 0.2)
states <- cut_into(continent, 48, 0.35)
states <- states[order(vapply(states, function(p) -mean(p[, 2]), 0))]
per_state <- pmax(4, round(2960 * runif(48, 0.4, 1.6)^1.4 / sum(runif(48, 0.4, 1.6)^1.4)))
per_state <- round(per_state * 2960 / sum(per_state))
counties <- list()
state_of <- integer()
add <- function(parts, state) {
  counties <<- c(counties, lapply(parts, list))
  state_of <<- c(state_of, rep(state, length(parts)))
}
for (s in 1:48) add(cut_into(states[[s]], per_state[s], 0.14, c(0.5, 0.3, 0.1, 0.02)), s)

# Far in the north-west, and on past 180 degrees by a chain of islands.
north <- cut_into(blob(-152, 64, 9, 4.5, 160, 0.25), 26, 0.3, c(0.5, 0.2, 0.03))
add(north, 49L)
chain <- lapply(1:14, function(k) {
  blob(-164 - 1.9 * k, 54 + 1.5 * sin(k / 3), 0.35, 0.12, 9, 0.15)
})
for (k in seq_along(chain)) {
  lon <- chain[[k]][, 1]
  if (min(lon) < -180) chain[[k]][, 1] <- lon + 360
  if (min(lon) < -180 && max(lon) > -180) chain[[k]] <- chain[[k]][0, ]
}
counties[[length(counties) + 1]] <- Filter(nrow, chain[1:7])
counties[[length(counties) + 1]] <- Filter(nrow, chain[8:14])
state_of <- c(state_of, 49L, 49L)
# Tiny islands in an ocean: four counties of several islands each, and a speck by itself.
isles <- lapply(1:12, function(k) blob(-139 + 0.55 * k, 9 + 0.4 * (k %% 3), 0.09, 0.07, 12, 0.2))
for (k in 0:3) counties[[length(counties) + 1]] <- isles[3 * k + 1:3]
counties[[length(counties) + 1]] <- list(blob(-118.2, -2.4, 0.012, 0.01, 6, 0.1))
state_of <- c(state_of, rep(50L, 5))

# ---- writing -------------------------------------------------------------------------------------

ring_text <- function(p) {
  p <- rbind(p, p[1, ])
  paste0("(", paste(sprintf("%.3f %.3f", p[, 1], p[, 2]), collapse = ", "), ")")
}
shape_text <- function(parts, holes = list()) {
  rings <- vapply(parts, function(p) paste0("(", ring_text(p), ")"), "")
  if (length(holes)) {
    inner <- vapply(holes, function(h) ring_text(h[rev(seq_len(nrow(h))), ]), "")
    rings[1] <- sub("\\)$", paste0(", ", paste(inner, collapse = ", "), ")"), rings[1])
  }
  sprintf("MULTIPOLYGON (%s)", paste(rings, collapse = ", "))
}
write_packed <- function(data, name) {
  plain <- file.path(tempdir(), paste0(name, ".topojson"))
  write_boundaries(data, plain)
  to <- gzfile(file.path(out_dir, paste0(name, ".topojson.gz")), "wb", compression = 9)
  on.exit(close(to))
  writeBin(readBin(plain, "raw", file.size(plain)), to)
}
write_table <- function(data, name) {
  to <- file.path(out_dir, name)
  utils::write.csv(data, to, row.names = FALSE, quote = FALSE, na = "", fileEncoding = "UTF-8")
}

n <- length(counties)
number <- ave(state_of, state_of, FUN = function(x) 2 * seq_along(x) - 1)
state_names <- make_names(50)
county <- tibble::tibble(
  code = sprintf("%02d%03d", state_of, number),
  name = paste(make_names(n), ifelse(state_of == 49, "Borough", "County")),
  state = state_names[state_of],
  geometry = wk::as_wkb(wk::wkt(vapply(counties, shape_text, "")))
)
write_packed(county, "counties")

size <- areas_km2(county)
town <- exp(rnorm(50, 0, 0.8))[state_of]
people <- pmax(60, round(40 * sqrt(size) * exp(rnorm(n, 2.2, 1.1)) * town / mean(town)))
wells <- rpois(n, pmin(400, 0.4 * sqrt(size) * exp(rnorm(n, 0, 0.4))))
figures <- data.frame(
  county = as.integer(county$code),  # a number: the zero in front is lost
  name = sub(" (County|Borough)$", "", county$name),
  residents = people,
  wells = wells,
  dry_wells = rbinom(n, wells, plogis(-1.4 + 0.05 * (vapply(
    counties, function(p) mean(p[[1]][, 1]), 0
  ) + 62) + rnorm(n, 0, 0.5)))
)
write_table(figures[sample(n), ], "county-figures.csv")

# ---- municipalities ------------------------------------------------------------------------------

home <- sample(n - 5, 2200, TRUE, sqrt(people[seq_len(n - 5)]))
middle <- label_points(county)[home, ]
places <- wk::as_xy(middle$geometry)
xy <- data.frame(lon = wk::xy_x(places), lat = wk::xy_y(places))
spread <- pmin(0.2, sqrt(size[home]) / 400)
write_table(
  data.frame(
    municipality = sprintf("%06d", sample(100000:999999, 2200)),
    name = make_names(2200),
    county = county$code[home],
    kind = sample(c("town", "village", "port"), 2200, TRUE, c(3, 6, 1)),
    place = sprintf("\"[%.4f, %.4f]\"", xy$lon + rnorm(2200, 0, spread), xy$lat +
                      rnorm(2200, 0, spread)),
    residents = round(exp(rnorm(2200, 7.4, 1.4)))
  ),
  "municipalities.csv"
)

# ---- atlas ---------------------------------------------------------------------------------------

lands <- list(
  blob(-100, 46, 28, 17, 300, 0.22), blob(-62, -20, 14, 24, 260, 0.22),
  blob(20, 4, 18, 24, 320, 0.2), blob(76, 57, 38, 11, 460, 0.18),
  blob(134, -28, 17, 10, 200, 0.2)
)
wanted <- c(34, 26, 48, 44, 6)
land <- unlist(lapply(seq_along(lands), function(k) {
  cut_into(lands[[k]], wanted[k], 1.6, c(0.5, 0.3, 0.15))
}), FALSE)
nations <- lapply(land, list)
holes <- rep(list(list()), length(nations))
# Enclaves and microstates: tiny lands within others.
wide <- order(-vapply(land, polygon_area, 0))[1:6]
for (k in wide) {
  p <- label_points(tibble::tibble(geometry = wk::as_wkb(wk::wkt(shape_text(land[k])))))
  at <- wk::as_xy(p$geometry)
  small <- blob(wk::xy_x(at), wk::xy_y(at), 0.5, 0.35, 14, 0.15)
  holes[[k]] <- list(small)
  nations <- c(nations, list(list(small)))
}
holes <- c(holes, rep(list(list()), 6))
# Islands in the oceans; two nations across 180 degrees, each in two parts.
isle <- function(lon, lat, count) {
  lapply(seq_len(count), function(k) {
    blob(lon + runif(1, -2, 2), lat + runif(1, -1.5, 1.5), 0.3, 0.22, 9, 0.15)
  })
}
seas <- cbind(lon = runif(12, -40, -28), lat = runif(12, -40, 30))
seas <- rbind(seas, cbind(runif(7, 160, 172), runif(7, -18, 8)))
nations <- c(nations, lapply(seq_len(nrow(seas)), function(k) isle(seas[k, 1], seas[k, 2], 3)))
half <- function(x0, x1, y0, y1) {
  y <- seq(y0, y1, length.out = 9)
  edge <- if (x1 == 180) x0 + runif(9, 0, 1) else x1 - runif(9, 0, 1)
  if (x1 == 180) cbind(c(rep(180, 9), rev(edge)), c(y, rev(y))) else
    cbind(c(edge, rep(-180, 9)), c(y, rev(y)))
}
nations <- c(
  nations,
  list(list(half(166, 180, 62, 72), half(-180, -171, 64, 70))),
  list(list(half(177, 180, -18, -15), half(-180, -178.5, -17, -15.5)))
)
# Land round the pole.
lon <- seq(-180, 180, by = 6)
coast <- -72 + 4 * sin(lon / 31) + runif(length(lon), -1.5, 1.5)
coast[length(lon)] <- coast[1]
nations <- c(nations, list(list(cbind(c(-180, lon, 180), c(-90, coast, -90)))))
holes <- c(holes, rep(list(list()), length(nations) - length(holes)))

m <- length(nations)
plain <- sample(make_names(2000), m)
kind <- sample(c("Republic", "Kingdom", "Federation", "plain", "North", "South", "Islands", "and"),
               m, TRUE, c(5, 3, 2, 8, 1.5, 1.5, 2, 1))
second <- sample(make_names(2000), m)
long <- ifelse(kind == "plain", plain, ifelse(
  kind %in% c("North", "South"), paste(kind, plain),
  ifelse(kind == "Islands", paste(plain, "Islands"), ifelse(
    kind == "and", paste(plain, "and", second), paste(kind, "of", plain)
  ))
))
short <- ifelse(kind == "North", paste("N.", plain), ifelse(
  kind == "South", paste("S.", plain),
  ifelse(kind == "Islands", paste(plain, "Is."), ifelse(
    kind == "and", paste(plain, "&", second),
    ifelse(kind == "plain", plain, ifelse(kind == "Republic", paste(plain, "Rep."), plain))
  ))
))
code <- paste0(substr(plain, 1, 2), substr(plain, nchar(plain) - 1, nchar(plain) - 1))
code <- stringi::stri_trans_toupper(code)
again <- which(duplicated(code))
code[again] <- paste0(substr(code[again], 1, 2), sample(LETTERS, length(again), TRUE))
while (anyDuplicated(code)) {
  twice <- which(duplicated(code))
  code[twice] <- vapply(twice, function(i) paste(sample(LETTERS, 3), collapse = ""), "")
}
shown <- code
shown[c(sample(m, 5), m)] <- "-99"
atlas <- tibble::tibble(
  code = shown,
  name = short,
  name_long = long,
  geometry = wk::as_wkb(wk::wkt(vapply(
    seq_len(m), function(k) shape_text(nations[[k]], holes[[k]]), ""
  )))
)
write_packed(atlas, "atlas")
turned <- ifelse(
  kind %in% c("Republic", "Kingdom", "Federation"), paste0(plain, ", ", kind, " of"), long
)
area <- areas_km2(atlas)
people <- round(area * exp(rnorm(m, 2.5, 1.2)))
people[m] <- NA
write_table(
  data.frame(
    country = ifelse(grepl(",", turned), paste0("\"", turned, "\""), turned),
    residents = people,
    income = round(people * exp(rnorm(m, 9, 0.9))),
    tide_gauges = rpois(m, 3)
  )[sample(m), ],
  "atlas-figures.csv"
)
message(sprintf("%d counties, %d countries", n, m))
