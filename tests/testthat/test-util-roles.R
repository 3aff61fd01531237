test_that("years and codes are told from counts by name and values, and inspect says it", {
  role <- function(name, ...) column_role(c(...), name)
  expect_identical(role("year", 1999:2031), "year")
  expect_identical(role("jahr", 2031), "year")
  for (name in c("KTNR", "district_code", "FIPS", "GEOID", "ags", "plz", "id", "ISO")) {
    expect_identical(role(name, 1:26), "code", info = name)
  }
  for (name in c("covid", "number", "paid", "rapid", "residents")) {
    expect_identical(role(name, 10:30), "count", info = name)
  }
  expect_identical(role("cases", -1:5), "number")
  expect_identical(role("rank", 1:5), "number")
  expect_identical(role("share", 0.5), "number")
  file <- write_file("KTNR,year,cases,rate\n1,2031,12,0.5\n2,2031,1500,1.5\n")
  columns <- quietly(inspect_file(file))$columns
  expect_identical(unname(columns$role), c("code", "year", "count", "number"))
})

test_that("years and codes have no thousands marks in any words, and are not added up", {
  areas <- squares(c("a", "b", "c"))
  stats <- data.frame(
    code = c("a", "b", "x"),
    KTNR = c(1001L, 1002L, 1003L),
    year = 2031L,
    cases = c(1000L, 2000L, 3000L)
  )
  joined <- quietly(join_statistics(areas, stats, by = "code"))
  lost <- attr(join_audit(joined), "lost")
  expect_identical(lost$column[lost$side == "statistics"], "cases")
  sheet <- map_sheet("T") |>
    shade_areas(
      joined,
      cases,
      steps = steps_at(c(0, 1500, 3000)),
      hover = "{KTNR} in {year}: {cases}",
      popup = c(Code = KTNR, Year = year, Cases = cases)
    )
  layer <- quietly(resolve_sheet(sheet))$layers[[1]]
  expect_identical(layer$hover[1:2], c("1001 in 2031: 1,000", "1002 in 2031: 2,000"))
  expect_identical(unname(vapply(layer$popup$fields, `[`, "", 1)), c("1001", "2031", "1,000"))
})
