# What the command says: results on the standard output, everything else on the standard error, and
# in a log where one is wanted (package logger).

# `quiet` leaves only errors; `log` is a file that takes every line with its time and level.
with_voice <- function(code, quiet = FALSE, log = NULL) {
  if (!is.null(log)) start_log(log)
  old <- options(ochre.voice = list(quiet = quiet, log = log))
  on.exit(options(old))
  code
}

start_log <- function(log) {
  need_package("logger", "A log")
  if (!dir.exists(dirname(log)) || dir.exists(log)) {
    ochre_abort("file", "The log `{log}` cannot be written.",
                "Name a file in a folder that is there.", file = log)
  }
  refuse_other_log(log)
  layout <- logger::layout_glue_generator("{format(time, '%Y-%m-%dT%H:%M:%S%z')} {level} {msg}")
  logger::log_layout(layout, namespace = "ochre")
  logger::log_formatter(logger::formatter_paste, namespace = "ochre")
  logger::log_appender(logger::appender_file(log), namespace = "ochre")
  logger::log_threshold(logger::INFO, namespace = "ochre")
}

# A log only grows, so what is there must be one.
refuse_other_log <- function(log) {
  if (!file.exists(log) || !isTRUE(file.size(log) > 0)) return(invisible())
  first <- readChar(log, 11, useBytes = TRUE)
  if (grepl("^[0-9]{4}-[0-9]{2}-[0-9]{2}T", first, useBytes = TRUE)) return(invisible())
  ochre_abort("file", "`{log}` is no log of Ochre; nothing was added to it.",
              "Name another file for --log.", file = log)
}

say <- function(..., level = "info") {
  text <- paste0(...)
  quiet <- isTRUE(getOption("ochre.voice")$quiet) && level != "error"
  if (!quiet) cat(text, "\n", file = stderr(), sep = "")
  log_line(text, level)
}

# Into the log alone.
log_line <- function(text, level) {
  if (is.null(getOption("ochre.voice")$log)) return(invisible())
  text <- sub("^(error|warning): ", "", trimws(cli::ansi_strip(text)))
  weight <- switch(level, info = logger::INFO, warning = logger::WARN, error = logger::ERROR)
  for (line in strsplit(text, "\n", fixed = TRUE)[[1]]) {
    logger::log_level(weight, trimws(line), namespace = "ochre")
  }
}

say_error <- function(what, mend, status) {
  say(cli::col_red("error: "), strip_period(what), level = "error")
  for (line in mend) say("  ", line, level = "error")
  status
}

say_warning <- function(what, mend) {
  say(cli::col_yellow("warning: "), what, level = "warning")
  for (line in mend) say("  ", line, level = "warning")
}

on_warning <- function(w) {
  say_warning(w$what %||% conditionMessage(w), w$mend)
  invokeRestart("muffleWarning")
}

on_message <- function(m) {
  if (inherits(m, "ochre_message")) {
    say(strip_newline(conditionMessage(m)))
    invokeRestart("muffleMessage")
  }
}

strip_newline <- function(x) sub("\n$", "", x)
