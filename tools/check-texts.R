# Fails when a text of a condition has braces around what its function does not know, or around no
# code: such a fault would only be seen when the condition is raised.
files <- setdiff(list.files("R", "[.]R$", full.names = TRUE), "R/RcppExports.R")
code <- unlist(lapply(files, function(file) as.list(parse(file, keep.source = FALSE))))
defined <- Filter(function(e) is.call(e) && identical(e[[1]], as.name("<-")), code)
known <- vapply(defined, function(e) deparse(e[[2]])[1], "")

texts_in <- function(e) if (is.character(e)) e else if (is.call(e)) unlist(lapply(e, texts_in))
said_in <- function(e) {
  if (!is.call(e) && !is.pairlist(e)) return(NULL)
  raises <- function(f) deparse(f)[1] %in% c("ochre_abort", "ochre_warn", "ochre_tell")
  # Through do.call() a text of data would be taken for one of the code.
  through <- is.call(e) && deparse(e[[1]])[1] == "do.call" && raises(e[[2]])
  if (through) return("{through do.call}")
  if (is.call(e) && raises(e[[1]])) return(texts_in(e))
  unlist(lapply(as.list(e), function(x) if (!missing(x)) said_in(x)))
}
holes_of <- function(text) {
  found <- regmatches(text, gregexpr("[{][{]|[}][}]|[{][^{}?][^{}]*[}]", text))[[1]]
  substr(found, 2, nchar(found) - 1)[nchar(found) > 2]
}

# What a piece of code needs to be there, and the arguments of all functions within it.
needs <- function(e) {
  if (is.name(e)) return(as.character(e))
  if (!is.call(e)) return(NULL)
  unlist(lapply(if (deparse(e[[1]])[1] == "$") e[2] else as.list(e)[-1], needs))
}
arguments_in <- function(e) {
  if (is.pairlist(e)) return(names(e))
  if (is.call(e)) unlist(lapply(as.list(e), function(x) if (!missing(x)) arguments_in(x)))
}

faults <- unlist(lapply(defined, function(e) {
  own <- c(known, all.names(e), arguments_in(e[[3]]))
  lapply(unlist(lapply(said_in(e[[3]]), holes_of)), function(hole) {
    inside <- tryCatch(parse(text = hole)[[1]], error = function(e) NULL)
    lost <- if (is.null(inside)) "no code" else setdiff(needs(inside), own)
    if (length(lost)) sprintf("%s(): {%s} names %s.", deparse(e[[2]])[1], hole, lost)
  })
}))
if (length(faults)) {
  cat(faults, sep = "\n")
  quit(status = 1)
}
