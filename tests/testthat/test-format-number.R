# One format for a variable, wherever its numbers stand, in the language of the map.

read_back <- function(text, locale) {
  plain <- gsub(locale$thousands, "", text, fixed = TRUE)
  as.numeric(sub(locale$decimal, ".", sub("\u2212", "-", plain, fixed = TRUE), fixed = TRUE))
}

test_that("numbers written in a locale read back as the same numbers", {
  set.seed(7)
  for (code in locale_codes) {
    locale <- read_locale(code)
    x <- c(0, -1234567.891, 999.5, 1000, round(rnorm(40, 0, 1e5), 3))
    for (d in 0:3) {
      expect_identical(
        read_back(format_number(x, d, locale = locale), locale), round(x, d) + 0,
        info = paste(code, d)
      )
    }
    expect_identical(format_number(2031, 0, marks = FALSE, locale = locale), "2031")
  }
  expect_identical(format_number(1234.5, 1), "1,234.5")
})

test_that("legend, hover and popup show one number in one format, within its class", {
  areas <- share_of(demo_rates(), population_65_plus, population, name = "old")
  for (code in locale_codes) {
    locale <- read_locale(code)
    for (digits in 0:2) {
      plan <- quietly(resolve_sheet(shade_areas(
        map_sheet("T", source = "Amt", locale = code),
        areas,
        old,
        steps = steps_natural(5),
        format = number_format(percent = TRUE, digits = digits),
        hover = "{old}",
        popup = c("A" = old, "B" = "{old|3}")
      )))
      layer <- plan$layers[[1]]
      expect_identical(layer$popup$fields[[1]], layer$hover)
      shown <- read_back(sub("\u00a0%$", "", layer$hover), locale)
      expect_identical(shown, round(100 * areas$old, digits) + 0)
      expect_equal(
        read_back(sub("\u00a0%$", "", layer$popup$fields[[2]]), locale), 100 * areas$old,
        tolerance = 1e-3
      )
      expect_true(all(endsWith(layer$labels, "\u00a0%")))
      ends <- vapply(
        strsplit(sub("\u00a0%$", "", layer$labels), "\u2013| . <| [a-z\u00e0]+ <?"),
        function(p) range(read_back(trimws(p), locale)),
        c(0, 0)
      )
      inside <- 100 * areas$old >= ends[1, layer$class] - 0.06 &
        100 * areas$old <= ends[2, layer$class] + 0.06
      expect_true(all(inside), info = paste(code, digits))
      expect_identical(plan$source, sprintf(locale$source, "Amt"))
      expect_identical(layer$no_data$label, locale$no_data)
    }
  }
})

test_that("units, open ends, signs and missing values are written in the map's words", {
  expect_error(number_format("%", percent = TRUE), class = "ochre_error_argument")
  areas <- squares(c("1", "2", "3", "4"))
  areas$v <- c(-12, 0.7, 3000, NA)
  layer <- function(...) {
    quietly(resolve_sheet(shade_areas(
      map_sheet("T", locale = "de"),
      areas,
      v,
      steps = steps_at(c(-Inf, 0, 1000, Inf)),
      ...
    )))$layers[[1]]
  }
  plain <- layer(format = number_format(unit = "km"), hover = "{v}")
  expect_identical(
    plain$labels, c("unter 0\u00a0km", "0 bis 999\u00a0km", "1.000\u00a0km und mehr")
  )
  expect_identical(plain$hover, c("\u221212\u00a0km", "1\u00a0km", "3.000\u00a0km", "keine Daten"))
  signed <- layer(format = number_format(plus = TRUE, digits = 1), hover = "{v}")
  expect_identical(signed$hover, c("\u221212,0", "+0,7", "+3.000,0", "keine Daten"))
  expect_identical(signed$labels[3], "+1.000 und mehr")
  expect_identical(layer(format = number_format(marks = FALSE), hover = "{v|0}")$hover[3], "3000")
  symbols <- quietly(resolve_sheet(place_symbols(
    map_sheet("T", locale = "fr"),
    data.frame(longitude = 1:3, latitude = 0, n = c(500, 2000, 90000)),
    n,
    format = number_format(unit = "m"),
    hover = "{n}"
  )))$layers[[1]]
  expect_identical(symbols$hover[1], "90\u202f000\u00a0m")
  expect_identical(symbols$sizes$labels[1], "50\u202f000\u00a0m")
  italian <- map_locale("es", code = "it", no_data = "Dati mancanti", source = "Fonte: %s")
  plan <- quietly(resolve_sheet(shade_areas(
    map_sheet("T", source = "X", locale = italian),
    areas,
    v
  )))
  expect_identical(
    list(plan$locale, plan$source, plan$layers[[1]]$no_data$label),
    list("it", "Fonte: X", "Dati mancanti")
  )
  expect_identical(format_number(1234, 0), "1,234")
  expect_error(map_sheet("T", locale = "dee"), "Did you mean `de`", class = "ochre_error_argument")
  expect_error(map_locale(source = "Fonte:"), "must hold `%s`", class = "ochre_error_argument")
  expect_error(number_format(unit = "km", percent = TRUE), class = "ochre_error_argument")
})

test_that("rounding that would contradict the colour is warned of with a mend that helps", {
  areas <- squares(as.character(1:4))
  areas$v <- c(1, 9.6, 10.4, 20)
  warned <- function(...) {
    tryCatch(
      suppressMessages(resolve_sheet(shade_areas(map_sheet("T"), areas, v, ...))),
      ochre_warning_rounding = function(w) conditionMessage(w)
    )
  }
  expect_match(
    warned(steps = steps_at(c(0, 9.8, 30)), hover = "{v|0}"),
    "Show 1 decimal in the label, or give the steps `digits = 0`"
  )
  expect_match(warned(steps = steps_at(c(0, 10, 30)), hover = "{v|0}"), "Show one decimal more")
  expect_match(
    warned(steps = steps_at(c(0, 10, 30)), hover = "{v}", format = number_format(digits = 0)),
    "Show one decimal more"
  )
  expect_s3_class(warned(steps = steps_at(c(0, 10, 30)), hover = "{v|1}"), "ochre_plan")
})

test_that("a map says in words what it shows, and the sheet's own words take their place", {
  plan <- demo_plan()
  rates <- demo_rates()
  top <- rates[which.max(rates$visits_per_1000), ]
  low <- rates[which.min(rates$visits_per_1000), ]
  expect_identical(
    plan$alt,
    paste0(
      "Map: Hay fever follows the wind across Orvane. Visits to a clinic per 1,000 ",
      "residents, March to August 2031. Visits per 1,000 residents runs from ",
      round(low$visits_per_1000), " (", low$name, ") to ", round(top$visits_per_1000), " (",
      top$name, "). 1 of 100 areas have no data. Patients of a clinic runs from ",
      sub(
        ".* runs from (\\S+ \\(.*?\\)) to (\\S+ \\(.*\\))\\.$", "\\1 to \\2", plan$layers[[4]]$facts
      ),
      "."
    )
  )
  clinics <- quietly(read_statistics(ochre_demo("clinics.csv")))
  expect_match(plan$layers[[4]]$facts, clinics$name[which.max(clinics$patients)], fixed = TRUE)
  own <- quietly(resolve_sheet(shade_areas(
    map_sheet("T", alt = "My words & <b>more</b>"),
    rates,
    visits_per_1000
  )))
  expect_identical(own$alt, "My words & <b>more</b>")
  page <- paste(page_text(own), collapse = "\n")
  expect_match(page, "aria-label=\"My words &amp; &lt;b&gt;more&lt;/b&gt;\"", fixed = TRUE)
  expect_identical(as_figure(own)$labels$alt, own$alt)
  german <- quietly(resolve_sheet(shade_areas(
    map_sheet("T", locale = "de"),
    rates,
    region,
    steps = steps_categories()
  )))
  expect_identical(
    german$alt,
    paste0(
      "Karte: T. Region: ",
      paste(german$layers[[1]]$labels, german$layers[[1]]$counts, collapse = ", "), "."
    )
  )
})

test_that("marks of numbers are one character that no number holds, and differ", {
  for (mark in c(strrep("x", 5000), "xx", "", "1", "-", "%")) {
    expect_error(map_locale(decimal = mark), "decimal", class = "ochre_error_argument")
  }
  for (mark in c("xx", "7", "\u2212")) {
    expect_error(map_locale(thousands = mark), "thousands", class = "ochre_error_argument")
  }
  expect_error(map_locale("de", decimal = "."), "are both", class = "ochre_error_argument")
  expect_identical(unclass(map_locale("de", thousands = ""))$thousands, "")
  expect_identical(
    format_number(1234567.5, 1, locale = map_locale("de", thousands = "'")), "1'234'567,5"
  )
})

test_that("numbers are written as formatC() writes them, of long columns too", {
  slow <- function(x, digits, marks, locale) {
    x <- round(x, digits)
    x[x == 0] <- 0
    mark <- if (marks) locale$thousands else ""
    out <- formatC(
      x, format = "f", digits = max(digits, 0), big.mark = mark, decimal.mark = locale$decimal
    )
    out <- sub("-", "\u2212", trimws(out), fixed = TRUE)
    out[!is.finite(x)] <- NA
    out
  }
  set.seed(8)
  x <- c(
    rnorm(1500) * 10^runif(1500, -8, 15),
    sample(c(0, -0.0001, NA, Inf, -Inf, NaN, 999.5, 999.999, -1000, 1e22, 999999), 4000, TRUE)
  )
  for (locale in list(english, map_locale("fr"), map_locale("de"))) {
    for (digits in c(-3, 0, 1, 6)) {
      for (marks in c(TRUE, FALSE)) {
        expect_identical(format_number(x, digits, marks, locale), slow(x, digits, marks, locale))
      }
    }
  }
  expect_identical(format_number(numeric(), 2), character())
})
