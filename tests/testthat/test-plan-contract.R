# The contract of a plan: what it holds is all there, and one that was changed is refused in words.

test_that("random sheets over every verb give plans that pass, and are drawn", {
  set.seed(14)
  world <- plan_world()
  for (maker in plan_layer_makers) {
    sheet <- maker(map_sheet("T"), world, function(...) list(...)[[1]])
    expect_silent(check_plan(quietly(resolve_sheet(sheet))))
  }
  for (i in 1:25) {
    plan <- tryCatch(quietly(resolve_sheet(any_sheet(world))), ochre_error = identity)
    if (inherits(plan, "ochre_error")) next
    expect_identical(check_plan(plan), plan)
    expect_true(jsonlite::validate(plan_json(plan)))
    expect_s3_class(as_figure(plan), "ggplot")
  }
})

test_that("a page's numbers are rounded as the contract says, and values stand only where shown", {
  world <- plan_world()
  sheet <- function(table) {
    map_sheet("T", page = page_style(table = table)) |> shade_areas(world$areas, v)
  }
  written <- function(table) {
    plan <- quietly(resolve_sheet(sheet(table)))
    jsonlite::fromJSON(plan_json(plan), simplifyVector = FALSE)
  }
  expect_null(written(FALSE)$layers[[1]]$numbers)
  expect_length(written(TRUE)$layers[[1]]$numbers, 6)
  expect_false("fit" %in% names(written(TRUE)$layers[[1]]))
})

test_that("resolving touches no other: nested, failing, in a handler, and two in turn", {
  world <- plan_world()
  german <- map_sheet("T", locale = "de", ground = "dark") |> shade_areas(world$areas, v)
  french <- map_sheet("T", locale = "fr") |>
    place_symbols(world$places, n, colour = kind) |>
    draw_lines(world$areas)
  alone <- quietly(list(resolve_sheet(german), resolve_sheet(french)))
  inner <- NULL
  outer <- withCallingHandlers(
    suppressMessages(resolve_sheet(french)),
    ochre_warning = function(w) {
      inner <<- quietly(resolve_sheet(german))
      try(resolve_sheet(map_sheet("empty", locale = "pl")), silent = TRUE)
      rlang::cnd_muffle(w)
    },
    ochre_progress = function(p) inner <<- inner %||% quietly(resolve_sheet(german))
  )
  expect_identical(inner, alone[[1]])
  expect_identical(outer, alone[[2]])
  expect_identical(format_number(1234.5, 1), "1,234.5")
})
