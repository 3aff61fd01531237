# Makes the data of the example jobs that are not of Orvane or Tarvossa themselves: run
# `Rscript data-raw/make-examples.R` from the package's folder. Everything is drawn from one seed.
# ferries.kml and buoys.gpx were written by hand.
set.seed(20310601)
out <- file.path("inst", "examples")
towns <- utils::read.csv(
  file.path("inst", "tarvossa", "municipalities.csv"),
  colClasses = "character"
)

# Prices of houses, a few of which nobody would believe.
n <- 400
price <- round(exp(stats::rnorm(n, 11.6, 0.5)) / 100) * 100
price[sample(n, 6)] <- 99999999
price[sample(n, 4)] <- 1
prices <- data.frame(
  county = towns$county[seq_len(n)],
  house = seq_len(n),
  price = format(price, scientific = FALSE, trim = TRUE)
)
utils::write.csv(prices, file.path(out, "prices.csv"), row.names = FALSE, quote = FALSE)

# Schools of the state with most towns, as a service gives them: nested.
state <- substr(towns$county, 1, 2)
most <- names(which.max(table(state)))
schools <- utils::head(towns[state == most, ], 60)
rows <- sprintf(
  paste0(
    "{\"name\":\"%s School\",\"state\":\"%s\",\n",
    "  \"where\":{\"type\":\"Point\",\"coordinates\":%s},\"pupils\":%d}"
  ),
  schools$name,
  most,
  schools$place,
  stats::rpois(nrow(schools), exp(stats::rnorm(nrow(schools), 5.2, 0.6)))
)
writeLines(
  c("{\"as_of\": \"2031-09-01\", \"data\": {\"schools\": [", paste(rows, collapse = ",\n"), "]}}"),
  file.path(out, "schools.json")
)

# Readings of water levels, of which the latest are missing at one place.
stations <- data.frame(
  station = c("Varn Lock", "Ostrand Quay", "Quell Bridge", "Hesper Weir"),
  latitude = c(46.62, 46.95, 46.41, 46.80),
  longitude = c(-39.4, -38.2, -37.7, -39.0)
)
levels <- c(
  140, 143, 139, NA, NA, 180, 190, 210, 222, 231, 255, 260, 258, 262, 270, 90, 95, 99, 101, 98
)
readings <- cbind(
  stations[rep(1:4, each = 5), ],
  day = rep(sprintf("2031-06-%02d", 1:5), 4),
  level_cm = levels
)
writexl::write_xlsx(readings, file.path(out, "water-levels.xlsx"))
message("State of the schools: ", most)
