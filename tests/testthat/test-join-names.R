# Names that two agencies write differently, in a made-up atlas.

atlas <- tibble::tribble(
  ~agency, ~office,
  "Dem. Rep. Tolmar", "Tolmar, Dem. Rep.",
  "Tolmar", "Tolmar, Rep.",
  "Eq. Vessland", "Equatorial Vessland",
  "Orsk and Halb.", "Orsk and Halbermark",
  "Thurn Is.", "Thurn Islands",
  "N. Karelund", "North Karelund",
  "United Shires of Brenna", "United Shires",
  "Bahmere", "Bahmere, The",
  "Kestria", "Kestrian Arab Republic",
  "Slovern", "Slovern Republic",
  "Cort\u00e8ve", "Corteve",
  "St. Olm", "Saint Olm",
  "Vallonia", "Vallonia, Islamic Rep.",
  "\u041c\u0438\u0440\u0430\u043d", "Miran"
)

test_that("partners are found by their words, none that is wrong", {
  # Exact partners, and keys without any, among which a wrong one could be found.
  shared <- c("Guldor", "Guldor-Bissel", "South Ambria", "Karelund", "Nigra", "Samoth")
  strangers <- c(
    "Ambria", "North Ambria and Samoth", "World", "Guldorian Union", "Low income",
    "Vess", "East Karelund", "Ulvania (excluding Nigra)"
  )
  free <- c("S. Pellan", "W. Sandmark", "New Cordia", "Nigrania")
  known <- c(atlas$agency, shared, free)
  keys <- c(atlas$office, shared, strangers)
  # The order of neither side matters.
  set.seed(4)
  for (round in 1:5) {
    areas <- tibble::tibble(name = sample(known), geometry = wk::wkt(rep(NA_character_, 24)))
    areas$geometry <- wk::wkt(sprintf("POINT (%d 0)", seq_along(known)))
    found <- suggest_matches(
      read_boundaries(areas),
      data.frame(place = sample(keys)),
      by = c(name = "place"),
      match = "exact"
    )
    right <- atlas$agency[match(found$statistics, atlas$office)]
    expect_identical(found$boundaries[!is.na(right)], right[!is.na(right)])
    wrong <- !is.na(found$boundaries) & is.na(right) & found$free %in% TRUE
    expect_identical(found$statistics[wrong], character())
  }
})

test_that("short codes have no near spelling, and of two as good there is none", {
  suggested <- suggest_partner(c("RUS", "AB12"), c("MUS", "AB13"))
  expect_identical(suggested$suggestion, c(NA_character_, NA))
  expect_identical(suggest_partner("Marlowe", c("Marlowa", "Marlowi"))$suggestion, NA_character_)
  expect_identical(suggest_partner("North Elmere", "South Elmere")$suggestion, NA_character_)
})

test_that("a word that one column adds is one note for all, and tidying compares without it", {
  names <- c("Ashe", "Bertie", "Chatham", "Dare", "Elkin")
  areas <- read_boundaries(tibble::tibble(
    name = names,
    geometry = wk::wkt(sprintf("POINT (%d 0)", 1:5))
  ))
  table <- data.frame(place = paste(names, c(rep("County", 4), "City")), n = 1:5)
  exact <- quietly(join_statistics(areas, table, by = c(name = "place")))
  expect_match(attr(join_audit(exact), "notes"), "4 keys differ only by \"County\"", all = FALSE)
  joined <- quietly(join_statistics(areas, table, by = c(name = "place"), match = "tidied"))
  expect_identical(joined$n, c(1L, 2L, 3L, 4L, NA))
  # A word that both sides have stays.
  areas$name <- paste(areas$name, "County")
  expect_identical(sum(!is.na(quietly(
    join_statistics(areas, table[5, ], by = c(name = "place"), match = "tidied")
  )$n)), 0L)
})

test_that("another column of the boundaries that holds more of the keys is named and used", {
  areas <- read_boundaries(tibble::tibble(
    name = c("Orl", "Vess", "Tam"),
    name_long = c("Republic of Orland", "Vessland", "Tammark"),
    geometry = wk::wkt(sprintf("POINT (%d 0)", 1:3))
  ))
  table <- data.frame(place = c("Orl", "Vessland", "Tammark"))
  joined <- quietly(join_statistics(areas, table, by = c(name = "place")))
  notes <- attr(join_audit(joined), "notes")
  expect_match(notes, "`name_long`", all = FALSE)
  found <- suggest_matches(areas, table, by = c(name = "place"))
  expect_identical(found$boundaries, c("Vess", "Tam"))
})
