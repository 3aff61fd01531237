# The record of a build: what went in, what a map says, what came out. The next build compares with
# it: what has not changed is not made again, and what has is said.

record_version <- 1L

# ---- what goes in --------------------------------------------------------------------------------

file_facts <- function(paths) {
  lapply(paths, function(path) {
    list(
      file = path,
      bytes = file.size(path),
      sha256 = digest::digest(path, "sha256", file = TRUE),
      modified = format(file.mtime(path), "%Y-%m-%dT%H:%M:%SZ", tz = "UTC")
    )
  })
}

# ---- what a map says -----------------------------------------------------------------------------

# `work` has `text`, `values` and `inputs`. Warnings, what changed and what came out are added when
# they are known.
new_record <- function(work, plan, audits) {
  list(
    record = record_version,
    sheet = basename(work$text$file),
    program = program_facts(),
    values = if (length(work$values)) work$values,
    inputs = if (!is.null(work$inputs)) I(file_facts(work$inputs)),
    joins = I(lapply(names(audits), function(name) {
      list(table = name, counts = as.list(attr(audits[[name]], "counts")))
    })),
    layers = I(Filter(Negate(is.null), lapply(plan$layers, layer_facts, panels = plan$panels)))
  )
}

# What areas and symbols that are drawn are worth, by their codes or names; of several periods the
# last.
layer_facts <- function(layer, panels) {
  keys <- layer$codes %||% layer$names
  if (is.null(keys)) return(NULL)
  now <- in_panel(layer, length(layer$panels))
  if (layer_is(layer, "marks")) {
    keys <- keys[seq_along(layer$x)]
    now$numbers <- now$numbers[seq_along(keys)]
  }
  list(
    legend = layer$legend,
    period = if (length(layer$panels)) panels[length(panels)],
    breaks = if (!is.null(now$breaks)) I(now$breaks[is.finite(now$breaks)]),
    labels = I(as.character(now$labels)),
    keys = I(keys_apart(keys)),
    class = if (layer_is(layer, "shaded")) I(now$class),
    counts = are_counts(now$numbers),
    numbers = if (!is.null(now$numbers)) I(now$numbers)
  )
}

# Numbers that can be added up: whole ones that are not below zero.
are_counts <- function(numbers) {
  numbers <- numbers[!is.na(numbers)]
  length(numbers) > 0 && all(numbers == round(numbers) & numbers >= 0)
}

# Several areas of one name are told apart by their order.
keys_apart <- function(keys) {
  keys <- ifelse(is.na(keys), "", keys)
  turn <- stats::ave(seq_along(keys), keys, FUN = seq_along)
  ifelse(turn > 1, sprintf("%s (%d)", keys, turn), keys)
}

# ---- the file ------------------------------------------------------------------------------------

# Beside the first output: one record for each map of a sheet.
record_path <- function(files) {
  paste0(sub("[.][^./\\\\]*$", "", sub("[/\\\\]+$", "", files[1])), ".record.json")
}

# Of a folder all that is in it.
files_in <- function(paths) {
  unlist(lapply(paths, function(path) {
    if (dir.exists(path)) list.files(path, full.names = TRUE) else path
  }))
}

read_record <- function(path) {
  if (!file.exists(path) || file.size(path) > record_bytes) return(NULL)
  record <- tryCatch(jsonlite::read_json(path), error = function(e) NULL)
  if (is_whole_record(record)) return(record)
  ochre_warn("record", "`{path}` is no record that can be read; nothing is compared with it.",
             "It is written anew.")
  NULL
}

# One that was spoilt, or written by another program, breaks what reads it.
is_whole_record <- function(record) {
  whole <- tryCatch(
    {
      compare_records(record, record)
      is_current(record, list(), character(), character())
      all(vapply(c(record$inputs, record$outputs), function(f) is.character(f$file), NA)) &&
        all(vapply(record$layers, function(l) length(l$keys) == length(l$class %||% l$keys), NA))
    },
    error = function(e) FALSE
  )
  isTRUE(whole) && identical(record$record, record_version)
}
record_bytes <- 2e8

# A record as it is when it is read again.
as_read <- function(record) {
  jsonlite::fromJSON(
    as.character(jsonlite::toJSON(record, auto_unbox = TRUE, null = "null", na = "null",
                                  digits = NA)),
    simplifyVector = FALSE
  )
}

write_record <- function(record, path) {
  text <- jsonlite::toJSON(record, auto_unbox = TRUE, null = "null", na = "null", digits = NA,
                           pretty = 1)
  write_whole(path, function(part) write_lines(as.character(text), part), "json")
}

# Is what a record tells of still so: the same files in and out, the same program and values?
is_current <- function(record, values, inputs, files) {
  if (is.null(record) || is.null(inputs) || !all(utils::file_test("-f", inputs)) ||
      !all(file.exists(files))) {
    return(FALSE)
  }
  same <- function(known, paths) {
    known <- vapply(known, function(f) paste(f$file, f$bytes, f$sha256), "")
    now <- vapply(file_facts(paths), function(f) paste(f$file, f$bytes, f$sha256), "")
    identical(sort(known), sort(now))
  }
  identical(record$program, program_facts()) &&
    identical(as.character(unlist(record$values)), as.character(unlist(values))) &&
    same(record$inputs, inputs) && same(record$outputs, files_in(files))
}

# ---- what changed --------------------------------------------------------------------------------

# A list of `kind`, `what` in words, and figures; `old` and `new` are records.
compare_records <- function(old, new) {
  if (is.null(old)) return(list())
  as.list(c(
    changed_inputs(old$inputs, new$inputs),
    unlist(lapply(seq_along(new$layers), function(i) {
      if (i <= length(old$layers)) changed_layer(old$layers[[i]], new$layers[[i]])
    }), recursive = FALSE),
    changed_warnings(old$warnings, new$warnings)
  ))
}

change <- function(kind, what, ...) list(list(kind = kind, what = what, ...))

changed_inputs <- function(old, new) {
  facts <- function(list, field) {
    stats::setNames(vapply(list, `[[`, "", field), vapply(list, `[[`, "", "file"))
  }
  was <- facts(old, "sha256")
  is <- facts(new, "sha256")
  other <- names(is)[names(is) %in% names(was) & is != was[names(is)]]
  late <- other[facts(new, "modified")[other] < facts(old, "modified")[other]]
  c(
    if (length(other)) {
      change("inputs", sprintf("New contents: %s.", list_words(other, Inf)), files = I(other))
    },
    if (length(late)) {
      change(
        "older",
        sprintf("Older than what was read before: %s.", list_words(late, Inf)),
        files = I(late)
      )
    }
  )
}

changed_layer <- function(old, new) {
  keys <- as.character(unlist(new$keys))
  before <- as.character(unlist(old$keys))
  gone <- setdiff(before, keys)
  come <- setdiff(keys, before)
  legend <- new$legend %||% "The map"
  said <- function(list, word, kind) {
    if (!length(list)) return(NULL)
    change(
      kind,
      sprintf("%s: %s %s: %s.", legend, count_words(length(list), "area"), word, list_words(list)),
      keys = I(list), count = length(list)
    )
  }
  c(
    said(gone, "gone", "gone"),
    said(come, "new", "new"),
    changed_classes(old, new, legend),
    changed_breaks(old, new, legend),
    changed_total(old, new, legend)
  )
}

# Lists of JSON as vectors; null is NA.
flat <- function(list) {
  vapply(list, function(v) if (is.null(v)) NA_real_ else as.numeric(v), 0)
}

changed_classes <- function(old, new, legend) {
  if (is.null(old$class) || is.null(new$class)) return(NULL)
  at <- match(unlist(new$keys), unlist(old$keys))
  was <- flat(old$class)[at]
  is <- flat(new$class)
  other <- which(!is.na(at) & was != is)
  if (!length(other)) return(NULL)
  lost <- sum(is[other] == 0)
  change(
    "class",
    sprintf(
      "%s: %s of %d in another class%s: %s.",
      legend,
      count_words(length(other), "area"),
      sum(!is.na(at)),
      if (lost) sprintf(", %d of them without data now", lost) else "",
      list_words(as.character(unlist(new$keys))[other])
    ),
    keys = I(as.character(unlist(new$keys))[other]),
    count = length(other),
    share = length(other) / sum(!is.na(at))
  )
}

changed_breaks <- function(old, new, legend) {
  was <- flat(old$breaks)
  is <- flat(new$breaks)
  if (isTRUE(all.equal(was, is))) return(NULL)
  words <- function(v) paste(format(v, digits = 6, trim = TRUE), collapse = ", ")
  change(
    "breaks",
    sprintf("%s: breaks are %s; they were %s.", legend, words(is), words(was)),
    before = I(was), after = I(is)
  )
}

# Sums of counts; those of rates and shares say nothing.
changed_total <- function(old, new, legend) {
  if (!isTRUE(old$counts) || !isTRUE(new$counts)) return(NULL)
  was <- sum(flat(old$numbers), na.rm = TRUE)
  is <- sum(flat(new$numbers), na.rm = TRUE)
  if (is.null(old$numbers) || isTRUE(all.equal(was, is))) return(NULL)
  share <- if (was != 0) is / was - 1 else NA_real_
  change(
    "total",
    sprintf(
      "%s: the sum is %s; it was %s%s.",
      legend,
      format(signif(is, 6), big.mark = ","),
      format(signif(was, 6), big.mark = ","),
      if (is.na(share)) "" else sprintf(" (%+.1f %%)", 100 * share)
    ),
    before = was, after = is, share = share
  )
}

changed_warnings <- function(old, new) {
  fresh <- setdiff(vapply(new, function(w) w$what, ""), vapply(old, function(w) w$what, ""))
  if (!length(fresh)) return(NULL)
  change("warnings", sprintf("New warnings: %s", paste(fresh, collapse = " ")), warnings = I(fresh))
}

# ---- what may not change -------------------------------------------------------------------------

# The rules of a sheet (`fail_if`) that a build breaks, in words.
broken_rules <- function(rules, record, changes) {
  of <- function(kind) Filter(function(c) c$kind == kind, changes)
  most <- function(kind, field) {
    max(0, vapply(of(kind), function(c) abs(c[[field]]), 0), na.rm = TRUE)
  }
  lost <- max(0, vapply(record$layers, function(l) {
    if (length(l$class)) mean(flat(l$class) == 0) else 0
  }, 0))
  found <- list(
    gone = most("gone", "count"),
    new = most("new", "count"),
    class_changed = most("class", "share"),
    total_changed = most("total", "share"),
    no_data = lost,
    older = length(of("older"))
  )
  broken <- Filter(function(name) found[[name]] > rules[[name]], names(rules))
  vapply(broken, function(name) {
    sprintf("`%s` is %s, and %s may be", name, signif(found[[name]], 3), format(rules[[name]]))
  }, "", USE.NAMES = FALSE)
}
