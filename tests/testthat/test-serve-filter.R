# Conditions that choose among the features of a map; those of tables are in test-serve-tables.R.

test_that("a condition chooses the features that it describes, and a broken one is refused", {
  s <- service_of(ochre_demo("map.ochre.yml"))
  on.exit(s$server$kill())
  collection <- paste0(s$address, "/collections/visits-per-1-000-residents")
  all <- json_of(asked(paste0(collection, "/items?f=geojson&limit=1000")))$features
  column <- function(name) {
    unlist(lapply(all, function(f) f$properties[[name]] %||% NA))
  }
  d <- data.frame(code = column("code"), name = column("name"), region = column("region"),
                  population = column("population"), visits = column("visits"))
  ids <- function(text) {
    got <- asked(paste0(collection, "/items?limit=1000&f=geojson&filter=", curl::curl_escape(text)))
    expect_identical(got$status, 200L, info = paste(text, got$text))
    vapply(json_of(got)$features, function(f) f$properties$code, "")
  }
  cases <- list(
    list("population > 20000 AND visits IS NOT NULL", quote(population > 20000 & !is.na(visits))),
    list("NOT visits > 100", quote(visits <= 100)),
    list("name < 'D' OR name >= '\u00d6'", quote(
      vapply(name, function(x) utf8ToInt(x)[1], 0L) < utf8ToInt("D") |
        vapply(name, function(x) utf8ToInt(x)[1], 0L) >= utf8ToInt("\u00d6")
    )),
    list("code = '0101' OR (code = '0102' AND population < 0)", quote(code == "0101")),
    list("visits IN (120, 121.0) OR name IN ('Nowhere', 'x')", quote(visits %in% 120:121)),
    list("visits NOT IN (120)", quote(!is.na(visits) & visits != 120)),
    list("population BETWEEN 2e4 AND 30000", quote(population >= 2e4 & population <= 3e4)),
    list("NOT visits NOT BETWEEN 100 AND 200", quote(visits >= 100 & visits <= 200)),
    list("name LIKE '_r%' AND name NOT LIKE '%Q%E'", quote(substr(name, 2, 2) == "r")),
    list("region LIKE 'Hesper%'", quote(startsWith(region, "Hesper"))),
    list("name LIKE '%\\%' OR name LIKE '\\\\_' OR name LIKE ''", quote(name == "%"))
  )
  for (one in cases) {
    expect_setequal(ids(one[[1]]), d$code[which(eval(one[[2]], d))])
  }
  broken <- c(
    "population >", "population > 'many'", "people > 3", "(population > 3", "population > 3)",
    "population ; DROP", "", "population = 1 population", "'a", "name = DATE('2031-13-40')",
    "visits IN ()", "visits IN (1,)", "visits IN (1, 'a')", "visits IN (population)", "name IN 'a'",
    "name BETWEEN 'a' AND 'b'", "visits BETWEEN 1 OR 2", "visits LIKE '1%'", "name LIKE name",
    "name LIKE 'a\\'", "name LIKE '\\x'", "name NOT", "name NOT = 'a'", "'a' LIKE 'a'",
    paste0(strrep("(", 300), "1=1", strrep(")", 300)), strrep("NOT ", 300), "= = ="
  )
  for (text in broken) {
    got <- asked(paste0(collection, "/items?filter=", curl::curl_escape(text)))
    expect_identical(got$status, 400L, info = text)
    expect_match(json_of(got)$detail, "^`filter`: ", info = text)
  }
  other <- asked(paste0(collection, "/items?filter=1=1&filter-lang=cql2-json"))
  expect_identical(other$status, 400L)
  schema <- json_of(asked(paste0(collection, "/queryables")))
  expect_identical(schema$properties$population$type, "integer")
  expect_true(all(names(d) %in% names(schema$properties)))
  for (form in c("", "?f=json")) {
    got <- asked(paste0(collection, "/queryables", form))
    expect_identical(got$type, "application/schema+json", info = got$text)
  }
})

test_that("conditions of chance say the same of rows here and in an engine, or are refused", {
  skip_if_not_installed("RSQLite")
  set.seed(3)
  table <- data.frame(
    id = 1:4, n = c(1, NA, 3, -2.5), t = c("a%", "B\\", NA, "a"), f = c(TRUE, NA, FALSE, TRUE)
  )
  con <- DBI::dbConnect(RSQLite::SQLite(), ":memory:")
  on.exit(DBI::dbDisconnect(con))
  DBI::dbWriteTable(con, "rows", table)
  there <- dplyr::tbl(con, "rows")
  kinds <- list(
    c("n", "1", "-2.5", "3e0"), c("t", "'a%'", "''", "'_\\\\'", "'%\\%'"), c("f", "TRUE", "FALSE")
  )
  some <- function(x) sample(x, 1)
  one <- function() {
    of <- some(1:3)
    value <- function() some(kinds[[if (runif(1) < 0.05) some(1:3) else of]])
    tails <- list(
      c(some(c("=", "<>", ">=", "<")), value()), c("IS", "NULL"), c("LIKE", value()),
      c("IN", "(", value(), ",", value(), ")"), c("BETWEEN", value(), "AND", value())
    )
    tail <- tails[[some(1:5)]]
    c(value(), if (tail[1] %in% c("LIKE", "IN", "BETWEEN") && runif(1) < 0.3) "NOT", tail)
  }
  taken <- 0
  for (i in 1:450) {
    words <- c(if (runif(1) < 0.3) "NOT", one(), some(c("AND", "OR")), one())
    if (runif(1) < 0.2) words[sample(length(words), 1)] <- some(c(words, "(", ")", "NOT"))
    text <- paste(words, collapse = " ")
    tree <- tryCatch(
      read_filter(list(filter = text), list(table = table)), ochre_refusal = function(e) NULL
    )
    if (is.null(tree)) next
    taken <- taken + 1
    kept <- dplyr::filter(there, !!filter_there(tree, con))
    expect_identical(sort(dplyr::pull(kept, "id")), which(filter_rows(tree, table)), info = text)
  }
  expect_gt(taken, 80)
})

test_that("LIKE takes the time of its pattern, and says what it says everywhere", {
  long <- strrep("a", 20000)
  took <- system.time(found <- like_values(long, paste0(strrep("%a", 40), "%b")))
  expect_false(found)
  expect_lt(took[["elapsed"]], 5)
  set.seed(8)
  for (i in 1:500) {
    text <- paste(sample(c("a", "b", "\n"), sample(0:7, 1), TRUE), collapse = "")
    pattern <- paste(sample(c("a", "b", "%", "_"), sample(0:6, 1), TRUE), collapse = "")
    plain <- gsub("%", ".*", gsub("_", ".", pattern), fixed = FALSE)
    right <- grepl(paste0("^(?s:", plain, ")\\z"), text, perl = TRUE)
    expect_identical(like_values(text, pattern), right, info = paste(text, pattern))
  }
  expect_identical(like_values(c("100%", "1000", NA), "100\\%"), c(TRUE, FALSE, NA))
})
