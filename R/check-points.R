# Which columns of a table hold places.

point_columns <- function(data, call = rlang::caller_env()) {
  if ("geometry" %in% names(data)) return(NULL)
  find <- function(known) which(tolower(names(data)) %in% known)
  lon <- find(c("longitude", "lon", "long"))
  lat <- find(c("latitude", "lat"))
  if (length(lon) != 1 || length(lat) != 1) {
    ochre_abort(
      "column", "The data have no geometry, and no columns `longitude` and `latitude`.",
      "Rename the columns that hold the degrees.", arg = "data", call = call
    )
  }
  check_numeric(data, names(data)[lon], "data", call = call)
  check_numeric(data, names(data)[lat], "data", call = call)
  names(data)[c(lon, lat)]
}
