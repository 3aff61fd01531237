# Makes the demo data of Orvane, a made-up island state: run `Rscript data-raw/make-demo.R` from
# the package's folder. Everything is drawn from one seed. Base R and jsonlite only.
#
# Land is where a sum of broad domes and fractal noise is above sea level, on a lattice of
# hexagons about 1.25 km wide. Districts grow from seeds over rough ground. Borders run along
# hexagon edges whose corners are shifted at random and then smoothed; a corner belongs to all
# its hexagons, so borders are truly shared.

set.seed(20310521)
out_dir <- file.path("inst", "orvane")
centre <- c(lon = -38.2, lat = 46.9)  # open ocean
width <- 370
height <- 250
pitch <- 1.25

source("data-raw/make-land.R", encoding = "UTF-8")

# ---- regions, names, people ---------------------------------------------------------------

main_island <- vapply(
  seq_len(count),
  function(d) as.integer(names(which.max(table(island[which(district == d)])))),
  0L
)
rank <- match(main_island, as.integer(names(size)))
region <- integer(count)
region[rank == 1] <- kmeans(middle[rank == 1, ], 4, nstart = 20)$cluster
region[rank == 2] <- 4L + kmeans(middle[rank == 2, ], 2, nstart = 20)$cluster
region[rank > 2] <- 7L
region_names <- c("Hesper Downs", "Ostrand", "Varn", "The Cwmry", "Sólvane", "Quell", "Outer Isles")
region <- match(
  region,
  c(unique(region[order(-middle[, 2])][region[order(-middle[, 2])] != 7]), 7L)
)
code <- character(count)
for (r in 1:7) {
  d <- which(region == r)
  d <- d[order(-middle[d, 2], middle[d, 1])]
  code[d] <- sprintf("%02d%02d", r, seq_along(d))
}
heads <- c(
  "Bra", "Cór", "Dél", "Éth", "Fal", "Gwyl", "Hör", "Ilm", "Jor", "Kel", "Lúr", "Mor",
  "Nåv", "Orv", "Pel", "Quen", "Rù", "Sól", "Tam", "Ulv", "Vra", "Wes", "Ys", "Zér"
)
mids <- c("a", "o", "i", "ena", "ari", "olo", "umi", "etha", "")
tails <- c(
  "nmar", "ck", "thwen", "ldric", "vik", "sse", "ndôr", "mple", "rrow", "gast", "llac",
  "nne", "dre", "rsk"
)
plain <- character()
while (length(plain) < count) {  # no letter three times in a row
  word <- gsub("(.)\\1\\1", "\\1\\1", paste0(sample(heads, 1), sample(mids, 1), sample(tails, 1)))
  if (!word %in% plain && !substr(word, 1, 4) %in% substr(plain, 1, 4)[
      duplicated(substr(plain, 1, 4))
    ]) {
    plain <- c(plain, word)
  }
}
style <- sample(
  c("%s", "Port %s", "Saint-%s", "Nether %s", "%s's Reach", "L'%s", "%s-by-the-Sound"),
  count,
  TRUE,
  c(12, 2, 1.5, 1.5, 1, 1, 1)
)
name <- sprintf(style, plain)
name[enclave] <- paste0("Free Burgh of ", plain[enclave])
chain_district <- length(seeds) + 1L
name[chain_district] <- "The Nine Skerries"

density <- exp(
  3.9 +
    0.9 * town[
      vapply(
        seq_len(count),
        function(d) {
          w <- which(district == d)
          w[which.min((cell$x[w] - middle[d, 1])^2 + (cell$y[w] - middle[d, 2])^2)]
        },
        0L
      )
    ]
)
density[enclave] <- 900
population <- pmax(380, round(area * density))
old <- pmin(0.38, pmax(0.12, 0.27 - 0.06 * scale(log(density))[, 1] + rnorm(count, 0, 0.02)))
young <- pmin(0.24, pmax(0.11, 0.17 + 0.02 * scale(log(density))[, 1] + rnorm(count, 0, 0.012)))
population_65 <- round(population * old)
population_0 <- round(population * young)

ring_json <- function(p) {
  q <- lonlat(p)
  rbind(q, q[1, ])
}
feature <- function(geometry, properties) {
  list(type = "Feature", properties = properties, geometry = geometry)
}
write_collection <- function(features, file) {
  lines <- vapply(
    features,
    function(f) as.character(jsonlite::toJSON(f, auto_unbox = TRUE, digits = 5)),
    ""
  )
  writeLines(
    enc2utf8(c(
      "{\"type\":\"FeatureCollection\",\"features\":[",
      paste0(lines, c(rep(",", length(lines) - 1), "")),
      "]}"
    )),
    file.path(out_dir, file),
    useBytes = TRUE
  )
}
ordered <- order(code)
write_collection(
  lapply(ordered, function(d) {
    parts <- lapply(polygons[[d]]$parts, function(rings) lapply(rings, ring_json))
    single <- length(parts) == 1
    feature(
      list(
        type = if (single) "Polygon" else "MultiPolygon",
        coordinates = if (single) parts[[1]] else parts
      ),
      list(
        code = code[d],
        name = name[d],
        region = region_names[region[d]],
        area_km2 = round(area[d], 1),
        population = population[d],
        population_0_14 = population_0[d],
        population_15_64 = population[d] - population_0[d] - population_65[d],
        population_65_plus = population_65[d]
      )
    )
  }),
  "districts.geojson"
)

# ---- visits -------------------------------------------------------------------------------

months <- sprintf("2031-%02d", 3:8)
season <- c(0.6, 1.0, 1.7, 2.1, 1.2, 0.5)
pollen <- exp(
  0.55 * scale(noise(middle[, 1], middle[, 2], 90, 3))[, 1] - 0.003 * (middle[, 1] - 180)
)
groups <- c("0-14", "15-64", "65+")
people <- cbind(population_0, population - population_0 - population_65, population_65)
rate <- c(9, 12, 5) / 1000
visits <- do.call(
  rbind,
  lapply(ordered, function(d) {
    g <- expand.grid(age_group = groups, month = months, stringsAsFactors = FALSE)
    lambda <- people[d, match(g$age_group, groups)] * rate[match(g$age_group, groups)] *
      season[match(g$month, months)] * pollen[d]
    data.frame(
      district = code[d],
      name = name[d],
      month = g$month,
      age_group = g$age_group,
      visits = rpois(nrow(g), lambda)
    )
  })
)
raw <- transform(visits, visits = ifelse(visits > 0 & visits < 5, "<5", as.character(visits)))
raw$visits[sample(which(visits$visits > 20), 3)] <- c("", "n/a", "")
lost <- sample(setdiff(code, code[c(enclave, chain_district)]), 3)
raw$district[raw$district %in% lost] <- sub("^0", "", raw$district[raw$district %in% lost])
accented <- name[grepl("[^ -~]", name) & !code %in% lost][1]
raw$name[raw$name == accented & raw$month >= "2031-06"] <- iconv(
  accented,
  "UTF-8",
  "ASCII//TRANSLIT"
)
absent <- code[order(population)][3]
raw <- raw[!raw$district %in% c(absent, sub("^0", "", absent)), ]
csv <- utils::capture.output(utils::write.csv(raw, row.names = FALSE, quote = 2, na = ""))
writeLines(
  enc2utf8(c(
    gsub("\"", "", csv),
    "",
    "Source: Orvane Health Office, provisional figures",
    "Fewer than 5 visits are shown as <5"
  )),
  file.path(out_dir, "visits.csv"),
  useBytes = TRUE
)

# ---- clinics, stations --------------------------------------------------------------------

place_in <- function(d, k) {
  w <- which(district == d)
  near <- order((cell$x[w] - middle[d, 1])^2 + (cell$y[w] - middle[d, 2])^2)
  w[near[seq_len(min(k, length(w)))]]
}
big <- order(-population)[1:42]
at <- vapply(big, function(d) sample(place_in(d, 12), 1), 0L)
where <- lonlat(cbind(cell$x[at], cell$y[at]))
kind <- ifelse(
  rank[big] > 2,
  "island post",
  ifelse(seq_along(big) <= 9, "hospital", "health centre")
)
patients <- round(population[big] * runif(42, 0.02, 0.06) * ifelse(kind == "hospital", 2.2, 1))
clinics <- data.frame(
  name = paste(
    plain[big],
    c(hospital = "Hospital", `health centre` = "Health Centre", `island post` = "Island Post")[kind]
  ),
  kind = kind,
  longitude = where[, 1],
  latitude = where[, 2],
  patients = patients
)
clinics[17, c("longitude", "latitude")] <- clinics[17, c("latitude", "longitude")]
write.csv(
  clinics,
  file.path(out_dir, "clinics.csv"),
  row.names = FALSE,
  quote = FALSE,
  fileEncoding = "UTF-8"
)

spots <- sample(seq_len(count), 24)
at <- vapply(spots, function(d) place_in(d, 1), 0L)
where <- lonlat(cbind(cell$x[at], cell$y[at]))
comma <- function(v) sub(".", ",", format(v, nsmall = 1, trim = TRUE), fixed = TRUE)
stations <- data.frame(
  station = plain[spots],
  longitude = comma(where[, 1]),
  latitude = comma(where[, 2]),
  grains_per_m3 = comma(round(60 * pollen[spots] + rnorm(24, 0, 6), 1)),
  since = sample(2009:2029, 24, TRUE)
)
con <- file(file.path(out_dir, "stations.csv"), open = "wb")
lines <- c(paste(names(stations), collapse = ";"), do.call(paste, c(stations, sep = ";")))
writeBin(unlist(iconv(paste0(lines, "\r\n"), "UTF-8", "windows-1252", toRaw = TRUE)), con)
close(con)

# ---- ferries, proposed border --------------------------------------------------------------

coast <- which(land & apply(matrix(land[neighbour], ncol = 6), 1, function(r) any(!r %in% TRUE)))
crossing <- function(a, b) {
  i <- coast[island[coast] == a]
  j <- coast[island[coast] == b]
  far <- outer(cell$x[i], cell$x[j], "-")^2 + outer(cell$y[i], cell$y[j], "-")^2
  k <- arrayInd(which.min(far), dim(far))
  c(i[k[1]], j[k[2]])
}
ports <- as.integer(names(size))[seq_len(min(10, length(size)))]
# Each island is linked to the nearest larger one, where the way is over water.
links <- lapply(2:length(ports), function(k) {
  far <- vapply(
    seq_len(k - 1),
    function(j) {
      e <- crossing(ports[k], ports[j])
      sum((cell[e[1], c("x", "y")] - cell[e[2], c("x", "y")])^2)
    },
    0
  )
  c(k, which.min(far))
})
ferries <- lapply(links, function(l) {
  e <- crossing(ports[l[1]], ports[l[2]])
  a <- c(cell$x[e[1]], cell$y[e[1]])
  b <- c(cell$x[e[2]], cell$y[e[2]])
  bend <- (a + b) / 2 + 0.06 * c(-(b - a)[2], (b - a)[1])
  t <- seq(0, 1, length.out = 16)
  path <- outer((1 - t)^2, a) + outer(2 * t * (1 - t), bend) + outer(t^2, b)
  feature(
    list(type = "LineString", coordinates = lonlat(path)),
    list(
      name = paste(plain[district[e[1]]], "to", plain[district[e[2]]]),
      minutes = round(sqrt(sum((b - a)^2)) * 2.6 + 15)
    )
  )
})
write_collection(ferries, "ferries.geojson")

largest <- order(-area)[order(-area) != district[deepest]]
largest <- setdiff(largest, c(enclave, edges$district[edges$other %in% enclave]))[1]
inside_cells <- which(district == largest)
ends <- c(
  inside_cells[which.min(cell$x[inside_cells] + cell$y[inside_cells])],
  inside_cells[which.max(cell$x[inside_cells] + cell$y[inside_cells])]
)
half <- grow(ends, district %in% largest, rough)$owner
other_half <- matrix(half[neighbour], ncol = 6)
cut <- !is.na(half) & half == 1 & !is.na(other_half) & other_half == 2
a <- from[cut]
b <- to[cut]
walk <- function(path) {
  while (!is.na(k <- match(path[length(path)], a))) path <- c(path, b[k])
  path
}
paths <- lapply(setdiff(a, b), walk)
path <- paths[[which.max(lengths(paths))]]
for (round in 1:3) {
  i <- 2:(length(path) - 1)
  v <- vertex
  vertex[path[i], ] <- 0.5 * v[path[i], ] + 0.25 * (v[path[i - 1], ] + v[path[i + 1], ])
}
write_collection(
  list(feature(
    list(type = "LineString", coordinates = lonlat(vertex[path, ])),
    list(name = paste("Proposed division of", name[largest]))
  )),
  "border-proposal.geojson"
)
cat(
  "largest", name[largest], "| zeros lost", lost, "| two spellings", accented, "| absent",
  absent, "| chain", code[chain_district], "| enclave", code[enclave], "\n"
)

# ---- residents by age, and a standard population ------------------------------------------

# As a spreadsheet program saves it: a title above the header, semicolons, spaces between thousands.
grouped <- function(x) format(x, big.mark = " ", trim = TRUE)
residents <- do.call(
  rbind,
  lapply(ordered, function(d) {
    data.frame(code = code[d], age_group = groups, residents = grouped(people[d, ]))
  })
)
writeLines(
  c(
    "Residents of Orvane on 1 January 2031, by district and age group",
    "",
    paste(names(residents), collapse = ";"),
    do.call(paste, c(residents, sep = ";"))
  ),
  file.path(out_dir, "residents.csv")
)
# A round standard, made up like all the rest.
writeLines(
  c("age_group,population", paste(groups, c(17000, 60000, 23000), sep = ",")),
  file.path(out_dir, "standard.csv")
)
