# What a join found: as data, and as text to be read.

#' What a join matched and what it did not
#'
#' @param data A tibble from [join_statistics()].
#' @return A tibble of class `ochre_audit` with one row for each key that has no partner or
#'   was matched only after tidying: `side` (`"boundaries"`, `"statistics"` or `"tidied"`),
#'   `key`, `row` (position on its side), `suggestion` (the likely partner's key, or `NA`) and
#'   `reason` (why it is likely, or `"missing key"`). Counts are in `attr(, "counts")`, a named
#'   integer vector. Printed, it is text.
#' @section Errors: `ochre_error_argument` when `data` does not come from a join.
#' @export
join_audit <- function(data) {
  audit <- attr(data, "ochre_join")
  if (is.null(audit)) {
    ochre_abort("argument", "`data` has no audit.", "Give what join_statistics() returned; some verbs drop what it found.", arg = "data")
  }
  audit
}

audit_join <- function(left, right, partner, tidied, by) {
  alone_left <- which(is.na(partner))
  alone_right <- setdiff(seq_along(right), partner)
  # The likelier partner has none itself; else it is a second spelling of a matched one.
  suggest <- function(key, free, taken) {
    first <- suggest_partner(key, free)
    second <- suggest_partner(key, taken)
    use <- is.na(first$suggestion) & !is.na(second$suggestion)
    first$suggestion[use] <- second$suggestion[use]
    first$reason[use] <- paste0(second$reason[use], "; it has a partner already")
    first$reason[is.na(key)] <- "missing key"
    first
  }
  side <- function(name, key, rows, free, taken) {
    lone <- key[rows]
    tibble::tibble(side = rep(name, length(rows)), key = lone, row = rows, suggest(lone, free, taken))
  }
  rows <- rbind(
    side("boundaries", left, alone_left, right[alone_right], character()),
    side("statistics", right, alone_right, left[alone_left], left[!is.na(partner)]),
    tibble::tibble(side = rep("tidied", length(tidied)), key = right[partner[tidied]], row = partner[tidied],
                   suggestion = left[tidied], reason = suggest_partner(right[partner[tidied]], left[tidied])$reason)
  )
  counts <- c(boundaries = length(left), statistics = length(right), matched = sum(!is.na(partner)), tidied = length(tidied),
              boundaries_alone = length(alone_left), statistics_alone = length(alone_right))
  structure(rows, counts = counts, by = by, class = c("ochre_audit", class(rows)))
}

tell_join <- function(audit) {
  counts <- attr(audit, "counts")
  if ("unmatched" %in% getOption("ochre.quiet")) return(invisible())
  if (counts[["boundaries_alone"]] || counts[["statistics_alone"]] || counts[["tidied"]]) {
    ochre_tell(paste(format(audit, most = 6), collapse = "\n"))
  }
}

#' @export
format.ochre_audit <- function(x, ..., most = 20) {
  counts <- attr(x, "counts")
  by <- attr(x, "by")
  head <- sprintf("Join of `%s` (boundaries) with `%s` (statistics): %d of %s matched%s.", by$boundaries, by$statistics,
                  counts[["matched"]], count_words(counts[["boundaries"]], "area"),
                  if (counts[["tidied"]]) sprintf(", %d of them only after tidying the key", counts[["tidied"]]) else "")
  c(head,
    audit_lines(x, "boundaries", "without statistics", most),
    audit_lines(x, "statistics", "without an area", most),
    audit_lines(x, "tidied", "matched after tidying", most))
}

audit_lines <- function(x, side, title, most) {
  rows <- tibble::as_tibble(x)[x$side == side, ]
  if (!nrow(rows)) return(if (side != "tidied") sprintf("  no %s %s", if (side == "boundaries") "area" else "row", title))
  hint <- ifelse(is.na(rows$suggestion), ifelse(is.na(rows$reason), "", paste0("  (", rows$reason, ")")),
                 sprintf("  %s %s  (%s)", if (side == "tidied") "=" else "perhaps", rows$suggestion, rows$reason))
  key <- ifelse(is.na(rows$key), "<missing>", rows$key)
  lines <- paste0("    ", format(key), hint)
  c(sprintf("  %s %s:", count_words(nrow(rows), if (side == "statistics") "row" else "area"), title),
    sub(" +$", "", utils::head(lines, most)), if (nrow(rows) > most) sprintf("    and %d more", nrow(rows) - most))
}

#' @export
print.ochre_audit <- function(x, ...) {
  cat(format(x), sep = "\n")
  invisible(x)
}
