# Tables as boundaries: columns of longitude and latitude, or one of well-known text, found by
# their names and then by what they hold.

longitude_names <- c(
  "longitude", "lon", "long", "lng", "x", "lon_deg", "x_wgs84", "wgs84_lon", "laenge",
  "l\u00e4nge", "laengengrad", "l\u00e4ngengrad", "longitud", "dlugosc",
  "d\u0142ugo\u015b\u0107"
)
latitude_names <- c(
  "latitude", "lat", "y", "lat_deg", "y_wgs84", "wgs84_lat", "breite", "breitengrad",
  "latitud", "szerokosc", "szeroko\u015b\u0107"
)

read_places <- function(source, format, layer, encoding, call = rlang::caller_env()) {
  wishes <- list(encoding = encoding, marks = "reason")
  rows <- rows_of(source, statistics_format(source, call), layer, wishes, call)
  table <- typed_rows(rows, source$name, wishes, call)
  attr(table, "ochre_reading") <- NULL
  text <- names(table)[vapply(table, holds_wkt, NA)]
  if (length(text) == 1) {
    plain <- sub("^\\s*[Ss][Rr][Ii][Dd]=\\d+;", "", table[[text]])
    wkb <- from_text(plain, source$name, call)
    read <- call_core(plain_wkb_core(wkb), file = source$name, call = call)
    return(list(columns = as.list(table[names(table) != text]), geometry = read$geometry))
  }
  at <- find_place_columns(table, source, call)
  place <- mend_swapped(as.numeric(table[[at[1]]]), as.numeric(table[[at[2]]]), at, source$name)
  list(
    columns = as.list(table[setdiff(names(table), at)]),
    geometry = point_wkb(place$lon, place$lat)
  )
}

# Does a column hold well-known text?
holds_wkt <- function(x) {
  if (!is.character(x)) return(FALSE)
  x <- substr(x[!is.na(x)], 1, 100)
  length(x) > 0 && all(has_pattern(x, wkt_pattern))
}

# Columns that hold each other's values are exchanged; a few swapped rows are said.
mend_swapped <- function(lon, lat, columns, name) {
  both <- !is.na(lon) & !is.na(lat)
  wrong <- which(both & abs(lat) > 90 & abs(lon) <= 90)
  if (!length(wrong)) return(list(lon = lon, lat = lat))
  if (length(wrong) > 0.5 * sum(both)) {
    ochre_warn(
      "swapped",
      "`{name}`: `{columns[1]}` and `{columns[2]}` hold each other's values; they were exchanged.",
      file = name
    )
    return(list(lon = lat, lat = lon))
  }
  ochre_warn(
    "swapped",
    paste0("`{name}`: longitude and latitude look swapped in ",
           "{count_words(length(wrong), 'row')} ({list_words(wrong, mark = '')})."), file = name,
    rows = wrong
  )
  list(lon = lon, lat = lat)
}

point_wkb <- function(lon, lat) {
  both <- is.finite(lon) & is.finite(lat)
  end <- cumsum(both)
  call_core(features_core(
    lon[both],
    lat[both],
    as.integer(seq_len(sum(both))),
    rep(1L, sum(both)),
    which(both),
    length(lon)
  ))$geometry
}

# Names of the columns of longitude and latitude.
find_place_columns <- function(table, source, call) {
  is_number <- vapply(table, is.numeric, NA)
  plain <- gsub("[^[:alnum:]]+", "_", lower_case(names(table)))
  named <- function(known) names(table)[is_number & plain %in% known]
  lon <- named(longitude_names)
  lat <- named(latitude_names)
  if (length(lon) == 1 && length(lat) == 1) return(c(lon, lat))
  # Numbers with decimals that stay within ±180 and ±90, and only one way to take them.
  range_of <- function(x) max(abs(x), na.rm = TRUE)
  fine <- names(table)[
    vapply(
      table,
      function(x) {
        is.double(x) &&
          any(!is.na(x)) &&
          range_of(x) <= 180 &&
          mean(x != round(x, 2), na.rm = TRUE) > 0.5
      },
      NA
    )
  ]
  if (length(fine) == 2) {
    most <- vapply(table[fine], range_of, 0)
    if (any(most > 90)) return(fine[order(-most)])
  }
  ochre_abort(
    "column",
    paste0("`{source$name}` is a table in which no columns of longitude and latitude, and ",
           "none of well-known text, can be found."),
    "Name them `longitude` and `latitude`. Its columns: {list_words(names(table), 12)}.",
    file = source$name
  )
}
