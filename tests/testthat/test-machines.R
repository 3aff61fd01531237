# What is published is the same to the last byte on machines of other languages, zones and options.

# A process that makes one of everything and prints the hash of each file; `odd` are options of R.
job_of_machine <- '
args <- commandArgs(TRUE)
if (nzchar(args[2])) options(OutDec = ",", scipen = -5, digits = 3)
suppressPackageStartupMessages(library(ochre))
folder <- args[1]
at <- function(file) file.path(folder, file)
writeLines(enc2utf8(c(
  "CODE;POINT;LATITUDE;LONGITUDE;INDEX;GR\\u00d6SSE",
  "0101;\\u0130stif;46.9;-38.2;1,5;12",
  "0102;\\u0131l\\u0131ca;46.8;-38.3;100000,25;7", "0103;Zo\\u00e9;46.7;-38.1;3;9"
)), at("places.csv"), useBytes = TRUE)
writeLines(c(
  "ochre: 1", "title: Residents of $(district)", "values: {district: all}", "tables:",
  "  districts: [{read_boundaries: {file: districts.geojson}}]",
  "layers: [{shade_areas: {data: districts, value: population}}]"
), at("map.ochre.yml"))
file.copy(ochre_demo("districts.geojson"), folder)
quiet <- function(code) suppressMessages(suppressWarnings(code))
quiet({
  districts <- read_boundaries(at("districts.geojson"))
  places <- read_statistics(at("places.csv"))
  rates <- density_per_km2(districts, population)
  sheet <- map_sheet("Rates", source = "\\u00c6ther") |>
    shade_areas(rates, population_per_km2, hover = "{name}: {population_per_km2}") |>
    place_symbols(places, "GR\\u00d6SSE", hover = "{POINT}")
  regions <- map_sheet("Regions") |> shade_areas(districts, region, steps_categories())
  for (kind in c("html", "png", "svg", "pdf")) publish(sheet, at(paste0("map.", kind)))
  publish(regions, at("regions.html"))
  publish_folder(list(rates = sheet), at("folder"))
  write_boundaries(rates, at("rates.geojson"))
  write_boundaries(rates, at("rates.topojson"))
  publish(read_sheet(at("map.ochre.yml")), at("sheet.html"))
  # A report says when it was made, and when its files were.
  setwd(folder)
  Sys.setFileTime(list.files(), as.POSIXct("2031-05-01", tz = "UTC"))
  write_report("map.ochre.yml", "report.html")
  text <- readLines(at("report.html"), encoding = "UTF-8")
  writeLines(sub("Made on [-0-9: ]+", "", text), at("report.html"), useBytes = TRUE)
})
files <- sort(list.files(folder, recursive = TRUE), method = "radix")
made <- files[!grepl("places.csv|^districts|yml", files)]
stopifnot(any(grepl("Residents of the north", readLines(at("sheet.html"), warn = FALSE))))
hashes <- vapply(file.path(folder, made), digest::digest, "", file = TRUE)
cat(paste(made, hashes), sep = "\n")
'

test_that("what is published is the same in every language, zone and with odd options", {
  skip_if_not(rmarkdown::pandoc_available())
  skip_if(!nzchar(Sys.which("localedef")) || !file.exists("/usr/share/i18n/locales/tr_TR"))
  locales <- withr::local_tempdir()
  make <- function(name, letters) {
    into <- file.path(locales, paste(name, letters, sep = "."))
    processx::run("localedef", c("-i", name, "-f", letters, into), error_on_status = FALSE)
    basename(into)
  }
  script <- write_file(job_of_machine, ".R")
  made_on <- function(locale, zone = "UTC", odd = "") {
    folder <- withr::local_tempdir()
    env <- c("current", LOCPATH = locales, LC_ALL = locale, LANGUAGE = "", TZ = zone,
             OCHRE_VALUE_DISTRICT = "the north")
    ran <- processx::run("Rscript", c(script, folder, odd), env = env, error_on_status = FALSE)
    expect_identical(ran$status, 0L, info = paste(locale, ran$stderr))
    strsplit(ran$stdout, "\n")[[1]]
  }
  here <- made_on("C.UTF-8")
  expect_gt(length(here), 8)
  expect_identical(made_on(make("tr_TR", "UTF-8"), odd = "odd"), here)
  expect_identical(made_on(make("ja_JP", "EUC-JP"), "Asia/Tokyo"), here)
  expect_identical(made_on(make("de_DE", "ISO-8859-1"), "Pacific/Auckland"), here)
})

# Of the same names as a Latin-1 and a C session see them: R has them marked, the system as bytes.
test_that("files whose names the session's letters cannot write are read and written", {
  folder <- withr::local_tempdir()
  make <- write_file('
    library(ochre)
    setwd(commandArgs(TRUE)[1])
    districts <- suppressMessages(read_boundaries("L\\u00e4nder.geojson"))
    dense <- density_per_km2(districts, population)
    sheet <- map_sheet("\\u00c9lan") |> shade_areas(dense, population_per_km2)
    suppressMessages({
      for (kind in c("html", "png", "pdf")) publish(sheet, paste0("\\u00e9t\\u00e9.", kind))
      publish_folder(list(map = sheet), "d\\u00f6")
      write_boundaries(districts, "\\u00f1.geojson")
    })
    for (call in expression(read_boundaries("\\u00fc.geojson"), read_statistics("\\u00fc.csv"))) {
      stopifnot(inherits(tryCatch(eval(call), error = identity), "ochre_error_file"))
    }', ".R")
  file.copy(ochre_demo("districts.geojson"), file.path(folder, "L\u00e4nder.geojson"))
  ran <- processx::run("Rscript", c(make, folder), env = c("current", LC_ALL = "C", LANGUAGE = ""),
                       error_on_status = FALSE)
  expect_identical(ran$status, 0L, info = ran$stderr)
  made <- c("d\u00f6", "L\u00e4nder.geojson", "\u00e9t\u00e9.html", "\u00e9t\u00e9.pdf",
            "\u00e9t\u00e9.png", "\u00f1.geojson")
  expect_setequal(list.files(folder), made)
})

test_that("a path of Windows leads where it would lead there", {
  expect_identical(
    is_rooted(c("C:\\maps\\a.csv", "c:/maps", "\\\\server\\share", "~/a", "~ann/a", "/a", "a/b",
                "a\\b", "~$book.xlsx", "../a")),
    c(TRUE, TRUE, TRUE, TRUE, TRUE, TRUE, FALSE, FALSE, FALSE, FALSE)
  )
  expect_identical(climbs_out(c("..\\a", "a\\..\\..\\b", "a/../b", "a..b", "..")),
                   c(TRUE, TRUE, TRUE, FALSE, TRUE))
  expect_identical(beside("C:\\maps\\map.ochre.yml", "D:\\data\\a.csv"), "D:\\data\\a.csv")
  expect_error(as_path(strrep("C:\\long", 1000)), class = "ochre_error_file")
})

# A user of the system without a home that can be written, as services run.
test_that("a user without a home builds, and hears which folder cannot be written", {
  skip_if(Sys.info()[["user"]] != "root" || !nzchar(Sys.which("setpriv")))
  folder <- withr::local_tempdir()
  file.copy(ochre_demo(ochre_demo()), folder)
  build <- function(...) {
    env <- c("current", HOME = "/nonexistent", R_LIBS = paste(.libPaths(), collapse = ":"),
             TMPDIR = "/tmp", XDG_CACHE_HOME = "")
    processx::run("setpriv", c("--reuid=65534", "--regid=65534", "--clear-groups",
                               system.file("bin", "ochre", package = "ochre"), "build", ...),
                  env = env, wd = folder, error_on_status = FALSE)
  }
  Sys.chmod(c(dirname(folder), folder), "0755", use_umask = FALSE)
  refused <- build("map.ochre.yml", "--to", "site/")
  expect_match(refused$stderr, "The folder `site` cannot be made\n  Check the rights", fixed = TRUE)
  Sys.chmod(folder, "0777", use_umask = FALSE)
  built <- build("map.ochre.yml")
  expect_identical(built$status, 0L, info = built$stderr)
  expect_no_match(built$stderr, "nonexistent")
})
