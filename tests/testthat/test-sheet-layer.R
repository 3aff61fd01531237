# Layers of a sheet are values with names.

test_that("a layer has every field of its kind, whichever verb makes it, and no other", {
  world <- plan_world()
  first <- function(...) list(...)[[1]]
  for (maker in plan_layer_makers) {
    layer <- show_layer(maker(map_sheet("T"), world, first))$layers[[1]]
    expect_identical(names(layer), c("kind", "data", layer_fields[[layer$kind]], "show", "written"))
    again <- new_layer(layer$kind, layer[setdiff(names(layer), "kind")])
    expect_identical(again, layer)
  }
  expect_error(new_layer("areas", list(colour = "red")), "known")
  expect_error(new_layer("stars", list()), "layer_fields")
})
