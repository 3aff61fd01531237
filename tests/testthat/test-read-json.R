json_file <- function(text) write_file(text, ".json")
read_json <- function(text, ...) suppressMessages(read_statistics(json_file(text), ...))

test_that("rows in each of the usual shapes give the same table", {
  wanted <- list(code = c("01", "02", "03"), n = c(5L, NA, 7L), share = c(0.5, 1, 2.25))
  shapes <- c(
    paste0(
      '[{"code":"01","n":5,"share":0.5},{"code":"02","n":null,"share":1},{"code":"03",',
      '"share":2.25,"n":7}]'
    ),
    '{"code":["01","02","03"],"n":[5,null,7],"share":[0.5,1,2.25]}',
    '[["code","n","share"],["01",5,0.5],["02",null,1],["03",7,2.25]]',
    '{"columns":["code","n","share"],"data":[["01",5,0.5],["02",null,1],["03",7,2.25]]}',
    paste0(
      '{"meta":{"count":3,"tags":["a"]},"result":{"rows":[{"code":"01","n":5,"share":0.5},',
      '{"code":"02","n":null,"share":1},{"code":"03","n":7,"share":2.25}]}}'
    ),
    paste0(
      '{"code":"01","n":5,"share":0.5}\n{"code":"02","n":null,"share":1}\n\n{"code":"03",',
      '"n":7,"share":2.25}\n'
    )
  )
  for (text in shapes) {
    expect_equal(columns_of(read_json(text)), wanted, ignore_attr = TRUE, info = text)
  }
  keyed <- read_json('{"01":{"n":5},"02":{"n":6}}')
  expect_identical(columns_of(keyed), list(key = c("01", "02"), n = 5:6))
})

test_that("codes, long numbers, marks and nested values keep what they say", {
  x <- read_json(
    paste0(
      '[{"code":101,"long":12345678901234567,"v":"<5","geo":{"id":7,"name":"Ilm"},',
      '"tags":["a","b"]},{"code":102,"v":12,"geo":{"id":8,"name":"Zed"},"ok":true}]'
    )
  )
  expect_identical(x$code, c("101", "102"))
  expect_identical(x$long[1], "12345678901234567")
  expect_identical(x$v, c(NA, 12L))
  expect_identical(x$v_reason, c("<5", NA))
  expect_identical(x$geo.name, c("Ilm", "Zed"))
  expect_identical(x$tags[1], '["a","b"]')
  nested <- c('["a\\"b",1.5,true,null]', '[{"k\\n":[{}],"l":[]}]', "[[],100000,\"\u00e9\"]")
  deep <- read_json(sprintf("[%s]", paste0("{\"v\":", nested, "}", collapse = ",")))
  expect_identical(deep$v, nested)
  expect_identical(x$ok, c(NA, TRUE))
  expect_identical(read_statistics(json_file('[{"n":5},{"n":6}]'), text = "n")$n, c("5", "6"))
  expect_error(
    read_statistics(json_file('[{"n":5}]'), text = "m"), "Its columns: `n`",
    class = "ochre_error_column"
  )
  # Texts are read by the rule of delimited files, whatever else stands in the column, and it is
  # said.
  for (v in c('"1.5"', "null", '"n/a"', '"<5"')) {
    text <- sprintf('[{"v":%s},{"v":"2.5"}]', v)
    csv <- sprintf("v,k\n%s,1\n2.5,2\n", gsub("\"|null", "", v))
    expect_identical(read_json(text)$v, quietly(read_statistics(write_file(csv)))$v)
  }
  expect_message(
    read_statistics(json_file('[{"v":"1.5"},{"v":"2.5"}]')), "Texts read as numbers: `v`"
  )
  expect_identical(read_json('[{"v":"07"},{"v":"08"}]')$v, c("07", "08"))
  expect_identical(
    read_json('[{"v":1,"v":2}]'), tibble::tibble(v = 1L, v_1 = 2L), ignore_attr = TRUE
  )
})

test_that("where the rows lie can be said, and must be where there are several lists", {
  text <- '{"a/b":{"x~y":[[{"n":1}],[{"n":2}]]},"other":[{"n":3}]}'
  expect_identical(read_json(text, records = "/a~1b/x~0y/1")$n, 2L)
  e <- expect_error(read_json('{"a":[{"n":1}],"b":{"c":[{"n":2}]}}'), class = "ochre_error_records")
  expect_identical(e$found, c("/a", "/b/c"))
  expect_identical(read_json('{"a":[{"n":1}],"b":{"c":[{"n":2}]}}', records = "/b/c")$n, 2L)
  expect_error(
    read_json(text, records = "/othr"), "Did you mean `other`", class = "ochre_error_records"
  )
  expect_error(read_json('{"a":1}'), "no list of records", class = "ochre_error_records")
  expect_error(read_json('[["a","b"],[1]]'), "row 1 has 1 value", class = "ochre_error_records")
  expect_error(read_json('[{"a":1},'), "not valid JSON", class = "ochre_error_file")
  expect_error(read_json("[]"), class = "ochre_error_file")
  seen <- inspect_file(json_file('{"rows":[{"code":"01","n":5},{"code":"02","n":7}]}'))
  expect_identical(list(seen$kind, seen$rows, seen$keys), list("statistics", 2L, "code"))
  expect_match(format(seen)[1], "JSON\\.$")
})

test_that("several documents are read to the last, or it is said what is to be named", {
  expect_identical(read_json('{"n":1}{"n":2}\n{"n":\n3}')$n, 1:3)
  expect_identical(read_json('[{"n":1},{"n":2}]\n[{"n":3}]')$n, 1:3)
  pages <- '{"page":1,"data":[{"n":1},{"n":2}]}\n{"page":2,"data":[{"n":3}]}'
  e <- expect_error(
    read_json(pages), "2 JSON documents, and each has rows", class = "ochre_error_records"
  )
  expect_identical(e$found, "/data")
  expect_identical(read_json(pages, records = "/data")$n, 1:3)
  expect_identical(read_json(pages, records = "")$page, 1:2)
  expect_error(
    read_json(paste0(pages, '{"other":1}'), records = "/data"), "nothing at",
    class = "ochre_error_records"
  )
  expect_error(
    read_json('[{"n":1}] tail'), "after the last document stands \"tail\"",
    class = "ochre_error_file"
  )
  expect_error(read_json(strrep("[", 5000)), "nested 5,000 deep", class = "ochre_error_file")
  # Text in UTF-16, with and without its mark.
  for (mark in list(raw(), as.raw(c(0xff, 0xfe)))) {
    text <- stringi::stri_encode('[{"n":"\u00d8"}]', "UTF-8", "UTF-16LE", to_raw = TRUE)[[1]]
    expect_identical(read_json(c(mark, text))$n, "\u00d8")
  }
})
