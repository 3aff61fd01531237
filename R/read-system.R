# Reference systems: which text means degrees on WGS 84, and bringing all others to that with
# package PROJ. Nothing else in Ochre calls it.

check_system <- function(system, call = rlang::caller_env()) {
  if (is.null(system)) return(NULL)
  if (is.numeric(system) && length(system) == 1 && is.finite(system)) {
    return(sprintf("EPSG:%.0f", system))
  }
  check_text(system, "system", call = call)
  if (grepl("^[0-9]+$", system)) return(paste0("EPSG:", system))
  if (!is_system(system)) {
    ochre_abort("argument", "`system` is \"{system_words(system)}\", which is no reference system.",
                "Give an authority's code such as \"EPSG:25832\", WKT, or a PROJ string.",
                arg = "system")
  }
  system
}

# Codes, WKT, PROJ strings and PROJ's JSON: what has one meaning. A bare name has not; PROJ looks
# for one that is spelt a little like it.
is_system <- function(system) {
  code <- "^(urn:ogc:def:crs:)?[A-Za-z][A-Za-z0-9_-]*:{1,2}([0-9.]*:)?[A-Za-z0-9_]+$"
  grepl(code, system) ||
    is_degrees(system) ||
    grepl("^\\s*[A-Z]+(CRS|CS)?\\s*\\[", system) ||
    grepl("^\\s*\\{", system) ||
    grepl("\\+(proj|init)=", system)
}

# Names of the OGC and links to a register, as the short code: urn:ogc:def:crs:EPSG:9.9:25832,
# …/def/crs/EPSG/0/25832, …/epsg/25832.
short_code <- function(system) {
  system <- sub("^urn:ogc:def:crs:([A-Za-z]+):[^:]*:", "\\1:", trimws(system), ignore.case = TRUE)
  if (!grepl("^https?://", system)) return(system)
  code <- regmatches(
    system,
    regexec("/(epsg|ogc)/(?:[0-9.]+/)?(crs84|[0-9]+)\\b", system, ignore.case = TRUE, perl = TRUE)
  )[[1]]
  if (length(code)) upper_case(paste0(code[2], ":", code[3])) else system
}

is_degrees <- function(system) {
  if (is.null(system) || !nzchar(system)) return(TRUE)
  short <- gsub("[ _]", "", upper_case(short_code(system)))
  short %in% c("EPSG:4326", "OGC:CRS84", "WGS84") ||
    (startsWith(short, "GEOGCS[") &&
        grepl("^GEOGCS\\[\"(GCS)?WGS(1984|84)\"", short) &&
        grepl("DEGREE", short) &&
        grepl("GREENWICH\",0", short))
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
  system <- short_code(system)
  name <- regmatches(system, regexec("^[A-Z]+\\[\"([^\"]+)\"", system))[[1]]
  if (length(name) == 2) return(gsub("_", " ", name[2]))
  if (startsWith(trimws(system), "{")) {
    parsed <- tryCatch(jsonlite::fromJSON(system)$name, error = function(e) NULL)
    if (is.character(parsed)) return(parsed[1])
  }
  if (nchar(system) > 60) paste0(substr(system, 1, 57), "\u2026") else system
}

# `own`: the user named the system, which is then believed. A file may name nonsense beside degrees:
# that is said, and the result is NULL, because they stay as they are.
to_degrees <- function(geometry, system, name, own = TRUE, call = rlang::caller_env()) {
  need_system_package(system, name, call)
  system <- short_code(system)
  at <- call_core(positions_core(geometry))
  if (!nrow(at)) return(geometry)
  seen <- is.finite(at[, 1]) & is.finite(at[, 2])
  like_degrees <- all(abs(at[seen, 1]) <= 180 & abs(at[seen, 2]) <= 90)
  moved <- "not a known authority code"
  if (is_system(system)) moved <- transform_positions(at, system, "OGC:CRS84")
  if (is.character(moved)) {
    if (!own && like_degrees) return(warn_of_system(system, name, "makes no sense"))
    refuse_system(system, name, moved, call)
  }
  if (like_degrees && any(abs(at[seen, ] - moved[seen, ]) > 1)) {
    # Degrees taken for metres all lie at one spot.
    before <- extent_of(at[seen, , drop = FALSE])
    after <- extent_of(moved[seen, , drop = FALSE])
    if (!own && before > 1000 * after) {
      return(warn_of_system(system, name, "does not fit them"))
    }
    warn_degrees(system, name)
  }
  call_core(with_positions_core(geometry, moved[, 1], moved[, 2]))
}

refuse_system <- function(system, name, why, call) {
  ochre_abort(
    "system",
    paste0("`{name}`: coordinates cannot be transformed from {system_words(system)} to ",
           "longitude and latitude."),
    c(
      "Is it the right system? Give another with `system`, for example system = \"EPSG:25832\".",
      sprintf("%s.", strip_period(why))
    ), file = name, system = system
  )
}

warn_degrees <- function(system, name) {
  ochre_warn(
    "system",
    paste0("`{name}` is declared as {system_words(system)}, but its numbers look like ",
           "longitude and latitude already."), "If they are, say so: system = \"EPSG:4326\".",
    file = name, system = system
  )
}

need_system_package <- function(system, name, call) {
  if (has_package("PROJ")) return(invisible())
  ochre_abort(
    "system",
    paste0("`{name}` is in the system {system_words(system)}, and package PROJ, which brings ",
           "it to longitude and latitude, is not installed."),
    "Install it with install.packages(\"PROJ\"), or export the file as WGS 84 (EPSG:4326).",
    file = name, system = system
  )
}

# Positions of the system `from` in the system `to`, east or longitude first, in two columns; or in
# words why there are none.
transform_positions <- function(at, from, to) {
  out <- tryCatch(without_library_words(PROJ::proj_trans(at, to, from)), error = conditionMessage)
  if (is.character(out)) return(out)
  lost <- (!is.finite(out[, 1]) | !is.finite(out[, 2])) & is.finite(at[, 1])
  if (any(lost)) return(places_lost(sum(lost)))
  out[, 1:2, drop = FALSE]
}

transformed_words <- function(source) {
  said <- sprintf("transformed from %s to longitude and latitude.", source$system)
  if (is.null(source$datum)) return(said)
  paste(said, sprintf("The datum changes from %s; places may be off by metres.", source$datum))
}

# The datum of a system, where it is not the same to a metre as that of longitude and latitude.
other_datum <- function(system) {
  text <- without_library_words(PROJ::proj_crs_text(short_code(system), 2L))
  at <- if (!is.na(text)) jsonlite::fromJSON(text, simplifyVector = FALSE)
  while (!is.null(inner <- at$base_crs %||% at$source_crs)) at <- inner
  name <- at$datum$name %||% at$datum_ensemble$name
  alike <- "World Geodetic System 1984|WGS 84|European Terrestrial Reference|ETRF"
  name <- gsub("_", " ", sub("^D_", "", name))
  if (length(name) && !grepl(alike, name)) name
}

places_lost <- function(n) {
  sprintf("%s no place there", count_words(n, "position has", "positions have"))
}

# How the register has coordinates of a system written: whether north comes first (`turned`), and
# how many digits make a centimetre of them; or in words why it is not one for maps.
system_axes <- function(code) {
  # The library is asked for the text of a code that it knows only: for others it may fall.
  known <- tryCatch(
    without_library_words(PROJ::proj_trans_create("OGC:CRS84", code)),
    error = function(e) NULL
  )
  text <- if (!is.null(known)) without_library_words(PROJ::proj_crs_text(code, 2L)) else NA
  if (is.na(text)) return("the register has no such code")
  axes <- jsonlite::fromJSON(text, simplifyVector = FALSE)$coordinate_system$axis
  to <- vapply(axes, function(a) a$direction, "")
  if (!setequal(to, c("east", "north")) || length(to) != 2) {
    return(sprintf("its axes go %s", if (length(to)) list_words(to) else "nowhere"))
  }
  unit <- axes[[1]]$unit
  metres <- if (is.list(unit)) unit$conversion_factor else c(metre = 1)[unit]
  angle <- is.list(unit) && identical(unit$type, "AngularUnit") || identical(unit, "degree")
  digits <- if (angle) 7L else as.integer(2 + ceiling(log10(max(metres, 1))))
  list(turned = to[1] == "north", digits = digits)
}

extent_of <- function(at) if (nrow(at)) max(diff(range(at[, 1])), diff(range(at[, 2]))) else 0

warn_of_system <- function(system, name, why) {
  ochre_warn(
    "system",
    paste0("`{name}`: the system that it names ({system_words(system)}) {why}; the numbers ",
           "are degrees and were read as longitude and latitude."),
    "If that is wrong, say which system it is, for example system = \"EPSG:25832\".", file = name,
    system = system
  )
  NULL
}

# Libraries that write past R to the stream for errors are not heard; what they return says more.
without_library_words <- function(code) {
  stream <- call_core(mute_stderr_core(-1L))
  on.exit(if (stream >= 0) call_core(mute_stderr_core(stream)))
  code
}
