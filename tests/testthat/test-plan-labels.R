test_that("words on areas have contrast on each ground and panel, unless given a colour", {
  areas <- demo_rates()[!is.na(demo_rates()$visits_per_1000), ]
  two <- rbind(
    transform(as.data.frame(areas), when = "a"),
    transform(as.data.frame(areas), when = "b", visits_per_1000 = rev(areas$visits_per_1000))
  )
  for (ground in c("light", "dark")) {
    for (data in list(areas, tibble::as_tibble(two))) {
      for (ramp in c("madder", "woad_umber")) {
        by <- if ("when" %in% names(data)) rlang::sym("when")
        sheet <- map_sheet("T", ground = ground) |>
          shade_areas(data, visits_per_1000, steps = steps_quantile(7), ramp = ramp, by = !!by) |>
          write_labels(areas, name)
        plan <- quietly(resolve_sheet(sheet))
        labels <- plan$layers[[2]]
        expect_true(all(labels$over == 0))
        for (p in seq_len(max(1, length(plan$panels)))) {
          layer <- plan$layers[[1]]
          class <- (layer$panels[[p]] %||% layer)$class[
            match(labels$row, match(areas$code, layer$codes))
          ]
          fill <- c(layer$no_data$colour, layer$colours)[class + 1]
          drawn <- inked_labels(labels, p)
          expect_gte(min(contrast_ratio(drawn$colour, fill)), 4.5)
          expect_gte(min(contrast_ratio(drawn$colour, drawn$halo)), 4.5)
          expect_gt(length(unique(drawn$colour)), 1)
        }
      }
    }
  }
  plain <- quietly(resolve_sheet(
    map_sheet("T") |>
      shade_areas(areas, visits_per_1000) |>
      write_labels(areas, name, colour = "#AA0000")
  ))
  expect_null(plain$layers[[2]]$ink)
  # Off the land the page's own ink holds.
  at_sea <- data.frame(longitude = c(-45, -38.3), latitude = c(40, 46.9), name = c("sea", "land"))
  found <- quietly(resolve_sheet(
    map_sheet("T") |> shade_areas(areas, visits_per_1000) |> write_labels(at_sea, name)
  ))
  expect_true(all(found$layers[[2]]$text %in% c("sea", "land")))
})
