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
})
files <- sort(list.files(folder, recursive = TRUE), method = "radix")
made <- files[!grepl("places.csv|^districts|yml|png$", files)]
stopifnot(any(grepl("Residents of the north", readLines(at("sheet.html"), warn = FALSE))))
hashes <- vapply(file.path(folder, made), digest::digest, "", file = TRUE)
cat(paste(made, hashes), sep = "\n")
'

test_that("what is published is the same in every language, zone and with odd options", {
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
    ran <- processx::run("Rscript", c(script, folder, odd), env = env,
                         error_on_status = FALSE)
    expect_identical(ran$status, 0L, info = paste(locale, ran$stderr))
    strsplit(ran$stdout, "\n")[[1]]
  }
  here <- made_on("C.UTF-8")
  expect_gt(length(here), 8)
  expect_identical(made_on(make("tr_TR", "UTF-8"), odd = "odd"), here)
  expect_identical(made_on(make("de_DE", "ISO-8859-1"), "Pacific/Auckland"), here)
})
