# Which columns of a table hold places.

point_columns <- function(data, call = rlang::caller_env()) {
  if ("geometry" %in% names(data)) return(NULL)
  columns <- position_columns(names(data), call)
  for (column in columns) check_numeric(data, column, "data", call = call)
  columns
}

# The columns of degrees among the names of a table: longitude, then latitude.
position_columns <- function(names, call = rlang::caller_env()) {
  find <- function(known) which(lower_case(names) %in% known)
  lon <- find(c("longitude", "lon", "long"))
  lat <- find(c("latitude", "lat"))
  if (length(lon) != 1 || length(lat) != 1) {
    several <- length(lon) > 0 && length(lat) > 0
    what <- if (several) {
      found <- list_words(names[c(lon, lat)])
      sprintf("Several columns may hold longitude and latitude: %s.", found)
    } else {
      "The data have no geometry, and no columns `longitude` and `latitude`."
    }
    mend <- if (several) "Keep one pair." else "Rename the columns that hold the degrees."
    ochre_abort("column", what, mend, arg = "data")
  }
  names[c(lon, lat)]
}
