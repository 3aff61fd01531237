# A long table of 20,000 areas in 50 periods joined to their boundaries, against a bare match() of
# its keys that then takes two columns. The table is in no order, and twenty of its keys are
# wrong.
suppressMessages(library(ochre))
set.seed(1)
areas <- 20000
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
clock <- function(code) system.time(code, gcFirst = TRUE)[["elapsed"]]
pairs <- vapply(
  1:9,
  function(i) c(clock(bare()), clock(ours()), clock(format(join_audit(ours())))),
  c(0, 0, 0)
)
cat(sprintf(
  paste0(
    "bare %.3f s; joined %.3f s; joined and its audit read %.3f s; ratios, medians of %d: ",
    "%.2f (at most 1.5), %.2f (at most 3)\n"
  ),
  stats::median(pairs[1, ]),
  stats::median(pairs[2, ]),
  stats::median(pairs[3, ]),
  ncol(pairs),
  stats::median(pairs[2, ] / pairs[1, ]),
  stats::median(pairs[3, ] / pairs[1, ])
))
