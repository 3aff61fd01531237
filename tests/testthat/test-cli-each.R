# Maps for each of several: in turn, at once, and on daemons of which one is killed.

test_that("a map is made for each value, at once or in turn, and one that fails is named", {
  folder <- island()
  one <- build(folder)
  expect_identical(one$status, 0L)
  names <- c("north-bay", "ost", "south-west")
  expect_identical(made(folder), sort(c(outer(names, c("-2031.html", "-2031.svg"), paste0))))
  expect_length(strsplit(one$stdout, "\n")[[1]], 6)
  expect_match(one$stderr, "3 of 3 maps made.", fixed = TRUE)
  title <- xml2::xml_text(xml2::xml_find_first(
    xml2::read_html(file.path(folder, "ost-2031.html")), "//title"
  ))
  expect_identical(title, "Cases in \u00d6st, 2031")
  # Two processes make the very same files.
  before <- hashes(folder)
  two <- build(folder, "--jobs", "2", "--fresh", "--json", "--quiet")
  expect_identical(hashes(folder), before)
  expect_identical(two$stderr, "")
  said <- jsonlite::fromJSON(two$stdout, simplifyVector = FALSE)
  expect_identical(said$made, 3L)
  expect_identical(said$maps[[1]]$values$year, 2031L)
  expect_identical(unlist(lapply(said$maps, function(m) m$values$region)),
                   c("North Bay", "\u00d6st", "South/West"))
  # The counts of one region are gone: its map fails, the others are made.
  write_counts(folder, c(seq(10, 40, by = 10), rep(NA, 4), seq(90, 120, by = 10)))
  cat("fail_if: {no_data: 0.5}\n", file = file.path(folder, "map.ochre.yml"), append = TRUE)
  for (jobs in c("1", "2")) {
    three <- build(folder, "--jobs", jobs, "--fresh", "--json")
    expect_identical(three$status, 1L)
    said <- jsonlite::fromJSON(three$stdout, simplifyVector = FALSE)
    expect_identical(c(said$made, said$failed), c(2L, 1L))
    expect_identical(said$maps[[2]]$error$kind, "limit")
    expect_match(three$stderr, "failed: `\u00d6st`.", fixed = TRUE)
  }
})

# Daemons are separate processes that a script starts on loopback, as it would elsewhere by SSH.
build_on <- function(folder, killed, env = character()) {
  unlink(list.files(folder, "^daemon-", full.names = TRUE))
  run <- processx::process$new(
    "Rscript", c(command_file(), "build", "map.ochre.yml", "--daemons", "daemons.R", "--fresh"),
    wd = folder, encoding = "UTF-8", stderr = file.path(folder, "said"),
    env = c("current", R_LIBS = Sys.getenv("R_LIBS"), env)
  )
  on.exit(run$kill_tree())
  started <- Sys.time()
  pids <- character()
  while (length(pids) < 2 && Sys.time() < started + 30) {
    Sys.sleep(0.02)
    pids <- list.files(folder, "^daemon-")
  }
  # Both are at their first maps now.
  Sys.sleep(0.5)
  for (pid in utils::head(pids, killed)) tools::pskill(as.integer(sub("daemon-", "", pid)), 9)
  run$wait(60000)
  list(status = run$get_exit_status(), said = readLines(file.path(folder, "said")))
}

test_that("maps are made on daemons of a script, and those of one that is killed by the others", {
  skip_if_not_installed("mirai")
  folder <- island()
  expect_identical(build(folder)$status, 0L)
  before <- hashes(folder)
  writeLines(c(
    "mirai::daemons(url = mirai::local_url(tcp = TRUE))",
    "url <- mirai::status()$daemons",
    # Somewhere else the environment is another.
    "code <- paste0(",
    "  'Sys.unsetenv(\"OCHRE_VALUE_YEAR\");',",
    "  'file.create(paste0(\"daemon-\", Sys.getpid())); mirai::daemon(\"', url, '\")'",
    ")",
    "for (i in 1:2) system2('Rscript', c('-e', shQuote(code)), wait = FALSE, stdout = FALSE)"
  ), file.path(folder, "daemons.R"))
  unlink(file.path(folder, made(folder)))
  run <- build_on(folder, killed = 1)
  expect_identical(run$status, 0L, info = run$said)
  expect_identical(hashes(folder), before)
  expect_identical(utils::tail(run$said, 1), "3 of 3 maps made.")
  run <- build_on(folder, killed = 0, env = c(OCHRE_VALUE_YEAR = "2040"))
  expect_true(file.exists(file.path(folder, "ost-2040.html")))
  run <- build_on(folder, killed = 2)
  expect_identical(run$status, 1L)
  expect_match(run$said, "No workers are left; some maps were not built", all = FALSE)
  faults <- list(
    c("none.R", "There is no file `none.R`"),
    c("stop.R", "`stop.R` fails: no luck"),
    c("idle.R", "`idle.R` starts no workers")
  )
  writeLines("stop('no luck')", file.path(folder, "stop.R"))
  writeLines("1", file.path(folder, "idle.R"))
  for (fault in faults) {
    run <- build(folder, "--daemons", fault[1])
    expect_identical(run$status, 1L)
    expect_match(run$stderr, fault[2], fixed = TRUE)
  }
})

test_that("processes of this machine are started again; a map that ends each of them is given up", {
  skip_if_not_installed("mirai")
  folder <- island()
  # Each process but the command itself ends when it loads Ochre.
  profile <- file.path(folder, "profile.R")
  writeLines(c(
    "if (any(grepl('daemon\\\\(', commandArgs()))) setHook(packageEvent('ochre', 'onLoad'),",
    "  function(...) tools::pskill(Sys.getpid(), 9))"
  ), profile)
  run <- build(folder, "--jobs", "2", "--json", env = c(R_PROFILE_USER = profile))
  expect_identical(run$status, 1L)
  said <- jsonlite::fromJSON(run$stdout, simplifyVector = FALSE)
  expect_identical(c(said$made, said$failed), c(0L, 3L))
  for (map in said$maps) {
    expect_identical(map$error$kind, "daemon")
    expect_match(map$error$what, "ended 3 times without a word")
  }
  expect_length(made(folder), 0)
})
