# Columns of one table of statistics brought to the rows of another, by the same keys and the same
# care as a join to boundaries.

#' Look up columns in another table
#'
#' Adds the columns of `table` to the rows of `data` that have its key; for example residents by
#' district and age group to counts of visits. Rows stay as they are and in their order.
#'
#' @param data A data frame.
#' @param table A data frame with one row a key, or a lazy table, whose rows are fetched.
#' @param by The key columns: `c(district = "code")` when `district` in `data` holds what `code`
#'   holds in `table`; several where only together they name a row.
#' @param match `"exact"` (default) or `"tidied"`, as in [join_statistics()].
#' @return `data` with the columns of `table` except its key, `NA` where it does not have the key;
#'   a warning `ochre_warning_unmatched` says how many rows that are. A column that both have gets
#'   the suffix `_table`.
#' @section Errors: `ochre_error_duplicates` when a key stands twice in `table`;
#' `ochre_error_column`; `ochre_error_argument`.
#' @examples
#' visits <- data.frame(
#'   district = c("01", "01", "02"),
#'   age = c("0-64", "65+", "65+"),
#'   visits = c(4, 9, 3)
#' )
#' residents <- data.frame(
#'   code = c("01", "01", "02"),
#'   age = c("0-64", "65+", "65+"),
#'   people = c(800, 200, 150)
#' )
#' look_up(visits, residents, by = c(district = "code", age = "age"))
#' @export
look_up <- function(data, table, by, match = "exact") {
  refuse_missing(missing(by), "by", rlang::current_env())
  check_table(data, "data")
  check_table(table, "table", lazy = TRUE)
  table <- fetch_lazy(table)
  by <- key_columns(rlang::enquo(by), data, table)
  check_choice(match, c("exact", "tidied"), "match")
  known <- key_of(table, by$statistics)
  wanted <- key_of(data, by$boundaries)
  check_duplicates(known, "table", by$statistics)
  found <- find_partners(known, wanted, match, NULL)
  alone <- unique(found$alone)
  if (length(alone)) {
    lost <- unique(wanted[alone])
    near <- suggest_free(lost, known[is.na(found$stage)], known[!is.na(found$stage)])
    hint <- which(!is.na(near$suggestion))[1]
    ochre_warn(
      "unmatched",
      sprintf(
        "%s of `data` are not in `table`: %s.", count_words(length(alone), "row"),
        list_words(shown_key(ifelse(is.na(lost), "missing key", lost)))
      ),
      if (!is.na(hint)) {
        sprintf(
          "`%s` is perhaps `%s` (%s)%s.",
          shown_key(lost[hint]),
          shown_key(near$suggestion[hint]),
          near$reason[hint],
          if (match == "exact") {
            "; match = \"tidied\" compares without case, accents and zeros"
          } else {
            ""
          }
        )
      }, rows = alone
    )
  }
  added <- table[setdiff(names(table), by$statistics)]
  clash <- names(added) %in% names(data)
  names(added)[clash] <- paste0(names(added)[clash], "_table")
  for (name in names(added)) data[[name]] <- take_column(added[[name]], found$area)
  move_geometry_last(data)
}
