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
    expect_true(jsonlite::validate(write_json(plan_content(plan))))
    expect_s3_class(as_figure(plan), "ggplot")
  }
})

# Each way to break a plan at one place: the path, and what stands there then.
breaks_of <- function(value, path = NULL) {
  if (identical(path, list("topology"))) return(list(list(path = path, value = value[-1])))
  at <- function(new) list(list(path = path, value = new))
  other <- function(v) if (is.character(v)) 7 else "odd"
  if (!is.list(value)) {
    last <- path[[length(path)]]
    out <- at(if (length(value) == 1) other(value) else 1i)
    if (length(value) > 1) {
      out <- c(out, at(replace(as.list(value), 2, other(value))))
      if (last == "class") out <- c(out, at(replace(value, 2, 99)))
    }
    # As many as there are areas, or classes of them.
    of_length <- c("class", "share", "rank", "values", "hover", "names", "counts", "labels")
    if (length(value) > 1 && last %in% of_length) out <- c(out, at(value[-1]))
    return(out)
  }
  lost <- if (!is.null(names(value)) && !"words" %in% path) at(value[-length(value)])
  keys <- as.list(names(value) %||% seq_along(value))
  inner <- Map(function(v, key) breaks_of(v, c(path, list(key))), value, keys)
  c(lost, at("odd"), unlist(unname(inner), recursive = FALSE))
}

put_at <- function(x, path, value) {
  if (!length(path)) return(value)
  x[path[[1]]] <- list(put_at(x[[path[[1]]]], path[-1], value))
  x
}

test_that("a plan that is broken in any one place is refused in words", {
  world <- plan_world()
  for (maker in plan_layer_makers) {
    plan <- quietly(resolve_sheet(maker(map_sheet("T"), world, function(...) list(...)[[1]])))
    breaks <- sample(breaks_of(unclass(plan)), 100)
    contract <- plan_contract()
    passed <- Filter(function(b) {
      is.null(plan_fault(put_at(unclass(plan), b$path, b$value), contract))
    }, breaks)
    expect_identical(lapply(passed, function(b) paste(b$path, collapse = "$")), list())
  }
})

test_that("a page's numbers are rounded as the contract says, and values stand only where shown", {
  world <- plan_world()
  sheet <- function(table) {
    map_sheet("T", page = page_style(table = table)) |> shade_areas(world$areas, v)
  }
  written <- function(table) {
    plan <- quietly(resolve_sheet(sheet(table)))
    jsonlite::fromJSON(write_json(plan_content(plan)), simplifyVector = FALSE)
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
