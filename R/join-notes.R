# How the keys of two sides differ as a whole: other kinds of codes, a prefix, lost zeros, a column
# that would match better. Each note is a sentence with the likely mend.

key_notes <- function(left, right, alone_left, first, by, boundaries, statistics) {
  a <- left[alone_left]
  b <- right[first]
  b <- b[!is.na(b)]
  a <- a[!is.na(a)]
  if (!length(a) || !length(b)) return(NULL)
  few <- length(a) > 0.5 * length(left)
  many <- c(if (few) other_column(by, boundaries, statistics), if (few) kinds_note(a, b, by), prefix_note(left, right, a, b, by), zeros_note(a, b, by, statistics))
  if (length(many)) return(many)
  # What remains has the same form on both sides: codes that were given anew.
  if (length(a) >= 1 && length(b) >= 2 && length(unique(shape_of(c(a, b)))) == 1 && grepl("9", shape_of(a[1])) && all(is.na(suggest_partner(b, a)$suggestion))) {
    sprintf("%s and %s of the same form have no partner on either side: were codes given anew after a merger or split? move_counts() carries counts over by a table of changes.",
            count_words(length(a), "code"), count_words(length(b), "code"))
  }
}

# Letters as A, digits as 9, in runs: "AA-9999".
shape_of <- function(key) gsub("[0-9]", "9", gsub("[[:alpha:]]", "A", key))

kinds_note <- function(a, b, by) {
  one <- function(x) {
    shapes <- table(shape_of(x))
    if (max(shapes) >= 0.8 * length(x)) names(shapes)[which.max(shapes)] else NA_character_
  }
  sa <- one(a)
  sb <- one(b)
  if (!is.na(sa) && !is.na(sb) && sa != sb) {
    if (grepl("^A+$", sa) && grepl("^A+$", sb)) return(sprintf("%s holds codes of %d letters, %s of %d: two kinds of codes, which need a table that names both.", list_words(by$boundaries), nchar(sa), list_words(by$statistics), nchar(sb)))
    if (grepl("^9+$", sa) && grepl("^9+$", sb) && mean(substring(a, 1, nchar(sb)) %in% b) > 0.5) return(sprintf("%s holds codes of %d digits, %s of %d, and they begin alike: the statistics are of larger areas; merge_areas() makes those.", list_words(by$boundaries), nchar(sa), list_words(by$statistics), nchar(sb)))
  }
  letters <- function(x) mean(grepl("[[:alpha:]]{4}", x))
  digits <- function(x) mean(grepl("^[[:alpha:]]{0,3}[^[:alpha:]]*[0-9]", x))
  if (digits(a) > 0.8 && letters(b) > 0.8 && digits(b) < 0.2) return(sprintf("%s holds codes, %s names.", list_words(by$boundaries), list_words(by$statistics)))
  if (letters(a) > 0.8 && digits(a) < 0.2 && digits(b) > 0.8) return(sprintf("%s holds names, %s codes.", list_words(by$boundaries), list_words(by$statistics)))
  NULL
}

prefix_note <- function(left, right, a, b, by) {
  cut_a <- common_prefix(left)
  cut_b <- common_prefix(right)
  if (cut_a == cut_b) return(NULL)
  same <- mean(tidy_key(substring(b, nchar(cut_b) + 1)) %in% tidy_key(substring(a, nchar(cut_a) + 1)))
  if (same < 0.5) return(NULL)
  side <- if (nzchar(cut_a)) list(by$boundaries, cut_a) else list(by$statistics, cut_b)
  sprintf("the codes of %s begin with \"%s\", those of the other side do not; match = \"tidied\" compares without.", list_words(side[[1]]), side[[2]])
}

zeros_note <- function(a, b, by, statistics) {
  lost <- sum(b %in% sub("^0+(?=.)", "", a[startsWith(a, "0")], perl = TRUE))
  if (!lost) return(NULL)
  number <- any(vapply(by$statistics, function(column) is.numeric(statistics[[column]]), NA))
  sprintf("%s lost leading zeros%s; match = \"tidied\" finds them, reading %s as text keeps them.", count_words(lost, "key"),
          if (number) sprintf(" (%s holds numbers, not text)", list_words(by$statistics)) else "", list_words(by$statistics))
}

# Another pair of text columns that would match most areas.
other_column <- function(by, boundaries, statistics) {
  if (length(by$boundaries) > 1) return(NULL)
  texts <- function(table) {
    names <- setdiff(names(table), "geometry")
    names[vapply(table[names], function(x) is.character(x) || is.factor(x) || is.integer(x), NA)]
  }
  best <- 0.6
  out <- NULL
  for (l in texts(boundaries)) for (r in texts(statistics)) {
    known <- unique(as_key(boundaries[[l]]))
    if (length(known) < 0.9 * nrow(boundaries)) next
    share <- mean(tidy_key(known) %in% tidy_key(unique(as_key(statistics[[r]]))))
    if (share > best) {
      best <- share
      out <- sprintf("`%s` with `%s` would match %.0f %% of the areas: by = c(%s = \"%s\").", l, r, 100 * share, l, r)
    }
  }
  out
}
