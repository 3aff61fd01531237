# Files are whole or not there: full disks, killed runs, links, odd names.

sheet_of <- function() {
  map_sheet("T") |> shade_areas(transform_areas(), v, steps = steps_equal(2))
}
transform_areas <- function() {
  areas <- squares(sprintf("%02d", 1:4))
  areas$v <- 1:4
  areas
}

test_that("a full disk leaves the old file as it was and ends in an error, in every kind", {
  skip_on_os(c("windows", "mac"))
  folder <- tempfile("ochre-small-")
  dir.create(folder)
  skip_if(
    system2(
      "mount",
      c("-t", "tmpfs", "-o", "size=96k", "tmpfs", folder),
      stdout = FALSE,
      stderr = FALSE
    ) != 0,
    "no small disk can be made here"
  )
  on.exit(system2("umount", c("-l", folder), stdout = FALSE, stderr = FALSE))
  many <- demo_rates()
  sheet <- map_sheet("T") |> shade_areas(many, visits_per_1000, steps = steps_equal(5))
  writers <- list(
    png = function(f) publish(sheet, f, dpi = 400),
    svg = function(f) publish(sheet, f),
    pdf = function(f) publish(sheet, f),
    html = function(f) publish(sheet, f),
    geojson = function(f) write_boundaries(many, f),
    topojson = function(f) write_boundaries(many, f),
    csv = function(f) write_boundaries(many, f)
  )
  if (has_package("RSQLite")) writers$gpkg <- function(f) write_boundaries(many, f)
  for (kind in names(writers)) {
    file <- file.path(folder, paste0("map.", kind))
    writeLines("what was there before", file)
    e <- expect_error(quietly(writers[[kind]](file)), class = "ochre_error_file", info = kind)
    expect_match(conditionMessage(e), "cannot be written", info = kind)
    expect_identical(readLines(file), "what was there before", info = kind)
    expect_identical(list.files(folder, all.files = TRUE, no.. = TRUE), basename(file), info = kind)
    unlink(file)
    still_open <- Sys.readlink(list.files("/proc/self/fd", full.names = TRUE))
    # The PNG device keeps its own file open after a write error.
    expect_identical(
      grep(paste0(folder, ".*[.](svg|pdf|html|.*json|csv|gpkg)"), still_open, value = TRUE),
      character(), info = kind
    )
  }
})

test_that("what a killed run leaves goes a day later, and that of a living one stays", {
  folder <- tempfile("ochre-killed-")
  dir.create(folder)
  file <- file.path(folder, "a.csv")
  writeLines("old", file)
  script <- sprintf(
    paste0(
      "library(ochre); ochre:::write_whole('%s', function(part) { writeLines('half', part); ",
      "cat('ready\\n'); Sys.sleep(60) })"
    ),
    file
  )
  run <- processx::process$new(file.path(R.home("bin"), "Rscript"), c("-e", script), stdout = "|")
  while (run$is_alive() && !any(grepl("ready", run$read_output_lines()))) run$poll_io(1000)
  expect_length(list.files(folder, all.files = TRUE, no.. = TRUE), 2)
  write_whole(file.path(folder, "b.csv"), function(part) write_lines("b", part))
  expect_length(list.files(folder, "^\\.ochre-", all.files = TRUE), 1)
  tools::pskill(run$get_pid(), 9L)
  run$wait()
  expect_identical(readLines(file), "old")
  left <- list.files(folder, "^\\.ochre-", all.files = TRUE, full.names = TRUE)
  expect_true(Sys.setFileTime(left, Sys.time() - 25 * 3600))
  write_whole(file, function(part) write_lines("new", part))
  expect_identical(sort(list.files(folder, all.files = TRUE, no.. = TRUE)), c("a.csv", "b.csv"))
  expect_identical(readLines(file), "new")
})

test_that("a link's target is replaced, percent signs are letters, folders are refused", {
  skip_on_os("windows")
  folder <- tempfile("ochre-link-")
  dir.create(file.path(folder, "deep"), recursive = TRUE)
  target <- file.path(folder, "deep", "map.svg")
  writeLines("old", target)
  file.symlink(file.path("deep", "map.svg"), file.path(folder, "map.svg"))
  quietly(publish(sheet_of(), file.path(folder, "map.svg")))
  expect_identical(Sys.readlink(file.path(folder, "map.svg")), file.path("deep", "map.svg"))
  expect_match(paste(readLines(target), collapse = ""), "</svg>")
  for (name in c("50%.png", "%n%s%d.png", "a%03d.pdf", "%.svg")) {
    file <- file.path(folder, name)
    quietly(publish(sheet_of(), file))
    expect_gt(file.size(file), 1000)
  }
  expect_error(
    publish(sheet_of(), file.path(folder, "deep.png", "x.png")), "no folder",
    class = "ochre_error_file"
  )
  dir.create(file.path(folder, "is.png"))
  expect_error(
    publish(sheet_of(), file.path(folder, "is.png")), "is a folder", class = "ochre_error_file"
  )
  pipe <- file.path(folder, "pipe.csv")
  system2("mkfifo", pipe)
  for (read in list(read_statistics, read_boundaries, inspect_file)) {
    expect_error(read(pipe), "pipe or device", class = "ochre_error_file")
  }
})
