demo_copy <- function(change = identity) {
  folder <- tempfile("ochre-sheet-")
  dir.create(folder)
  file.copy(list.files(system.file("orvane", package = "ochre"), full.names = TRUE), folder)
  path <- file.path(folder, "map.ochre.yml")
  writeLines(enc2utf8(change(readLines(path, encoding = "UTF-8"))), path, useBytes = TRUE)
  path
}
refused <- function(from, to, class = "ochre_error_sheet") {
  expect_error(
    quietly(read_sheet(demo_copy(function(x) {
      stopifnot(any(grepl(from, x, fixed = TRUE)))
      sub(from, to, x, fixed = TRUE)
    }))),
    class = class
  )
}

test_that("a sheet in YAML resolves to the plan that the same words give in R", {
  clinics <- quietly(read_statistics(ochre_demo("clinics.csv")))
  sheet <- map_sheet(
    "Hay fever follows the wind across Orvane",
    "Visits to a clinic per 1,000 residents, March to August 2031",
    source = "Orvane Health Office, provisional figures",
    note = "Orvane and all its numbers are made up."
  ) |>
    shade_areas(
      demo_rates(),
      visits_per_1000,
      steps = steps_natural(5, digits = 0),
      legend = "Visits per 1,000 residents",
      hover = "{name}: {visits_per_1000|0} per 1,000",
      popup = c(
        "District" = name, "Region" = region, "Visits" = visits,
        "Per 1,000 residents" = "{visits_per_1000|0}", "Residents" = population
      )
    ) |>
    draw_lines(
      read_boundaries(ochre_demo("ferries.geojson")),
      legend = "Ferry",
      hover = "{name}: {minutes} minutes"
    ) |>
    draw_lines(
      read_boundaries(ochre_demo("border-proposal.geojson")),
      dash = TRUE,
      colour = "black",
      legend = "Proposed border"
    ) |>
    place_symbols(
      clinics, patients, colour = kind, colour_legend = "Kind of clinic",
      legend = "Patients of a clinic", hover = "{name}: {patients} patients",
      popup = c("Clinic" = name, "Kind" = kind, "Patients" = patients)
    )
  expect_identical(quietly(resolve_sheet(sheet)), demo_plan())
})

test_that("a wrong key or value is refused with its place and the nearest right one", {
  e <- refused("hover:", "hoover:")
  expect_identical(e$path, "layers[1].shade_areas.hoover")
  expect_identical(
    readLines(e$file)[e$line], '      hoover: "{name}: {visits_per_1000|0} per 1,000"'
  )
  expect_match(conditionMessage(e), "Did you mean `hover`")
  expect_match(conditionMessage(refused("match: tidied", "match: tidyed")), "Did you mean `tidied`")
  expect_match(
    conditionMessage(refused("dash: true", "dash: maybe")),
    "must be true or false or a block of keys, not `maybe`"
  )
  expect_match(conditionMessage(refused("data: rates", "data: rate")), "Did you mean `rates`")
  expect_match(
    conditionMessage(refused("size: patients", "legend2: x")), "`legend2` is not a key here"
  )
  expect_match(conditionMessage(refused("ochre: 1", "ochre: 2")), "`2` is not allowed here")
  expect_match(conditionMessage(refused("title: Hay", "titel: Hay")), "Did you mean `title`")
  expect_match(conditionMessage(refused("tables:", "tables: [")), "not valid YAML")
  e <- refused("value: visits_per_1000", "value: visits_per_100", "ochre_error_column")
  expect_match(
    conditionMessage(e),
    "line 31, layers\\[1\\].shade_areas.value: `value` names the column `visits_per_100`"
  )
  expect_match(
    conditionMessage(refused("file: visits.csv", "file: visit.csv", "ochre_error_file")),
    "Did you mean"
  )
})

test_that("nothing in a sheet is run as code", {
  mark <- tempfile("ran-")
  sheet <- quietly(read_sheet(demo_copy(function(x) {
    sub("title: Hay.*", sprintf("title: !expr file.create('%s')", mark), x)
  })))
  expect_identical(sheet$title, sprintf("file.create('%s')", mark))
  expect_false(file.exists(mark))
})

test_that("the schema and the functions have the same words, defaults and help", {
  schema <- sheet_schema()
  parts <- schema$`$defs`[c("step", "layer", "steps")]
  for (part in names(parts)) {
    for (verb in names(parts[[part]]$properties)) {
      known <- formals(verb)
      unwritten <- if (part == "step" && !startsWith(verb, "read_")) main_argument(verb)
      # These need an open connection.
      written <- setdiff(names(known), c("sheet", unwritten, "query", "params", "..."))
      properties <- parts[[part]]$properties[[verb]]$properties
      expect_setequal(as.character(names(properties)), written)
      for (name in written) {
        default <- properties[[name]]$default
        if (!is.null(default)) expect_equal(default, known[[name]])
        expect_true(nzchar(properties[[name]]$description))
      }
    }
  }
  # Every function that adds to a sheet is a verb of sheets.
  exported <- getNamespaceExports("ochre")
  adds <- exported[vapply(exported, function(name) {
    identical(names(formals(getExportedValue("ochre", name)))[1], "sheet")
  }, NA)]
  outputs <- c("publish", "as_figure", "as_page", "resolve_sheet", "write_report")
  expect_setequal(setdiff(adds, outputs), names(parts$layer$properties))
})

# Runs a sheet as the command does; what is not a classed condition is a failure that shows the
# sheet.
outcome_of <- function(sheet, folder, publish = FALSE) {
  file <- file.path(folder, "s.yml")
  writeLines(enc2utf8(sheet_yaml(sheet)), file, useBytes = TRUE)
  unclassed <- function(e) {
    fail(sprintf(
      "%s: %s\n%s",
      class(e)[1],
      conditionMessage(e),
      paste(readLines(file), collapse = "\n")
    ))
  }
  tryCatch(
    withCallingHandlers(
      {
        plan <- resolve_sheet(read_sheet(file))
        if (publish) publish(plan, file.path(folder, "map.html"))
        "made"
      },
      warning = function(w) {
        if (!inherits(w, "ochre_warning")) unclassed(w) else rlang::cnd_muffle(w)
      },
      message = function(m) {
        if (!inherits(m, "ochre_message")) unclassed(m) else rlang::cnd_muffle(m)
      }
    ),
    ochre_error = function(e) e,
    error = unclassed
  )
}

test_that("of 900 random and odd sheets none ends in an unclassed condition", {
  folder <- sheet_world(withr::local_tempdir())
  schema <- sheet_schema()
  set.seed(20)
  ends <- vapply(
    1:200,
    function(i) {
      end <- outcome_of(
        random_sheet(schema, odd = if (i %% 2) 0.02 else 0),
        folder,
        publish = i %% 20 == 0
      )
      if (is.character(end)) end else class(end)[1]
    },
    ""
  )
  # About one in sixteen is made; which ones changes with every word that verbs get.
  expect_gt(sum(ends == "made"), 5)
  # One odd value at each place in turn.
  done <- 0
  while (done < 700) {
    sheet <- random_sheet(schema, odd = 0)
    for (place in sample(places_in(sheet))) {
      spoilt <- put_at(sheet, place, sample(sheet_oddities, 1)[[1]])
      end <- if (stats::runif(1) < 0.1 || !length(schema_faults(spoilt, schema))) {
        outcome_of(spoilt, folder)
      } else {
        schema_faults(spoilt, schema)
      }
      if (inherits(end, "ochre_error_sheet")) expect_match(conditionMessage(end), "s.yml")
      done <- done + 1
    }
  }
  succeed()
})

test_that("a sheet's faults are all said at once, each with its line", {
  path <- demo_copy(function(x) {
    sub(
      "n: 5",
      "n: five",
      sub(
        "data: ferries",
        "data: ferrie",
        sub("title: Hay", "titel: Hay", sub("dash: true", "dash: maybe", x))
      )
    )
  })
  e <- expect_error(read_sheet(path), "has 4 faults", class = "ochre_error_sheet")
  lines <- readLines(path)
  expect_setequal(
    e$paths,
    c("", "titel", "layers[1].shade_areas.steps.steps_natural.n", "layers[3].draw_lines.dash")
  )
  expect_match(
    e$mend, "line 3, titel: `titel` is not a key here. Did you mean `title`", all = FALSE
  )
  expect_match(
    e$mend, sprintf("line %d, layers\\[3\\].draw_lines.dash", grep("maybe", lines)), all = FALSE
  )
  path <- demo_copy(function(x) {
    sub("data: ferries", "data: ferrie", sub("data: clinics", "data: clinic", x))
  })
  e <- expect_error(
    read_sheet(path),
    paste0(
      "2 faults.*line [0-9]+, layers\\[2\\].draw_lines.data: there is no table `ferrie`. Did ",
      "you mean `ferries`"
    ),
    class = "ochre_error_sheet"
  )
})

test_that("a stranger's sheet writes into its own folder only and is one document", {
  outside <- withr::local_tempdir()
  for (to in c(
      "../map.html", "/tmp/map.html", "~/map.html", "a/../../map.html", "linked/map.html",
      "there.html"
    )) {
    path <- demo_copy(function(x) sub("publish: .*", sprintf("publish: [%s]", to), x))
    file.symlink(outside, file.path(dirname(path), "linked"))
    file.symlink(file.path(outside, "victim.html"), file.path(dirname(path), "there.html"))
    expect_error(
      read_sheet(path), "line [0-9]+, publish\\[1\\]: a sheet writes only into its own folder",
      class = "ochre_error_sheet"
    )
  }
  path <- demo_copy(function(x) sub("publish: .*", "publish: [maps/new/map.html]", x))
  expect_match(attr(quietly(read_sheet(path)), "publish"), "maps/new/map.html$")
  expect_error(
    read_sheet(demo_copy(function(x) c("---", x, "---", "title: Other"))),
    "second YAML document from line 58", class = "ochre_error_sheet"
  )
  expect_error(
    read_sheet(demo_copy(function(x) c(x, "...", "title: Other"))),
    "second YAML document", class = "ochre_error_sheet"
  )
  expect_s3_class(
    quietly(read_sheet(demo_copy(function(x) c("%YAML 1.1", "---", x, "...")))),
    "ochre_sheet"
  )
  spoil <- function(bytes) {
    path <- demo_copy()
    all <- readBin(path, "raw", 1e6)
    writeBin(c(all[1:100], as.raw(bytes), all[-(1:100)]), path)
    path
  }
  expect_error(read_sheet(spoil(0)), "zero byte in line 3", class = "ochre_error_sheet")
  expect_error(read_sheet(spoil(0xff)), "not UTF-8 in line 3", class = "ochre_error_sheet")
})

test_that("a sheet takes what R takes: single values for lists, -Inf, positions, every verb", {
  folder <- temporary("")
  dir.create(folder)
  on.exit(unlink(folder, recursive = TRUE))
  writeLines(
    c("7;A;[0.5, 0.5];10", "12;B;[1.5, 0.2];9999", "13;;[2.5, 0.4];30"),
    file.path(folder, "wells.csv")
  )
  wells <- readLines(file.path(folder, "wells.csv"))
  writeLines(c("Id no;state;place;depth", wells), file.path(folder, "wells.csv"))
  file.copy(squares_file(c("07", "12", "13")), file.path(folder, "areas.geojson"))
  writeLines(c(
    "ochre: 1", "title: Wells", "inset: true", "leave_out: specks", "graticule: 1",
    "tables:",
    "  areas:", "    - read_boundaries: {file: areas.geojson}",
    "  wells:",
    "    - read_statistics: {file: wells.csv, text: place}",
    "    - rename_columns: {names: {id: Id no}}",
    "    - recode_values: {column: state, values: {A: open, B: shut}, missing: unknown}",
    "    - set_values: {column: depth, above: 5000}",
    "    - cut_code: {column: 1, width: 2}",
    "    - paste_columns: {text: \"{id} {state}\", name: both}",
    "    - places_from: {column: place}",
    "  joined:",
    "    - join_statistics: {boundaries: areas, statistics: wells, by: {code: id}, repeats: share}",
    "layers:",
    "  - shade_areas:",
    "      data: joined",
    "      value: depth",
    "      steps: {steps_at: {breaks: [-Inf, 20, Inf], closed: right, labels: [low, high]}}",
    "      popup: [state, depth]",
    "  - place_symbols: {data: wells, shape: pin, legend: Wells, sizes: 12}",
    "  - shade_areas: {data: areas, fill: \"#eeeeee\"}",
    "publish: map.png"
  ), file.path(folder, "map.ochre.yml"))
  sheet <- quietly(read_sheet(file.path(folder, "map.ochre.yml")))
  plan <- quietly(resolve_sheet(sheet))
  shaded <- plan$layers[[2]]
  expect_identical(shaded$labels, c("low", "high"))
  expect_identical(shaded$class, c(1L, 0L, 2L))
  expect_identical(shaded$popup$labels, c("State", "Depth"))
  expect_identical(shaded$popup$fields[[1]], c("open", "shut", "unknown"))
  expect_identical(basename(attr(sheet, "publish")), "map.png")
})
