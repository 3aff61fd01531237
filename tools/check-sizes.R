# Fails when a file of R or of its tests has more than 400 lines, or a function of the package more
# than 50, or one that is not exported more than six arguments. Comments that document a function
# are not of its length.
most_lines <- 400L
most_in_function <- 50L
most_arguments <- 6L

function_lengths <- function(file) {
  data <- utils::getParseData(parse(file, keep.source = TRUE))
  heads <- data[data$token %in% c("FUNCTION", "'\\\\'"), ]
  whole <- data[match(heads$parent, data$id), ]
  lines <- whole$line2 - whole$line1 + 1
  data.frame(file = rep(file, nrow(whole)), line = whole$line1, lines = lines)
}

files <- list.files(
  c("R", "tests/testthat", "tests/fuzz", "bench", "tools", "data-raw"),
  "[.]R$",
  full.names = TRUE
)
files <- setdiff(files, "R/RcppExports.R")
lines <- vapply(files, function(file) length(readLines(file)), 0L)
for (file in names(lines)[lines > most_lines]) {
  cat(sprintf("%s has %d lines; a room has %d at most.\n", file, lines[[file]], most_lines))
}
package <- files[startsWith(files, "R/")]
functions <- do.call(rbind, lapply(package, function_lengths))
long <- functions[functions$lines > most_in_function, ]
for (i in seq_len(nrow(long))) {
  cat(sprintf(
    "%s:%d is a function of %d lines; %d at most.\n",
    long$file[i],
    long$line[i],
    long$lines[i],
    most_in_function
  ))
}

# Inside, what travels together is one value. `call` is for messages and does not count.
exported <- grep("^export\\(", readLines("NAMESPACE"), value = TRUE)
exported <- sub("^export\\((.*)\\)$", "\\1", exported)
wide <- unlist(lapply(package, function(file) {
  heads <- Filter(
    function(e) is.call(e) && identical(e[[1]], as.name("<-")) && is.call(e[[3]]),
    as.list(parse(file))
  )
  heads <- Filter(function(e) identical(e[[3]][[1]], as.name("function")), heads)
  count <- vapply(heads, function(e) length(setdiff(names(e[[3]][[2]]), "call")), 0L)
  names <- vapply(heads, function(e) as.character(e[[2]]), "")
  inner <- count > most_arguments & !names %in% exported
  sprintf("%s: %s() has %d arguments; %d at most.", file, names, count, most_arguments)[inner]
}))
cat(wide, sep = "\n")

# What raising a condition takes, and how many files know the kinds of layers by name.
condition_lines <- unlist(lapply(package, function(file) {
  data <- utils::getParseData(parse(file, keep.source = TRUE))
  heads <- data[data$text %in% c("ochre_abort", "ochre_warn") & grepl("CALL$", data$token), ]
  whole <- data[match(data$parent[match(heads$parent, data$id)], data$id), ]
  whole$line2 - whole$line1 + 1
}))
kinds <- "kind[^\n]*\"(areas|symbols|lines|labels|density|heat)\""
name_kinds <- vapply(package, function(file) any(grepl(kinds, readLines(file))), NA)
weight <- c(
  "lines a condition takes, on average" = round(mean(condition_lines), 1),
  "files that name a kind of layer" = sum(name_kinds)
)
most <- c(3.7, 10)
cat(sprintf("%s: %s (%s at most)\n", names(weight), weight, most), sep = "")
if (any(lines > most_lines) || nrow(long) > 0 || length(wide) || any(weight > most)) {
  quit(status = 1)
}
