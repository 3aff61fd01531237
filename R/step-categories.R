# Classes of texts: one for each that differs.

# One class for each different text.
fit_categories <- function(x, words = NULL, call = rlang::caller_env()) {
  text <- as.character(x)
  known <- if (is.factor(x)) {
    levels(x)[levels(x) %in% text]
  } else {
    # The most frequent first; of equals the first in the alphabet.
    known <- sort_words(unique(text[!is.na(text)]))
    known[order(-tabulate(match(text, known), length(known)))]
  }
  if (length(known) > 12) {
    ochre_abort("argument",
                "There are {length(known)} categories; a map can show 12 that are told apart.",
                "Join the rare ones to one, such as \"other\".", arg = "steps")
  }
  structure(
    list(
      method = "categories",
      breaks = known,
      labels = category_words(known, words, call),
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

# What categories are called: by their own words, where there are some.
category_words <- function(known, words, call) {
  if (is.null(words)) return(known)
  if (is.null(names(words))) return(own_words(words, length(known), call))
  lost <- setdiff(names(words), known)
  if (length(lost)) {
    ochre_warn("unused", "`labels` names {list_words(lost)}, which no row has.",
               did_you_mean(lost[1], known, "There are"), values = lost)
  }
  at <- match(known, names(words))
  unname(ifelse(is.na(at), known, words[at]))
}
