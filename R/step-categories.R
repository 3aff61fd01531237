# Classes of texts: one for each that differs.

# One class for each different text.
fit_categories <- function(x, call = rlang::caller_env()) {
  text <- as.character(x)
  known <- if (is.factor(x)) levels(x)[levels(x) %in% text] else names(sort(-table(text)))
  if (length(known) > 12) {
    ochre_abort(
      "argument",
      sprintf("There are %d categories; a map can show 12 that are told apart.", length(known)),
      "Join the rare ones to one, such as \"other\".",
      arg = "steps",
      call = call
    )
  }
  structure(
    list(
      method = "categories",
      breaks = known,
      labels = known,
      counts = as.integer(table(factor(text, known))),
      means = rep(NA_real_, length(known)),
      fit = NA_real_,
      tabular = NA_real_,
      evenness = evenness(as.integer(table(factor(text, known)))),
      largest = if (length(known)) max(table(text)) / sum(!is.na(text)) else NA_real_,
      digits = 0L,
      missing = sum(is.na(text)),
      infinite = 0L,
      values = list(counts = numeric())
    ),
    class = "ochre_steps"
  )
}
