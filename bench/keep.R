# Compares the results of a run with the last ones that were kept, says what got worse by more than
# a tenth, and keeps the new ones: `Rscript keep.R LOG RESULTS.md`.
args <- commandArgs(TRUE)
columns <- c("row", "ratio", "goal", "floor")
now <- utils::read.delim(args[1], header = FALSE, col.names = columns, quote = "")
now <- now[!duplicated(now$row, fromLast = TRUE), ]

old <- if (file.exists(args[2])) readLines(args[2]) else character()
heads <- which(startsWith(old, "## "))
last <- if (length(heads)) old[heads[1]:c(heads[-1] - 1, length(old))[1]]
rows <- grep("^\\| .* \\| ([0-9.]+|Inf)", last, value = TRUE)
cells <- strsplit(sub("^\\| ", "", rows), " *\\| *")
before <- vapply(cells, function(x) as.numeric(sub("\\*", "", x[2], fixed = TRUE)), 0)
names(before) <- vapply(cells, `[[`, "", 1)

was <- before[now$row]
worse <- which(round(now$ratio, 2) > 1.1 * was)
for (i in worse) {
  cat(sprintf(
    "WORSE  %s: %.2f, was %.2f (%+.0f %%)\n",
    now$row[i], now$ratio[i], was[i], 100 * (now$ratio[i] / was[i] - 1)
  ))
}
gone <- setdiff(names(before)[!is.na(before)], now$row)
if (length(gone)) cat(sprintf("NOT RUN  %s\n", gone), sep = "")
over <- now$ratio > now$goal
cat(sprintf(
  "%d results: %d reach their goal, %d got worse by more than a tenth.\n",
  nrow(now), sum(!over), length(worse)
))

processor <- grep("^model name", readLines("/proc/cpuinfo"), value = TRUE)
table <- c(
  sprintf("## %s, version %s", format(Sys.Date()), utils::packageDescription("ochre")$Version),
  "",
  sprintf(
    "%s, %d cores; R %s; commit %s.",
    c(sub("^.*: *", "", processor), "unknown processor")[1], parallel::detectCores(),
    getRversion(), system2("git", c("rev-parse", "--short", "HEAD"), stdout = TRUE)
  ),
  "",
  "| what | ratio | goal | to |",
  "|---|---:|---:|---|",
  sprintf(
    "| %s | %.2f%s | %s | %s |",
    now$row, now$ratio, ifelse(over, "\\*", ""), now$goal, now$floor
  )
)
intro <- c(
  "# Results of the benchmarks",
  "",
  "What `make bench` measured, the last run first. A ratio is time (or memory, or growth)",
  "against the named floor in the same run: smaller is better. A star stands where the goal is",
  "not reached.",
  ""
)
rest <- if (length(heads)) c("", old[heads[1]:length(old)])
writeLines(c(intro, table, rest), args[2])
