# Every word on a map comes from inst/locale/, and every language has all of them.

# Texts in a piece of code that a reader could see: of several words, or with a capital. Messages
# for the user of Ochre and markup are none.
seen_texts <- function(code) {
  if (is.character(code)) {
    words <- grepl("[[:alpha:]]{2,} +[[:alpha:]]{2,}|^[A-Z][a-z]{2,}", code)
    return(code[words & !grepl("<|^GeomOchre|^default-src|^conic$| Mercator|equal-area", code)])
  }
  if (!is.call(code) && !is.pairlist(code)) return(character())
  said <- c(
    "ochre_abort", "ochre_warn", "ochre_tell", "need_package", "signal_progress",
    "warn_left_out"
  )
  if (is.call(code) && is.name(code[[1]]) && as.character(code[[1]]) %in% said) {
    return(character())
  }
  unlist(lapply(as.list(code), function(x) if (missing(x)) character() else seen_texts(x)))
}

test_that("the sources of plan, figure and page hold no word that a reader sees", {
  folder <- test_path("..", "..", "R")
  skip_if_not(dir.exists(folder))
  files <- list.files(folder, "^(plan|figure|page)[-.].*R$", full.names = TRUE)
  # What these say is for the user of Ochre.
  files <- files[!basename(files) %in% c("plan-print.R", "plan-contract.R", "plan-warnings.R")]
  for (file in files) {
    texts <- unlist(lapply(as.list(parse(file)), seen_texts))
    known <- c("head and tail", "A picture in a figure", open_families, "GeomText")
    expect_identical(setdiff(texts, known), character(), info = file)
  }
  seen <- seen_texts(quote(f("No data", "areas", ochre_warn("x", "Some words"))))
  expect_identical(seen, "No data")
})

test_that("the sources of the viewer hold no word that a reader sees", {
  folder <- test_path("..", "..", "viewer", "src")
  skip_if_not(dir.exists(folder))
  files <- list.files(folder, "[.]ts$", full.names = TRUE)
  files <- files[!basename(files) %in% c("plan.ts", "plan-check.ts", "plan-fields.ts", "rules.ts")]
  for (file in files) {
    lines <- readLines(file, encoding = "UTF-8")
    lines <- lines[!grepl("^ *//|^import|throw new|console[.]|querySelector|ochre-|rel = ", lines)]
    phrase <- "\"[^\"]*[[:alpha:]]{2,} [[:alpha:]]{2,}[^\"]*\""
    texts <- unlist(regmatches(lines, gregexpr(phrase, lines)))
    texts <- texts[!grepl("Mercator|equal-area|sans-serif|&&| as const", texts)]
    expect_identical(texts, character(), info = basename(file))
  }
})

test_that("every language has the same keys, and a word that is asked for is there", {
  shape <- function(locale) {
    texts <- unlist(unclass(locale)[setdiff(names(locale), c("code", "decimal", "thousands"))])
    vapply(
      regmatches(texts, gregexpr("%s|\\{[0-9]\\}", texts)),
      function(holes) paste(sort(holes), collapse = ""),
      ""
    )
  }
  english_shape <- shape(read_locale("en"))
  for (code in locale_codes) {
    locale <- read_locale(code)
    expect_identical(names(locale), names(read_locale("en")))
    expect_setequal(names(locale$page), names(read_locale("en")$page))
    expect_identical(shape(locale)[names(english_shape)], english_shape)
    expect_true(all(nzchar(trimws(unlist(locale$page)))))
  }
  folder <- test_path("..", "..", "viewer", "src")
  skip_if_not(dir.exists(folder))
  lines <- unlist(lapply(list.files(folder, "[.]ts$", full.names = TRUE), readLines))
  asked <- unlist(regmatches(lines, gregexpr("say\\([a-z.]*words, \"[a-z_]+\"", lines)))
  asked <- sub(".*\"([a-z_]+)\"", "\\1", asked)
  expect_gt(length(asked), 30)
  expect_identical(setdiff(asked, names(read_locale("en")$page)), character())
})

test_that("large limits are written in words of each language, periods as dates", {
  steps <- fit_steps(c(3e6, 1.05e9, 1.4e9, 1.84e9, 2e9), steps_at(c(0, 1.05e9, 1.84e9, Inf)))
  known <- list(
    en = c("0 to <1.05 billion", "1.05 to <1.84 billion", "1.84 billion and over"),
    de = c("0 bis <1,05 Mrd.", "1,05 bis <1,84 Mrd.", "1,84 Mrd. und mehr"),
    fr = c("0 \u00e0 <1,05 Md", "1,05 \u00e0 <1,84 Md", "1,84 Md et plus"),
    es = c("0 a <1,05 mil millones", "1,05 a <1,84 mil millones", "1,84 mil millones o m\u00e1s"),
    pl = c("0 do <1,05 mld", "1,05 do <1,84 mld", "1,84 mld i wi\u0119cej")
  )
  for (code in names(known)) {
    labels <- class_labels(steps, number_format(), read_locale(code))
    expect_identical(gsub("\u00a0", " ", labels), known[[code]])
  }
  full <- class_labels(steps, number_format(large = FALSE), read_locale("en"))
  expect_identical(full[2], "1,050,000,000\u20131,839,999,999")
  marks <- mark_labels(c(2e12, 5e11, 250), number_format(unit = "cr"), read_locale("en"))
  expect_identical(gsub("\u00a0", " ", marks), c("2 trillion cr", "500 billion cr", "250 cr"))
  expect_identical(mark_labels(c(10000, 2000), NULL, read_locale("de")), c("10.000", "2.000"))
  # Short numbers stay as they are unless asked for.
  small <- fit_steps(c(1, 2e5), steps_at(c(0, 1e5, 2e5)))
  expect_identical(class_labels(small, NULL, read_locale("en"))[1], "0\u201399,999")
  asked <- class_labels(small, number_format(large = TRUE), read_locale("en"))
  expect_identical(asked[1], "0\u201399,999")
  months <- c("2031-06", "2031-10")
  expect_identical(period_words(months, read_locale("pl"))[1], "czerwiec\u00a02031")
  expect_identical(period_words("2031-06-03", read_locale("de")), "3.\u00a0Juni\u00a02031")
  expect_identical(period_words(c("2031-06", "later"), read_locale("en")), c("2031-06", "later"))
  own <- map_locale("fr", months = month.name)
  expect_identical(period_words("2031-06", own), "June\u00a02031")
})
