# Files spoilt at random: they are read, or refused with an error of Ochre's own; nothing else may
# happen, and nothing stays behind.

only_ours <- function(file, info, read = read_statistics) {
  tryCatch(
    suppressMessages(suppressWarnings(read(file))),
    ochre_error = function(e) {
      expect_true(nzchar(e$what), info = info)
      NULL
    },
    error = function(e) fail(paste(info, ":", class(e)[1], conditionMessage(e)))
  )
}

spoil <- function(bytes) {
  n <- length(bytes)
  for (k in seq_len(sample(1:4, 1))) {
    bytes <- switch(sample(5, 1),
      bytes[seq_len(sample(length(bytes), 1))],
      {
        bytes[sample(length(bytes), 1)] <- as.raw(sample(0:255, 1))
        bytes
      },
      {
        i <- sample(length(bytes), 1)
        append(bytes, as.raw(sample(0:255, 3)), i)
      },
      {
        i <- sort(sample(length(bytes), 2, TRUE))
        bytes[-(i[1]:min(i[2], i[1] + 40))]
      },
      {
        i <- sample(length(bytes), 1)
        append(bytes, bytes[i:min(length(bytes), i + 60)], i)
      }
    )
  }
  if (length(bytes)) bytes else as.raw(10)
}

test_that("spoilt text, JSON, workbooks, Parquet and archives are read or refused", {
  set.seed(99)
  json <- write_file(
    paste0(
      '{"meta":{"n":2},"rows":[{"code":"01","n":5,"geo":{"a":1}},{"code":"02","n":"<5",',
      '"tags":[1,2]}]}'
    ),
    ".json"
  )
  csv <- write_file("Title\n\ncode;n;share\n01;1.234;34,5 %\n02;<5;\n\"a;b\";7;3 %\nSource: x\n")
  files <- c(csv, json, ochre_demo("standard.csv"))
  if (has_package("readxl")) {
    files <- c(
      files,
      write_xlsx(list(a = rbind(c("T", NA), c("code", "n"), c("01", "5"), c("02", "6"))))
    )
  }
  if (has_package("readODS")) {
    files <- c(files, write_ods(list(a = rbind(c("code", "n"), c("01", "5")))))
  }
  if (has_package("nanoparquet")) {
    parquet <- temporary(".parquet")
    nanoparquet::write_parquet(data.frame(code = c("01", "02"), n = 5:6), parquet)
    files <- c(files, parquet)
  }
  folder <- tempfile("ochre-zip-")
  dir.create(folder)
  file.copy(csv, file.path(folder, "a.csv"))
  files <- c(files, zip_files(temporary(".zip"), "a.csv", folder))
  before <- list.files(tempdir(), pattern = "^ochre-[0-9a-f]+$")
  tried <- 0
  for (file in files) {
    bytes <- readBin(file, "raw", 1e6)
    for (i in 1:25) {
      bad <- temporary(paste0(".", tools::file_ext(file)))
      writeBin(spoil(bytes), bad)
      only_ours(bad, sprintf("%s, %d", basename(file), i))
      unlink(bad)
      tried <- tried + 1
    }
  }
  expect_gte(tried, 100)
  expect_identical(list.files(tempdir(), pattern = "^ochre-[0-9a-f]+$"), before)
})

test_that("hostile tables stay tables: markup, prototype names, long words, control marks", {
  hostile <- c(
    "<script>alert(1)</script>", "__proto__", "constructor", strrep("x", 10000),
    "\u202eabc", "a\tb", "=1+1", "NULL", "'; DROP TABLE x; --"
  )
  d <- data.frame(key = hostile, n = seq_along(hostile))
  file <- temporary(".csv")
  data.table::fwrite(d, file)
  x <- quietly(read_statistics(file))
  expect_identical(x$key, hostile)
  areas <- squares(sprintf("%02d", seq_along(hostile)))
  areas$code <- hostile
  joined <- quietly(join_statistics(areas, x, by = c(code = "key")))
  expect_identical(joined$n, d$n)
  lost <- quietly(join_statistics(
    areas,
    data.frame(key = paste0(hostile, "!"), n = 1),
    by = c(code = "key")
  ))
  expect_identical(nrow(join_audit(lost)), 2L * length(hostile))
  expect_false(grepl("<script", audit_fragment(join_audit(lost)), fixed = TRUE))
})

test_that("a name with one wrong letter gets back its own partner among thousands", {
  set.seed(21)
  syllables <- c("ka", "lo", "mi", "ren", "tor", "vas", "quel", "ith", "bry", "zun", "ova", "dre")
  names <- unique(vapply(1:3000, function(i) paste(sample(syllables, 4, TRUE), collapse = ""), ""))
  picked <- sample(names, 200)
  spoilt <- vapply(
    picked,
    function(name) {
      at <- sample(2:(nchar(name) - 1), 1)
      substr(name, at, at) <- sample(setdiff(letters, substr(name, at, at)), 1)
      name
    },
    ""
  )
  spoilt <- spoilt[!spoilt %in% names]
  found <- suggest_partner(unname(spoilt), names)
  distance <- diag(utils::adist(spoilt, found$suggestion))
  # Another name may be as near; none may be nearer.
  expect_true(all(distance <= 1))
  expect_gt(mean(found$suggestion == picked[match(names(spoilt), picked)]), 0.9)
  expect_true(all(found$reason == "near spelling"))
  expect_lt(system.time(suggest_partner(rep(spoilt, 5), names))[["elapsed"]], 20)
})
