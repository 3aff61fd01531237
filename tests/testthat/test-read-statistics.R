read <- function(content, ..., written = "UTF-8") suppressMessages(read_statistics(write_file(content, encoding = written), ...))

test_that("delimiter, decimal mark and encoding are found together", {
  rows <- data.frame(place = c("Sólvane", "Éthar", "Nåv"), share = c(0.5, 12.25, 3), people = c(1234L, 987L, 45000L))
  for (delimiter in c(",", ";", "\t", "|")) for (mark in c(".", ",")) for (encoding in c("UTF-8", "windows-1252", "UTF-16LE")) {
    share <- sub(".", mark, format(rows$share, nsmall = 2, trim = TRUE), fixed = TRUE)
    if (mark == delimiter) share <- paste0("\"", share, "\"")
    text <- paste0(if (encoding != "windows-1252") "\ufeff", paste(c(paste(names(rows), collapse = delimiter), paste(rows$place, share, rows$people, sep = delimiter)), collapse = "\r\n"), "\r\n")
    x <- read(text, written = encoding)
    expect_equal(as.data.frame(x), rows, ignore_attr = TRUE, info = paste(delimiter, mark, encoding))
    expect_identical(reading_report(x)$encoding, encoding)
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
  expect_error(read("a,b\n"), "no rows", class = "ochre_error_file")
  expect_error(read_statistics({ f <- temporary(".csv"); writeBin(as.raw(c(80, 75, 3, 4, 0, 0, 1, 0)), f); f }), "cannot be opened", class = "ochre_error_file")
  expect_error(read("a,b\n1,2\n", text = "c"), "Its columns|Did you mean", class = "ochre_error_column")
})

test_that("quoted fields keep delimiters, quotes and line ends", {
  x <- read("name,n\n\"Port, Old\",1\n\"The \"\"Reach\"\"\",2\n\"two\nlines\",3\n")
  expect_identical(x$name, c("Port, Old", "The \"Reach\"", "two\nlines"))
})
