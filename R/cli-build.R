# `ochre build`: the map of a sheet, or one for each of several (cli-each.R).

command_build <- function(args) {
  given <- parse_command(
    "build",
    join_repeated(args, c("--to", "--set")),
    "SHEET [--to FILE]\u2026 [--set NAME=VALUE]\u2026",
    paste0(
      "Makes the maps of a sheet: the files under its key `publish`, or those given\nwith ",
      "--to (.html, .png, .svg, .pdf). With the key `each` it makes one map for each;\none that ",
      "fails does not stop the others. Two runs of one sheet wait for each other."
    ),
    build_options(),
    c(1, 1)
  )
  if (is.null(given)) return(0L)
  options <- given$options
  if (options$jobs < 1) usage_error("--jobs takes a whole number from 1.", "build")
  with_voice(quiet = options$quiet, log = options$log, {
    release <- lock_path(given$args)
    on.exit(release())
    tryCatch(
      build_sheet(
        given$args, split_values(options$set, "build"), split_repeated(options$to), options
      ),
      ochre_error = function(e) {
        if (options$json) cat_json(list(sheet = given$args, error = said_condition(e)))
        log_line(e$what, "error")
        stop(e)
      }
    )
  })
}

build_options <- function() {
  option <- optparse::make_option
  text <- function(flag, metavar, help) {
    option(flag, type = "character", metavar = metavar, help = help)
  }
  flag <- function(flag, help) option(flag, action = "store_true", default = FALSE, help = help)
  list(
    text("--to", "FILE", "write this file instead; may be given several times"),
    text("--set", "NAME=VALUE", "a named value of the sheet; may be given several times"),
    option("--jobs", type = "integer", default = 1L, metavar = "N",
           help = "so many maps at once, with `each` [1]"),
    text("--daemons", "SCRIPT", "an R script that sets up daemons of mirai, also elsewhere"),
    flag("--fresh", "make everything anew, also where nothing has changed"),
    flag("--quiet", "say nothing but errors"),
    flag("--json", "the result as JSON on the standard output"),
    text("--log", "FILE", "add what is said to this file, with time and level")
  )
}

# optparse keeps the last of a repeated option, so they are joined before it sees them.
repeat_mark <- "\u001f"
join_repeated <- function(args, flags) {
  for (flag in flags) {
    args <- unlist(lapply(args, function(a) {
      if (startsWith(a, paste0(flag, "="))) c(flag, substring(a, nchar(flag) + 2)) else a
    }))
    at <- which(args == flag)
    at <- at[at < length(args)]
    if (length(at) < 2) next
    args <- c(args[-c(at, at + 1)], flag, paste(args[at + 1], collapse = repeat_mark))
  }
  args
}
split_repeated <- function(text) {
  if (!is.null(text)) strsplit(text, repeat_mark, fixed = TRUE)[[1]]
}

split_values <- function(text, command) {
  pairs <- split_repeated(text)
  at <- regexpr("=", pairs, fixed = TRUE)
  if (any(at < 2)) usage_error("--set takes NAME=VALUE, as in --set year=2031.", command)
  as.list(stats::setNames(substring(pairs, at + 1), substr(pairs, 1, at - 1)))
}

build_sheet <- function(file, values, targets, options) {
  each <- sheet_each(file)
  single <- is.null(each$each) || names(each$each) %in% names(values)
  all <- if (!single) each_values(each)
  maps <- if (single) list(NULL) else split_each(all)
  if (!single) refuse_one_file(file, targets, all)
  jobs <- lapply(maps, function(one) {
    list(file = file, values = c(values, one), to = targets, fresh = options$fresh)
  })
  # What is wrong with all of them is said once.
  if (!single) load_sheet(file, jobs[[1]]$values)
  built <- if (single) {
    list(build_now(jobs[[1]], options$json))
  } else {
    build_several(jobs, options)
  }
  if (options$json) cat_json(build_summary(file, jobs, built))
  failed <- vapply(built, function(b) !is.null(b$error), NA)
  if (!single) say_count(names(jobs), built, failed)
  if (any(failed)) 1L else 0L
}

# All that is said on the way is said at once; an error ends it.
build_now <- function(job, json) {
  built <- make_map(job, say_warning)
  if (!json) for (file in built$files) say_file(file)
  built
}

say_file <- function(file) cat(file, "\n", sep = "")

# The files of a map, its warnings, and what has changed since the last build. `warn` says a warning
# at once.
make_map <- function(job, warn) {
  text <- load_sheet(job$file, job$values)
  work <- list(
    text = text,
    values = used_values(text, job$values),
    inputs = sheet_inputs(text),
    targets = job$to %||% own_targets(text)
  )
  targets <- work$targets
  if (!length(targets)) usage_error("the sheet has no key `publish`; say --to FILE.", "build")
  for (target in targets) publish_kind(target)
  record <- read_record(record_path(targets))
  fresh <- isTRUE(job$fresh)
  built <- if (!fresh && is_current(record, work$values, work$inputs, targets)) {
    keep_map(record, targets, warn)
  } else {
    build_map(work, record, if (!fresh) user_cache(), warn)
  }
  c(built, list(values = work$values))
}

# Nothing has changed: what was said is said again. For make, inputs that came once more with the
# same contents are no newer than the files.
keep_map <- function(record, targets, warn) {
  for (w in record$warnings) warn(w$what, unlist(w$mend))
  inputs <- vapply(record$inputs, `[[`, "", "file")
  late <- targets[file.mtime(targets) < max(file.mtime(inputs))]
  for (target in late) Sys.setFileTime(target, Sys.time())
  say("Nothing has changed since the last build; --fresh makes the files again.")
  list(files = targets, warnings = record$warnings, kept = TRUE)
}

build_map <- function(work, old, cache, warn) {
  text <- work$text
  targets <- work$targets
  warnings <- list()
  noting <- function(code) {
    hear_warnings(code, function(w) {
      warnings <<- c(warnings, list(said_condition(w)))
      warn(w$what, w$mend)
    })
  }
  sheet <- noting(sheet_of(text, cache))
  plan <- noting(resolve_with(sheet, cache))
  record <- new_record(work, plan, attr(sheet, "audits"))
  record$warnings <- I(warnings)
  now <- as_read(record)
  changed <- compare_records(old, now)
  for (one in changed) say("Changed: ", one$what)
  refuse_broken(text, broken_rules(text$content$fail_if, now, changed))
  say("Projection: ", projection_words(plan$projection), ".")
  noting(write_targets(sheet, plan, targets))
  record$warnings <- I(warnings)
  record$outputs <- I(file_facts(files_in(targets)))
  record$changed <- I(changed)
  write_record(record, record_path(targets))
  list(files = targets, warnings = warnings, changed = changed)
}

refuse_broken <- function(text, broken) {
  if (!length(broken)) return(invisible())
  ochre_abort(
    "limit", "`{text$file}` is not built: {paste(broken, collapse = '; ')}.",
    "The files of before are still there. Look at the data, or raise the limit under `fail_if`.",
    file = text$file
  )
}

write_targets <- function(sheet, plan, targets, done = function(file) NULL) {
  budget <- attr(sheet, "budget")
  bytes <- if (!is.null(budget)) check_bytes(budget, "budget")
  for (i in seq_along(targets)) {
    publish_plan(sheet, plan, targets[i], list(bytes = bytes))
    signal_progress("Writing", i, length(targets))
    done(targets[i])
  }
}

publish_all <- function(sheet, targets) {
  plan <- resolve_sheet(sheet)
  say("Projection: ", projection_words(plan$projection), ".")
  write_targets(sheet, plan, targets, say_file)
}

# Maps that would be written into one file.
refuse_one_file <- function(file, targets, all) {
  targets <- targets %||% unlist(sheet_content(file, sheet_lines(file), NULL)$publish)
  mark <- sprintf("$(%s)", names(all)[1])
  lost <- targets[!grepl(mark, targets, fixed = TRUE)]
  if (!length(lost)) return(invisible())
  ochre_abort("sheet", "{count_words(length(all), 'map')} would all be written into `{lost[1]}`.",
              "Write `{mark}` into the path, as in \"map-{mark}.html\".", file = file)
}

# ---- as JSON -------------------------------------------------------------------------------------

build_summary <- function(file, jobs, built) {
  maps <- Map(function(job, b) {
    values <- b$values %||% job$values
    list(
      values = if (length(values)) values,
      files = I(as.list(b$files)),
      warnings = I(as.list(b$warnings)),
      changed = I(as.list(b$changed)),
      kept = isTRUE(b$kept),
      error = b$error
    )
  }, jobs, built)
  failed <- sum(vapply(built, function(b) !is.null(b$error), NA))
  list(sheet = file, made = length(built) - failed, failed = failed, maps = I(unname(maps)))
}

cat_json <- function(content) {
  cat(jsonlite::toJSON(content, auto_unbox = TRUE, null = "null", pretty = 2), "\n", sep = "")
}

# ---- one run at a time ---------------------------------------------------------------------------
