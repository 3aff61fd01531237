# Places that a table holds in one column of text.

#' Places out of one column
#'
#' Services often give a place as one text: `[10.4, 53.2]`, `POINT(10.4 53.2)`, `53.2, 10.4`,
#' `{"type":"Point","coordinates":[10.4,53.2]}`. This reads it, whatever of these it is.
#'
#' @param data A data frame.
#' @param column Column that holds the places, bare or as text.
#' @param order Which number comes first: `"longitude"` (as in GeoJSON and well-known text) or
#'   `"latitude"`. `NULL` (default) takes what the text tells: brackets and `POINT` begin with the
#'   longitude; of bare pairs the order in which all numbers are degrees, and an error when both
#'   could be.
#' @return `data` with two columns `longitude` and `latitude` in degrees in place of `column`,
#'   `NA` where it is missing; [place_symbols()] takes such a table as it is. Rows that cannot be
#'   read are `NA`, and a warning `ochre_warning_places` names them.
#' @section Errors: `ochre_error_column` when the column is not there or holds no places;
#'   `ochre_error_argument` when the order cannot be told.
#' @examples
#' places_from(data.frame(well = 1:2, at = c("[-12.5, 47.1]", "[-12.9, 47.3]")), at)
#' @export
places_from <- function(data, column, order = NULL) {
  check_table(data, "data")
  column <- column_name(rlang::enquo(column), data, "column")
  if (!is.null(order)) check_choice(order, c("longitude", "latitude"), "order")
  check_place_columns(data, column)
  text <- as.character(data[[column]])
  text[!nzchar(trimws(text))] <- NA
  pair <- read_pairs(text)
  first <- pair$first
  second <- pair$second
  read <- is.finite(first) & is.finite(second)
  if (!any(read)) {
    ochre_abort("column", "`{column}` holds no places.",
                "It should hold pairs of degrees, such as \"[10.4, 53.2]\".", arg = "column")
  }
  told <- has_pattern(text, "^\\s*(SRID=[0-9]+;)?\\s*POINT|^\\s*\\[|coordinates")
  order <- order %||% order_of(first[read], second[read], all(told[read]), column)
  lon <- if (order == "longitude") first else second
  lat <- if (order == "longitude") second else first
  read <- read & abs(lon) <= 360 & abs(lat) <= 90
  bad <- which(!is.na(text) & !read)
  if (length(bad)) {
    ochre_warn(
      "places",
      paste0("`{column}` is no place in {count_words(length(bad), 'row')} ",
             "({list_words(bad, mark = '')})."), rows = bad
    )
  }
  lon[!read] <- NA
  lat[!read] <- NA
  data[[column]] <- NULL
  data$longitude <- lon
  data$latitude <- lat
  data
}

check_place_columns <- function(data, column, call = rlang::caller_env()) {
  taken <- setdiff(intersect(c("longitude", "latitude"), names(data)), column)
  if (length(taken)) {
    ochre_abort("argument", "The data have a column `{taken[1]}` already.",
                "Give it another name with rename_columns(), or use it as it is.", arg = "data")
  }
}

# The first two numbers of a text that stand beside each other.
read_pairs <- function(text) {
  number <- "[-+]?[0-9]+(?:\\.[0-9]*)?(?:[eE][-+]?[0-9]+)?"
  pattern <- paste0("(?<![0-9.])(", number, ")\u00b0?[\\s,;|/]+(", number, ")(?![0-9.])")
  found <- stringi::stri_match_first_regex(text, pattern)
  list(first = as.numeric(found[, 2]), second = as.numeric(found[, 3]))
}

# Which number is the longitude: as the form tells, or as the degrees allow.
order_of <- function(first, second, told, column, call = rlang::caller_env()) {
  lon_first <- all(abs(second) <= 90)
  lat_first <- all(abs(first) <= 90)
  if (told && mean(abs(second) <= 90) >= 0.5) return("longitude")
  if (lon_first && !lat_first) return("longitude")
  if (lat_first && !lon_first) return("latitude")
  ochre_abort("argument", "`{column}` does not tell which of its two numbers is the longitude.",
              "Say order = \"longitude\" or order = \"latitude\", whichever comes first.",
              arg = "order")
}
