# A long table of 20,000 areas in 50 periods joined to their boundaries, against a bare match() of
# its keys that then takes two columns. The table is in no order, and twenty of its keys are
# wrong.
source("bench.R")
suppressMessages(library(ochre))
set.seed(1)
areas <- size(20000, 200)
periods <- 50
codes <- sprintf("%06d", sample(999999, areas))
boundaries <- tibble::tibble(
  code = codes,
  population = rpois(areas, 5000),
  geometry = wk::wkb(
    rep(list(as.raw(c(1, 1, 0, 0, 0, rep(0, 16)))), areas),
    crs = wk::wk_crs_longlat()
  )
)
boundaries$geometry <- read_boundaries(tibble::tibble(geometry = boundaries$geometry))$geometry
long <- tibble::tibble(
  district = rep(codes, periods),
  month = rep(
    sprintf("%d-%02d", 2027 + 0:(periods - 1) %/% 12, 1 + 0:(periods - 1) %% 12),
    each = areas
  ),
  visits = rpois(areas * periods, 40),
  beds = runif(areas * periods)
)
long <- long[sample(nrow(long)), ]
long$district[sample(nrow(long), 20)] <- sprintf("lost %d", 1:20)
options(ochre.quiet = "unmatched")
bare <- function() {
  at <- match(long$district, boundaries$code)
  list(boundaries$code[at], boundaries$population[at])
}
ours <- function() join_statistics(boundaries, long, by = c(code = "district"), period = month)
# What a user would write with general packages.
tables <- list(boundaries = data.table::as.data.table(unclass(boundaries)[1:2]))
tables$long <- data.table::as.data.table(long)
by_table <- function() {
  merge(tables$boundaries, tables$long, by.x = "code", by.y = "district", all.x = TRUE)
}
plain <- boundaries[c("code", "population")]
by_dplyr <- function() dplyr::left_join(plain, long, by = c(code = "district"))
times <- by_turns(
  bare = bare,
  joined = ours,
  audited = function() format(join_audit(ours())),
  table = by_table,
  dplyr = by_dplyr,
  runs = 9
)
row <- "1M long rows joined to 20,000 codes"
to <- "match() and two columns"
report(row, median_ratio(times, "joined", "bare"), to, 1.5, seconds(times, "joined"))
report(paste0(row, ", with audit"), median_ratio(times, "audited", "bare"), to, 2)
report(paste0(row, ", data.table"), median_ratio(times, "joined", "table"), "data.table's", 0.5)
report(paste0(row, ", dplyr"), median_ratio(times, "joined", "dplyr"), "dplyr's", 0.5)
