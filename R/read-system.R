# Reference systems: which text means degrees on WGS 84, and bringing all others to that with
# package PROJ. Nothing else in Ochre calls it.

check_system <- function(system, call = rlang::caller_env()) {
  if (is.null(system)) return(NULL)
  if (is.numeric(system) && length(system) == 1 && !is.na(system)) return(sprintf("EPSG:%d", as.integer(system)))
  check_text(system, "system", call = call)
  if (grepl("^[0-9]+$", system)) paste0("EPSG:", system) else system
}

is_degrees <- function(system) {
  if (is.null(system) || !nzchar(system)) return(TRUE)
  short <- gsub("[ _]", "", toupper(system))
  short %in% c("EPSG:4326", "OGC:CRS84", "URN:OGC:DEF:CRS:OGC:1.3:CRS84", "URN:OGC:DEF:CRS:OGC::CRS84", "URN:OGC:DEF:CRS:EPSG::4326", "WGS84") ||
    (startsWith(short, "GEOGCS[") && grepl("^GEOGCS\\[\"(GCS)?WGS(1984|84)\"", short) && grepl("DEGREE", short) && grepl("GREENWICH\",0", short))
}

# A system of a wk vector: a number, a text, or an object that can say its name.
wk_system <- function(crs) {
  if (is.numeric(crs)) return(sprintf("EPSG:%d", as.integer(crs)))
  if (is.character(crs)) return(crs[1])
  text <- tryCatch(wk::wk_crs_proj_definition(crs, verbose = TRUE), error = function(e) NA)
  if (is.character(text) && !is.na(text)) text else "unknown"
}

# Short words for a long definition.
system_words <- function(system) {
  system <- sub("^urn:ogc:def:crs:([A-Za-z]+):[^:]*:", "\\1:", system)
  name <- regmatches(system, regexec("^[A-Z]+\\[\"([^\"]+)\"", system))[[1]]
  if (length(name) == 2) return(gsub("_", " ", name[2]))
  if (startsWith(trimws(system), "{")) {
    parsed <- tryCatch(jsonlite::fromJSON(system)$name, error = function(e) NULL)
    if (is.character(parsed)) return(parsed[1])
  }
  if (nchar(system) > 60) paste0(substr(system, 1, 57), "\u2026") else system
}

to_degrees <- function(geometry, system, name, call = rlang::caller_env()) {
  if (!has_package("PROJ")) {
    ochre_abort("system", sprintf("`%s` is in the system %s, and package PROJ, which brings it to longitude and latitude, is not installed.", name, system_words(system)),
                "Install it with install.packages(\"PROJ\"), or export the file as WGS 84 (EPSG:4326).", file = name, system = system, call = call)
  }
  # Names of the OGC as PROJ likes them: urn:ogc:def:crs:EPSG:9.9:25832 and the like.
  system <- sub("^urn:ogc:def:crs:([A-Za-z]+):[^:]*:", "\\1:", system)
  at <- positions_core(geometry)
  if (!nrow(at)) return(geometry)
  refuse <- function(e) {
    ochre_abort("system", sprintf("`%s`: coordinates cannot be brought from the system %s to longitude and latitude.", name, system_words(system)),
                c("Is it the right system? Give another with `system`, for example system = \"EPSG:25832\".", conditionMessage(e)), file = name, system = system, call = call)
  }
  quiet_proj <- function(code) {
    said <- NULL
    utils::capture.output(said <- code, type = "message")
    said
  }
  out <- tryCatch(quiet_proj(PROJ::proj_trans(at, "OGC:CRS84", system)), error = refuse)
  lost <- !is.finite(out[, 1]) | !is.finite(out[, 2])
  if (any(lost & is.finite(at[, 1]))) {
    refuse(simpleError(sprintf("%s no place there.", count_words(sum(lost), "position has", "positions have"))))
  }
  seen <- is.finite(at[, 1]) & is.finite(at[, 2])
  if (all(abs(at[seen, 1]) <= 180 & abs(at[seen, 2]) <= 90) && any(abs(at[seen, ] - out[seen, 1:2]) > 1)) {
    ochre_warn("system", sprintf("`%s` is said to be in the system %s, but its numbers look like longitude and latitude already.", name, system_words(system)),
               "If they are, say so: system = \"EPSG:4326\".", file = name, system = system)
  }
  with_positions_core(geometry, out[, 1], out[, 2])
}
