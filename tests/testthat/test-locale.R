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
    method <- "head and tail"
    expect_identical(setdiff(texts, c(method, "A picture in a figure")), character(), info = file)
  }
  seen <- seen_texts(quote(f("No data", "areas", ochre_warn("x", "Some words"))))
  expect_identical(seen, "No data")
})

test_that("the sources of the viewer hold no word that a reader sees", {
  folder <- test_path("..", "..", "viewer", "src")
  skip_if_not(dir.exists(folder))
  files <- list.files(folder, "[.]ts$", full.names = TRUE)
  files <- files[!basename(files) %in% c("plan.ts", "plan-check.ts")]
  for (file in files) {
    lines <- readLines(file, encoding = "UTF-8")
    lines <- lines[!grepl("^ *//|^import|throw new|querySelector|ochre-|rel = ", lines)]
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
