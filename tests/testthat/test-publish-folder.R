# A folder for a site: that its pages work is tested in browsers.

areas <- read_boundaries(ochre_demo("districts.geojson"))
areas <- areas[!is.na(areas$code), ]
areas$share <- 100 * areas$population_65_plus / areas$population
areas$share[3] <- NA
sheet <- function(title = "Over 64", ...) {
  map_sheet(title, source = "Office *of* <Orvane>", ...) |>
    shade_areas(areas, share, legend = "Share, %", popup = c("Residents" = population))
}
folder_of <- function() file.path(withr::local_tempdir(.local_envir = parent.frame()), "site")

test_that("no file is over the limit, and what has not changed keeps its bytes and its time", {
  folder <- folder_of()
  expect_message(
    made <- publish_folder(sheet(), folder, limit = "140 kB", address = "https://m.example/a"),
    "over the limit: `index-data.geojson`"
  )
  expect_setequal(made$file, list.files(folder))
  expect_identical(made$bytes, as.integer(file.size(file.path(folder, made$file))))
  expect_true(all(made$bytes <= 140000))
  # Names hold the hash of what is in them.
  hashed <- grep("-[0-9a-f]{10}[.](js|css)$", made$file, value = TRUE)
  expect_length(hashed, 3)
  for (file in hashed) {
    hash <- digest::digest(file.path(folder, file), "sha256", file = TRUE)
    expect_match(file, substr(hash, 1, 10), fixed = TRUE)
  }
  # As much as the script and little more.
  limit <- max(made$bytes[made$part == "script"]) + 1000
  small <- publish_folder(sheet(), folder_of(), limit = limit, data = FALSE)
  expect_false(any(small$part %in% c("table", "boundaries")))
  many <- publish_folder(
    map_sheet("M") |> shade_areas(areas, share, hover = strrep("{name} {region} ", 120)),
    folder_of(), limit = limit, data = FALSE
  )
  expect_gt(sum(many$part == "data"), 1)
  expect_lte(max(many$bytes), limit)
  # Letters of three bytes, and quotes of two.
  wide <- publish_folder(
    map_sheet("W") |> shade_areas(areas, share, hover = strrep("\u6f22\"{code}", 400)),
    folder_of(), limit = limit, data = FALSE
  )
  expect_gt(sum(wide$part == "data"), 2)
  expect_lte(max(wide$bytes), limit)
  expect_output(print(made), "a reader loads about .* of one map")
  times <- file.mtime(file.path(folder, made$file))
  Sys.sleep(1.1)
  suppressMessages(
    publish_folder(sheet(), folder, limit = "140 kB", address = "https://m.example/a")
  )
  expect_identical(file.mtime(file.path(folder, made$file)), times)
  # Another map: its files take the place of those that are not needed.
  two <- stats::setNames(list(sheet("B"), sheet("C")), c("\u00dcber 64", "c"))
  suppressMessages(publish_folder(two, folder))
  left <- list.files(folder)
  expect_true(all(c("uber-64.html", "c.html", "index.html") %in% left))
  expect_false(any(startsWith(left, "index-")))
  expect_length(grep("^ochre-", left), 2)
})

test_that("the data in a folder are those of the map, and its words are safe", {
  folder <- folder_of()
  publish_folder(sheet("<script>alert(1)</script>", note = "[x](javascript:1)"), folder, zip = TRUE)
  table <- utils::read.csv(file.path(folder, "index-data.csv"), colClasses = c(code = "character"))
  plan <- suppressWarnings(resolve_sheet(sheet()))
  layer <- plan$layers[[1]]
  expect_identical(table$code, layer$codes)
  expect_equal(table$value, areas$share, tolerance = 1e-12)
  expect_identical(table$label, c(layer$no_data$label, layer$labels)[layer$class + 1])
  expect_identical(table$colour, c(layer$no_data$colour, layer$colours)[layer$class + 1])
  for (kind in c("geojson", "topojson")) {
    back <- read_boundaries(file.path(folder, paste0("index-data.", kind)))
    expect_identical(as.character(back$code), layer$codes)
    expect_identical(back$label, table$label)
  }
  html <- paste(readLines(file.path(folder, "index.html")), collapse = "\n")
  expect_no_match(html, "<script>alert", fixed = TRUE)
  expect_match(html, "og:title\" content=\"&lt;script&gt;", fixed = TRUE)
  words <- paste(readLines(file.path(folder, "README.md")), collapse = "\n")
  expect_no_match(words, "\n# <script>|[^\\\\]\\[x\\]")
  expect_match(words, "Office \\*of\\* \\<Orvane\\>", fixed = TRUE)
  unpacked <- utils::unzip(paste0(folder, ".zip"), list = TRUE)
  expect_setequal(unpacked$Name, list.files(folder))
  size <- dim(png::readPNG(file.path(folder, "index-card.png")))
  expect_identical(size[1:2], c(630L, 1200L))
})

test_that("a folder of others is left alone, and so is one that cannot be", {
  folder <- folder_of()
  dir.create(folder)
  writeLines("mine", file.path(folder, "mine.txt"))
  expect_error(
    publish_folder(sheet(), folder), "did not write: `mine.txt`", class = "ochre_error_file"
  )
  expect_identical(list.files(folder), "mine.txt")
  expect_error(publish_folder(sheet(), folder_of(), limit = "20 kB"), class = "ochre_error_budget")
  expect_error(publish_folder(sheet(), "no/such/place"), class = "ochre_error_file")
  # A list of files from a stranger takes nothing outside of its folder.
  trap <- folder_of()
  dir.create(trap)
  mine <- file.path(dirname(trap), "mine.txt")
  writeLines("mine", mine)
  writeLines("{\"files\": [{\"file\": \"../mine.txt\"}]}", file.path(trap, "files.json"))
  publish_folder(sheet(), trap)
  expect_true(file.exists(mine))
  # By publish() it is the same, within a budget.
  slash <- folder_of()
  suppressMessages(publish(sheet(), paste0(slash, "/"), budget = "240 kB"))
  loaded <- grep("[.](html|css|js)$", list.files(slash, full.names = TRUE), value = TRUE)
  expect_lte(sum(file.size(loaded)), 260000)
  expect_true(all(c("index-data.geojson", "index-data.topojson") %in% list.files(slash)))
  wrong <- list(list(sheet()), list(a = 1), list(`a b` = sheet(), `a-b` = sheet()), list(), NULL)
  for (maps in wrong) {
    expect_error(publish_folder(maps, folder_of()), class = "ochre_error_argument")
  }
  expect_error(publish_folder(sheet(), folder_of(), address = "javascript:1"),
               class = "ochre_error_argument")
})

test_that("each map of a folder loads its own data, whatever the others are called", {
  folder <- folder_of()
  maps <- list(visits = sheet("Visits"), `visits-2031` = sheet("Next"), `a.b` = sheet("Dot"))
  made <- publish_folder(maps, folder, data = FALSE)
  for (name in names(maps)) {
    html <- paste(readLines(file.path(folder, paste0(name, ".html"))), collapse = "\n")
    loaded <- unlist(regmatches(html, gregexpr("[^\"/]+-[0-9a-f]{10}[.]js", html)))
    own <- made$file[made$part == "data" & startsWith(made$file, paste0(name, "-"))]
    if (name == "visits") own <- setdiff(own, grep("2031", own, value = TRUE))
    expect_setequal(unique(loaded[!startsWith(loaded, "ochre-")]), own)
    text <- paste(readLines(file.path(folder, own), warn = FALSE), collapse = "")
    expect_match(text, maps[[name]]$title, fixed = TRUE)
  }
  # Two that would write one file are refused.
  expect_error(
    publish_folder(list(a = sheet(), `a-1` = sheet(), `A 1` = sheet()), folder_of()),
    class = "ochre_error_argument"
  )
})

test_that("a folder removes only its own files, also where names hold wildcards or lead away", {
  home <- withr::local_tempdir()
  folder <- file.path(home, "g[1]*")
  publish_folder(sheet(), folder, zip = FALSE)
  beside <- file.path(home, c("g1", "g[1]*.txt", "outside"))
  for (path in beside) dir.create(path)
  mine <- file.path(beside, "index-data.geojson")
  for (path in mine) writeLines("mine", path)
  # A list that names files behind a link, and by their whole path.
  file.symlink(file.path(home, "outside"), file.path(folder, "sub"))
  list <- jsonlite::read_json(file.path(folder, "files.json"))
  traps <- lapply(c("sub/index-data.geojson", mine[3]), function(file) list(file = file))
  list$files <- c(list$files, traps)
  jsonlite::write_json(list, file.path(folder, "files.json"), auto_unbox = TRUE)
  expect_error(publish_folder(sheet(), folder, data = FALSE), "did not write",
               class = "ochre_error_file")
  unlink(file.path(folder, "sub"), expand = FALSE)
  # A link in place of what a run left that was broken off.
  writeLines("{\"files\": []}", file.path(beside[3], "files.json"))
  file.symlink(beside[3], file.path(folder, ".ochre-next"))
  publish_folder(sheet(), folder, data = FALSE)
  expect_true(all(file.exists(mine)))
  expect_false(file.exists(file.path(folder, "index-data.geojson")))
})

test_that("wherever a publication is broken off, the folder is one set, and the next run works", {
  folder <- folder_of()
  facts <- function() {
    files <- list.files(folder, recursive = TRUE)
    tools::md5sum(stats::setNames(file.path(folder, files), files))
  }
  old <- sheet("Before")
  new <- list(one = sheet("After"), two = sheet("Other"))
  publish_folder(old, folder)
  was <- facts()
  publish_folder(new, folder)
  is <- facts()
  points <- 0
  # Ends the process, as a signal does, when a file is written for the nth time.
  for (n in seq(1, 40, 3)) {
    unlink(folder, recursive = TRUE)
    publish_folder(old, folder)
    child <- callr::r_bg(function(new, folder, n) {
      space <- asNamespace("ochre")
      written <- 0
      whole <- space$write_whole
      utils::assignInNamespace("write_whole", function(...) {
        written <<- written + 1
        if (written == n) tools::pskill(Sys.getpid(), 9L)
        whole(...)
      }, "ochre")
      ochre::publish_folder(new, folder)
    }, list(new, folder, n), package = FALSE)
    child$wait()
    ended <- child$get_exit_status() != 0
    points <- points + ended
    names <- names(facts())
    expect_identical(facts()[names], (if (ended) was else is)[names], info = n)
    expect_setequal(names, names(if (ended) was else is))
    suppressMessages(publish_folder(new, folder))
    expect_identical(facts(), is, info = n)
    if (!ended) break
  }
  expect_gt(points, 3)
  # Broken off while the new set takes its places: the next run finishes that first.
  publish_folder(old, folder)
  begun <- file.path(folder, ".ochre-next")
  dir.create(begun)
  writeLines("{\"files\": [{\"file\": \"moved.html\"}]}", file.path(begun, "files.json"))
  writeLines("moved", file.path(begun, "moved.html"))
  publish_folder(new, folder)
  expect_identical(facts(), is)
})

test_that("files beside a map, and a service, hold the columns that it shows and no others", {
  secret <- areas
  secret$patients <- seq_len(nrow(secret))
  secret$cases_missing <- 0L
  made <- map_sheet("T") |>
    shade_areas(secret, share, popup = c("Residents" = "{population} people"))
  shown <- c("code", "name", "region", "share", "population", "class", "label", "colour")
  names_in <- function(...) {
    folder <- folder_of()
    publish_folder(made, folder, ...)
    back <- read_boundaries(file.path(folder, "index-data.geojson"))
    setdiff(names(back), "geometry")
  }
  expect_setequal(names_in(), shown)
  expect_setequal(names_in(fields = "patients"), c(shown, "patients"))
  expect_error(publish_folder(made, folder_of(), fields = "patient"), "patients",
               class = "ochre_error_column")
  service <- new_service(list(map = made))
  expect_setequal(names(service$collections[[1]]$table), shown)
})
