# Progress in the terminal and in an interactive session. The core only signals how far it is (signal_progress() in
# R/conditions.R); here a bar is drawn for it, from two seconds on.

with_progress <- function(code) {
  shown <- new.env()
  end <- function() if (!is.null(shown$bar)) cli::cli_progress_done(id = shown$bar, .envir = shown)
  on.exit(end())
  withCallingHandlers(code, ochre_progress = function(p) {
    if (!identical(shown$what, p$what)) {
      end()
      shown$what <- p$what
      shown$bar <- cli::cli_progress_bar(p$what, total = p$total, clear = TRUE, .envir = shown, .auto_close = FALSE)
    }
    cli::cli_progress_update(set = p$done, id = shown$bar, .envir = shown)
  })
}

# In a session a bar stands until its job says that it is done, or another begins.
session_progress <- function(what, done, total) {
  shown <- progress
  end <- function() {
    if (!is.null(shown$bar)) cli::cli_progress_done(id = shown$bar, .envir = shown)
    shown$bar <- NULL
  }
  if (!identical(shown$what, what)) {
    end()
    shown$what <- what
    shown$bar <- cli::cli_progress_bar(what, total = total, clear = TRUE, .envir = shown, .auto_close = FALSE)
  }
  if (!is.null(shown$bar)) cli::cli_progress_update(set = done, id = shown$bar, .envir = shown)
  if (isTRUE(done >= total)) {
    end()
    shown$what <- NULL
  }
}

.onLoad <- function(libname, pkgname) if (interactive()) progress$show <- session_progress
