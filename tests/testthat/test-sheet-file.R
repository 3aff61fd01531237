demo_copy <- function(change = identity) {
  folder <- tempfile("ochre-sheet-")
  dir.create(folder)
  file.copy(file.path(system.file("orvane", package = "ochre"), ochre_demo()), folder)
  path <- file.path(folder, "map.ochre.yml")
  writeLines(enc2utf8(change(readLines(path, encoding = "UTF-8"))), path, useBytes = TRUE)
  path
}
refused <- function(from, to, class = "ochre_error_sheet") {
  expect_error(quietly(read_sheet(demo_copy(function(x) { stopifnot(any(grepl(from, x, fixed = TRUE))); sub(from, to, x, fixed = TRUE) }))), class = class)
}

test_that("a sheet in YAML resolves to the plan that the same words give in R", {
  clinics <- quietly(read_statistics(ochre_demo("clinics.csv")))
  sheet <- map_sheet("Hay fever follows the wind across Orvane", "Visits to a clinic per 1,000 residents, March to August 2031",
                     source = "Orvane Health Office, provisional figures", note = "Orvane and all its numbers are made up.") |>
    shade_areas(demo_rates(), visits_per_1000, steps = steps_natural(5, digits = 0), legend = "Visits per 1,000 residents", hover = "{name}: {visits_per_1000|0} per 1,000",
                popup = c("District" = name, "Region" = region, "Visits" = visits, "Per 1,000 residents" = "{visits_per_1000|0}", "Residents" = population)) |>
    draw_lines(read_boundaries(ochre_demo("ferries.geojson")), legend = "Ferry", hover = "{name}: {minutes} minutes") |>
    draw_lines(read_boundaries(ochre_demo("border-proposal.geojson")), dash = TRUE, colour = "black", legend = "Proposed border") |>
    place_symbols(clinics, patients, colour = kind, colour_legend = "Kind of clinic", legend = "Patients of a clinic", hover = "{name}: {patients} patients", popup = c("Clinic" = name, "Kind" = kind, "Patients" = patients))
  expect_identical(quietly(resolve_sheet(sheet)), demo_plan())
})

test_that("a wrong key or value is refused with its place and the nearest right one", {
  e <- refused("hover:", "hoover:")
  expect_identical(e$path, "layers[1].shade_areas")
  expect_match(conditionMessage(e), "Did you mean `hover`")
  expect_match(conditionMessage(refused("match: tidied", "match: tidyed")), "Did you mean `tidied`")
  expect_match(conditionMessage(refused("dash: true", "dash: maybe")), "must be true or false or a block of keys, not `maybe`")
  expect_match(conditionMessage(refused("data: rates", "data: rate")), "Did you mean `rates`")
  expect_match(conditionMessage(refused("size: patients", "legend2: x")), "`legend2` is not a key here")
  expect_match(conditionMessage(refused("ochre: 1", "ochre: 2")), "`2` is not allowed here")
  expect_match(conditionMessage(refused("title: Hay", "titel: Hay")), "Did you mean `title`")
  expect_match(conditionMessage(refused("tables:", "tables: [")), "not valid YAML")
  e <- refused("value: visits_per_1000", "value: visits_per_100", "ochre_error_column")
  expect_match(conditionMessage(e), "layers\\[1\\].shade_areas: `value` names the column `visits_per_100`")
  expect_match(conditionMessage(refused("file: visits.csv", "file: visit.csv", "ochre_error_file")), "Did you mean")
})

test_that("nothing in a sheet is run as code", {
  mark <- tempfile("ran-")
  sheet <- quietly(read_sheet(demo_copy(function(x) sub("title: Hay.*", sprintf("title: !expr file.create('%s')", mark), x))))
  expect_identical(sheet$title, sprintf("file.create('%s')", mark))
  expect_false(file.exists(mark))
})

test_that("the schema and the functions have the same words", {
  schema <- sheet_schema()
  verbs <- c(schema$`$defs`$step$properties, schema$`$defs`$layer$properties)
  for (verb in names(verbs)) expect_setequal(setdiff(names(formals(verb)), c("sheet", if (startsWith(verb, "read_")) c("query", "params") else if (is.null(verbs[[verb]]$properties$data)) main_argument(verb))), names(verbs[[verb]]$properties))
  for (steps in names(schema$`$defs`$steps$properties)) {
    known <- schema$`$defs`$steps$properties[[steps]]
    expect_setequal(as.character(names(formals(steps))), as.character(names((if (is.null(known$`$ref`)) known else schema$`$defs`$counted)$properties)))
  }
})
