# Every projection against PROJ's own program, at the poles, the equator and 180 degrees.

settings <- function() {
  lon0 <- c(-180, -77.3, 0, 33.1, 180)
  at <- function(name, words, lat0, lat1 = 0, lat2 = 0) {
    lapply(lon0, function(lon) {
      list(
        projection = list(name = name, lon0 = lon, lat0 = lat0, lat1 = lat1, lat2 = lat2),
        proj = c(words, sprintf("+lon_0=%s", lon))
      )
    })
  }
  azimuthal <- lapply(c(-90, -89.99, -41.5, 0, 52, 89.9, 90), function(lat0) {
    at("azimuthal equal-area", c("+proj=laea", sprintf("+lat_0=%s", lat0)), lat0)
  })
  conic <- lapply(list(c(46, 40, 50), c(-30, -50, -20), c(5, -5, 20)), function(p) {
    at(
      "equal-area conic",
      c("+proj=aea", sprintf(c("+lat_0=%s", "+lat_1=%s", "+lat_2=%s"), p)), p[1], p[2],
      p[3]
    )
  })
  transverse <- lapply(c(-60, 0, 45), function(lat0) {
    at("transverse Mercator", c("+proj=tmerc", sprintf("+lat_0=%s", lat0)), lat0)
  })
  c(
    unlist(azimuthal, FALSE),
    unlist(conic, FALSE),
    unlist(transverse, FALSE),
    at("world equal-area", "+proj=eqearth", 0),
    at("web Mercator", "+proj=webmerc", 0),
    at(
      "equirectangular",
      c("+proj=eqc", "+R_A=0", "+a=6378137", "+b=6378137", "+lat_ts=30", "+lat_0=30"),
      30,
      30
    )
  )
}

# Anywhere, and on purpose at poles, on the equator, at 180 degrees and on the far side.
places <- function(projection, n = 2000) {
  lon <- stats::runif(n, -180, 180)
  lat <- asin(stats::runif(n, -1, 1)) * 180 / pi
  lat[1:40] <- rep(c(-90, 90), 20)
  lat[41:60] <- 0
  lon[61:100] <- rep(c(-180, 180), 20)
  lon[101:140] <- projection$lon0 + 180 + stats::runif(40, -2, 2)
  lat[101:140] <- -projection$lat0 + stats::runif(40, -2, 2)
  list(lon = (lon + 180) %% 360 - 180, lat = pmax(-90, pmin(90, lat)))
}

run_proj <- function(words, at) {
  input <- sprintf("%.12f %.12f", at$lon, at$lat)
  path <- tempfile("ochre-places-")
  on.exit(unlink(path))
  writeLines(input, path)
  ellipsoid <- if (!any(grepl("webmerc|\\+a=", words))) "+ellps=WGS84"
  run <- processx::run(
    "proj",
    c("-f", "%.5f", "-e", "nan nan", words, ellipsoid),
    stdin = path,
    error_on_status = FALSE
  )
  out <- run$stdout
  do.call(rbind, lapply(strsplit(strsplit(out, "\n")[[1]], "[ \t]+"), as.numeric))
}

test_that("all projections agree with PROJ's program, at poles and on the far side too", {
  skip_if(Sys.which("proj") == "", "PROJ's program is not installed")
  set.seed(20)
  for (setting in settings()) {
    p <- setting$projection
    at <- places(p)
    want <- suppressWarnings(run_proj(setting$proj, at))
    got <- project_core(at$lon, at$lat, p)
    label <- paste(setting$proj, collapse = " ")
    expect_equal(nrow(want), length(at$lon), info = label)
    # PROJ says nothing of the place opposite of a centre and loses its direction near it; web
    # maps end before the poles.
    opposite <- p$name == "azimuthal equal-area" &
      sqrt(got$x^2 + got$y^2) > 12741000 * cos(pi / 360)
    expect_lt(
      max(
        0,
        abs(sqrt(got$x^2 + got$y^2) - sqrt(want[, 1]^2 + want[, 2]^2))[
          opposite & !is.nan(want[, 1])
        ]
      ),
      50
    )
    far <- is.nan(want[, 1]) | opposite | (p$name == "web Mercator" & abs(at$lat) > 85)
    # At the meridian where a map is torn either edge is right.
    torn <- abs((at$lon - p$lon0) %% 360 - 180) < 1e-9 &
      !p$name %in% c("azimuthal equal-area", "transverse Mercator")
    x <- ifelse(torn, abs(got$x), got$x)
    wx <- ifelse(torn, abs(want[, 1]), want[, 1])
    # Beyond 80 degrees from the middle the transverse series of both are past their accuracy.
    away <- acos(pmin(1, abs(cos(at$lat * pi / 180) * sin((at$lon - p$lon0) * pi / 180)))) *
      180 / pi
    far <- far | (p$name == "transverse Mercator" & away < 12)
    off <- pmax(abs(x - wx), abs(got$y - want[, 2]))
    # At a pole itself the program has lost some digits: its longitude moves the place.
    expect_lt(max(off[!far & abs(at$lat) < 90]), 0.1, label = label)
    expect_lt(max(off[!far & abs(at$lat) == 90], 0), 2, label = label)
    expect_true(all(is.finite(got$x)) && all(is.finite(got$y)))
    expect_lt(max(abs(c(got$x, got$y))), 4.5e7, label = label)
  }
})
