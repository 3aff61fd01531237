# Geometry of collections that are tables of a database is looked through there.

shape_box <- function(table, shape, call) {
  whole <- dplyr::summarise(table, ochre_box = ST_Extent(!!shape_there(shape)))
  ends <- dplyr::transmute(
    whole,
    ochre_west = ST_XMin(.data$ochre_box), ochre_south = ST_YMin(.data$ochre_box),
    ochre_east = ST_XMax(.data$ochre_box), ochre_north = ST_YMax(.data$ochre_box)
  )
  box_of_ends(fetch_lazy(ends, call))
}

# A box whose west lies east of its east end runs over 180 degrees.
shape_in_box <- function(rows, shape, box) {
  meets <- function(west, east) {
    place <- rlang::expr(ST_MakeEnvelope(!!west, !!box[2], !!east, !!box[4], 4326L))
    rlang::expr(ST_Intersects(!!shape_there(shape), !!place))
  }
  if (box[1] <= box[3]) return(dplyr::filter(rows, !!meets(box[1], box[3])))
  dplyr::filter(rows, !!meets(box[1], 180) | !!meets(-180, box[3]))
}

# Rows with their geometry as binary, flat and without bends.
with_shape <- function(rows, shape) {
  if (is.null(shape)) return(rows)
  flat <- rlang::expr(ST_AsBinary(ST_Force2D(ST_CurveToLine(!!shape_there(shape)))))
  rows <- dplyr::mutate(rows, ochre_shape = !!flat)
  dplyr::select(rows, -dplyr::all_of(shape$column))
}

# The geometry of rows that were fetched: that binary, or points by their two columns.
page_geometry <- function(collection, page) {
  if (!is.null(collection$shape)) {
    plain <- call_core(plain_wkb_core(unclass(page$ochre_shape)), file = collection$title)
    return(wk::new_wk_wkb(plain$geometry, crs = wk::wk_crs_longlat()))
  }
  at <- collection$at
  places <- lapply(1:2, function(k) if (is.null(at)) rep(NA, nrow(page)) else page[[at[k]]])
  point_geometry(places[[1]], places[[2]])
}

utils::globalVariables(c(
  "ST_AsBinary", "ST_CurveToLine", "ST_Extent", "ST_Force2D", "ST_Intersects", "ST_MakeEnvelope",
  "ST_XMax", "ST_XMin", "ST_YMax", "ST_YMin"
))
