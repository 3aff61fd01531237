# A join's audit for a report: a fragment of HTML without styles or scripts of its own.

#' An audit as a fragment of HTML
#'
#' For reports: one `<section>` with a heading, a sentence of what matched, a table of what did
#' not, what is lost by it, and the notes. All texts from data are escaped. In R Markdown write it
#' with `htmltools::HTML()`.
#'
#' @param audit An audit from [join_audit()].
#' @param most The most rows to list: one whole number.
#' @param level Level of the heading, from 1 to 6: one whole number.
#' @return One text.
#' @section Errors: `ochre_error_argument`.
#' @examples
#' areas <- read_boundaries(ochre_demo("districts.geojson"))
#' joined <- join_statistics(
#'   areas,
#'   data.frame(code = c("0101", "9999"), beds = c(20, 5)),
#'   by = "code"
#' )
#' cat(substr(audit_fragment(join_audit(joined)), 1, 200))
#' @export
audit_fragment <- function(audit, most = 200, level = 2) {
  refuse_missing(missing(audit), "audit", rlang::current_env())
  if (!inherits(audit, "ochre_audit")) {
    ochre_abort("argument", "`audit` must come from join_audit().", arg = "audit")
  }
  check_number(most, "most", min = 0, whole = TRUE)
  check_number(level, "level", min = 1, max = 6, whole = TRUE)
  tags <- htmltools::tags
  rows <- utils::head(tibble::as_tibble(audit), most)
  notes <- c(
    sub("^ +", "", lost_lines(attr(audit, "lost"), 10)),
    attr(audit, "notes"),
    if (nrow(audit) > most) sprintf("%d more keys are not listed.", nrow(audit) - most)
  )
  heading <- tags[[paste0("h", level)]]
  as.character(tags$section(
    class = "ochre-audit",
    heading("What the join matched"),
    tags$p(format(audit, most = 0)[1]),
    if (nrow(rows)) audit_table(rows, attr(audit, "counts")),
    if (length(notes)) tags$ul(lapply(notes, tags$li))
  ))
}

audit_sides <- c(
  boundaries = "area without statistics", statistics = "statistics without an area",
  tidied = "matched after tidying", alias = "matched by an alias",
  `left out` = "left out on purpose"
)

audit_table <- function(rows, counts) {
  tags <- htmltools::tags
  blank <- function(x) ifelse(is.na(x), "", x)
  cells <- cbind(
    audit_sides[rows$side],
    ifelse(is.na(rows$key), "(missing)", rows$key),
    rows$rows,
    blank(rows$suggestion),
    blank(rows$reason)
  )
  head <- lapply(c("What", "Key", "Rows", "Likely partner", "Reason"), function(x) {
    tags$th(scope = "col", x)
  })
  body <- lapply(seq_len(nrow(rows)), function(i) tags$tr(lapply(unname(cells[i, ]), tags$td)))
  tags$table(
    tags$caption(sprintf(
      "%s without statistics, %s without an area.",
      count_words(counts[["boundaries_alone"]], "area"),
      count_words(counts[["statistics_alone"]], "key")
    )),
    tags$thead(tags$tr(head)),
    tags$tbody(body)
  )
}
