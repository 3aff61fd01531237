# Errors, warnings and messages. Every error has a leaf class `ochre_error_<kind>` and then
# `ochre_error`; every warning `ochre_warning_<kind>` and then `ochre_warning`. The text is
# one sentence for what is wrong and one for the likely mend; the offending values are fields.
#
# Of a text that is written where it is raised, `{x}` is the value of `x` there, and `row{?s}` goes
# with the number before it (see cli::pluralize()); what is named so is a field of the condition.
# A text that was made elsewhere stays as it is: data may hold braces. The call is that of `call`,
# where there is one, else of the function that raises it.

ochre_abort <- function(kind, what, mend = NULL, ..., call = NULL) {
  frame <- rlang::caller_env()
  what <- fill_in(substitute(what), what, frame)
  mend <- fill_in(substitute(mend), mend, frame)
  raise("error", kind, what, mend, list(...), call %||% call_of(frame))
}

# A warning is given once per build and can be silenced by its name:
# options(ochre.quiet = c("counts", "unmatched")).
ochre_warn <- function(kind, what, mend = NULL, ...) {
  frame <- rlang::caller_env()
  what <- fill_in(substitute(what), what, frame)
  mend <- fill_in(substitute(mend), mend, frame)
  raise("warning", kind, what, mend, list(...))
}

ochre_tell <- function(text) {
  words <- fill_in(substitute(text), text, rlang::caller_env())
  rlang::inform(as.character(words), class = "ochre_message")
}

# Raises a condition of words as they are.
raise <- function(type, kind, what, mend, fields, call = NULL) {
  if (type == "warning" && kind %in% getOption("ochre.quiet")) return(invisible())
  named <- c(attr(what, "named"), attr(mend, "named"))
  what <- as.character(what)
  mend <- if (length(mend)) as.character(mend)
  own <- c("what", "mend", names(fields), names(formals(rlang::abort)))
  fields <- c(list(what = what, mend = mend), fields, named[setdiff(names(named), own)])
  message <- c(what, if (length(mend)) stats::setNames(mend, rep("i", length(mend))))
  class <- paste0("ochre_", type, c(paste0("_", kind), ""))
  if (type == "error") rlang::abort(message, class, !!!fields, call = call)
  rlang::warn(message, class, !!!fields)
}

# A text with its values in place, and those that it has by a plain name.
fill_in <- function(code, text, frame) {
  if (!is.character(text) || !is_written(code)) return(text)
  old <- options(scipen = 100)
  on.exit(options(old))
  filled <- vapply(text, function(one) as.character(cli::pluralize(one, .envir = frame)), "")
  plain <- regmatches(text, gregexpr("(?<=(?<![{])[{])[a-z][a-z0-9_.]*(?=[}])", text, perl = TRUE))
  named <- mget(unique(unlist(plain)), frame, inherits = TRUE)
  structure(unname(filled), named = Filter(is.atomic, named))
}

# Whether all that a text is made of stands in the code itself.
is_written <- function(code) {
  if (!is.call(code)) return(is.character(code) || is.null(code))
  parts <- as.list(code)[-1]
  switch(as.character(code[[1]])[1],
    `if` = all(vapply(parts[-1], is_written, NA)),
    c = , paste = , paste0 = , `(` = , `{` = all(vapply(parts, is_written, NA)),
    FALSE
  )
}

# The call that a condition blames: `call` where it is raised, or the function itself.
call_of <- function(frame) {
  call <- tryCatch(get0("call", frame), error = function(e) frame)
  if (is.function(call)) frame else call
}

# Hands each warning of the code to `hear` in place of giving it; with `quiet` messages are not
# given either.
hear_warnings <- function(code, hear, quiet = FALSE) {
  withCallingHandlers(
    code,
    ochre_warning = function(w) {
      hear(w)
      rlang::cnd_muffle(w)
    },
    ochre_message = function(m) if (quiet) rlang::cnd_muffle(m)
  )
}

# An error or a warning as data.
said_condition <- function(w) {
  kind <- sub("^ochre_(warning|error)_", "", class(w)[1])
  list(kind = kind, what = w$what, mend = I(as.character(w$mend)))
}

# Says how far a longer job is. Whoever shows progress handles the condition, as the command does;
# else the function of the option `ochre.progress` shows it, which has `what`, `done` and `total`.
signal_progress <- function(what, done, total) {
  rlang::signal("", class = "ochre_progress", what = what, done = done, total = total)
  show <- getOption("ochre.progress")
  if (is.function(show)) show(what, done, total)
}

# A text that the core made of its own: a C++ string has no mark of what its bytes are.
as_utf8 <- function(text) {
  if (is.character(text)) Encoding(text) <- "UTF-8"
  text
}

# Raises what a C++ binding reported, in the name of the function that the user called.
call_core <- function(result, file = NULL, call = rlang::caller_env()) {
  if (!isNamespaceLoaded("Rcpp")) load_bridge()
  # The work is done here, when `result` is first looked at.
  result <- tryCatch(result, `C++Error` = function(e) list(error = core_fault(e)))
  if (!is.list(result) || !identical(names(result), "error")) return(result)
  error <- lapply(result$error, as_utf8)
  place <- character()
  if (!is.null(file)) place <- paste0("`", file, "`")
  if (isTRUE(error$line > 0)) {
    place <- c(place, sprintf("line %d, column %d", error$line, error$column))
  }
  if (isTRUE(error$byte >= 0)) place <- c(place, sprintf("byte %.0f", error$byte))
  if (isTRUE(error$feature > 0)) place <- c(place, sprintf("feature %d", error$feature))
  what <- if (length(place)) {
    paste0(paste(place, collapse = ", "), ": ", error$what, ".")
  } else {
    paste0(sentence(error$what), ".")
  }
  mend <- if (length(error$layers)) {
    c(
      sprintf("It holds %s.", list_words(error$layers, 12)),
      sprintf("Name one, for example layer = \"%s\".", error$layers[1])
    )
  } else if (!is.null(error$mend) && nzchar(error$mend)) {
    paste0(sentence(error$mend), ".")
  }
  ochre_abort(
    error$kind, what, mend, file = file, line = error$line, column = error$column,
    byte = error$byte, feature = error$feature, layers = error$layers, call = call
  )
}

# What a binding threw without saying more.
core_fault <- function(e) {
  kinds <- c(
    PlanFault = "plan",
    `ochre::WkbError` = "geometry",
    `std::bad_alloc` = "memory",
    `std::length_error` = "memory"
  )
  kind <- kinds[intersect(class(e), names(kinds))]
  if (length(kind)) return(list(kind = kind[[1]], what = conditionMessage(e)))
  list(
    kind = "argument",
    what = paste(
      "something that the core was given is not what it should be:",
      conditionMessage(e)
    ),
    mend = "was a sheet, a plan or a table changed by other means? Make it anew"
  )
}

did_you_mean <- function(word, known, what = "Known") {
  near <- nearest_word(word, known)
  if (!is.null(near)) return(paste0("Did you mean `", near, "`?"))
  paste0(what, ": ", list_words(known, 12), ".")
}

# What is compiled calls functions of Rcpp, which must be there; naming one loads it.
load_bridge <- function() invisible(Rcpp::compileAttributes)
