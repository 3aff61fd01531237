# Words and marks of a language. Each has a file under inst/locale/, which holds every word that
# stands on a map; a locale is made once for a sheet and handed on to what writes for it.

locale_codes <- c("en", "de", "fr", "es", "pl")

# A language as its file says it: `code`, `decimal`, `thousands`, the map's own words, `page`, those
# of a page's controls, and `report`, those of a report.
read_locale <- function(code) {
  file <- system.file("locale", paste0(code, ".yml"), package = "ochre", mustWork = TRUE)
  said <- yaml::yaml.load(read_text(file))
  locale <- c(
    said[c("code", "decimal", "thousands")],
    said$map,
    said[c("large", "dates", "page", "report")]
  )
  structure(locale, class = "ochre_locale")
}

# What is written for the user of Ochre, not for a map's readers: R's own marks.
english <- list(
  code = "en", decimal = ".", thousands = ",", under = "under %s", over = "%s and over",
  up_to = "%s or less", above = "over %s", to = "to", all = "all values"
)

# A word of a page's controls with a value put in.
fill_word <- function(word, value) {
  vapply(as.character(value), function(v) sub("{0}", v, word, fixed = TRUE), "", USE.NAMES = FALSE)
}

#' A locale for a map
#'
#' Marks of numbers and the words that a map says by itself, for `map_sheet(locale = )`. Ochre has
#' `"en"`, `"de"`, `"fr"`, `"es"` and `"pl"`; for another language start from one of them and give
#' what differs.
#'
#' @param base One of `"en"`, `"de"`, `"fr"`, `"es"`, `"pl"`, from which what is not given is taken.
#' @param code Code of the language (BCP 47), such as `"it"`: one text.
#' @param decimal,thousands Marks of numbers: one text each.
#' @param no_data,missing The words for "No data" in a legend and "no data" in a sentence.
#' @param source,under,over,up_to,above Texts with `%s` where the source or the number goes, such as
#'   `"under %s"`.
#' @param to,all,and The words in "10 to 20", for "all values", and in "low and high".
#' @param alt_map,alt_range,alt_lost The sentences of the text alternative, such as
#'   `"%s runs from %s to %s."`, with as many `%s` as in the base.
#' @param shared_steps,own_steps What a legend says when several maps share their classes, and
#'   when each has its own.
#' @param words Words of a page's controls: a named list of texts, such as
#'   `list(zoom_in = "Ingrandisci")`; the names are those of `names(map_locale()$page)`, and `{0}`
#'   stands for what is put in.
#' @param large How large numbers stand in a legend: three texts with `%s`, for millions, for
#'   10^9 and for 10^12.
#' @param months Names of the months: twelve texts, as they stand before a year.
#' @return A list of class `ochre_locale`.
#' @section Errors: `ochre_error_argument`.
#' @source Phillips, A., Davis, M. (2009) Tags for Identifying Languages, BCP 47.
#' @examples
#' map_locale(
#'   "es", code = "it", no_data = "Dati mancanti", missing = "dati mancanti",
#'   source = "Fonte: %s", under = "meno di %s", over = "%s e oltre",
#'   all = "tutti i valori", and = "e"
#' )
#' @export
map_locale <- function(base = "en", code = NULL, decimal = NULL, thousands = NULL,
                       no_data = NULL, missing = NULL, source = NULL, under = NULL, over = NULL,
                       up_to = NULL, above = NULL, to = NULL, all = NULL, and = NULL,
                       alt_map = NULL, alt_range = NULL, alt_lost = NULL, shared_steps = NULL,
                       own_steps = NULL, words = NULL, large = NULL, months = NULL) {
  check_choice(base, locale_codes, "base")
  start <- read_locale(base)
  given <- list(
    code = code, decimal = decimal, thousands = thousands, no_data = no_data,
    missing = missing, source = source, under = under, over = over, up_to = up_to,
    above = above, to = to, all = all, and = and, alt_map = alt_map, alt_range = alt_range,
    alt_lost = alt_lost, shared_steps = shared_steps, own_steps = own_steps
  )
  given <- given[!vapply(given, is.null, NA)]
  for (name in names(given)) check_locale_text(given[[name]], start[[name]], name)
  check_language(code)
  check_mark(decimal, "decimal", least = 1)
  check_mark(thousands, "thousands", least = 0)
  whole <- utils::modifyList(start, given)
  if (whole$decimal == whole$thousands) {
    ochre_abort("argument", "`decimal` and `thousands` are both \"{whole$decimal}\".",
                "Give both, and not the same.", arg = "decimal")
  }
  whole$large <- own_large(large, start$large)
  whole$dates <- own_months(months, start$dates)
  own <- as.list(check_page_words(words, names(start$page)))
  whole$page <- utils::modifyList(start$page, own)
  whole
}

# A text with as many places for a value as that of the language from which one starts.
check_locale_text <- function(text, start, name, call = rlang::caller_env()) {
  check_text(text, name, call = call)
  places <- function(t) lengths(regmatches(t, gregexpr("%s", t, fixed = TRUE)))
  if (places(text) == places(start) && !grepl("%(?!s)", text, perl = TRUE)) return(invisible())
  times <- if (places(start) == 1) "once" else paste(places(start), "times")
  ochre_abort("argument", "`{name}` must hold `%s` {times}, and no other percent sign.",
              "As in \"{start}\".", arg = name)
}

own_large <- function(large, start, call = rlang::caller_env()) {
  if (is.null(large)) return(start)
  check_several(large, "large", 3, call)
  for (i in seq_along(start)) check_locale_text(large[[i]], start[[i]], "large", call)
  stats::setNames(as.list(large), names(start))
}

own_months <- function(months, start, call = rlang::caller_env()) {
  if (is.null(months)) return(start)
  check_several(months, "months", 12, call)
  start$months <- start$months_in_dates <- unlist(months)
  start
}

check_several <- function(texts, arg, n, call) {
  texts <- unlist(texts)
  if (is.character(texts) && length(texts) == n && !anyNA(texts)) return(invisible())
  ochre_abort("argument", "`{arg}` must be {n} texts, not {describe(texts)}.")
}

check_language <- function(code, call = rlang::caller_env()) {
  if (is.null(code) || grepl("^[A-Za-z]{2,8}(-[A-Za-z0-9]{1,8})*$", code)) return(invisible())
  ochre_abort("argument", "`code` must be a language's code such as \"it\", not \"{code}\".",
              arg = "code")
}

# One character that cannot be read as part of a number.
check_mark <- function(mark, arg, least, call = rlang::caller_env()) {
  if (is.null(mark) || nchar(mark) %in% least:1 && !grepl("[0-9+%\u2212-]", mark)) {
    return(invisible())
  }
  ochre_abort("argument",
              "`{arg}` must be one character that is no digit or sign, not {describe(mark)}.",
              "As in \".\" or \",\".")
}

check_page_words <- function(words, known, call = rlang::caller_env()) {
  if (is.null(words)) return(NULL)
  words <- unlist(words)
  if (!is.character(words) || is.null(names(words)) || anyNA(words)) {
    ochre_abort("argument", "`words` must be a named list of texts.",
                "For example list(zoom_in = \"Ingrandisci\").", arg = "words")
  }
  for (name in names(words)) check_choice(name, known, "words", call)
  words
}

check_locale <- function(locale, call = rlang::caller_env()) {
  if (inherits(locale, "ochre_locale")) return(locale)
  if (is.list(locale)) return(make_with(map_locale, locale, "locale", call))
  check_choice(locale, locale_codes, "locale", call)
  read_locale(locale)
}
