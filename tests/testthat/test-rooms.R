# Rooms know only rooms below them.

test_that("no function calls one in a room above its own", {
  folder <- test_path("..", "..", "R")
  skip_if_not(dir.exists(folder))
  where <- files_of_names(folder)
  expect_gt(length(where), 900)
  expect_true(all(sub("[-.].*", "", where) %in% names(levels_of_rooms)))
  expect_identical(upward_calls(where, asNamespace("ochre")), NULL)
})

test_that("the walk sees a call upward, and a function that is passed on", {
  space <- new.env()
  space$low <- function(x) vapply(x, high, "")
  space$high <- function(x) format(x)
  found <- upward_calls(c(low = "util-a.R", high = "plan-b.R"), space)
  expect_match(found, "low in util-a.R calls high in plan-b.R", fixed = TRUE)
})

test_that("nothing in the package keeps state between calls", {
  namespace <- asNamespace("ochre")
  own <- setdiff(ls(namespace, all.names = TRUE), c(".__NAMESPACE__.", ".__S3MethodsTable__."))
  held <- Filter(function(name) is.environment(get(name, namespace)), own)
  expect_identical(held, character())
  expect_identical(english[names(english)], unclass(read_locale("en"))[names(english)])
})
