# Points into areas on two ClickHouse servers (`make -C bench cluster`, after `make test-cluster`):
# against a plain grouped count over the same table, and how many rows travel.
source("bench.R")
source("../tests/testthat/helper-engines.R")
suppressMessages(library(ochre))
count <- size(1e8, 1e6)

run <- function() {
  engine <- open_clickhouse_pair(environment())
  con <- engine$con
  # Half on each server: places all over Orvane's box, and a code of a hundred districts.
  columns <- "longitude Float64, latitude Float64, district String"
  rows <- paste(
    "SELECT -40.4 + rand64(1) / 18446744073709551616 * 4.3,",
    "45.9 + rand64(2) / 18446744073709551616 * 2.1, toString(100 + rand(3) %% 100)",
    "FROM (SELECT number FROM system.numbers LIMIT %.0f)"
  )
  for (port in engine$ports) {
    there <- DBI::dbConnect(RClickhouse::clickhouse(), host = "127.0.0.1", port = port)
    DBI::dbExecute(there, sprintf(
      "CREATE TABLE points_part (%s) ENGINE = MergeTree ORDER BY tuple()", columns
    ))
    DBI::dbExecute(there, sprintf(paste("INSERT INTO points_part", rows), count / 2))
    DBI::dbDisconnect(there)
  }
  DBI::dbExecute(con, sprintf(
    "CREATE TABLE points (%s) ENGINE = Distributed(pair, default, points_part, rand())", columns
  ))
  points <- dplyr::tbl(con, "points")
  areas <- read_boundaries(ochre_demo("districts.geojson"))
  grouped <- function() dplyr::collect(dplyr::count(points, district))
  placed <- function() suppressWarnings(count_in_areas(points, areas))
  lent <- length(ochre:::cover_core(unclass(areas$geometry), count)$cell)
  travelled <- rows_fetched(result <- placed())
  times <- by_turns(grouped = grouped, placed = placed, runs = 3)
  name <- sprintf("%.0f million points into areas, two shards", count / 1e6)
  report(name, median_ratio(times, "placed", "grouped"), "a grouped count", 5,
         sprintf("%.1f s; %s of %s points inside", stats::median(times["placed", ]),
                 format(sum(result$points), big.mark = ","), format(count, big.mark = ",")))
  report(paste0(name, ": rows that travel, with cells"), 100 * (travelled + lent) / count,
         "a hundredth of them", 2)
  peak <- as.numeric(gsub("\\D", "", grep("VmHWM", readLines("/proc/self/status"), value = TRUE)))
  report(paste0(name, ": memory of R"), peak / 2^20, "a gigabyte", 1)
}
run()
