# The colours of a layer's classes: a ramp of ours, or colours that the user gave, which are
# checked.

# One colour a class. A diverging ramp has its middle at the midpoint of the steps, so that
# equally dark means equally far from it.
layer_colours <- function(layer, steps, ground) {
  k <- length(steps$counts)
  if (!k) return(character())
  if (!is.null(names(layer$ramp))) return(some_colours(layer, steps, ground))
  if (length(layer$ramp) > 1) return(own_colours(layer, steps, k, ground))
  ramp <- layer$ramp %||% default_ramp(steps)
  path <- ramp_paths[[ramp]]
  below <- if (layer$reverse) k - (steps$below %||% 0) else steps$below
  if (path$kind == "diverging" && !is.null(below)) {
    arm <- max(below, k - below)
    if (ground == "dark") path <- on_dark(path)
    colours <- diverging_colours(path, 2 * arm)[arm - below + seq_len(k)]
    return(if (layer$reverse) rev(colours) else colours)
  }
  if (k > (path$most %||% 12)) {
    ochre_abort("argument", "The ramp `{ramp}` has {path$most} colours, and there are {k} classes.",
                "Use `hedgerow`, which has 12, or join rare categories.", arg = "ramp")
  }
  as.character(unclass(ramp_colours(ramp, k, layer$reverse, ground)))
}

# The colours that come by themselves, with others for the classes that are named.
some_colours <- function(layer, steps, ground) {
  own <- layer$ramp
  layer["ramp"] <- list(NULL)
  colours <- layer_colours(layer, steps, ground)
  known <- if (steps$method == "categories") steps$breaks else steps$labels
  lost <- setdiff(names(own), c(known, steps$labels))
  if (length(lost)) {
    ochre_warn("unused", "`ramp` names the class {list_words(lost)}, which is not there.",
               did_you_mean(lost[1], union(known, steps$labels), "There are"), values = lost)
  }
  for (name in setdiff(names(own), lost)) {
    colours[known == name | steps$labels == name] <- own[[name]]
  }
  colours
}

default_ramp <- function(steps) {
  if (steps$method == "categories") return(if (length(steps$counts) > 8) "hedgerow" else "meadow")
  if (is.null(steps$below)) "madder" else "woad_madder"
}

own_colours <- function(layer, steps, k, ground) {
  colours <- layer$ramp
  if (length(colours) != k && length(colours) <= 3 && k > 1) {
    colours <- unclass(ramp_between(
      colours[1],
      colours[length(colours)],
      k,
      if (length(colours) == 3) colours[2]
    ))
  }
  if (length(colours) != k) {
    ochre_abort(
      "argument",
      "`ramp` has {length(colours)} colours, and there are {count_words(k, 'class', 'classes')}.",
      "Give one a class, or two ends, which a ramp is made between.", arg = "ramp"
    )
  }
  if (layer$reverse) colours <- rev(colours)
  if (k > 1) warn_ramp(colours, layer$value, steps, ground)
  as.character(colours)
}

warn_ramp <- function(colours, value, steps, ground) {
  checked <- check_ramp(colours, if (steps$method == "categories") "categories", ground)
  bad <- checked$what[!checked$passed]
  if (!length(bad)) return(invisible())
  ochre_warn("ramp", "The colours for `{value}` fail {count_words(length(bad), 'check')}: {bad[1]}",
             bad[-1], check = checked)
}
