# Geometry of collections that are tables of a database: what PostgreSQL's extension for it keeps is
# brought to longitude and latitude there, and looked through there.

# The first column of geometry among `all` of them; NULL where there is none. `rows` are none of the
# table, with its types.
shape_column <- function(table, rows, call) {
  if (!inherits(dbplyr::remote_con(table), "PqConnection")) return(NULL)
  # Types of extensions have no name of their own there.
  of_extension <- function(x) any(grepl("^pq_(NA|geometry|geography)$", class(x)))
  columns <- names(rows)[vapply(rows, of_extension, NA)]
  found <- Filter(Negate(is.null), lapply(columns, shape_facts, table = table, call = call))
  if (!length(found)) return(NULL)
  c(found[[1]], list(all = vapply(found, function(f) f$column, "")))
}

# How a column is asked for (`at`), whether all of it is in degrees already, and whether all of it
# names its system; NULL for a column that is neither geometry nor geography.
shape_facts <- function(column, table, call) {
  plain <- rlang::expr(.data[[!!column]])
  for (at in list(plain, rlang::expr(geometry(!!plain)))) {
    systems <- tryCatch(
      # Only geometry is made flat; geography must become geometry before.
      fetch_lazy(dplyr::distinct(table, ochre_system = ST_SRID(ST_Force2D(!!at))), call)[[1]],
      ochre_error_database = function(e) NULL
    )
    if (is.null(systems)) next
    systems <- systems[!is.na(systems)]
    degrees <- all(systems %in% c(0, 4326))
    return(list(column = column, at = at, degrees = degrees, named = all(systems != 0)))
  }
}

# It in longitude and latitude; what names no system is taken for that.
shape_there <- function(shape) {
  at <- shape$at
  if (!shape$named) {
    at <- rlang::expr(case_when(ST_SRID(!!at) == 0L ~ ST_SetSRID(!!at, 4326L), TRUE ~ !!at))
  }
  if (shape$degrees) at else rlang::expr(ST_Transform(!!at, 4326L))
}

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
  "geometry", "ST_AsBinary", "ST_CurveToLine", "ST_Extent", "ST_Force2D", "ST_Intersects",
  "ST_MakeEnvelope", "ST_SRID", "ST_SetSRID", "ST_Transform", "ST_XMax", "ST_XMin", "ST_YMax",
  "ST_YMin"
))
