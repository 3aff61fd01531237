# What stands in a report, as Markdown, in the map's language.

# A list of sections, each NULL or lines; `words` are their titles.
report_words <- function(looked) {
  locale <- looked$locale
  words <- locale$report
  plan <- looked$plan
  layer <- reported_layer(plan)
  list(
    words = lapply(words, one_line),
    language = plan$locale,
    plain_title = plan$title,
    title = one_line(plan$title),
    alt = one_line(plan$alt),
    head = report_head(plan, words),
    method = if (!is.null(layer)) method_part(layer, looked),
    ends = if (!is.null(layer$numbers)) ends_part(layer, locale),
    joins = joins_part(looked$audits, locale),
    checks = checks_part(looked, layer),
    warnings = vapply(looked$warnings, function(w) {
      paste0("* ", one_line(paste(c(w$what, w$mend), collapse = " ")))
    }, ""),
    changes = changes_part(looked$changed, words),
    sources = sources_part(looked, words),
    again = again_part(looked, words)
  )
}

# The first layer of areas with classes, in its last period.
reported_layer <- function(plan) {
  found <- Filter(function(l) layer_is(l, "shaded") && length(l$labels) > 1, plan$layers)
  if (length(found)) in_panel(found[[1]], length(found[[1]]$panels))
}

# How many classes it has besides the one of hatched areas.
stepped <- function(layer) length(layer$labels) - length(layer$hatch$class)

fill_report <- function(word, ...) {
  given <- list(...)
  for (i in seq_along(given)) {
    word <- gsub(sprintf("{%d}", i - 1L), given[[i]], word, fixed = TRUE)
  }
  word
}

# A table of Markdown: texts from data are letters, whatever they hold.
report_table <- function(table, right = character()) {
  align <- ifelse(names(table) %in% right, "r", "l")
  # kable() sees to the bars itself.
  cell <- function(x) {
    gsub("\\|", "|", one_line(ifelse(is.na(x), "", as.character(x))), fixed = TRUE)
  }
  names <- cell(names(table))
  table[] <- lapply(table, cell)
  as.character(knitr::kable(table, "pipe", col.names = names, align = align, row.names = FALSE))
}

report_head <- function(plan, words) {
  c(
    if (!is.null(plan$subtitle)) one_line(plan$subtitle),
    paste0("*", one_line(fill_report(
      words$made, format(Sys.time(), "%Y-%m-%d %H:%M"),
      as.character(utils::packageVersion("ochre")), as.character(getRversion())
    )), "*"),
    if (!is.null(plan$source)) one_line(plan$source),
    if (!is.null(plan$note)) one_line(plan$note)
  )
}

# ---- classes -------------------------------------------------------------------------------------

method_part <- function(layer, looked) {
  locale <- looked$locale
  words <- locale$report
  percent <- function(x) paste0(format_number(100 * x, 1, locale = locale), "\u00a0%")
  classes <- data.frame(c(layer$labels, layer$no_data$label), c(layer$count_labels,
                                                                layer$no_data$count_label))
  names(classes) <- c(layer$legend %||% words$class, words$count)
  known <- is.numeric(layer$fit) && !is.na(layer$fit) && layer$method != "categories"
  said <- if (known) {
    one_line(fill_report(words$explained, stepped(layer), layer$method, percent(layer$fit)))
  }
  ways <- if (known) other_ways(layer, locale, percent)
  c(said, "", report_table(classes, words$count), if (!is.null(ways)) {
    c("", paste0("**", one_line(words$ways), "**"), "", ways)
  })
}

other_ways <- function(layer, locale, percent) {
  counted <- counted_numbers(layer, layer)
  numbers <- as.numeric(counted[is.finite(counted)])
  n <- stepped(layer)
  if (n < 2 || n > 11 || length(unique(numbers)) <= n) return(NULL)
  tried <- suppressWarnings(suppressMessages(compare_steps(numbers, n = n)))
  tried <- tried[tried$classes == n & tried$method != layer$method, ]
  if (!nrow(tried)) return(NULL)
  words <- locale$report
  own <- tabulate(layer$class, n)
  table <- data.frame(
    c(sprintf("%s (%s)", layer$method, words$chosen), tried$method),
    percent(c(layer$fit, tried$fit)),
    percent(c(max(own) / sum(own), tried$largest)),
    c(break_words(layer, locale), vapply(tried$steps, break_words, "", locale = locale))
  )
  names(table) <- c(words$way, words$fit, words$fullest, words$limits)
  report_table(table, c(words$fit, words$fullest))
}

# The inner breaks of a layer or of steps.
break_words <- function(of, locale) {
  inner <- of$breaks[-c(1, length(of$breaks))]
  paste(format_number(inner, of$digits, locale = locale), collapse = "; ")
}

ends_part <- function(layer, locale, most = 10) {
  words <- locale$report
  keys <- layer$names %||% layer$codes
  counted <- counted_numbers(layer, layer)
  known <- which(is.finite(counted))
  if (is.null(keys) || length(known) < 2) return(NULL)
  order <- known[order(-layer$numbers[known])]
  most <- min(most, floor(length(order) / 2))
  part <- function(title, rows) {
    # Outside all classes is a class too.
    class <- c(layer$no_data$label, layer$labels)[layer$class[rows] + 1]
    table <- data.frame(keys[rows], layer$values[rows], class)
    names(table) <- c(words$area, words$value, words$class)
    c(paste0("**", one_line(title), "**"), "", report_table(table, words$value), "")
  }
  c(
    part(words$highest, utils::head(order, most)),
    part(words$lowest, rev(utils::tail(order, most)))
  )
}

# ---- joins and checks ----------------------------------------------------------------------------

joins_part <- function(audits, locale) {
  words <- locale$report
  unlist(lapply(names(audits), function(name) {
    audit <- audits[[name]]
    counts <- attr(audit, "counts")
    said <- c("matched", "tidied", "boundaries_alone", "statistics_alone")
    table <- data.frame(
      c(words$matched, words$tidied, words$areas_lost, words$rows_lost),
      format_number(as.numeric(counts[said]), 0, locale = locale)
    )
    names(table) <- c(name, words$count)
    lost <- function(side, title) {
      keys <- unique(audit$key[audit$side == side])
      if (!length(keys)) return(NULL)
      paste0("* ", one_line(title), ": ", one_line(list_words(keys, 20, mark = "")))
    }
    c(
      report_table(table, words$count), "", lost("boundaries", words$areas_lost),
      lost("statistics", words$rows_lost), ""
    )
  }))
}

# Which kinds of warning speak of what is looked at; all others of something else.
checked_kinds <- list(
  unmatched = c("unmatched", "aliases"), counts = "counts", empty = c("empty", "classes"),
  rounding = "rounding", outside = c("off_map", "outside", "swapped"), projection = "projection",
  colours = "ramp", other = character()
)

# What there is to look at on this map.
looked_for <- function(looked, layer, ramps) {
  placed <- layers_are(looked$plan$layers, "from_points")
  classed <- !is.null(layer)
  measured <- classed && !is.null(layer$numbers)
  c(
    unmatched = length(looked$audits) > 0, counts = measured, empty = measured,
    rounding = measured,
    outside = any(placed), projection = TRUE, colours = length(ramps) > 0, other = looked$read
  )
}

checks_part <- function(looked, layer) {
  words <- looked$locale$report
  kinds <- vapply(looked$warnings, function(w) w$kind, "")
  ramps <- checked_ramps(looked$plan)
  weak <- unlist(lapply(ramps, function(r) r$what[!r$passed]))
  failed <- vapply(checked_kinds, function(of) any(kinds %in% of), NA)
  failed["other"] <- !all(kinds %in% unlist(checked_kinds))
  failed["colours"] <- failed[["colours"]] || length(weak) > 0
  there <- looked_for(looked, layer, ramps)[names(failed)]
  result <- ifelse(failed, words$warned, ifelse(there, words$passed, words$skipped))
  table <- data.frame(unlist(words[names(failed)]), result)
  names(table) <- c(words$check, words$result)
  c(report_table(table), if (length(weak)) c("", paste0("* ", one_line(unique(weak)))))
}

# What check_ramp() finds of the colours of each layer; those that it cannot take are left out.
checked_ramps <- function(plan) {
  found <- lapply(plan$layers, function(layer) {
    of <- if (layer_is(layer, "shaded")) layer else layer$key
    colours <- of$colours[setdiff(seq_along(of$colours), of$hatch$class)]
    if (!is.null(of$square) || length(colours) < 2 || length(colours) > 12) return(NULL)
    kind <- if (layer_is(layer, "shaded") && is.null(of$breaks)) "categories"
    check_ramp(colours, kind, plan$ground)
  })
  Filter(Negate(is.null), found)
}

# ---- where from ----------------------------------------------------------------------------------

changes_part <- function(changed, words) {
  if (is.null(changed)) return(one_line(words$no_record))
  said <- vapply(changed, function(c) c$what, "")
  if (!length(said)) one_line(words$unchanged) else paste0("* ", one_line(said))
}

sources_part <- function(looked, words) {
  if (is.null(looked$inputs)) return(NULL)
  facts <- file_facts(looked$inputs)
  of <- function(field) vapply(facts, function(f) as.character(f[[field]]), "")
  table <- data.frame(
    basename(of("file")), size_words(as.numeric(of("bytes"))), of("modified"),
    substr(of("sha256"), 1, 16)
  )
  names(table) <- c(words$file, words$size, words$modified, words$hash)
  report_table(table, words$size)
}

again_part <- function(looked, words) {
  if (is.null(looked$text)) return(NULL)
  # A fence that the sheet cannot end.
  ticks <- gregexpr("`+", looked$text$lines)
  longest <- max(2, unlist(lapply(ticks, attr, "match.length")))
  fence <- strrep("`", longest + 1)
  c(
    one_line(words$again_words), "",
    fence, paste("ochre build", basename(looked$text$file)), "", looked$text$lines, fence
  )
}
