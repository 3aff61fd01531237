# Between reading and joining: one row an area.

#' Sum a measure for each area
#'
#' @param data A data frame with several rows an area.
#' @param value Column to sum, bare or as text; numeric.
#' @param by Column that names the area, bare or as text.
#' @param name Name of the summed column: one text; by default that of `value`.
#' @return A tibble with one row an area in the order of first appearance: the area's column,
#'   the sum (double), and `<name>_missing`, the number of rows whose value is missing. Missing
#'   values are left out of the sum, and a warning `ochre_warning_missing` says how many; the
#'   sum of nothing but missing values is `NA`. Rows without an area are left out and said.
#' @section Errors: `ochre_error_column` when a column is not there or `value` is not numeric.
#' @examples
#' visits <- read_statistics(ochre_demo("visits.csv"))
#' sum_areas(visits, visits, by = district)
#' @export
sum_areas <- function(data, value, by, name = NULL) {
  check_table(data, "data")
  value <- column_name(rlang::enquo(value), data, "value")
  by <- column_name(rlang::enquo(by), data, "by")
  check_text(name, "name", null = TRUE)
  name <- name %||% value
  number <- check_numeric(data, value, "value")
  area <- data[[by]]
  keep <- !is.na(area)
  if (!all(keep)) {
    ochre_warn("missing", sprintf("Left out %s without `%s`.", count_words(sum(!keep), "row"), by), rows = which(!keep))
  }
  known <- unique(area[keep])
  group <- factor(match(area, known), seq_along(known))
  lost <- as.integer(rowsum_by(is.na(number), group))
  rows <- tabulate(group, length(known))
  total <- as.numeric(rowsum_by(ifelse(is.na(number), 0, number), group))
  total[lost == rows] <- NA
  if (sum(lost)) {
    ochre_warn("missing", sprintf("`%s` is missing in %s of %s; the sums leave them out.", value,
                                  count_words(sum(lost), "row"), count_words(sum(lost > 0), "area")),
               sprintf("The column `%s_missing` counts them.", name), column = value)
  }
  out <- stats::setNames(list(known, total, lost), c(by, name, paste0(name, "_missing")))
  tibble::as_tibble(out, .name_repair = "unique_quiet")
}

rowsum_by <- function(x, group) {
  out <- numeric(nlevels(group))
  sums <- rowsum(as.numeric(x)[!is.na(group)], group[!is.na(group)])
  out[as.integer(rownames(sums))] <- sums
  out
}

# A column given bare or as text, as its name.
column_name <- function(quo, data, arg, null = FALSE, call = rlang::caller_env()) {
  if (rlang::quo_is_missing(quo)) ochre_abort("argument", sprintf("`%s` is missing.", arg), "Name a column.", arg = arg, call = call)
  if (rlang::quo_is_null(quo) && null) return(NULL)
  name <- if (rlang::quo_is_symbol(quo)) rlang::as_name(quo) else if (is.character(rlang::quo_get_expr(quo))) rlang::quo_get_expr(quo)
          else tryCatch(rlang::eval_tidy(quo), error = function(e) NULL)
  if (!is.character(name) || length(name) != 1) {
    ochre_abort("argument", sprintf("`%s` must name one column, bare or as text.", arg), arg = arg, call = call)
  }
  check_column(data, name, arg, call = call)
  name
}

check_numeric <- function(data, column, arg, call = rlang::caller_env()) {
  x <- data[[column]]
  if (!is.numeric(x)) {
    odd <- unique(stats::na.omit(as.character(x)))
    odd <- odd[is.na(suppressWarnings(as.numeric(odd)))]
    ochre_abort("column", sprintf("`%s` names the column `%s`, which is not numeric.", arg, column),
                if (length(odd)) sprintf("It holds, for example, %s.", list_words(utils::head(odd, 3), mark = "\"")),
                arg = arg, column = column, call = call)
  }
  as.numeric(x)
}
