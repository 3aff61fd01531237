# Which key is whose partner: exact, then by an alias, then tidied. All but the exact ones are
# settled among the distinct keys that are left.

# `key` of each row of the statistics, and its `area`; `stage` of each area's match ("exact",
# "alias", "tidied", NA); `alone`, rows without an area; `left_out`, those left out on purpose.
find_partners <- function(left, right, match, aliases) {
  area <- call_core(look_up_core(right, left))$at
  stage <- rep(NA_character_, length(left))
  alone <- if (anyNA(area)) which(is.na(area)) else integer()
  if (length(alone)) {
    tidy <- as_key(right[alone])
    if (!identical(tidy, right[alone])) {
      right[alone] <- tidy
      area[alone] <- call_core(look_up_core(tidy, left))$at
      alone <- alone[is.na(area[alone])]
    }
  }
  if (!length(alone)) {
    stage[] <- ifelse(tabulate(area, length(left)) > 0, "exact", NA)
    return(list(key = right, area = area, stage = stage, alone = alone, left_out = integer()))
  }
  stage[tabulate(area, length(left)) > 0] <- "exact"
  keys <- unique(right[alone])
  keys <- keys[!is.na(keys)]
  partner <- rep(NA_integer_, length(keys))
  left_out <- character()
  if (!is.null(aliases)) {
    at <- match(shown_key(keys), aliases$statistics)
    left_out <- keys[!is.na(at) & is.na(aliases$boundaries[at])]
    partner <- match(aliases$boundaries[at], shown_key(left), incomparables = NA)
    lost <- which(!is.na(at) & !is.na(aliases$boundaries[at]) & is.na(partner))
    if (length(lost)) refuse_alias(keys[lost], aliases$boundaries[at[lost]], left)
    stage[partner[!is.na(partner)]] <- "alias"
  }
  if (match == "tidied") {
    ways <- list(tidy_key, tidy_words, tidy_prefix(left, right), tidy_common(left, right))
    for (tidy in ways) {
      open <- which(is.na(partner) & !keys %in% left_out)
      free <- which(is.na(stage) & !is.na(left))
      at <- only_partner(tidy(keys[open]), tidy(left[free], side = "boundaries"))
      partner[open] <- free[at]
      stage[free[at[!is.na(at)]]] <- "tidied"
    }
  }
  area[alone] <- partner[match(right[alone], keys)]
  still <- alone[is.na(area[alone])]
  list(
    key = right,
    area = area,
    stage = stage,
    alone = still,
    left_out = still[right[still] %in% left_out]
  )
}

# Position in `b` of each of `a` that is the only one of its kind on both sides.
only_partner <- function(a, b) {
  only <- function(x) !x %in% x[duplicated(x)] & nzchar(x)
  at <- match(a, b)
  at[!is.na(at) & !(only(a) & only(b)[ifelse(is.na(at), 1, at)])] <- NA
  at
}

# Without case, accents, spacing, punctuation and leading zeros.
tidy_key <- function(key, side = NULL) {
  key <- plain_key(key)
  key <- stringi::stri_replace_all_regex(key, "[^a-z0-9\u001f]+", "")
  stringi::stri_replace_all_regex(key, "(?<=^|\u001f)0+(?=[^\u001f])", "")
}

# Small letters without accents, in Latin script.
plain_key <- function(key) {
  other <- which(!stringi::stri_enc_isascii(key))
  key[other] <- stringi::stri_trans_general(key[other], "Any-Latin; Latin-ASCII")
  stringi::stri_trans_tolower(key, locale = "en")
}

# And with "&" as "and", forms of "saint" as one, words in any order.
tidy_words <- function(key, side = NULL) {
  key <- stringi::stri_replace_all_fixed(plain_key(key), "&", " and ")
  key <- stringi::stri_replace_all_regex(
    key,
    "\\b(saint|sainte|sankt|santa|santo|san|ste)\\b",
    "st"
  )
  key <- stringi::stri_replace_all_regex(key, "[^a-z0-9\u001f]+", " ")
  key <- stringi::stri_replace_all_regex(key, "\\b0+(?=[0-9])| (?=$|\u001f)|(?<=^|\u001f) ", "")
  many <- which(stringi::stri_detect_fixed(key, " "))
  sorted <- function(part) {
    paste(sort(strsplit(part, " ", fixed = TRUE)[[1]], method = "radix"), collapse = " ")
  }
  key[many] <- vapply(
    strsplit(key[many], key_mark, fixed = TRUE),
    function(parts) paste(vapply(parts, sorted, ""), collapse = key_mark),
    ""
  )
  key
}

# And without the letters that all codes of a side begin with, such as "OR-".
tidy_prefix <- function(left, right) {
  cut <- c(boundaries = common_prefix(left), statistics = common_prefix(right))
  function(key, side = "statistics") {
    tidy <- tidy_key(substring(key, nchar(cut[[side]]) + 1))
    if (cut[["boundaries"]] == cut[["statistics"]]) rep("", length(tidy)) else tidy
  }
}

# And without the last word of most names of one side, such as "County", which the other side lacks.
tidy_common <- function(left, right) {
  words <- list(boundaries = common_word(left), statistics = common_word(right))
  for (side in names(words)) {
    other <- if (side == "boundaries") right else left
    has <- grepl(paste0(" ", words[[side]], "$"), plain_key(unique(other)))
    if (length(words[[side]]) && mean(has, na.rm = TRUE) > 0.05) words[side] <- list(NULL)
  }
  function(key, side = "statistics") {
    if (!length(words$boundaries) && !length(words$statistics)) return(rep("", length(key)))
    plain <- plain_key(key)
    if (length(words[[side]])) plain <- sub(paste0(" ", words[[side]], "$"), "", plain)
    tidy_key(plain)
  }
}

# The last word of more than half of the names; NULL when there is none.
common_word <- function(key) {
  key <- unique(key[!is.na(key)])
  last <- sub("^.* ([a-z]+)$", "\\1", plain_key(key))
  last[last == plain_key(key)] <- NA
  most <- names(which.max(table(last)))
  if (length(key) >= 3 && length(most) && sum(last == most, na.rm = TRUE) > length(key) / 2) most
}

# Letters and marks before a digit that all keys share; "" when there are none.
common_prefix <- function(key) {
  key <- key[!is.na(key)]
  if (length(key) < 2) return("")
  prefix <- regmatches(
    key[1],
    regexpr("^[[:alpha:]]+[^[:alnum:]\u001f]*(?=[0-9])", key[1], perl = TRUE)
  )
  if (length(prefix) && all(startsWith(key, prefix))) prefix else ""
}

# ---- aliases ----------------------------------------------------------------------------------

# Words of a person: what an alias is confirmed with, refused, or left out by.
alias_words <- list(
  yes = c("yes", "y", "true", "1", "x", "ja", "si", "s\u00ed", "oui", "tak"),
  no = c("", "no", "n", "false", "0", "nein", "non", "nie"),
  left_out = c("left out", "left_out", "leave out")
)

# `boundaries` is NA for a key that is left out on purpose.
check_aliases <- function(aliases, call = rlang::caller_env()) {
  if (is.null(aliases)) return(NULL)
  check_table(aliases, "aliases", call = call)
  check_column(aliases, c("statistics", "boundaries"), "aliases", call = call)
  said <- confirmed_words(aliases, call)
  used <- said %in% c(alias_words$yes, alias_words$left_out)
  if (!any(used)) {
    ochre_warn("aliases", "No alias is confirmed, so none is used.",
               "Write `yes` in the column `confirmed` of those that are right.")
  }
  out <- tibble::tibble(
    statistics = as_key(aliases$statistics),
    boundaries = as_key(aliases$boundaries)
  )
  empty <- said %in% alias_words$yes & is.na(out$boundaries) & !is.na(out$statistics)
  if (any(empty)) {
    refuse_aliases(
      sprintf("`aliases` names no area for %s.", list_words(out$statistics[empty])),
      "Write its key in `boundaries`, or `left out` in `confirmed` where it has none on purpose.",
      out$statistics[empty],
      call
    )
  }
  out$boundaries[said %in% alias_words$left_out] <- NA
  out <- unique(out[used & !is.na(out$statistics), ])
  twice <- unique(out$statistics[duplicated(out$statistics)])
  if (length(twice)) {
    what <- sprintf("`aliases` names two areas for %s.", list_words(twice))
    refuse_aliases(what, "Keep one row for each.", twice, call)
  }
  out
}

# What somebody wrote under `confirmed`; without that column all count as confirmed.
confirmed_words <- function(aliases, call) {
  if (!"confirmed" %in% names(aliases)) return(rep("yes", nrow(aliases)))
  said <- lower_case(trimws(as.character(aliases$confirmed)))
  said[is.na(said)] <- ""
  odd <- !said %in% unlist(alias_words)
  if (any(odd)) {
    what <- list_words(unique(said[odd]), mark = "\"")
    refuse_aliases(
      sprintf("`confirmed` of the aliases holds %s.", what),
      "Write yes, no or left out.",
      as_key(aliases$statistics[odd]),
      call
    )
  }
  said
}

refuse_aliases <- function(what, mend, keys, call) {
  ochre_abort("alias", what, mend, keys = keys)
}

refuse_alias <- function(keys, named, left, call = rlang::caller_env(2)) {
  ochre_abort(
    "alias",
    "The alias of `{shown_key(keys[1])}` names `{named[1]}`, which is no key of the boundaries.",
    did_you_mean(named[1], shown_key(left[!is.na(left)]), "They are"), keys = shown_key(keys)
  )
}
