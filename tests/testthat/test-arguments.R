# Each argument of each call in the examples, in turn replaced by what it should not be.

oddities <- alist(
  NULL,
  NA,
  NA_character_,
  character(0),
  numeric(0),
  list(),
  list(1, "a"),
  list(a = NULL),
  list(a = list(b = 1)),
  Inf,
  NaN,
  -1,
  0,
  0.5,
  1e308,
  2^53,
  1i,
  raw(2),
  "",
  "x",
  "geometry",
  strrep("a", 5000),
  "\u00e9",
  "%s",
  "{",
  TRUE,
  c(1, 2),
  c(3, 1, 2),
  c(NA, 1),
  c(a = "b"),
  data.frame(),
  data.frame(a = 1),
  matrix(1:4, 2),
  function(x) x,
  quote(x),
  factor("a"),
  as.Date("2031-01-01"),
  Sys.time(),
  globalenv(),
  "https://",
  "../x"
)

calls_in <- function(e, known) {
  if (!is.call(e)) return(list())
  inner <- unlist(
    lapply(as.list(e)[-1], function(a) if (!missing(a)) calls_in(a, known)),
    recursive = FALSE
  )
  if (is.name(e[[1]]) && as.character(e[[1]]) %in% known) c(list(e), inner) else inner
}

# Each call of the examples with its own functions' names matched to its arguments, and the place
# where it can be evaluated.
each_example <- function(use) {
  known <- setdiff(
    getNamespaceExports("ochre"),
    c("serve_demo", "preview_sheet", "ochre_demo", "audit_fragment")
  )
  env <- new.env(parent = globalenv())
  pages <- tools::Rd_db("ochre")
  for (page in names(pages)) {
    file <- tempfile()
    tools::Rd2ex(pages[[page]], file)
    if (!file.exists(file)) next
    for (e in parse(file)) {
      if (any(grepl("serve_demo|interactive\\(|https?:", deparse(e)))) next
      for (call in calls_in(e, known)) {
        use(
          as.character(call[[1]]),
          as.list(match.call(get(as.character(call[[1]]), asNamespace("ochre")), call)),
          env
        )
      }
      quietly(utils::capture.output(eval(e, env)))
    }
  }
}

# What is not classed, in words; a sheet is also resolved.
unclassed_in <- function(call, env) {
  tryCatch(
    withCallingHandlers(
      {
        x <- eval(as.call(call), new.env(parent = env))
        if (inherits(x, "ochre_sheet") && length(x$layers)) resolve_sheet(x)
        NULL
      },
      warning = function(w) {
        if (inherits(w, "ochre_warning")) {
          rlang::cnd_muffle(w)
        } else {
          stop("a warning: ", conditionMessage(w))
        }
      },
      message = function(m) rlang::cnd_muffle(m)
    ),
    ochre_error = function(e) NULL,
    error = conditionMessage
  )
}

test_that("an argument of another kind ends in a classed condition, whatever the function", {
  withr::local_dir(withr::local_tempdir())
  set.seed(7)
  tried <- 0
  each_example(function(name, call, env) {
    for (arg in setdiff(names(formals(name, asNamespace("ochre"))), "...")) {
      odd <- sample(oddities, 1)[[1]]
      changed <- call
      changed[arg] <- list(odd)
      tried <<- tried + 1
      problem <- unclassed_in(changed, env)
      if (!is.null(problem)) fail(paste(name, arg, deparse(odd)[1], problem))
    }
  })
  expect_gt(tried, 500)
})

test_that("an argument that is not given, and bytes that are no text, are refused in words", {
  withr::local_dir(withr::local_tempdir())
  tried <- 0
  each_example(function(name, call, env) {
    given <- formals(name, asNamespace("ochre"))
    needed <- names(given)[vapply(given, function(d) rlang::is_missing(d), NA)]
    for (arg in setdiff(needed, "...")) {
      tried <<- tried + 1
      changed <- call
      changed[[arg]] <- NULL
      problem <- unclassed_in(changed, env)
      if (!is.null(problem)) fail(paste(name, "without", arg, problem))
      changed <- call
      changed[arg] <- list("a\xff")
      problem <- unclassed_in(changed, env)
      if (!is.null(problem)) fail(paste(name, arg, "bytes", problem))
    }
  })
  expect_gt(tried, 200)
})

# The tables of the examples, spoilt as the world spoils them.
numbers_as <- function(change) {
  function(x) {
    for (k in which(vapply(x, is.numeric, NA))) x[[k]] <- change(x[[k]])
    x
  }
}
spoilers <- list(
  `no rows` = function(x) x[0, ],
  `one row` = function(x) x[1, ],
  `rows twice` = function(x) x[c(1, seq_len(nrow(x))), ],
  `no name` = function(x) {
    names(x)[1] <- ""
    x
  },
  missing = function(x) {
    for (k in setdiff(names(x), "geometry")) x[[k]][] <- NA
    x
  },
  `no shapes` = function(x) {
    if ("geometry" %in% names(x)) x$geometry <- x$geometry[rep(NA_integer_, nrow(x))]
    x
  },
  factors = function(x) {
    for (k in setdiff(names(x), "geometry")) x[[k]] <- factor(x[[k]])
    x
  },
  infinite = numbers_as(function(v) {
    v <- as.numeric(v)
    v[c(TRUE, FALSE)] <- Inf
    v[1:2] <- c(NaN, -Inf)
    v
  }),
  negative = numbers_as(function(v) -v),
  zero = numbers_as(function(v) v * 0L),
  huge = numbers_as(function(v) v * 1e300),
  tiny = numbers_as(function(v) v * 1e-310),
  equal = numbers_as(function(v) rep(7, length(v))),
  texts = numbers_as(as.character),
  dates = numbers_as(function(v) as.Date("2031-01-01") + seq_along(v)),
  markup = function(x) {
    words <- vapply(x, function(v) is.character(v) && !inherits(v, "wk_vctr"), NA)
    for (k in which(words)) x[[k]][1] <- "a\\b\"<'&\n%s{x}"
    x
  }
)

test_that("a spoilt table ends in a value or a classed condition, whatever the function", {
  withr::local_dir(withr::local_tempdir())
  set.seed(8)
  tried <- 0
  each_example(function(name, call, env) {
    for (arg in names(call)[-1]) {
      value <- tryCatch(quietly(eval(call[[arg]], new.env(parent = env))), error = function(e) NULL)
      if (!is.data.frame(value) || !nrow(value)) next
      for (spoilt in sample(names(spoilers), 3)) {
        changed <- call
        changed[[arg]] <- spoilers[[spoilt]](value)
        tried <<- tried + 1
        problem <- unclassed_in(changed, env)
        if (!is.null(problem)) fail(paste(name, arg, spoilt, problem))
      }
    }
  })
  expect_gt(tried, 150)
})

test_that("an argument that names a column takes it bare, as text, by .data and by braces", {
  withr::local_dir(withr::local_tempdir())
  tried <- character()
  each_example(function(name, call, env) {
    value_of <- function(call) {
      tryCatch(quietly(eval(as.call(call), new.env(parent = env))), error = conditionMessage)
    }
    frames <- Filter(is.data.frame, lapply(call[-1], function(e) {
      tryCatch(quietly(eval(e, new.env(parent = env))), error = function(e) NULL)
    }))
    known <- unlist(lapply(unname(frames), names))
    columns <- Filter(function(e) is.symbol(e) && as.character(e) %in% known, call[-1])
    for (arg in setdiff(names(columns), names(frames))) {
      column <- as.character(call[[arg]])
      whole <- value_of(call)
      forms <- list(column, bquote(.data[[.(column)]]), rlang::quo(!!call[[arg]]))
      for (form in forms) {
        changed <- call
        changed[arg] <- list(form)
        expect_identical(value_of(changed), whole, label = paste(name, arg, deparse(form)[1]))
      }
      tried <<- c(tried, paste(name, arg))
    }
  })
  expect_gt(length(unique(tried)), 30)
})

test_that("several columns are named together, by helpers, or by a variable", {
  d <- data.frame(code = c("1", "1", "2"), n_a = 1:3, n_b = 4:6, m = 7:9)
  changes <- data.frame(from = "2", to = "1")
  moved <- function(...) quietly(move_counts(d, code, changes, ...))
  whole <- moved(c("n_a", "n_b"), within = "m")
  held <- c("n_a", "n_b")
  expect_identical(moved(c(n_a, "n_b"), within = m), whole)
  expect_identical(moved(starts_with("n_"), m), whole)
  expect_identical(moved(n_a:n_b, m), whole)
  expect_identical(moved(held, m), whole)
  expect_identical(moved(tidyselect::all_of(held), m), whole)
  wrapped <- function(data, columns) quietly(move_counts(data, code, changes, {{ columns }}, m))
  expect_identical(wrapped(d, c(n_a, n_b)), whole)
  expect_error(moved(starts_with("z")), "selects no column", class = "ochre_error_column")
  expect_error(moved(n_c), "n_a", class = "ochre_error_column")
})

test_that("what other programs call an argument is refused with its name here; color is colour", {
  areas <- read_boundaries(ochre_demo("districts.geojson"))
  sheet <- map_sheet("T")
  shade <- function(...) shade_areas(sheet, areas, population, ...)
  expect_error(shade(palette = "x"), "Use `ramp`", class = "ochre_error_argument")
  expect_error(shade(tooltip = "x"), "Use `hover`", class = "ochre_error_argument")
  expect_error(shade(classes = 5), "Use `steps`", class = "ochre_error_argument")
  expect_error(shade(rampp = "x"), "Did you mean `ramp`", class = "ochre_error_argument")
  expect_error(shade(ramp = "blues"), "nearest ramps are `woad`", class = "ochre_error_argument")
  expect_error(do.call(shade_areas, list(sheet, areas, 1, hue = 2)), "no argument `hue`")
  expect_error(border_style("red", color = "blue"), "twice", class = "ochre_error_argument")
  expect_identical(border_style(color = "red"), border_style(colour = "red"))
  color <- draw_lines(sheet, areas, color = region, color_legend = "R")
  expect_identical(color, draw_lines(sheet, areas, colour = region, colour_legend = "R"))
})

test_that("steps are said in short: a number, a method, breaks, or steps that were fitted", {
  x <- c(3, 8, 1, 22, 14, 9, 5, 5.5)
  expect_identical(fit_steps(x, 4), fit_steps(x, steps_quantile(4)))
  expect_identical(fit_steps(x, "natural"), fit_steps(x, steps_natural()))
  expect_identical(fit_steps(x, c(0, 5, Inf)), fit_steps(x, steps_at(c(0, 5, Inf))))
  expect_error(fit_steps(x, "naturl"), "mean `natural`", class = "ochre_error_argument")
  expect_error(fit_steps(x, "jenks"), "Use \"natural\"", class = "ochre_error_argument")
  expect_error(fit_steps(x, 40), "from 1 to 12", class = "ochre_error_argument")
  all <- suppressMessages(suppressWarnings(compare_steps(x, n = 3:4)))$steps
  for (steps in c(all, list(fit_steps(x, steps_at(c(0, 5, 22), closed = "right"))))) {
    again <- suppressWarnings(fit_steps(x, steps))
    same <- c("breaks", "labels", "counts", "means", "fit", "right")
    expect_identical(unclass(again)[same], unclass(steps)[same])
  }
})
