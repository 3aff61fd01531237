# The sheet's wish for insets.

# The sheet's wish as a list of `label`, `box` (west, south, east, north). TRUE looks for far-off
# parts by itself.
check_insets <- function(inset, call = rlang::caller_env()) {
  if (is.null(inset) || isTRUE(inset) || isFALSE(inset)) return(inset)
  given <- inset
  if (is.numeric(inset)) inset <- list(inset)
  good <- is.list(inset) &&
    length(inset) > 0 &&
    all(vapply(inset, function(b) length(b) == 4 && all(vapply(b, is.numeric, NA)), NA))
  if (!good) {
    ochre_abort(
      "argument", "`inset` must be TRUE, FALSE or a list of boxes, not {describe(given)}.",
      "A box is c(west, south, east, north) in degrees, and its name is the inset's label.",
      arg = "inset"
    )
  }
  inset <- lapply(inset, function(b) as.numeric(unlist(b)))
  bad <- vapply(
    inset,
    function(b) {
      anyNA(b) ||
        b[2] >= b[4] ||
        any(abs(b[c(2, 4)]) > 90) ||
        any(abs(b[c(1, 3)]) > 360) ||
        b[1] == b[3]
    },
    NA
  )
  if (any(bad)) {
    ochre_abort(
      "argument",
      paste0("The box of inset {which(bad)[1]} is not west, south, east, north: ",
             "{paste(inset[[which(bad)[1]]], collapse = ', ')}."), arg = "inset"
    )
  }
  labels <- names(inset) %||% rep("", length(inset))
  Map(
    function(box, label) {
      list(label = if (nzchar(label)) label else NULL, box = box)
    },
    unname(inset),
    labels
  )
}
