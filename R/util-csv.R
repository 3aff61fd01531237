# Every table that Ochre writes as CSV goes through here: a text that a spreadsheet would run as a
# formula gets an apostrophe before it, which reading takes off again (read-delimited.R).

write_csv <- function(table, path) {
  names(table) <- plain_text(names(table))
  table[] <- lapply(table, function(x) {
    if (is.character(x) || is.factor(x)) plain_text(as.character(x)) else x
  })
  data.table::fwrite(table, path, na = "", quote = "auto", eol = "\n", showProgress = FALSE)
}

csv_text <- function(table) {
  path <- tempfile("ochre-", fileext = ".csv")
  on.exit(remove_path(path))
  write_csv(table, path)
  enc2utf8(paste0(readLines(path, encoding = "UTF-8", warn = FALSE), "\n", collapse = ""))
}

# Numbers may begin with a sign.
formula_start <- "^[=+@\t\r-]"
plain_text <- function(x) {
  formula <- which(grepl(formula_start, x) & !grepl("^[-+]?[0-9]+([.,][0-9]+)?%?$", x))
  x[formula] <- paste0("'", x[formula])
  x
}
without_apostrophe <- function(x) {
  guarded <- which(stringi::stri_detect_regex(x, "^'[=+@-]"))
  x[guarded] <- substring(x[guarded], 2)
  x
}
