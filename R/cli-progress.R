# Progress in the terminal and in an interactive session. The core only signals how far it is
# (signal_progress() in R/util-conditions.R); here a bar is drawn for it. It stands until its job
# says that it is done, or another begins.

draw_progress <- function(shown, what, done, total) {
  if (!identical(shown$what, what)) {
    end_progress(shown)
    shown$what <- what
    shown$bar <- cli::cli_progress_bar(
      what, total = total, clear = TRUE, .envir = shown, .auto_close = FALSE
    )
  }
  if (isTRUE(done >= total)) return(end_progress(shown))
  cli::cli_progress_update(set = done, id = shown$bar, .envir = shown)
}

end_progress <- function(shown) {
  if (!is.null(shown$bar)) cli::cli_progress_done(id = shown$bar, .envir = shown)
  shown$bar <- shown$what <- NULL
}

with_progress <- function(code) {
  shown <- new.env()
  on.exit(end_progress(shown))
  withCallingHandlers(code, ochre_progress = function(p) {
    draw_progress(shown, p$what, p$done, p$total)
  })
}

# A display for somebody who sits at the session.
session_progress <- function() {
  shown <- new.env()
  function(what, done, total) draw_progress(shown, what, done, total)
}

.onLoad <- function(libname, pkgname) {
  if (interactive() && is.null(getOption("ochre.progress"))) {
    options(ochre.progress = session_progress())
  }
}
