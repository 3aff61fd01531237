# Nothing unchecked reaches the core: geometry of other making, changed plans, and every call.

# Well-known binary of a square, in any dialect.
foreign_wkb <- function(big = FALSE, height = FALSE, measure = FALSE, flags = FALSE, system = 0,
                        x = c(0, 2, 2, 0, 0), y = c(0, 0, 2, 2, 0)) {
  endian <- if (big) "big" else "little"
  word <- function(v) writeBin(as.integer(v), raw(), endian = endian)
  code <- if (flags) {
    packBits(
      c(intToBits(3)[1:29], intToBits(c(system > 0, measure, height))[c(1, 33, 65)]),
      "integer"
    )
  } else {
    3 + 1000 * height + 2000 * measure
  }
  at <- rbind(x, y, if (height) 7, if (measure) 9)
  c(
    as.raw(!big),
    if (flags) writeBin(code, raw(), endian = endian) else word(code),
    if (flags && system > 0) word(system),
    word(1),
    word(length(x)),
    writeBin(as.vector(at), raw(), endian = endian)
  )
}
longlat <- function(...) {
  tibble::tibble(
    name = "A",
    v = 1,
    geometry = wk::new_wk_wkb(list(...), crs = wk::wk_crs_longlat())
  )
}

test_that("well-known binary of any making is read alike; spoilt bytes are classed errors", {
  plain <- foreign_wkb()
  made <- expand.grid(
    big = c(FALSE, TRUE), height = c(FALSE, TRUE), measure = c(FALSE, TRUE),
    flags = c(FALSE, TRUE), system = c(0, 4326)
  )
  for (i in seq_len(nrow(made))) {
    bytes <- do.call(foreign_wkb, as.list(made[i, ]))
    expect_equal(
      areas_km2(longlat(bytes)), areas_km2(longlat(plain)), info = paste(made[i, ], collapse = " ")
    )
    file <- tempfile(fileext = ".geojson")
    write_boundaries(longlat(bytes), file)
    expect_identical(readLines(file)[2], sub("\\]\\]\\]\\}.*", "]]]}}", readLines(file)[2]))
    expect_equal(areas_km2(read_boundaries(file)), areas_km2(longlat(plain)))
  }
  # With something behind its end: as if it were not there.
  expect_identical(areas_km2(longlat(c(plain, as.raw(1:9)))), areas_km2(longlat(plain)))
  doors <- list(
    areas_km2,
    check_boundaries,
    mend_boundaries,
    label_points,
    outline,
    simplify = function(d) simplify_boundaries(d, keep = 0.5),
    sheet = function(d) map_sheet("T") |> shade_areas(d, v),
    lines = function(d) map_sheet("T") |> draw_lines(d),
    merge = function(d) merge_areas(d, by = "name"),
    points = function(d) find_areas(tibble::tibble(longitude = 1, latitude = 1), d),
    write = function(d) write_boundaries(d, tempfile(fileext = ".gpkg")),
    topo = function(d) write_boundaries(d, tempfile(fileext = ".topojson"))
  )
  deep <- Reduce(
    function(inner, i) c(as.raw(1), writeBin(7L, raw()), writeBin(1L, raw()), inner),
    1:40,
    plain
  )
  spoilt <- c(
    lapply(c(1, 4, 8, 12, 20, length(plain) - 1), function(n) plain[seq_len(n)]),
    list(
      deep,
      as.raw(0:20),
      replace(plain, 1, as.raw(7)),
      replace(plain, 10:13, as.raw(255)),
      foreign_wkb(x = c(0, Inf, 2, 0, 0)),
      foreign_wkb(y = c(0, NaN, 2, 0, 0))
    )
  )
  for (bytes in spoilt) {
    for (door in doors) {
      e <- expect_error(
        quietly(door(longlat(plain, bytes))), "row 2", class = "ochre_error_geometry"
      )
    }
  }
  expect_error(
    areas_km2(tibble::tibble(geometry = wk::new_wk_wkb(list("a"), crs = wk::wk_crs_longlat()))),
    class = "ochre_error_geometry"
  )
})

test_that("a plan changed anywhere ends in a classed error, of another version too", {
  areas <- squares(sprintf("%02d", 1:4))
  areas$v <- 1:4
  plan <- resolve_sheet(map_sheet("T") |> shade_areas(areas, v, steps = steps_equal(2)))
  draw <- function(p) {
    as_figure(p)
    publish(p, tempfile(fileext = ".svg"))
    publish(p, tempfile(fileext = ".html"))
  }
  outcome <- function(p) {
    tryCatch(
      {
        quietly(draw(p))
        "drawn"
      },
      ochre_error_plan = function(e) "refused"
    )
  }
  expect_identical(outcome(plan), "drawn")
  set.seed(3)
  odd <- c(-5L, 0L, 3L, 1000L, NA_integer_, .Machine$integer.max)
  seen <- character()
  for (i in 1:60) {
    changed <- plan
    where <- sample(
      c("arc_end", "x", "ring_arcs", "ring_end", "part_end", "part_shape", "feature_end", "longer"),
      1
    )
    if (where == "longer") {
      changed$topology$x <- c(changed$topology$x, 1L)
    } else if (where %in% c("arc_end", "x")) {
      changed$topology[[where]][1 + i %% 3] <- sample(odd, 1)
    } else {
      part <- changed$topology$layers[[1]][[where]]
      part[sample(length(part), 1)] <- sample(odd, 1)
      changed$topology$layers[[1]][[where]] <- part
    }
    seen <- c(seen, outcome(changed))
  }
  expect_setequal(seen, c("drawn", "refused"))
  changed <- plan
  changed$projection$lon0 <- NA_real_
  expect_match(outcome(changed), "drawn|refused")
  changed <- plan
  changed$version <- 1L
  for (use in list(as_figure, function(p) publish(p, tempfile(fileext = ".html")), resolve_sheet)) {
    expect_error(use(changed), "of version 1", class = "ochre_error_plan")
  }
  changed <- plan
  changed$layers <- NULL
  expect_error(as_figure(changed), "lacks `layers`", class = "ochre_error_plan")
})

# The calls of core functions in a piece of code that do not stand inside call_core().
unguarded <- function(code, inside = FALSE) {
  if (is.function(code)) return(unguarded(body(code)))
  if (!is.call(code)) return(character())
  name <- if (is.name(code[[1]])) as.character(code[[1]]) else ""
  own <- if (!inside && grepl("_core$", name) && name != "call_core") name
  c(own, unlist(lapply(as.list(code), unguarded, inside = inside || name == "call_core")))
}

test_that("every call of the core goes through the one door and can be interrupted", {
  package <- asNamespace("ochre")
  functions <- mget(
    setdiff(ls(package, all.names = TRUE), "call_core"),
    package,
    mode = "function",
    ifnotfound = list(NULL)
  )
  functions <- functions[!grepl("_core$", names(functions)) & !vapply(functions, is.null, NA)]
  expect_gt(length(functions), 500)
  found <- lapply(functions, unguarded)
  expect_identical(found[lengths(found) > 0], stats::setNames(list(), character()))
  # What the core throws without saying more is classed, too.
  expect_error(
    call_core(density_core("a", 1, 1, 0, 0, 1, 1L, 1L, 1)), class = "ochre_error_argument"
  )
  expect_error(call_core(paths_core(list(), 1L)), class = "ochre_error_argument")
})

test_that("long work ends within a second of an interrupt", {
  skip_on_os("windows")
  works <- c(
    displace = "n <- 3e5; call_core(displace_core(runif(n), runif(n), rep(1e-3, n), 1e-4, 1e-2))",
    density = paste0(
      "n <- 4e5; call_core(density_core(runif(n), runif(n), rep(1, n), 0, 0, 1e-3, 1000L, ",
      "1000L, 0.3))"
    ),
    labels = paste0(
      "n <- 2e5; one <- rep(1, n); call_core(place_labels_core(runif(n), runif(n), 0.3 * ",
      "one, 0.3 * one, 0 * one, runif(n), runif(n), 0.2 * one, 1, 1))"
    ),
    mend = "mend_boundaries(a)",
    merge = "merge_areas(a, by = g)",
    outline = "outline(a)",
    check = "check_boundaries(a)",
    simplify = "simplify_boundaries(a, keep = 0.1)",
    label = "label_points(a)"
  )
  # Two thousand islands with four thousand vertices each.
  turn <- 2 * pi * (0:4000 %% 4000) / 4000
  far <- 0.2 * (1 + 0.3 * sin(40 * turn))
  at <- expand.grid(x = seq(-60, 60, 0.6), y = seq(-20, 20, 1))[1:2000, ]
  shapes <- lapply(seq_len(nrow(at)), function(i) {
    foreign_wkb(x = at$x[i] + far * cos(turn), y = at$y[i] + far * sin(turn))
  })
  areas <- tibble::tibble(
    g = rep(1:20, 100),
    geometry = wk::new_wk_wkb(shapes, crs = wk::wk_crs_longlat())
  )
  file <- tempfile(fileext = ".rds")
  saveRDS(areas, file)
  prepare <- c(
    "library(ochre)",
    sprintf("a <- readRDS('%s')", file),
    "set.seed(1)",
    paste0(
      "for (f in c('call_core', 'displace_core', 'density_core', 'place_labels_core')) ",
      "assign(f, getFromNamespace(f, 'ochre'))"
    )
  )
  for (name in names(works)) {
    script <- tempfile(fileext = ".R")
    writeLines(
      c(
        prepare,
        "cat('ready\\n')",
        sprintf(
          paste0(
            "repeat tryCatch({ %s }, interrupt = function(e) { cat('stopped\\n'); ",
            "quit(status = 0) })"
          ),
          works[[name]]
        )
      ),
      script
    )
    run <- processx::process$new(
      file.path(R.home("bin"), "Rscript"),
      script,
      stdout = "|",
      stderr = "|"
    )
    while (run$is_alive() && !any(grepl("ready", run$read_output_lines()))) run$poll_io(1000)
    Sys.sleep(0.7)
    from <- Sys.time()
    run$interrupt()
    run$wait(10000)
    expect_lt(as.numeric(difftime(Sys.time(), from, units = "secs")), 1.5, label = name)
    if (run$is_alive()) run$kill()
    expect_match(paste(run$read_all_output(), run$read_all_error()), "stopped", info = name)
  }
})

test_that("many rows of one id, symbols at one place and long queries take linear time", {
  row <- squares("a")[rep(1, 20000), ]
  row$code <- rep(c("a", "b"), c(19999, 1))
  taken <- system.time(ids <- repeated_ids(row$code))[["elapsed"]]
  expect_lt(taken, 1)
  expect_identical(list(nrow(ids), ids$other[1:3]), list(19999L, c(2L, 1L, 1L)))
  sheet <- map_sheet("T") |>
    draw_lines(squares("a")) |>
    place_symbols(
      data.frame(n = rep(1, 4000), longitude = 0.5, latitude = 0.5),
      n,
      overlap = "move"
    )
  taken <- system.time(expect_warning(
    resolve_sheet(sheet), "too many to be moved apart", class = "ochre_warning_crowded"
  ))[["elapsed"]]
  expect_lt(taken, 5)
  ask <- function(query) {
    demo_app()(list(PATH_INFO = "/places", REQUEST_METHOD = "GET", QUERY_STRING = query))
  }
  expect_lt(system.time(answer <- ask(paste0("?q=", strrep("%41", 1e6))))[["elapsed"]], 2)
  expect_identical(answer$status, 414L)
  # Equal areas in panels are found by their bytes' digests.
  long <- squares(sprintf("%03d", 1:170))[rep(1:170, 200), ]
  long$month <- rep(sprintf("%03d", 1:200), each = 170)
  taken <- system.time(
    found <- panel_areas(list(data = long, by = "month"), unique(long$month))
  )[["elapsed"]]
  expect_lt(taken, 3)
  expect_identical(list(length(found$wkb), found$rows[5, 3]), list(170L, 345L))
})
