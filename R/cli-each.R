# One map for each of several, one after the other, or several at once on daemons of package mirai:
# processes of this machine, or those that a script sets up on others.

# What each says is kept and said when it is done, so that maps that are made at once do not talk
# into each other.
build_several <- function(jobs, options) {
  telling <- function(i, built, done) {
    tell_built(names(jobs)[i], built, options$json)
    signal_progress("Making maps", done, length(jobs))
  }
  at_once <- min(options$jobs, length(jobs))
  if (!is.null(options$daemons)) {
    close <- start_daemons(options$daemons)
    at_once <- 0
  } else if (at_once > 1) {
    close <- start_processes(at_once)
  } else {
    built <- list()
    for (i in seq_along(jobs)) {
      built[[names(jobs)[i]]] <- build_apart(jobs[[i]])
      telling(i, built[[i]], i)
    }
    return(built)
  }
  on.exit(close())
  build_on_daemons(jobs, at_once, telling)
}

build_apart <- function(job) {
  with_voice(quiet = TRUE, tryCatch(
    withCallingHandlers(
      make_map(job, warn = function(what, mend) NULL),
      ochre_message = function(m) rlang::cnd_muffle(m)
    ),
    ochre_error = function(e) list(error = said_condition(e))
  ))
}

# The same in a daemon, which may run on another machine that has the same folders.
build_there <- function(job) {
  here <- as.character(utils::packageVersion("ochre"))
  lost <- if (here != job$version) {
    sprintf("A daemon has Ochre %s, and this is Ochre %s.", here, job$version)
  } else if (!dir.exists(job$folder)) {
    sprintf("The machine of a daemon has no folder `%s`.", job$folder)
  }
  if (!is.null(lost)) {
    mend <- "Daemons need the same version and the same folders as the command."
    return(list(error = list(kind = "daemon", what = lost, mend = mend)))
  }
  setwd(job$folder)
  # Values that the environment of the command sets.
  if (length(job$environment)) do.call(Sys.setenv, as.list(job$environment))
  build_apart(job)
}

# ---- daemons -------------------------------------------------------------------------------------

start_processes <- function(count) {
  need_package("mirai", "Making maps at once")
  mirai::daemons(count)
  function() mirai::daemons(0)
}

# The script says mirai::daemons(url =, remote =), by SSH, Slurm or otherwise.
start_daemons <- function(script) {
  need_package("mirai", "Making maps on daemons")
  script_value(script, "--daemons", "calls mirai::daemons()")
  if (!mirai::daemons_set()) {
    ochre_abort(
      "argument", "`{script}` starts no workers.",
      "It should call mirai::daemons(url = , remote = ) as the help of package mirai shows.",
      arg = "--daemons"
    )
  }
  function() mirai::daemons(0)
}

# A map whose daemon ends, by whatever cause, is made by another, so long as there is one; one that
# ends its daemon every time is given up. `own` is the number of processes to keep running here.
build_on_daemons <- function(jobs, own, tell) {
  set <- Sys.getenv()
  facts <- list(
    folder = getwd(), version = as.character(utils::packageVersion("ochre")),
    environment = unclass(set)[startsWith(names(set), "OCHRE_VALUE_")]
  )
  send <- function(i) {
    mirai::mirai(make(job), make = build_there, job = c(jobs[[i]], facts))
  }
  running <- lapply(seq_along(jobs), send)
  built <- stats::setNames(vector("list", length(jobs)), names(jobs))
  tries <- rep(1L, length(jobs))
  open <- rep(TRUE, length(jobs))
  said <- 0L
  while (any(open)) {
    await_one(running[open])
    for (i in which(open)) {
      if (mirai::unresolved(running[[i]])) next
      result <- running[[i]]$data
      if (is_daemon_end(result) && tries[i] < daemon_tries) {
        replace_daemons(own)
        tries[i] <- tries[i] + 1L
        running[[i]] <- send(i)
        next
      }
      built[[i]] <- if (mirai::is_error_value(result)) given_up(result, tries[i]) else result
      open[i] <- FALSE
    }
    # Said in the order of the maps.
    while (said < length(jobs) && !open[said + 1L]) {
      said <- said + 1L
      tell(said, built[[said]], said)
    }
  }
  built
}

# Until one of them is made. Daemons elsewhere may take their time to start, but not for ever.
await_one <- function(running) {
  seen <- proc.time()[["elapsed"]]
  repeat {
    for (i in 1:50) {
      if (!all(vapply(running, mirai::unresolved, NA))) return(invisible())
      Sys.sleep(0.02)
    }
    now <- proc.time()[["elapsed"]]
    if (mirai::status()$connections) seen <- now
    if (now - seen > daemon_patience) refuse_without_daemons()
  }
}

daemon_patience <- 60
daemon_tries <- 3L
connection_reset <- 19L
is_daemon_end <- function(result) {
  inherits(result, "errorValue") && unclass(result) == connection_reset
}

replace_daemons <- function(own) {
  alive <- mirai::status()$connections
  if (own > alive) {
    mirai::launch_local(own - alive)
  } else if (!alive) {
    refuse_without_daemons()
  }
}

refuse_without_daemons <- function() {
  ochre_abort(
    "daemon", "No workers are left; some maps were not built.",
    c(
      "What was made is there; another run makes the others.",
      "Do the daemons reach this machine, and do they find R with Ochre and mirai?"
    )
  )
}

given_up <- function(result, tries) {
  what <- if (is_daemon_end(result)) {
    sprintf("The process that made this map ended %d times without a word", tries)
  } else {
    strip_period(trimws(as.character(result)[1]))
  }
  list(error = list(
    kind = "daemon",
    what = paste0(what, "."),
    mend = if (is_daemon_end(result)) "Is there enough memory? Fewer --jobs need less."
  ))
}

# ---- what is said --------------------------------------------------------------------------------

tell_built <- function(name, built, json) {
  for (w in built$warnings) say_warning(paste0(name, ": ", w$what), unlist(w$mend))
  for (one in built$changed) say(name, ": ", one$what)
  if (!is.null(built$error)) say_error(paste0(name, ": ", built$error$what), built$error$mend, 1L)
  if (!json) for (file in built$files) say_file(file)
}

say_count <- function(names, built, failed) {
  made <- sprintf("%d of %s made", sum(!failed), count_words(length(built), "map"))
  lost <- if (any(failed)) paste0("; failed: ", list_words(names[failed], Inf))
  say(made, lost, ".", level = if (any(failed)) "error" else "info")
}

# Names in what a daemon evaluates.
utils::globalVariables(c("make", "job"))
