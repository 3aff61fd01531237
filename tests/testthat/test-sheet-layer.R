# Layers of a sheet are values with names.

test_that("a layer has every field of its kind, whichever verb makes it, and no other", {
  world <- plan_world()
  first <- function(...) list(...)[[1]]
  for (maker in plan_layer_makers) {
    layer <- show_layer(maker(map_sheet("T"), world, first))$layers[[1]]
    fields <- layer_kinds[[layer$kind]]$fields
    expect_identical(names(layer), c("kind", "data", fields, "show", "written"))
    again <- new_layer(layer$kind, layer[setdiff(names(layer), "kind")])
    expect_identical(again, layer)
  }
  expect_error(new_layer("areas", list(colour = "red")), "known")
  expect_error(new_layer("stars", list()), "layer_kinds")
})

test_that("whatever is asked of a kind of layer, each kind that is asked has its function", {
  for (kind in names(layer_kinds)) {
    asked <- c("resolve", "figure", "first", "words", if (!kinds_are(kind, "words")) "legend",
               if (kinds_are(kind, "surface")) "reach")
    for (does in asked) expect_true(is.function(for_kind(does, kind)))
  }
})

test_that("areas without a value are one colour, and single classes can have their own", {
  areas <- squares(c("1", "2", "3"))
  plan <- resolve_sheet(map_sheet("T") |> shade_areas(areas, fill = "#d8d2c4", legend = "Land"))
  land <- plan$layers[[1]]
  expect_identical(land$colours, "#D8D2C4")
  expect_identical(land$class, rep(1L, 3))
  expect_identical(land$labels, "Land")
  expect_identical(land$hover, areas$name)
  expect_null(land$values)
  expect_error(shade_areas(map_sheet("T"), areas, reverse = TRUE), "`reverse` needs a `value`")
  expect_error(
    shade_areas(map_sheet("T"), areas, code, steps_categories(), fill = "red"),
    class = "ochre_error_argument"
  )
  coloured <- function(ramp) {
    quietly(resolve_sheet(
      map_sheet("T") |> shade_areas(areas, code, steps_categories(), ramp = ramp)
    ))$layers[[1]]$colours
  }
  plain <- coloured(NULL)
  expect_identical(coloured(c(`2` = "#112233")), replace(plain, 2, "#112233"))
  expect_warning(
    quietly_but("ochre_warning_unused", resolve_sheet(
      map_sheet("T") |> shade_areas(areas, code, steps_categories(), ramp = c(x = "#112233"))
    )),
    class = "ochre_warning_unused"
  )
})
