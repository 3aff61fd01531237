# Each argument of each call in the examples, in turn replaced by what it should not be.

oddities <- alist(
  NULL, NA, NA_character_, character(0), numeric(0), list(), list(1, "a"), list(a = NULL), list(a = list(b = 1)), Inf, NaN, -1, 0, 0.5, 1e308, 2^53, 1i, raw(2), "", "x", "geometry",
  strrep("a", 5000), "\u00e9", "%s", "{", TRUE, c(1, 2), c(3, 1, 2), c(NA, 1), c(a = "b"), data.frame(), data.frame(a = 1), matrix(1:4, 2), function(x) x, quote(x), factor("a"),
  as.Date("2031-01-01"), Sys.time(), globalenv(), "https://", "../x"
)

calls_in <- function(e, known) {
  if (!is.call(e)) return(list())
  inner <- unlist(lapply(as.list(e)[-1], function(a) if (!missing(a)) calls_in(a, known)), recursive = FALSE)
  if (is.name(e[[1]]) && as.character(e[[1]]) %in% known) c(list(e), inner) else inner
}

test_that("an argument of another kind ends in a classed condition, whatever the function", {
  withr::local_dir(withr::local_tempdir())
  set.seed(7)
  known <- setdiff(getNamespaceExports("ochre"), c("serve_demo", "ochre_demo"))
  env <- new.env(parent = globalenv())
  pages <- tools::Rd_db("ochre")
  tried <- 0
  for (page in names(pages)) {
    file <- tempfile()
    tools::Rd2ex(pages[[page]], file)
    if (!file.exists(file)) next
    for (e in parse(file)) {
      if (any(grepl("serve_demo|https?:", deparse(e)))) next
      for (call in calls_in(e, known)) {
        whole <- match.call(get(as.character(call[[1]]), asNamespace("ochre")), call)
        for (arg in setdiff(names(formals(as.character(call[[1]]), asNamespace("ochre"))), "...")) {
          odd <- sample(oddities, 1)[[1]]
          changed <- as.list(whole)
          changed[arg] <- list(odd)
          words <- paste(as.character(call[[1]]), arg, deparse(odd)[1])
          tried <- tried + 1
          problem <- tryCatch(
            withCallingHandlers(
              {
                x <- eval(as.call(changed), new.env(parent = env))
                if (inherits(x, "ochre_sheet") && length(x$layers)) resolve_sheet(x)
                NULL
              },
              warning = function(w) if (inherits(w, "ochre_warning")) rlang::cnd_muffle(w) else stop("a warning: ", conditionMessage(w)), message = function(m) rlang::cnd_muffle(m)
            ),
            ochre_error = function(e) NULL, error = function(e) paste0(words, ": ", conditionMessage(e))
          )
          if (!is.null(problem)) fail(problem)
        }
      }
      quietly(utils::capture.output(eval(e, env)))
    }
  }
  expect_gt(tried, 500)
})
