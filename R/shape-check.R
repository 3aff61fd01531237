# What is wrong with boundaries. The core looks; here findings get names, weights and words.

# In the order of the core's kinds (src/core/check.hpp), then those that R finds itself. `bad`:
# 3 draws wrong, 2 draws well but will trouble other work, 1 good to know.
finding_kinds <- data.frame(
  what = c(
    "no_geometry", "empty_geometry", "height", "not_a_number", "beyond_degrees",
    "open_ring", "flat_ring", "repeated_point", "bow_tie", "backward_ring",
    "hole_outside", "antimeridian", "overlap", "sliver", "duplicate_id", "outside"
  ),
  bad = c(2, 2, 1, 3, 3, 2, 2, 1, 3, 1, 3, 3, 3, 2, 3, 3),
  words = c(
    "without geometry", "with an empty geometry", "with heights, which maps do not use",
    "with a coordinate that is no number", "beyond longitude 180 or latitude 90",
    "with a ring that is not closed", "with a ring that encloses nothing",
    "with a point that follows itself", "with a ring that crosses itself",
    "with a ring that runs the wrong way round", "with a hole outside of its area",
    "across 180 degrees and not cut there",
    "with borders that cross those of a neighbour",
    "with borders that nearly meet a neighbour's", "with an id that another row has too",
    "outside of the areas"
  ),
  mended = c(
    FALSE, FALSE, TRUE, TRUE, FALSE, TRUE, TRUE, TRUE, TRUE, TRUE, TRUE, TRUE, NA, TRUE,
    FALSE, FALSE
  )
)
bad_words <- c("note", "flaw", "fault")

#' Check boundaries
#'
#' Looks for what makes boundaries draw wrong or breaks later work with them.
#'
#' @param boundaries A tibble with a `geometry` column, from [read_boundaries()].
#' @param id Column that should tell rows apart, bare or as text; `NULL` (default) takes `code`,
#'   `id` or the key of a join, if there is one.
#' @param tolerance Borders of two areas that run side by side closer than this are taken for one
#'   border drawn twice: one number, metres; 0 leaves borders alone.
#' @param inside Areas in which points should lie: a tibble with a `geometry` column, or `NULL`.
#' @return A tibble of class `ochre_findings`, worst first: `what` (see below), `bad` (`"fault"`
#'   draws wrong, `"flaw"` troubles other work, `"note"`), `row`, `id`, `other` (row of the
#'   neighbour, or `NA`), `longitude` and `latitude` of the first place (or `NA`), `amount` (how
#'   often in this row; for slivers the widest gap in metres), `mended` (whether
#'   [mend_boundaries()] repairs it; `NA` for an overlap, which it does only where that is
#'   narrower than the tolerance), `why` (the likely reason, or `NA`). Printed, it is a summary.
#'   No findings give no rows.
#'
#'   `what` is one of `no_geometry`, `empty_geometry`, `not_a_number`, `beyond_degrees`, `height`,
#'   `open_ring`, `backward_ring`, `flat_ring`, `repeated_point`, `bow_tie`, `hole_outside`,
#'   `antimeridian`, `overlap`, `sliver`, `duplicate_id`, `outside`.
#' @section Errors: `ochre_error_argument`, `ochre_error_column`, `ochre_error_geometry`.
#' @source OGC 06-103r4, Simple feature access, section 6.1.11 (what makes an area valid). RFC
#'   7946, section 3.1.9.
#' @examples
#' check_boundaries(read_boundaries(ochre_demo("districts.geojson")))
#' @concept validity
#' @concept topology check
#' @export
check_boundaries <- function(boundaries, id = NULL, tolerance = 1, inside = NULL) {
  check_table(boundaries, "boundaries")
  check_number(tolerance, "tolerance", min = 0, max = 100000)
  id <- id_column(boundaries, rlang::enquo(id))
  wkb <- geometry_of(boundaries, "boundaries")
  found <- check_shapes(wkb, tolerance)
  findings <- tibble::tibble(
    what = finding_kinds$what[found$kind],
    row = found$feature,
    other = found$other,
    longitude = ifelse(found$lon == 0 & found$lat == 0, NA, found$lon),
    latitude = ifelse(found$lon == 0 & found$lat == 0, NA, found$lat),
    amount = found$amount,
    why = NA_character_
  )
  if (!is.null(id)) findings <- rbind(findings, repeated_ids(as_key(boundaries[[id]])))
  if (!is.null(inside)) {
    check_table(inside, "inside")
    findings <- rbind(findings, points_outside(wkb, geometry_of(inside, "inside")))
  }
  kind <- finding_kinds[match(findings$what, finding_kinds$what), ]
  findings$bad <- bad_words[kind$bad]
  findings$mended <- kind$mended
  findings$id <- if (is.null(id)) NA_character_ else as_key(boundaries[[id]])[findings$row]
  findings <- findings[
    order(-kind$bad, match(findings$what, finding_kinds$what), findings$row),
    c("what", "bad", "row", "id", "other", "longitude", "latitude", "amount", "mended", "why")
  ]
  structure(findings, class = c("ochre_findings", class(findings)), rows = nrow(boundaries))
}

# A shape that several rows have is looked at once, and what is found there told of each of them.
check_shapes <- function(wkb, tolerance) {
  same <- first_of_shape(wkb)
  first <- unique(same)
  found <- call_core(check_core(wkb[first], tolerance))
  if (length(first) == length(wkb)) return(found)
  rows <- split(seq_along(same), factor(same, first))
  copies <- unname(lengths(rows))[found$feature]
  at <- rep(seq_along(found$feature), copies)
  list(
    kind = found$kind[at],
    feature = as.integer(unlist(rows[found$feature], use.names = FALSE)),
    other = first[found$other[at]],
    lon = found$lon[at],
    lat = found$lat[at],
    amount = found$amount[at]
  )
}

id_column <- function(boundaries, quo, call = rlang::caller_env()) {
  check_table(boundaries, "boundaries", call = call)
  given <- column_name(quo, boundaries, "id", null = TRUE, call = call)
  known <- code_column(boundaries)
  given %||% if (!is.na(known)) known
}

repeated_ids <- function(key) {
  first <- match(key, key)
  again <- which(duplicated(key) & !is.na(key))
  second <- again[!duplicated(first[again])]
  twice <- which(!is.na(key) & first %in% first[again])
  # The other one is the first with the same id; of the first itself, the second.
  other <- first[twice]
  other[twice == other] <- second[match(twice[twice == other], first[second])]
  tibble::tibble(
    what = rep("duplicate_id", length(twice)),
    row = twice,
    other = other,
    longitude = NA_real_,
    latitude = NA_real_,
    amount = 1,
    why = NA_character_
  )
}

# Points in none of the areas, with what would explain it.
points_outside <- function(points, areas) {
  p <- call_core(points_core(points))
  lost <- which(is.na(call_core(locate_core(areas, p$lon, p$lat))$row))
  swapped <- !is.na(call_core(locate_core(areas, p$lat[lost], p$lon[lost]))$row)
  zero <- abs(p$lon[lost]) < 0.01 & abs(p$lat[lost]) < 0.01
  tibble::tibble(
    what = rep("outside", length(lost)),
    row = p$feature[lost],
    other = NA_integer_,
    longitude = p$lon[lost],
    latitude = p$lat[lost],
    amount = 1,
    why = ifelse(
      zero,
      "zero island: both coordinates are zero",
      ifelse(swapped, "swapped: longitude and latitude are exchanged", NA)
    )
  )
}

#' @export
format.ochre_findings <- function(x, ..., most = 3) {
  rows <- attr(x, "rows") %||% max(x$row, 0)
  if (!nrow(x)) return(sprintf("No findings in %s.", count_words(rows, "row")))
  groups <- split(seq_len(nrow(x)), factor(x$what, unique(x$what)))
  lines <- vapply(groups, function(i) finding_line(x, i, most), "", USE.NAMES = FALSE)
  head <- sprintf("%s in %s:", count_words(nrow(x), "finding"), count_words(rows, "row"))
  c(head, lines, mending_line(x))
}

# One line for the findings of one kind, in the rows `i` of the table.
finding_line <- function(x, i, most) {
  kind <- finding_kinds[match(x$what[i[1]], finding_kinds$what), ]
  who <- ifelse(is.na(x$id[i]), paste("row", x$row[i]), x$id[i])
  named <- x$id[match(x$other[i], x$row)]
  other <- ifelse(is.na(x$id[i]), paste("row", x$other[i]), named)
  who <- ifelse(is.na(x$other[i]), who, paste0(who, " and ", other))
  who <- sub(" and NA$", "", who)
  why <- unique(stats::na.omit(x$why[i]))
  reasons <- paste(sub(":.*", "?", why), collapse = ", ")
  sprintf(
    "  %-5s  %s %s: %s%s",
    bad_words[kind$bad],
    count_words(length(unique(x$row[i])), "row"),
    kind$words,
    list_words(who, most, mark = ""),
    if (length(why)) paste0(" (", reasons, ")") else ""
  )
}

# How many of the findings can be mended.
mending_line <- function(x) {
  mend <- sum(x$mended %in% TRUE)
  perhaps <- anyNA(x$mended)
  if (!mend && !perhaps) return(NULL)
  what <- c(
    if (mend) if (mend == nrow(x)) "all of them" else sprintf("%d of them", mend),
    if (perhaps) "overlaps that are narrower than the tolerance"
  )
  sprintf("mend_boundaries() repairs %s.", paste(what, collapse = " and "))
}

#' @export
print.ochre_findings <- function(x, ...) {
  cat(format(x), sep = "\n")
  invisible(x)
}

#' Mend boundaries
#'
#' Repairs what is safe to repair: rings are closed and turned the right way, points that follow
#' themselves or are no numbers go, rings that enclose nothing go, a ring that crosses itself
#' becomes the simple rings of the land that it goes around an odd number of times, holes move to
#' the area around them, what crosses 180 degrees is cut there (RFC 7946, section 3.1.9), heights
#' go, rows that repeat another row whole go. Borders of neighbours that nearly meet become one: a
#' vertex closer than `tolerance` to a neighbour's moves onto it, and a border that passes a
#' neighbour's vertex is led through it.
#'
#' Not repaired, because nobody but you can decide it: rows without geometry, one id for different
#' areas (is it one area in pieces? then [merge_areas()]), points that lie outside, and overlaps
#' wider than the tolerance.
#'
#' @inheritParams check_boundaries
#' @return `boundaries` with mended geometry, in the same order. A message says what was done.
#' @section Errors: `ochre_error_argument`, `ochre_error_geometry`.
#' @examples
#' bow <- tibble::tibble(code = "a", geometry = wk::wkt("POLYGON ((0 0, 2 2, 2 0, 0 2, 0 0))"))
#' mend_boundaries(read_boundaries(bow))$geometry
#' @concept repair geometry
#' @concept make valid
#' @export
mend_boundaries <- function(boundaries, tolerance = 1) {
  check_table(boundaries, "boundaries")
  check_number(tolerance, "tolerance", min = 0, max = 100000)
  signal_progress("Mending", 0, 3)
  before <- quietly_check(boundaries, tolerance)
  signal_progress("Mending", 1, 3)
  columns <- unclass(boundaries)[setdiff(names(boundaries), "geometry")]
  repeated <- duplicated(as.data.frame(c(
    columns,
    list(geometry = first_of_shape(unclass(boundaries$geometry)))
  )))
  boundaries <- boundaries[!repeated, ]
  wkb <- geometry_of(boundaries, "boundaries")
  same <- first_of_shape(wkb)
  first <- unique(same)
  done <- call_core(mend_core(wkb[first], tolerance))
  boundaries$geometry <- wk::new_wk_wkb(
    done$geometry[match(same, first)],
    crs = wk::wk_crs_longlat()
  )
  signal_progress("Mending", 2, 3)
  after <- quietly_check(boundaries, tolerance)
  signal_progress("Mending", 3, 3)
  mended <- table(factor(before$what, unique(before$what))) -
    table(factor(after$what, unique(before$what)))
  mended <- mended[mended > 0]
  words <- c(
    if (length(mended)) paste0(gsub("_", " ", names(mended)), " (", mended, ")"),
    if (sum(repeated)) sprintf("%s that repeated another", count_words(sum(repeated), "row"))
  )
  said <- c(
    if (length(words)) {
      paste0("Mended: ", paste(words, collapse = ", "), ".")
    } else {
      "Nothing to mend."
    },
    if (nrow(after)) {
      sprintf(
        "Left: %s; check_boundaries() names them.",
        paste0(gsub("_", " ", unique(after$what)), collapse = ", ")
      )
    }
  )
  ochre_tell(paste(said, collapse = "\n"))
  boundaries
}

quietly_check <- function(boundaries, tolerance) {
  old <- options(ochre.quiet = c(getOption("ochre.quiet"), "degrees"))
  on.exit(options(old))
  check_boundaries(boundaries, tolerance = tolerance)
}
