# How the keys of two sides differ as a whole: other kinds of codes, a prefix, lost zeros, a column
# that would match better. Each note is a sentence with the likely mend.

key_notes <- function(keys, alone_left, first, boundaries, statistics) {
  left <- keys$left
  right <- keys$right
  by <- keys$by
  a <- left[alone_left]
  b <- right[first]
  b <- b[!is.na(b)]
  a <- a[!is.na(a)]
  if (!length(a) || !length(b)) return(NULL)
  few <- length(a) > 0.5 * length(left)
  many <- c(
    if (few) other_column(by, boundaries, statistics),
    if (few) kinds_note(a, b, by),
    prefix_note(left, right, a, b, by),
    zeros_note(a, b, by, statistics),
    word_note(left, right, a, b, by),
    if (!few) columns_note(b, boundaries, alone_left, by)
  )
  if (length(many)) return(many)
  # What remains has the same form on both sides: codes that were given anew.
  if (length(a) >= 1 &&
      length(b) >= 2 &&
      length(unique(shape_of(c(a, b)))) == 1 &&
      grepl("9", shape_of(a[1])) &&
      all(is.na(suggest_partner(b, a)$suggestion))) {
    sprintf(
      paste0(
        "%s and %s of the same form have no partner on either side: were codes given anew ",
        "after a merger or split? move_counts() carries counts over by a table of changes."
      ),
      count_words(length(a), "code"),
      count_words(length(b), "code")
    )
  }
}

# Letters as A, digits as 9, in runs: "AA-9999".
shape_of <- function(key) gsub("[0-9]", "9", gsub("[[:alpha:]]", "A", key))

kinds_note <- function(a, b, by) {
  sizes <- lengths_note(a, b, by)
  if (!is.null(sizes)) return(sizes)
  letters <- function(x) mean(grepl("[[:alpha:]]{4}", x))
  digits <- function(x) mean(grepl("^[[:alpha:]]{0,3}[^[:alpha:]]*[0-9]", x))
  codes <- function(x) digits(x) > 0.8
  names <- function(x) letters(x) > 0.8 && digits(x) < 0.2
  words <- if (codes(a) && names(b)) {
    "%s holds codes, %s names."
  } else if (names(a) && codes(b)) {
    "%s holds names, %s codes."
  }
  if (!is.null(words)) sprintf(words, list_words(by$boundaries), list_words(by$statistics))
}

# Codes of two lengths: two kinds, or those of larger areas.
lengths_note <- function(a, b, by) {
  usual <- function(x) {
    shapes <- table(shape_of(x))
    if (max(shapes) >= 0.8 * length(x)) names(shapes)[which.max(shapes)] else NA_character_
  }
  shape_a <- usual(a)
  shape_b <- usual(b)
  if (is.na(shape_a) || is.na(shape_b) || shape_a == shape_b) return(NULL)
  both <- function(pattern) grepl(pattern, shape_a) && grepl(pattern, shape_b)
  words <- if (both("^A+$")) {
    paste(
      "%s holds codes of %d letters, %s of %d: two kinds of codes, which need a table",
      "that names both."
    )
  } else if (both("^9+$") && mean(substring(a, 1, nchar(shape_b)) %in% b) > 0.5) {
    paste(
      "%s holds codes of %d digits, %s of %d, and they begin alike: the statistics are",
      "of larger areas; merge_areas() makes those."
    )
  }
  if (is.null(words)) return(NULL)
  sprintf(
    words,
    list_words(by$boundaries),
    nchar(shape_a),
    list_words(by$statistics),
    nchar(shape_b)
  )
}

prefix_note <- function(left, right, a, b, by) {
  cut_a <- common_prefix(left)
  cut_b <- common_prefix(right)
  if (cut_a == cut_b) return(NULL)
  same <- mean(
    tidy_key(substring(b, nchar(cut_b) + 1)) %in% tidy_key(substring(a, nchar(cut_a) + 1))
  )
  if (same < 0.5) return(NULL)
  side <- if (nzchar(cut_a)) list(by$boundaries, cut_a) else list(by$statistics, cut_b)
  sprintf(
    paste0(
      "the codes of %s begin with \"%s\", those of the other side do not; match = \"tidied\" ",
      "compares without."
    ),
    list_words(side[[1]]),
    side[[2]]
  )
}

# A word that most names of one side end in and the other side lacks.
word_note <- function(left, right, a, b, by) {
  tidy <- tidy_common(left, right)
  partner <- only_partner(tidy(b), tidy(a, side = "boundaries"))
  if (!any(!is.na(partner))) return(NULL)
  statistics <- common_word(right)
  words <- c(statistics, common_word(left))
  sprintf(
    "%s only by \"%s\", which names of %s end in; match = \"tidied\" compares without.",
    count_words(sum(!is.na(partner)), "key differs", "keys differ"),
    sentence(words[1]),
    list_words(if (length(statistics)) by$statistics else by$boundaries)
  )
}

# Another text column of the boundaries that holds keys without a partner.
columns_note <- function(b, boundaries, alone_left, by) {
  if (length(by$boundaries) > 1) return(NULL)
  held <- vapply(other_texts(boundaries, by$boundaries), function(column) {
    sum(tidy_words(b) %in% tidy_words(as_key(boundaries[[column]])[alone_left]))
  }, 0L)
  if (!length(held) || max(held) == 0) return(NULL)
  sprintf(
    "`%s` of the boundaries holds %s; suggest_matches() lists them as aliases.",
    names(which.max(held)),
    count_words(max(held), "more of the keys", "more of the keys")
  )
}

zeros_note <- function(a, b, by, statistics) {
  lost <- sum(b %in% sub("^0+(?=.)", "", a[startsWith(a, "0")], perl = TRUE))
  if (!lost) return(NULL)
  number <- any(vapply(by$statistics, function(column) is.numeric(statistics[[column]]), NA))
  sprintf(
    "%s lost leading zeros%s; match = \"tidied\" finds them, reading %s as text keeps them.",
    count_words(lost, "key"),
    if (number) sprintf(" (%s holds numbers, not text)", list_words(by$statistics)) else "",
    list_words(by$statistics)
  )
}

# Another pair of columns that would match most areas.
other_column <- function(by, boundaries, statistics) {
  if (length(by$boundaries) > 1) return(NULL)
  pair <- best_pair(boundaries, statistics)
  if (is.null(pair)) return(NULL)
  if (pair$boundaries == by$boundaries && pair$statistics == by$statistics) return(NULL)
  sprintf(
    "`%s` with `%s` would match %.0f %% of the areas: %s.",
    pair$boundaries,
    pair$statistics,
    floor(100 * pair$tidied / pair$areas),
    by_words(pair)
  )
}
