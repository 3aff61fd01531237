# A sheet as agencies lay it out: title, two rows of headings, marks, an empty row, notes.
laid_out <- rbind(
  c("Visits to clinics, Orvane", NA, NA, NA, NA, NA), NA,
  c("Code", "Name", "Visits", NA, "Share", NA), c(NA, NA, "2030", "2031", "2030", "2031"),
  c("0101a", "Peluminmar", "1234.5", "<5", "34.5 %", "3 %"),
  c("0102a", "Ilm & Son", "5", "6", "n/a", "2 %"), NA,
  c("0103a", "Zed", "5", "6", "7 %", "8 %"),
  c("Source: Orvane Health Office", NA, NA, NA, NA, NA),
  c("* provisional", NA, NA, NA, NA, NA)
)

test_that("title, stacked headings and notes of a sheet are told from its table", {
  skip_if_not_installed("readxl")
  skip_if_not_installed("readODS")
  sheets <- list(Notes = matrix("read me"), Data = laid_out)
  for (file in c(write_xlsx(sheets), write_ods(sheets))) {
    x <- quietly(read_statistics(file, layer = "Data"))
    expect_named(
      x,
      c(
        "Code", "Name", "Visits 2030", "Visits 2031", "Visits 2031_reason", "Share 2030",
        "Share 2030_reason", "Share 2031"
      )
    )
    expect_identical(x$Code, c("0101a", "0102a", "0103a"))
    expect_identical(x$Name[2], "Ilm & Son")
    expect_identical(x$`Visits 2030`, c(1234.5, 5, 5))
    expect_identical(x$`Share 2031`, c(3L, 2L, 8L))
    report <- reading_report(x)
    expect_identical(
      report[c("titles", "footer", "blank", "layer")],
      list(
        titles = "Visits to clinics, Orvane",
        footer = c("Source: Orvane Health Office", "* provisional"), blank = 1L, layer = "Data"
      )
    )
    expect_identical(report$signs$count, c(2L, 3L))
    expect_message(
      read_statistics(file, layer = "Data"),
      "Skipped 1 line above the header.*Cut off 2 footer lines.*2 \u00d7 percent sign"
    )
    expect_identical(stack_periods(x)$Visits, c(1234.5, NA, 5, 6, 5, 6))
    e <- expect_error(read_statistics(file, layer = "Dta"), class = "ochre_error_layer")
    expect_identical(e$layers, c("Notes", "Data"))
  }
})

test_that("merged cells are filled down in the table and nowhere else", {
  skip_if_not_installed("readxl")
  grid <- rbind(
    c("Beds by region and district", NA, NA), c("Region", "District", "Beds"),
    c("North", "A", "1"), c(NA, "B", "2"), c("South", "C", "3"), c(NA, "D", NA),
    c("All figures are made up", NA, NA)
  )
  x <- quietly(read_statistics(write_xlsx(list(s = grid), c("A1:C1", "A3:A4", "A5:A6", "A7:C7"))))
  expect_identical(
    columns_of(x),
    list(
      Region = c("North", "North", "South", "South"), District = c("A", "B", "C", "D"),
      Beds = c(1L, 2L, 3L, NA)
    )
  )
  expect_identical(reading_report(x)$filled, 2L)
  # Without merged cells a gap stays a gap.
  expect_identical(
    quietly(read_statistics(write_xlsx(list(s = grid))))$Region, c("North", NA, "South")
  )
})

test_that("random tables come back whole from under random titles and above random notes", {
  skip_if_not_installed("readxl")
  set.seed(5)
  for (i in 1:12) {
    n <- sample(2:30, 1)
    k <- sample(2:6, 1)
    body <- cbind(
      sprintf("K%03d", sample(999, n)),
      matrix(as.character(sample(10000, n * k, TRUE)), n)
    )
    body[sample(length(body[, -1]), n %/% 3) + n] <- NA
    pad <- function(text) {
      rbind(c(text, rep(NA, k)), NA)[rep_len(1:2, sample(0:3, 1)), , drop = FALSE]
    }
    grid <- rbind(
      pad("A title of several words"),
      c("key", paste0("v", seq_len(k))),
      body,
      pad("Source: nobody in particular, 2031")
    )
    x <- quietly(read_statistics(write_xlsx(list(s = grid))))
    expect_identical(
      unname(vapply(x[!grepl("_reason", names(x))], as.character, character(n))), unname(body),
      info = i
    )
  }
})

test_that("workbooks that hold nothing, lie or are cut off are refused", {
  skip_if_not_installed("readxl")
  expect_error(
    read_statistics(write_xlsx(list(a = matrix(NA_character_), b = laid_out)), layer = "a"),
    "sheet `a` is empty.*layer = \"b\"", class = "ochre_error_file"
  )
  expect_message(
    none <- read_statistics(write_xlsx(list(a = rbind(c("Code", "n"))))), "a header and no rows"
  )
  expect_identical(dim(none), c(0L, 2L))
  # Of several sheets the first with a table is taken, and said.
  two <- write_xlsx(list(Notes = matrix("read me"), Data = laid_out))
  expect_message(x <- read_statistics(two), "Took `Data` of 2 sheets; the others are `Notes`")
  expect_identical(nrow(x), 3L)
  expect_identical(inspect_file(two)$layers, c("Notes", "Data"))
  expect_identical(inspect_file(two, "Data")$rows, 3L)
  file <- write_xlsx(list(a = laid_out))
  old <- options(ochre.unpack_limit = 1000)
  expect_error(read_statistics(file), "says that it unpacks to", class = "ochre_error_file")
  options(old)
  writeBin(readBin(file, "raw", 900), file)
  expect_error(read_statistics(file), class = "ochre_error_file")
  without(
    "readxl",
    expect_error(
      read_statistics(write_xlsx(list(a = laid_out))), "readxl", class = "ochre_error_package"
    )
  )
})
