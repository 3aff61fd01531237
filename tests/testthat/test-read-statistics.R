read <- function(content, ..., written = "UTF-8") {
  suppressMessages(read_statistics(write_file(content, encoding = written), ...))
}

test_that("delimiter, decimal mark and encoding are found together", {
  rows <- data.frame(
    place = c("Sólvane", "Éthar", "Nåv"),
    share = c(0.5, 12.25, 3),
    people = c(1234L, 987L, 45000L)
  )
  for (delimiter in c(",", ";", "\t", "|")) {
    for (mark in c(".", ",")) {
      for (encoding in c("UTF-8", "windows-1252", "UTF-16LE")) {
        share <- sub(".", mark, format(rows$share, nsmall = 2, trim = TRUE), fixed = TRUE)
        if (mark == delimiter) share <- paste0("\"", share, "\"")
        text <- paste0(
          if (encoding != "windows-1252") "\ufeff",
          paste(
            c(
              paste(names(rows), collapse = delimiter),
              paste(rows$place, share, rows$people, sep = delimiter)
            ),
            collapse = "\r\n"
          ),
          "\r\n"
        )
        x <- read(text, written = encoding)
        expect_equal(
          as.data.frame(x), rows, ignore_attr = TRUE, info = paste(delimiter, mark, encoding)
        )
        expect_identical(reading_report(x)$encoding, encoding)
      }
    }
  }
})

test_that("codes keep their zeros and long identifiers their digits", {
  x <- read("code,zone,long,n\n0101,7,12345678901234567,1\n0102,08,12345678901234568,2\n")
  expect_identical(x$code, c("0101", "0102"))
  expect_identical(x$zone, c("7", "08"))
  expect_identical(x$long, c("12345678901234567", "12345678901234568"))
  expect_identical(x$n, 1:2)
  expect_identical(read("a,b\n1,2\n", text = "b")$b, "2")
})

test_that("thousands marks, signs and exponents are numbers; half-numbers are text", {
  x <- read("a;b;c;d\n1.234.567,5;-3;1e3;12a\n2,5;+4;2;13\n")
  expect_identical(x$a, c(1234567.5, 2.5))
  expect_identical(x$b, c(-3L, 4L))
  expect_identical(x$c, c(1000L, 2L))
  expect_identical(x$d, c("12a", "13"))
  expect_identical(read("a;b\n1,234;x\n12,345;y\n")$a, c(1234L, 12345L))
})

test_that("marks in place of numbers become missing, with the reason beside them", {
  x <- read("d,v\na,12\nb,<5\nc,n/a\nd,\ne,–\n")
  expect_identical(x$v, c(12L, NA, NA, NA, NA))
  expect_identical(x$v_reason, c(NA, "<5", "n/a", NA, "–"))
  expect_identical(reading_report(x)$marks$count, c(1L, 1L, 1L))
  expect_named(read("d,v\na,12\nb,\n"), c("d", "v"))
})

test_that("a footer is cut off, and a short row in the middle is refused by its line", {
  x <- read("d,v,w\na,1,2\nb,3,4\n\nSource: someone, somewhere\nNote\n")
  expect_identical(x$d, c("a", "b"))
  expect_length(reading_report(x)$footer, 2)
  e <- expect_error(read("d,v,w\na,1,2\nb,3\nc,5,6\n"), class = "ochre_error_file")
  expect_identical(e$row, 3L)
  expect_match(conditionMessage(e), "line 3: found 2 columns, but the header has 3 columns")
  expect_error(read("d,v\na,1,9\nb,2\n"), class = "ochre_error_file")
})

test_that("what cannot be a table is refused", {
  expect_error(read(""), "is empty", class = "ochre_error_file")
  expect_message(none <- read_statistics(write_file("a,b\n")), "0 rows.*a header and no rows")
  expect_identical(columns_of(none), list(a = character(), b = character()))
  expect_error(
    read_statistics({
      f <- temporary(".csv")
      writeBin(as.raw(c(80, 75, 3, 4, 0, 0, 1, 0)), f)
      f
    }),
    "cannot be opened", class = "ochre_error_file"
  )
  expect_error(
    read("a,b\n1,2\n", text = "c"), "Its columns|Did you mean", class = "ochre_error_column"
  )
})

test_that("quoted fields keep delimiters, quotes and line ends", {
  x <- read("name,n\n\"Port, Old\",1\n\"The \"\"Reach\"\"\",2\n\"two\nlines\",3\n")
  expect_identical(x$name, c("Port, Old", "The \"Reach\"", "two\nlines"))
})

test_that("compressed files, title lines, percent and thousands marks are read and said", {
  text <- paste0(
    "Visits by district\nin 2031, provisional\n\ndistrict;visits;share\n0101;1.234;34,5 ",
    "%\n0102;12;n/a\n0103;7;0\n;;\n0104;8;1 %\n"
  )
  plain <- write_file(text)
  for (pack in list(gzfile, bzfile, xzfile)) {
    file <- temporary(".csv")
    con <- pack(file, "wb")
    writeBin(charToRaw(text), con)
    close(con)
    expect_message(
      x <- read_statistics(file), "Skipped 3 lines above the header: \"Visits by district\""
    )
    expect_identical(columns_of(x), columns_of(read(text)))
  }
  expect_identical(x$visits, c(1234L, 12L, 7L, 8L))
  expect_identical(x$share, c(34.5, NA, 0, 1))
  report <- reading_report(x)
  expect_identical(
    as.list(report$signs),
    list(
      column = c("visits", "share"), sign = c("thousands mark", "percent sign"), count = c(1L, 2L)
    )
  )
  expect_identical(report$blank, 1L)
  e <- expect_error(read("Title\n\na;b\n1;2\n3\n4;5\n"), "line 5", class = "ochre_error_file")
  expect_identical(e$row, 5L)
  # 34 % beside 0.34 could be either; marks may stay.
  expect_type(read("a,b\n34 %,1\n0.34,2\n")$a, "character")
  expect_identical(read("a,b\n<5,1\n12,2\n", marks = "text")$a, c("<5", "12"))
  folder <- tempfile("ochre-zip-")
  dir.create(folder)
  writeLines(c("a,b", "01,5"), file.path(folder, "one.csv"))
  writeLines(c("a,b", "02,6"), file.path(folder, "two.csv"))
  archive <- zip_files(temporary(".zip"), c("one.csv", "two.csv"), folder)
  expect_error(read_statistics(archive), class = "ochre_error_layer")
  expect_identical(quietly(read_statistics(archive, layer = "two"))$b, 6L)
  if (has_package("nanoparquet")) {
    file <- temporary(".parquet")
    nanoparquet::write_parquet(
      data.frame(code = c("01", "02"), n = c(5L, NA), v = c("<5", "7"), zone = c("1", "2")),
      file
    )
    expect_identical(
      columns_of(quietly(read_statistics(file))),
      list(
        code = c("01", "02"), n = c(5L, NA), v = c(NA, 7L), v_reason = c("<5", NA),
        zone = c("1", "2")
      )
    )
  }
})

test_that("bad input to the verbs is an error that names it, or a missing value that is counted", {
  d <- data.frame(
    code = c("a", "b", "c"),
    n = c(3, 4, 5),
    people = c(100, 0, NA),
    words = c("1", "two", "3")
  )
  expect_identical(rate_per(d, n, people)$n_per_1000, c(30, NA, NA))
  expect_error(rate_per(d, n, peple), "Did you mean `people`", class = "ochre_error_column")
  expect_error(rate_per(d, words, people), "not numeric.*\"two\"", class = "ochre_error_column")
  expect_error(
    share_of(transform(d, n = -1), n, people), "negative in 3 rows", class = "ochre_error_column"
  )
  none <- d[0, ]
  expect_identical(nrow(quietly(sum_areas(none, n, code))), 0L)
  expect_identical(nrow(quietly(keep_latest(none, n, code))), 0L)
  expect_identical(nrow(rate_per(none, n, people)), 0L)
  expect_identical(nrow(find_outliers(none)), 0L)
  expect_identical(quietly(join_statistics(squares("a"), none, by = "code"))$n, NA_real_)
  expect_error(
    standardise_rate(d, n, people, words, code), "people` is zero \\(row 2\\)|is zero \\(row 2\\)",
    class = "ochre_error_column"
  )
  expect_error(
    read_statistics(write_file("<!doctype html><html>", ".csv")), "is a web page",
    class = "ochre_error_file"
  )
})

test_that("columns of plain numbers are read as the slow rule reads them", {
  set.seed(9)
  digits <- function(n) paste(sample(0:9, n, TRUE), collapse = "")
  texts <- c(
    vapply(1:400, function(i) {
      paste0(
        sample(c("", "-", "+", "\u2212"), 1), digits(sample(0:17, 1)),
        sample(c("", ".", "e5", "E-3", ",000", " 000", "%"), 1),
        if (i %% 2) digits(sample(0:9, 1))
      )
    }, ""),
    "", "-", "+", ".", "+-5", "--1", "0", "00", "007", "-007", "1e5", "1.", ".5", "0.10", "1 ",
    "\u0663",
    strrep("1", 101), strrep("0", 90), "1e", "nan", "Inf", "0x10"
  )
  quick <- vapply(texts, function(t) plain_numbers_core(t)$value, 0, USE.NAMES = FALSE)
  codes <- vapply(texts, function(t) plain_numbers_core(t)$codes, NA, USE.NAMES = FALSE)
  plain <- which(!is.na(quick))
  expect_gt(length(plain), 50)
  expect_true(all(is_number(texts[plain], ".")))
  expect_equal(quick[plain], parse_number(texts[plain], "."), tolerance = 1e-15)
  expect_identical(codes[plain], is_code(texts[plain]))
  # What it leaves to the slow rule has a mark of its own, or is none.
  left <- setdiff(which(is_number(texts, ".")), plain)
  expect_true(all(grepl("[eE, \u2212]|^[-+]?[.]", texts[left]) | nchar(texts[left]) > 100))
  # Columns of few, many and no distinct values come back value by value.
  file <- withr::local_tempfile(fileext = ".csv")
  rows <- data.frame(
    few = sample(c("1.5", "x", "-2", "7"), 3000, TRUE), name = sprintf("'=N%d", 1:3000),
    many = sprintf("%.3f", runif(3000)), zero = "007"
  )
  writeLines(c(paste(names(rows), collapse = ","), do.call(paste, c(rows, sep = ","))), file)
  read <- suppressMessages(read_statistics(file))
  expect_identical(read$many, as.numeric(rows$many))
  expect_identical(read$few, suppressWarnings(as.numeric(rows$few)))
  expect_identical(is.na(read$few_reason), rows$few != "x")
  expect_identical(read$name, sprintf("=N%d", 1:3000))
  expect_identical(unique(read$zero), "007")
})
