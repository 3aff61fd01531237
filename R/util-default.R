# What stands where nothing was given.

`%||%` <- function(a, b) if (is.null(a)) b else a
