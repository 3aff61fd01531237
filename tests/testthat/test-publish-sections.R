# Maps of very many areas in sections: what browsers make of them is tested in tests/page.

counties <- read_boundaries(ochre_demo("counties.topojson.gz"))
figures <- quietly(read_statistics(ochre_demo("county-figures.csv")))
joined <- quietly(join_statistics(counties, figures, by = c(code = "county"), match = "tidied"))
# A limit of the package, for the rest of a test: so small that a small map falls apart.
local_limit <- function(name, value, envir = parent.frame()) {
  before <- get(name, asNamespace("ochre"))
  utils::assignInNamespace(name, value, "ochre")
  withr::defer(utils::assignInNamespace(name, before, "ochre"), envir)
}
few <- list(areas = 250, vertices = 4000)
sheet <- function(data = joined, ...) {
  map_sheet("Residents", ...) |> shade_areas(data, residents, popup = c("Code" = code))
}
in_folder <- function(sheet, folder, ...) quietly(publish_folder(sheet, folder, ...))
folder_of <- function() file.path(withr::local_tempdir(.local_envir = parent.frame()), "site")

# The text that a section's script hands on, as it stands in the file.
handed_on <- function(path) {
  line <- readLines(path, warn = FALSE, encoding = "UTF-8")
  expect_length(line, 1)
  form <- "^\\(window.ochreSections=.*\\)\\[\"([a-z0-9-]+)\"\\]=(.*);$"
  parts <- regmatches(line, regexec(form, line))[[1]]
  text <- jsonlite::fromJSON(parts[3])
  list(place = parts[2], content = jsonlite::fromJSON(text, simplifyVector = FALSE))
}
# What stands as it is, in a column or in the part itself; numbers are packed.
words_of <- function(content) {
  columns <- lapply(content$columns, function(c) if (is.null(names(c))) c)
  unlist(c(columns, content$plan$layers))
}

test_that("each section is a file with its hash in its name, and all areas are in the last ones", {
  local_limit("most_in_section", few)
  folder <- folder_of()
  made <- in_folder(sheet(), folder, sections = TRUE)
  own <- made[made$part == "section", ]
  expect_gt(nrow(own), 15)
  expect_setequal(made$file, list.files(folder, recursive = TRUE))
  expect_identical(made$bytes, as.integer(file.size(file.path(folder, made$file))))
  names_said <- found <- character()
  for (file in own$file) {
    hash <- digest::digest(file.path(folder, file), "sha256", file = TRUE)
    expect_match(file, paste0("-", substr(hash, 1, 10), ".js"), fixed = TRUE)
    handed <- handed_on(file.path(folder, file))
    expect_match(file, paste0("index-sections/", handed$place, "-"), fixed = TRUE)
    if (startsWith(handed$place, "names-")) {
      found <- c(found, words_of(handed$content))
    } else {
      names_said <- c(names_said, words_of(handed$content))
    }
  }
  named <- joined[!vapply(joined$geometry, is.null, NA), ]
  expect_true(all(named$name %in% names_said))
  expect_true(all(named$name %in% found))
  # The plan has none of them, the data beside it all.
  lines <- function(file) paste(readLines(file.path(folder, file), warn = FALSE), collapse = " ")
  data <- lines(made$file[made$part == "data"])
  expect_false(any(vapply(utils::head(named$name, 20), grepl, NA, x = data, fixed = TRUE)))
  table <- quietly(read_statistics(file.path(folder, "index-data.csv")))
  expect_identical(nrow(table), nrow(joined))
  expect_false(any(endsWith(made$file, "geojson")))
  page <- lines("index.html")
  scripts <- gregexpr("src=\"[a-z]+-[0-9a-f]+[.]js\"", page)
  expect_length(unlist(regmatches(page, scripts)), 3)
  link <- "<noscript>.*<a href=\"index-data.csv\" download>Save all 2,994 as CSV</a>"
  for (part in c("<image href=\"data:image/png", link)) expect_true(grepl(part, page), info = part)
  expect_match(lines("README.md"), "-sections` folders")
  expect_output(print(made), "files in `index-sections`")
})

test_that("what has not changed keeps its file; another value is in the sections that show it", {
  local_limit("most_in_section", few)
  folder <- folder_of()
  first <- in_folder(sheet(), folder, sections = TRUE, data = FALSE)
  times <- file.mtime(file.path(folder, first$file))
  Sys.sleep(1.1)
  in_folder(sheet(), folder, sections = TRUE, data = FALSE)
  expect_identical(file.mtime(file.path(folder, first$file)), times)
  other <- joined
  other$name[10] <- "<Elsewhere> \"&\u2028"
  second <- in_folder(sheet(other), folder, sections = TRUE, data = FALSE)
  of <- function(made) grep("-sections/[0-9]", made$file, value = TRUE)
  fresh <- setdiff(of(second), of(first))
  expect_gt(length(fresh), 0)
  expect_lt(length(fresh), 8)
  expect_setequal(list.files(folder, recursive = TRUE), second$file)
  said <- vapply(fresh, function(f) {
    "<Elsewhere> \"&\u2028" %in% words_of(handed_on(file.path(folder, f))$content)
  }, NA)
  expect_true(all(said))
  # What a publication left that was broken off is no hindrance; what is somebody else's is.
  left <- file.path(folder, ".ochre-next", "index-sections", "3-1-2-0123456789.js")
  dir.create(dirname(left), recursive = TRUE)
  writeLines("", left)
  in_folder(sheet(), folder, sections = TRUE, data = FALSE)
  expect_false(file.exists(left))
  writeLines("", notes <- file.path(folder, "index-sections", "notes.js"))
  expect_error(
    in_folder(sheet(), folder, sections = TRUE), "index-sections/notes.js",
    class = "ochre_error_file"
  )
  unlink(notes)
  # Without sections nothing of them stays, not even their folder.
  in_folder(sheet(), folder, sections = FALSE, data = FALSE)
  expect_false(dir.exists(file.path(folder, "index-sections")))
})

test_that("a page in sections promises only what is there, and may show what its areas bring", {
  local_limit("most_in_section", few)
  own <- map_locale("de", code = "de-OR", thousands = "\u00a0", decimal = ",")
  pictured <- joined
  pictured$photo <- sprintf("https://photos.example/%s.jpg", seq_len(nrow(joined)))
  map <- map_sheet("Residents", locale = own, page = page_style(bars = 5)) |>
    shade_areas(pictured, residents, popup = list(Photo = popup_picture("{photo}")))
  folder <- folder_of()
  said <- testthat::capture_messages(suppressWarnings(
    made <- publish_folder(map, folder, sections = TRUE, limit = "200 kB")
  ))
  expect_match(said, "The bars are left out", all = FALSE)
  # The table is over the limit: it is left out, and nothing leads to it.
  expect_false("index-data.csv" %in% made$file)
  text <- function(part) {
    file <- made$file[made$part == part][1]
    paste(readLines(file.path(folder, file), warn = FALSE, encoding = "UTF-8"), collapse = " ")
  }
  expect_false(grepl("index-data.csv", paste(text("page"), text("data")), fixed = TRUE))
  expect_true(grepl("2\u00a0994", text("data"), fixed = TRUE))
  # Pictures come with the areas: the policy of the page names their host.
  expect_true(grepl("img-src data: https://photos.example", text("page"), fixed = TRUE))
})

test_that("sections are taken where areas are many, and refused with a reason elsewhere", {
  folder <- folder_of()
  expect_false("section" %in% in_folder(sheet(), folder, data = FALSE)$part)
  local_limit("least_for_sections", list(areas = 2000, vertices = 1e9))
  made <- NULL
  said <- testthat::capture_messages(suppressWarnings({
    made <- publish_folder(sheet(), folder, data = FALSE)
    publish(sheet(), file.path(dirname(folder), "one.html"))
  }))
  for (words in c("is written in [0-9]+ section", "Published to a folder")) {
    expect_match(said, words, all = FALSE)
  }
  expect_true("section" %in% made$part)
  # A budget is for pages that hold all.
  quietly(publish(sheet(), paste0(folder, "/"), budget = "100 kB"))
  expect_true(dir.exists(file.path(folder, "index-sections")))
  points <- quietly(read_statistics(ochre_demo("clinics.csv")))
  none <- map_sheet("Clinics") |> place_symbols(points)
  expect_error(
    in_folder(none, folder_of(), sections = TRUE), "has no layer of areas",
    class = "ochre_error_argument"
  )
  live <- sheet(page = page_style(live = live_values("https://m.example/values.json")))
  expect_error(
    in_folder(live, folder_of(), sections = TRUE), "takes new values",
    class = "ochre_error_argument"
  )
  expect_error(in_folder(sheet(), folder_of(), sections = NA), class = "ochre_error_argument")
  expect_error(
    in_folder(sheet(), folder_of(), sections = TRUE, data = FALSE, limit = "40 kB"),
    class = "ochre_error_budget"
  )
})
