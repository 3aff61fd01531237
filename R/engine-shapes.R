# Geometry in tables of a database: what PostgreSQL's extension for it keeps is brought to longitude
# and latitude there.

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
  con <- dbplyr::remote_con(table)
  kind <- ask_lazy(DBI::dbGetQuery(con, sprintf(
    "SELECT pg_typeof((SELECT %s FROM (%s) ochre_rows LIMIT 0))::text",
    DBI::dbQuoteIdentifier(con, column), dbplyr::sql_render(table)
  )), call)[[1]]
  if (!grepl("(geometry|geography)\"?$", kind)) return(NULL)
  at <- rlang::sym(column)
  # Functions of geometry are not all those of geography.
  if (grepl("geography", kind)) at <- rlang::expr(geometry(!!at))
  systems <- fetch_lazy(dplyr::distinct(table, ochre_system = ST_SRID(!!at)), call)[[1]]
  systems <- systems[!is.na(systems)]
  degrees <- all(systems %in% c(0, 4326))
  list(column = column, at = at, degrees = degrees, named = all(systems != 0))
}

# It in longitude and latitude; what names no system is taken for that.
shape_there <- function(shape) {
  at <- shape$at
  if (!shape$named) {
    at <- rlang::expr(case_when(ST_SRID(!!at) == 0L ~ ST_SetSRID(!!at, 4326L), TRUE ~ !!at))
  }
  if (shape$degrees) at else rlang::expr(ST_Transform(!!at, 4326L))
}

utils::globalVariables(c("case_when", "geometry", "ST_SRID", "ST_SetSRID", "ST_Transform"))
