# Words and marks of a language: decimal and thousands marks, and the few words that a map itself says. While a
# sheet is resolved its locale is the one in force; everywhere else numbers are written the English way.

locales <- list(
  en = list(code = "en", decimal = ".", thousands = ",", no_data = "No data", missing = "no data", source = "Source: %s", under = "under %s", over = "%s and over", to = "to", all = "all values", and = "and",
            shared_steps = "The same classes in all maps", own_steps = "Each map has classes of its own",
            alt_map = "Map: %s.", alt_range = "%s runs from %s to %s.", alt_lost = "%s of %s areas have no data."),
  de = list(code = "de", decimal = ",", thousands = ".", no_data = "Keine Daten", missing = "keine Daten", source = "Quelle: %s", under = "unter %s", over = "%s und mehr", to = "bis", all = "alle Werte", and = "und",
            shared_steps = "Dieselben Klassen in allen Karten", own_steps = "Jede Karte hat eigene Klassen",
            alt_map = "Karte: %s.", alt_range = "%s reicht von %s bis %s.", alt_lost = "%s von %s Gebieten ohne Daten."),
  fr = list(code = "fr", decimal = ",", thousands = "\u202f", no_data = "Donn\u00e9es absentes", missing = "donn\u00e9es absentes", source = "Source\u00a0: %s", under = "moins de %s", over = "%s et plus", to = "\u00e0", all = "toutes les valeurs", and = "et",
            shared_steps = "Les m\u00eames classes sur toutes les cartes", own_steps = "Chaque carte a ses propres classes",
            alt_map = "Carte\u00a0: %s.", alt_range = "%s va de %s \u00e0 %s.", alt_lost = "%s zones sur %s sans donn\u00e9es."),
  es = list(code = "es", decimal = ",", thousands = ".", no_data = "Sin datos", missing = "sin datos", source = "Fuente: %s", under = "menos de %s", over = "%s o m\u00e1s", to = "a", all = "todos los valores", and = "y",
            shared_steps = "Las mismas clases en todos los mapas", own_steps = "Cada mapa tiene sus propias clases",
            alt_map = "Mapa: %s.", alt_range = "%s va de %s a %s.", alt_lost = "%s de %s \u00e1reas sin datos."),
  pl = list(code = "pl", decimal = ",", thousands = "\u00a0", no_data = "Brak danych", missing = "brak danych", source = "\u0179r\u00f3d\u0142o: %s", under = "poni\u017cej %s", over = "%s i wi\u0119cej", to = "do", all = "wszystkie warto\u015bci", and = "i",
            shared_steps = "Te same klasy na wszystkich mapach", own_steps = "Ka\u017cda mapa ma w\u0142asne klasy",
            alt_map = "Mapa: %s.", alt_range = "%s: od %s do %s.", alt_lost = "Bez danych: %s z %s obszar\u00f3w.")
)

wording <- new.env()
wording$now <- locales$en

with_wording <- function(locale, code) {
  before <- wording$now
  on.exit(wording$now <- before)
  wording$now <- locale %||% locales$en
  code
}

#' A locale for a map
#'
#' Marks of numbers and the words that a map says by itself, for `map_sheet(locale = )`. Ochre has `"en"`, `"de"`, `"fr"`, `"es"` and `"pl"`; for
#' another language start from one of them and give what differs.
#'
#' @param base One of `"en"`, `"de"`, `"fr"`, `"es"`, `"pl"`, from which what is not given is taken.
#' @param code Code of the language (BCP 47), such as `"it"`: one text.
#' @param decimal,thousands Marks of numbers: one text each.
#' @param no_data,missing The words for "No data" in a legend and "no data" in a sentence.
#' @param source,under,over Texts with `%s` where the source or the number goes, such as `"under %s"`.
#' @param to,all,and The words in "10 to 20", for "all values", and in "low and high".
#' @param alt_map,alt_range,alt_lost The sentences of the text alternative, such as `"%s runs from %s to %s."`, with as many `%s` as in the base.
#' @param shared_steps,own_steps What a legend says when several maps share their classes, and when each has its own.
#' @param words Words of a page's controls: a named list of texts, such as `list(zoom_in = "Ingrandisci")`; the names are those of `names(map_locale()$page)`, and `{0}` stands for what is put in.
#' @return A list of class `ochre_locale`.
#' @section Errors: `ochre_error_argument`.
#' @source Phillips, A., Davis, M. (2009) Tags for Identifying Languages, BCP 47.
#' @examples
#' map_locale("es", code = "it", no_data = "Dati mancanti", missing = "dati mancanti", source = "Fonte: %s",
#'            under = "meno di %s", over = "%s e oltre", all = "tutti i valori", and = "e")
#' @export
map_locale <- function(base = "en", code = NULL, decimal = NULL, thousands = NULL, no_data = NULL, missing = NULL, source = NULL, under = NULL, over = NULL, to = NULL, all = NULL, and = NULL,
                       alt_map = NULL, alt_range = NULL, alt_lost = NULL, shared_steps = NULL, own_steps = NULL, words = NULL) {
  check_choice(base, names(locales), "base")
  given <- list(code = code, decimal = decimal, thousands = thousands, no_data = no_data, missing = missing, source = source, under = under, over = over, to = to, all = all, and = and, alt_map = alt_map, alt_range = alt_range, alt_lost = alt_lost, shared_steps = shared_steps, own_steps = own_steps)
  given <- given[!vapply(given, is.null, NA)]
  for (name in names(given)) {
    check_text(given[[name]], name)
    places <- function(text) lengths(regmatches(text, gregexpr("%s", text, fixed = TRUE)))
    if (places(given[[name]]) != places(locales[[base]][[name]]) || grepl("%(?!s)", given[[name]], perl = TRUE)) {
      ochre_abort("argument", sprintf("`%s` must hold `%%s` %s, and no other percent sign.", name, if (places(locales[[base]][[name]]) == 1) "once" else paste(places(locales[[base]][[name]]), "times")), sprintf("As in \"%s\".", locales[[base]][[name]]), arg = name)
    }
  }
  if (!is.null(code) && !grepl("^[A-Za-z]{2,8}(-[A-Za-z0-9]{1,8})*$", code)) ochre_abort("argument", sprintf("`code` must be a language's code such as \"it\", not \"%s\".", code), arg = "code")
  check_mark(decimal, "decimal", least = 1)
  check_mark(thousands, "thousands", least = 0)
  whole <- utils::modifyList(locales[[base]], given)
  if (whole$decimal == whole$thousands) {
    ochre_abort(
      "argument", sprintf("`decimal` and `thousands` are both \"%s\".", whole$decimal),
      "Give both, and not the same.", arg = "decimal"
    )
  }
  structure(
    c(whole, list(page = locale_words(base, check_page_words(words)))), class = "ochre_locale"
  )
}

# One character that cannot be read as part of a number.
check_mark <- function(mark, arg, least, call = rlang::caller_env()) {
  if (is.null(mark) || nchar(mark) %in% least:1 && !grepl(
    "[0-9+%\u2212-]", mark
  )) return(invisible())
  ochre_abort(
    "argument",
    sprintf("`%s` must be one character that is no digit or sign, not %s.", arg, describe(mark)),
    "As in \".\" or \",\".",
    arg = arg, call = call
  )
}

check_page_words <- function(words, call = rlang::caller_env()) {
  if (is.null(words)) return(NULL)
  words <- unlist(words)
  if (!is.character(words) || is.null(names(words)) || anyNA(words)) ochre_abort("argument", "`words` must be a named list of texts.", "For example list(zoom_in = \"Ingrandisci\").", arg = "words", call = call)
  for (name in names(words)) check_choice(name, names(page_words$en), "words", call)
  words
}

check_locale <- function(locale, call = rlang::caller_env()) {
  if (inherits(locale, "ochre_locale")) return(locale)
  if (is.list(locale)) return(make_with(map_locale, locale, "locale", call))
  check_choice(locale, names(locales), "locale", call)
  structure(c(locales[[locale]], list(page = locale_words(locale))), class = "ochre_locale")
}

# Decimals fixed, thousands marked, a true minus sign; for legend, hover texts, popups and tables alike.
format_number <- function(x, digits, marks = TRUE) {
  x <- round(x, digits)
  x[x == 0] <- 0
  out <- formatC(x, format = "f", digits = max(digits, 0), big.mark = if (marks) wording$now$thousands else "", decimal.mark = wording$now$decimal)
  out <- sub("-", "\u2212", trimws(out), fixed = TRUE)
  out[!is.finite(x)] <- NA
  out
}
