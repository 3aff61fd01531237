# No row is lost without a word: what stands in a delimited file is in the table, in the footer that
# was cut off, or the file is refused with the place.

csv <- function(lines, end = "\n") {
  file <- temporary(".csv")
  writeBin(charToRaw(paste0(paste(lines, collapse = "\n"), end)), file)
  file
}

test_that("a quote that is never closed, or closed in the wrong place, is an error at its line", {
  rows <- sprintf("%04d,Place %d,%d", 1:300, 1:300, 1:300)
  for (at in c(1, 10, 299, 300)) {
    bad <- rows
    bad[at] <- sub("Place", "\"Place", bad[at])
    e <- expect_error(
      read_statistics(csv(c("code,name,n", bad))), "opens a quote that is never closed",
      class = "ochre_error_file"
    )
    expect_identical(e$row, as.integer(at + 1))
    # The next quote, many lines later, closes it.
    bad[300] <- sub("Place 300", "\"Place 300\"", rows[300])
    if (at < 300) {
      e <- expect_error(read_statistics(csv(c("code,name,n", bad))), class = "ochre_error_file")
      expect_identical(e$row, as.integer(at + 1))
    }
  }
  x <- read_statistics(csv(c(
    "code,name,n",
    "01,\"A \"\"small\"\" place, far off\",5",
    "02,\"two\nlines\",6",
    "03,5\" pipe,7"
  )))
  expect_identical(x$name, c("A \"small\" place, far off", "two\nlines", "5\" pipe"))
})

test_that("thousands of spoilt files lose no row, counted by other means", {
  set.seed(12)
  whole <- charToRaw(paste0(
    c("code;name;n", sprintf("%03d;\"Place; %d\";%d,5", 1:12, 1:12, 1:12)),
    "\n",
    collapse = ""
  ))
  # Lines that are not blank, after quoted fields were made single letters.
  count <- function(text) {
    plain <- gsub("(^|[;\n\r])[ \t]*\"(?:[^\"]|\"\")*\"", "\\1q", text, perl = TRUE)
    sum(nzchar(gsub("[ \t]", "", strsplit(plain, "[\n\r]+")[[1]])))
  }
  lost <- read <- 0
  file <- temporary(".csv")
  for (i in 1:800) {
    bytes <- whole
    for (k in seq_len(sample(1:3, 1))) {
      at <- sample(length(bytes), 1)
      bytes <- switch(sample(4, 1),
        bytes[-at],
        append(bytes, charToRaw(sample(c("\"", ";", "\n", "\r", "x", "\t"), 1)), at),
        bytes[seq_len(at)],
        {
          bytes[at] <- as.raw(sample(1:126, 1))
          bytes
        }
      )
    }
    writeBin(bytes, file)
    # The reader itself, without the words about it.
    x <- tryCatch(
      typed_rows(
        rows_of(list(path = file, name = "f"), "table", NULL, list(delimiter = ";")),
        "f",
        list(marks = "reason")
      ),
      ochre_error = function(e) NULL
    )
    if (is.null(x)) next
    read <- read + 1
    report <- reading_report(x)
    there <- count(rawToChar(bytes)) - sum(nzchar(trimws(report$titles))) - 1
    same <- there == nrow(x) + length(report$footer) + report$blank + report$headers
    lost <- lost + !same
  }
  expect_gt(read, 160)
  expect_identical(lost, 0)
})

test_that("a file that was cut off is refused, and a footer is none", {
  rows <- sprintf("%04d,Place,%d,%d", 1:50, 1:50, 51:100)
  for (piece in c("0051", "0051,Pl", "0051,Place,5")) {
    e <- expect_error(
      read_statistics(csv(c("code,name,a,b", rows, piece), end = "")), "is cut off in line 52",
      class = "ochre_error_file"
    )
    expect_identical(e$row, 52L)
  }
  x <- quietly(read_statistics(csv(c(
    "code,name,a,b", rows, "", "Source: the office, 2031", "Provisional"
  ))))
  expect_identical(nrow(x), 50L)
  expect_length(reading_report(x)$footer, 2)
  expect_error(
    read_statistics(csv(c("code,name,a,b", rows, "0051,Place,7"))), "line 52: found 3 columns",
    class = "ochre_error_file"
  )
})

test_that("columns of one name, repeated headers, two encodings and stray signs are said", {
  expect_message(
    x <- read_statistics(csv(c("code,n,n,", "01,1,2,3", "code,n,n,", "02,4,5,6"))),
    "a second `n` is `n_1`, one without a name is `unnamed`"
  )
  expect_identical(x$n_1, c(2L, 5L))
  expect_identical(reading_report(x)$headers, 1L)
  expect_message(
    read_statistics(csv(c("a,b", "1,2", "a,b", "3,4"))), "Left out 1 row that repeats the header"
  )
  file <- temporary(".csv")
  writeBin(
    c(charToRaw("code,name\n01,Z\u00fcrn\n"), charToRaw("02,R"), as.raw(0xfc), charToRaw("dern\n")),
    file
  )
  expect_message(x <- read_statistics(file), "encoding UTF-8 and windows-1252")
  expect_identical(x$name, c("Z\u00fcrn", "R\u00fcdern"))
  expect_message(
    x <- read_statistics(csv(c(
      "code;price",
      "01;\u20ac 12,50",
      "02;1.300,00 \u20ac",
      "03;-\u20ac5"
    ))),
    "3 \u00d7 \"\u20ac\", 1 \u00d7 thousands mark taken off"
  )
  expect_identical(x$price, c(12.5, 1300, -5))
  expect_message(
    x <- read_statistics(csv(c("code,v", sprintf("%02d,%d", 1:20, 1:20), "21,about 5"))),
    "`v` stays text: 1 of 21 values is not like the others, such as \"about 5\" \\(row 21\\)"
  )
  expect_type(x$v, "character")
  for (mix in list(c("5 %", "7"), c("$5", "\u20ac7"))) {
    expect_message(
      read_statistics(csv(c("code,v", sprintf("%02d,%s", 1:9, mix[1]), paste0("10,", mix[2])))),
      "`v` stays text: 1 of 10"
    )
  }
})

test_that("a formula in a written table runs in no spreadsheet, and comes back as it was", {
  odd <- c("=1+1", "+cmd", "-2+3", "@SUM(A1)", "-5", "plain", "'quoted'")
  file <- temporary(".csv")
  write_csv(tibble::tibble(`=name` = odd, n = -1:5), file)
  raw <- readLines(file)
  expect_false(any(grepl("(^|,)\"?[=+@]|(^|,)\"?-[0-9]+[^0-9,.\"]", raw)))
  back <- read_statistics(file)
  expect_identical(back[[1]], odd)
  expect_identical(names(back), c("=name", "n"))
  areas <- squares(c("=1", "02"))
  write_boundaries(areas, file)
  expect_match(readLines(file)[2], "^'=1,")
})
