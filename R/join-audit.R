# What a join found: as data, and as text to be read.

#' What a join matched and what it did not
#'
#' @param data A tibble from [join_statistics()].
#' @param join Which one, where several tables were joined: one whole number, in their order;
#'   `NULL` (default) for the last.
#' @return A tibble of class `ochre_audit` with one row for each key that has no partner or was
#'   not matched exactly: `side` (`"boundaries"`, `"statistics"`, `"tidied"`, `"alias"` or
#'   `"left out"`), `key`, `row` (its first position on its side), `rows` (how many have it),
#'   `suggestion` (the likely partner's key, or `NA`) and `reason` (why it is likely, or what the
#'   key looks like). Attributes: `counts`, a named integer vector (`boundaries`, `statistics`,
#'   `matched`, `tidied`, `alias`, `left_out`, `boundaries_alone`, `statistics_alone`, and with
#'   periods `gaps`); `lost`, a tibble with `side`, `column`, `lost`, `total` and `share` of what
#'   the columns of counts lose by keys without a partner or left out; `notes`, texts on how the
#'   keys of the two sides differ as a whole. Printed, it is text; see also [audit_fragment()].
#' @section Errors: `ochre_error_argument` when `data` does not come from a join.
#' @export
join_audit <- function(data, join = NULL) {
  refuse_missing(missing(data), "data", rlang::current_env())
  audits <- attr(data, "ochre_joins")
  if (is.null(audits)) {
    ochre_abort(
      "argument", "`data` has no audit.",
      "Give what join_statistics() returned; some verbs drop what it found.", arg = "data"
    )
  }
  check_number(join, "join", min = 1, max = length(audits), whole = TRUE, null = TRUE)
  finish_audit(audits[[join %||% length(audits)]])
}

# A join leaves its audit without suggestions; they take longer than the join and are made when
# read.
finish_audit <- function(audit) {
  known <- attr(audit, "known")
  if (is.null(known)) return(audit)
  one <- audit$side == "boundaries"
  other <- audit$side == "statistics"
  fill <- function(rows, free, taken) {
    found <- suggest_free(audit$key[rows], free, taken)
    audit$suggestion[rows] <<- found$suggestion
    audit$reason[rows] <<- found$reason
  }
  fill(one, audit$key[other], character())
  fill(other, audit$key[one], if (any(other)) known else character())
  tidied <- audit$side == "tidied"
  audit$reason[tidied] <- suggest_pairs(audit$key[tidied], audit$suggestion[tidied])
  audit$reason[tidied & is.na(audit$reason)] <- "words or prefix"
  audit$key <- shown_key(audit$key)
  audit$suggestion <- shown_key(audit$suggestion)
  attr(audit, "known") <- NULL
  audit
}

audit_join <- function(keys, boundaries, statistics) {
  left <- keys$left
  right <- keys$right
  found <- keys$found
  when <- keys$when
  by <- keys$by
  alone_left <- which(is.na(found$stage))
  alone_right <- setdiff(found$alone, found$left_out)
  first <- alone_right[!duplicated(right[alone_right])]
  rows <- rbind(
    key_rows("boundaries", left[alone_left], alone_left, 1L),
    key_rows("statistics", right[first], first, count_keys(right[first], right[alone_right])),
    matched_rows("tidied", left, right, found),
    matched_rows("alias", left, right, found, "named by an alias"),
    left_out_rows(right, found$left_out)
  )
  lost <- what_is_lost(boundaries, statistics, alone_left, alone_right, found$left_out, by)
  notes <- if (length(alone_left) && length(first)) {
    key_notes(keys, alone_left, first, boundaries, statistics)
  }
  alone <- c(boundaries = length(alone_left), statistics = length(first))
  structure(
    rows,
    counts = join_counts(keys, alone),
    by = by,
    period = when$column,
    lost = lost,
    notes = c(note_periods(when), parts_notes(keys$parts, found), notes),
    known = left[!is.na(found$stage)],
    class = c("ochre_audit", class(rows))
  )
}

left_out_rows <- function(right, left_out) {
  keys <- unique(right[left_out])
  rows <- left_out[!duplicated(right[left_out])]
  key_rows("left out", keys, rows, count_keys(keys, right[left_out]))
}

# How many keys of each side there are, and what became of them. `alone` counts those without a
# partner.
join_counts <- function(keys, alone) {
  right <- keys$right
  found <- keys$found
  when <- keys$when
  left_out <- length(unique(right[found$left_out]))
  matched <- sum(!is.na(found$stage))
  periods <- !is.null(when$index)
  alone <- unname(alone)
  c(
    boundaries = length(keys$left),
    statistics = if (periods) matched + alone[2] + left_out else length(right),
    matched = matched,
    tidied = sum(found$stage %in% "tidied"),
    alias = sum(found$stage %in% "alias"),
    left_out = left_out,
    boundaries_alone = alone[1],
    statistics_alone = alone[2],
    gaps = if (periods) as.integer(keys$slots$empty) - alone[1] * length(when$known) else 0L
  )
}

count_keys <- function(keys, among) tabulate(match(among, keys), length(keys))

key_rows <- function(side, key, row, rows, suggestion = NA_character_, reason = NA_character_) {
  n <- length(key)
  tibble::new_tibble(
    list(
      side = rep(side, n),
      key = key,
      row = as.integer(row),
      rows = rep_len(as.integer(rows), n),
      suggestion = rep_len(suggestion, n),
      reason = rep_len(reason, n)
    ),
    nrow = n
  )
}

matched_rows <- function(stage, left, right, found, reason = NA_character_) {
  areas <- which(found$stage == stage)
  row <- if (length(areas)) match(areas, found$area) else integer()
  key_rows(stage, right[row], row, 1L, left[areas], reason)
}

# The likelier partner has none itself; else it is a second spelling of a matched one.
suggest_free <- function(key, free, taken) {
  first <- suggest_partner(key, free)
  second <- suggest_partner(key, taken, words = FALSE)
  use <- is.na(first$suggestion) & !is.na(second$suggestion)
  first$suggestion[use] <- second$suggestion[use]
  first$reason[use] <- paste0(second$reason[use], "; it has a partner already")
  total <- is.na(first$suggestion) & tidy_key(key) %in% total_words
  first$reason[total] <- "a total, not an area"
  first$reason[is.na(key)] <- "missing key"
  first
}

total_words <- c(
  "total", "totals", "all", "allareas", "sum", "overall", "wholecountry", "grandtotal",
  "gesamt", "insgesamt", "summe", "ensemble", "totaux", "suma", "ogolem", "razem",
  "unknown", "notknown", "notstated", "other", "unbekannt", "inconnu", "desconocido",
  "nieznany"
)

# How much of each column of counts belongs to keys without a partner.
what_is_lost <- function(boundaries, statistics, alone_left, alone_right, left_out, by) {
  one <- function(side, table, rows, keys) {
    if (!length(rows)) return(NULL)
    columns <- names(table)[
      vapply(
        names(table),
        function(name) !name %in% keys && column_role(table[[name]], name) == "count",
        NA
      )
    ]
    parts <- lapply(columns, function(name) {
      tibble::tibble(
        side = side,
        column = name,
        lost = column_total(table[[name]][rows]),
        total = column_total(table[[name]])
      )
    })
    do.call(rbind, parts)
  }
  out <- rbind(
    tibble::tibble(side = character(), column = character(), lost = numeric(), total = numeric()),
    one("boundaries", boundaries, alone_left, by$boundaries),
    one("statistics", statistics, alone_right, by$statistics),
    one("left out", statistics, left_out, by$statistics)
  )
  out$share <- ifelse(out$total > 0, out$lost / out$total, NA_real_)
  out
}

# Of what is finite; without a copy of a long column where all is.
column_total <- function(x) {
  total <- if (!length(x)) 0 else mean(x) * length(x)
  if (is.finite(total)) total else sum(as.numeric(x)[is.finite(x)])
}

note_periods <- function(when) {
  if (is.null(when$index) || min(when$index) >= 0) return(NULL)
  lost <- sum(when$index < 0)
  sprintf("%s without a `%s` left out.", count_words(lost, "row is", "rows are"), when$column)
}

# Areas that share a key, and marks that stand for no key.
parts_notes <- function(parts, found) {
  part <- parts$of != seq_along(parts$of) & !is.na(found$stage)
  shared <- length(unique(parts$key[part]))
  c(
    if (shared) {
      sprintf(
        "%s on several areas, which have the same numbers: %s. Do not add them up.",
        count_words(shared, "key is", "keys are"),
        list_words(shown_key(unique(parts$key[part])))
      )
    },
    if (length(parts$missing)) {
      sprintf(
        "%s among the keys of the boundaries %s for a missing one.",
        list_words(parts$missing),
        if (length(parts$missing) == 1) "stands" else "stand"
      )
    }
  )
}

tell_join <- function(audit) {
  counts <- attr(audit, "counts")
  if ("unmatched" %in% getOption("ochre.quiet")) return(invisible())
  if (any(
      counts[c("boundaries_alone", "statistics_alone", "tidied", "alias", "left_out", "gaps")] >
        0
    )) {
    ochre_tell(paste(format(finish_audit(audit), most = 6), collapse = "\n"))
  }
}

#' @export
format.ochre_audit <- function(x, ..., most = 20) {
  counts <- attr(x, "counts")
  by <- attr(x, "by")
  inexact <- c(
    if (counts[["tidied"]]) {
      sprintf("%d of them only after tidying the key", counts[["tidied"]])
    },
    if (counts[["alias"]]) sprintf("%d by an alias", counts[["alias"]])
  )
  head <- sprintf(
    "Join of %s (boundaries) with %s (statistics): %s of %s matched%s.",
    list_words(by$boundaries),
    list_words(by$statistics),
    format(counts[["matched"]], big.mark = ","),
    count_words(counts[["boundaries"]], "area"),
    if (length(inexact)) paste0(", ", paste(inexact, collapse = ", ")) else ""
  )
  c(
    head,
    audit_lines(x, "boundaries", "without statistics", most),
    audit_lines(x, "statistics", "without an area", most),
    audit_lines(x, "tidied", "matched after tidying", most),
    audit_lines(x, "alias", "matched by an alias", most),
    audit_lines(x, "left out", "left out on purpose", most),
    if (counts[["gaps"]]) {
      sprintf(
        "  %s of an area and `%s` without a value",
        count_words(counts[["gaps"]], "pair"),
        attr(x, "period")
      )
    },
    lost_lines(attr(x, "lost")),
    if (length(attr(x, "notes"))) paste0("  Note: ", attr(x, "notes"))
  )
}

lost_lines <- function(lost, most = 3) {
  lost <- lost[lost$lost > 0 & is.finite(lost$share), ]
  lost <- lost[order(-lost$total), ]
  vapply(
    seq_len(min(most, nrow(lost))),
    function(i) {
      share <- 100 * lost$share[i]
      sprintf(
        "  `%s`: %s in %s (%s of %s)",
        lost$column[i],
        if (share < 0.1) {
          "less than 0.1 %"
        } else {
          paste(format_number(share, if (share < 10) 1 else 0), "%")
        },
        c(
          boundaries = "areas without statistics",
          statistics = "rows without an area",
          `left out` = "rows left out on purpose"
        )[[lost$side[i]]],
        format_number(lost$lost[i], 0),
        format_number(lost$total[i], 0)
      )
    },
    ""
  )
}

audit_lines <- function(x, side, title, most) {
  rows <- tibble::as_tibble(x)[x$side == side, ]
  main <- side %in% c("boundaries", "statistics")
  if (!nrow(rows)) {
    return(
      if (main) {
        sprintf("  no %s %s", if (side == "boundaries") "area" else "row", title)
      }
    )
  }
  hint <- ifelse(
    is.na(rows$suggestion),
    ifelse(is.na(rows$reason), "", paste0("  (", rows$reason, ")")),
    sprintf("  %s %s  (%s)", if (main) "perhaps" else "=", rows$suggestion, rows$reason)
  )
  key <- ifelse(is.na(rows$key), "<missing>", rows$key)
  lines <- paste0(
    "    ",
    format(key),
    ifelse(rows$rows > 1, sprintf(" \u00d7 %d", rows$rows), ""),
    hint
  )
  c(
    sprintf(
      "  %s %s:",
      count_words(
        nrow(rows),
        if (side %in% c("statistics", "left out") && any(rows$rows > 1)) {
          "key"
        } else if (side %in% c("statistics", "left out")) {
          "row"
        } else {
          "area"
        }
      ),
      title
    ),
    sub(" +$", "", utils::head(lines, most)),
    if (nrow(rows) > most) sprintf("    and %d more", nrow(rows) - most)
  )
}

#' @export
print.ochre_audit <- function(x, ...) {
  cat(format(x), sep = "\n")
  invisible(x)
}
