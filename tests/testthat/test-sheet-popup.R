# Pictures in popups, and values that follow the zoom.

test_that("pictures of a popup may lie in a folder, and come from nowhere else", {
  path <- picture(30, 30)
  folder <- dirname(path)
  file.copy(path, file.path(folder, "100% a.png"))
  writeLines("no picture", file.path(folder, "text.png"))
  areas <- demo_rates()
  areas$photo <- NA_character_
  areas$photo[1:5] <- c("plan.png", "100% a.png", "../plan.png", path, "lost.png")
  made <- function() {
    map_sheet("T") |>
      shade_areas(
        areas,
        visits_per_1000,
        popup = list("Photo" = popup_picture("{photo}", "{name}", folder = folder))
      )
  }
  expect_warning(
    plan <- quietly_but("ochre_warning_link", resolve_sheet(made())), "3 pictures are left out",
    class = "ochre_warning_link"
  )
  address <- plan$layers[[1]]$popup$fields[[1]]
  expect_identical(which(!is.na(address)), 1:2)
  expect_identical(
    jsonlite::base64_dec(sub("^data:image/png;base64,", "", address[2])), readBin(path, "raw", 1e6)
  )
  expect_length(picture_origins(plan), 0)
  areas$photo[1] <- "text.png"
  expect_error(quietly(resolve_sheet(made())), "is no picture", class = "ochre_error_picture")
})

test_that("values by zoom begin with that of the whole map, heat with its points", {
  expect_identical(format(by_zoom(c(1, 8), c(0.5, 2))), "Between zooms: 0.5 at zoom 1, 2 at zoom 8")
  for (bad in list(
      list(c(2, 1), 1:2),
      list(1, 1:2),
      list(c(0.5, 2), 1:2),
      list(c(1, 2), c("a", "b")),
      list(c(1, 2), list(1, 1:2))
    )) {
    expect_error(do.call(by_zoom, bad), class = "ochre_error_argument")
  }
  clinics <- quietly(read_statistics(ochre_demo("clinics.csv")))
  expect_error(
    place_symbols(map_sheet("T"), clinics, patients, grow = by_zoom(c(2, 4), c(1, 2))),
    "must begin with 1", class = "ochre_error_argument"
  )
  expect_error(
    place_symbols(map_sheet("T"), clinics, patients, grow = 3), "by_zoom",
    class = "ochre_error_argument"
  )
  expect_error(
    draw_lines(map_sheet("T"), land(), dash = by_zoom(1, 3)), "pairs",
    class = "ochre_error_argument"
  )
  sheet <- map_sheet("T") |>
    draw_lines(
      land(),
      width = by_zoom(c(1, 8), c(0.5, 2)),
      dash = by_zoom(c(1, 4), list(c(0, 0), c(4, 3)), stepped = TRUE)
    ) |>
    place_symbols(clinics, patients, grow = by_zoom(c(1, 8), c(1, 3))) |>
    write_labels(clinics, name, scale = by_zoom(c(1, 8), c(0.8, 1.2))) |>
    shade_heat(clinics, weight = patients, radius = 30)
  plan <- quietly(resolve_sheet(sheet))
  expect_identical(
    list(plan$layers[[1]]$width, plan$layers[[1]]$dash, plan$layers[[3]]$scale),
    list(0.5 * 96 / 72, NULL, 0.8)
  )
  page <- content(plan)
  expect_identical(
    page$layers[[1]]$zoomed$dash,
    list(zooms = list(1L, 4L), values = list(list(0L, 0L), list(4L, 3L)), stepped = TRUE)
  )
  expect_equal(unlist(page$layers[[2]]$zoomed$size$values), c(1, 3))
  heat <- plan$layers[[4]]
  expect_setequal(heat$weight, signif(clinics$patients[plan$layers[[2]]$row], 4))
  expect_equal(sort(heat$x), sort(plan$layers[[2]]$x), tolerance = 1e-9)
  # The figure's surface is darkest where most weight lies near: its highest class of seven begins
  # at six sevenths of the greatest, of which a cell may miss a little.
  grid <- heat$grid
  class <- inverse.rle(structure(list(lengths = grid$runs, values = grid$class), class = "rle"))
  frame <- plan$frame
  reach <- 30 * max(frame[["x1"]] - frame[["x0"]], frame[["y1"]] - frame[["y0"]]) / 900
  near <- function(x, y) {
    d2 <- (heat$x - x)^2 + (heat$y - y)^2
    sum(heat$weight * pmax(0, 1 - d2 / reach^2)^2)
  }
  top <- which(class == 7) - 1
  darkest <- mapply(
    near,
    grid$x0 + (top %% grid$columns + 0.5) * grid$cell,
    grid$y0 + (top %/% grid$columns + 0.5) * grid$cell
  )
  greatest <- max(mapply(near, heat$x, heat$y))
  expect_gt(min(darkest), (6 / 7 - 0.02) * greatest)
  expect_gt(max(darkest), 0.99 * greatest)
  expect_error(
    shade_heat(map_sheet("T"), clinics, ramp = "meadow"), "no order", class = "ochre_error_argument"
  )
})
