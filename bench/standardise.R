# Rates of 20,000 areas in 60 periods, standardised over 18 age groups, against one grouped sum of
# the same rows by data.table; a quarter of the rows and all of them, because time should grow as
# the rows do.
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
clock <- function(code) system.time(code, gcFirst = TRUE)[["elapsed"]]
took <- list()
for (areas in c(5000, 20000)) {
  rows <- make(areas)
  pairs <- vapply(
    1:3,
    function(i) {
      c(
        clock(rows[, .(cases = sum(cases), people = sum(people)), by = .(area, period)]),
        clock(standardise_rate(rows, cases, people, age, c(area, period), standard = standard))
      )
    },
    c(0, 0)
  )
  took <- c(took, list(apply(pairs, 1, stats::median)))
  cat(sprintf(
    paste0(
      "%s rows: grouped sum %.2f s, standardise_rate() %.2f s, ratio, median of 3 pairs: ",
      "%.2f (at most 5)\n"
    ),
    format(nrow(rows), big.mark = ","),
    stats::median(pairs[1, ]),
    stats::median(pairs[2, ]),
    stats::median(pairs[2, ] / pairs[1, ])
  ))
}
growth <- took[[2]] / took[[1]]
cat(sprintf(
  "four times the rows: the grouped sum takes %.1f times as long, standardise_rate() %.1f times\n",
  growth[1],
  growth[2]
))
