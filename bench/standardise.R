# Rates of 20,000 areas in 60 periods, standardised over 18 age groups, against one grouped sum of
# the same rows by data.table; a quarter of the rows and all of them, because time should grow as
# the rows do.
source("bench.R")
suppressMessages({
  library(ochre)
  library(data.table)
})
set.seed(1)
options(ochre.quiet = "missing")
make <- function(areas, ages = 18, periods = 60) {
  rows <- as.data.table(expand.grid(
    age = seq_len(ages),
    area = seq_len(areas),
    period = seq_len(periods)
  ))
  rows[, people := rpois(.N, 300) + 1]
  rows[, cases := as.numeric(rpois(.N, people / 100))]
  rows[]
}
standard <- data.frame(age = 1:18, population = seq(9000, 500, by = -500))
took <- list()
for (areas in size(c(5000, 20000), c(50, 200))) {
  rows <- make(areas)
  times <- by_turns(
    sum = function() rows[, .(cases = sum(cases), people = sum(people)), by = .(area, period)],
    rate = function() {
      standardise_rate(rows, cases, people, age, c(area, period), standard = standard)
    },
    runs = 3
  )
  took <- c(took, list(apply(times, 1, stats::median)))
  report(
    sprintf("%.0fM rows standardised", size(nrow(rows) / 1e6, areas)),
    median_ratio(times, "rate", "sum"),
    "one grouped sum",
    2,
    seconds(times, "rate")
  )
}
growth <- took[[2]] / took[[1]]
report(
  "four times the rows standardised",
  growth[["rate"]],
  "the time",
  4.8,
  sprintf("the grouped sum %.1f", growth[["sum"]])
)
