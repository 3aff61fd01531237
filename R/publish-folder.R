# A map, or several, as a folder for a site: pages, the script and the style that they share, their
# data in parts, pictures, tables, and a word to those who take it over.

#' Publish maps as a folder
#'
#' For sites that do not take one large page: a page for each map, the script and style that all
#' share and the data of each map as files whose names hold a hash of their contents, so that
#' browsers may keep them for ever. It works from any path of any site, and from disk. Beside them
#' lie a picture for social cards, the data as CSV, GeoJSON and TopoJSON with class, colour and
#' label of each row, a snippet for an article, and a `README.md` with sources and methods.
#'
#' Files of an earlier publication that are not needed any more are removed; a folder that holds
#' other files is refused. What has not changed keeps its bytes. Pages are written last.
#'
#' @param maps A sheet from [map_sheet()], or a list of sheets named by the words that their files
#'   are to be called by. One map is `index.html`; of several that is a list of them.
#' @param folder Where to: one text. It is made where it is not there.
#' @param limit Size that no file may exceed: a number of bytes or a text such as `"500 kB"`; `NULL`
#'   (default) for any. Data of a page are split; tables and pictures that are larger are left out,
#'   which is said.
#' @param address Address at which the folder will stand: one text; `NULL` (default) where that is
#'   not known. Pictures for social cards need it.
#' @param data `TRUE` (default) writes CSV, and of sheets GeoJSON and TopoJSON of layers with one
#'   period.
#' @param zip `TRUE` also writes the folder as one file beside it, with the ending `.zip` (package
#'   zip). `FALSE` by default.
#' @return A tibble of class `ochre_folder`, one row for each file: `file`, `bytes`, `gzipped` (what
#'   a server that compresses sends) and `part` (what it is). Printed, it says what would make the
#'   pages lighter.
#' @section Errors: `ochre_error_file` when the folder holds files of others or cannot be written;
#'   `ochre_error_budget` when script or page are over `limit`; `ochre_error_argument`; those of
#'   [resolve_sheet()].
#' @examples
#' areas <- read_boundaries(ochre_demo("districts.geojson"))
#' sheet <- map_sheet("Residents") |> place_symbols(areas, population)
#' publish_folder(sheet, file.path(tempdir(), "site"))
#' @export
publish_folder <- function(maps, folder, limit = NULL, address = NULL, data = TRUE, zip = FALSE) {
  check_text(folder, "folder")
  check_flag(data, "data")
  check_flag(zip, "zip")
  if (zip) need_package("zip", "A folder as one file")
  if (!is.null(limit)) limit <- check_bytes(limit, "limit")
  if (!is.null(address)) address <- check_tile_address(address, "address", character())
  maps <- check_maps(maps)
  site <- new_site(folder, address, limit %||% Inf, data, zip)
  write_maps(maps, lapply(maps, resolve_sheet), site)
}

new_site <- function(folder, address = NULL, limit = Inf, data = TRUE, zip = FALSE) {
  folder <- sub("[/\\\\]+$", "", folder)
  list(folder = folder, address = address, limit = limit, data = data, zip = zip)
}

# `plans` are those of the maps.
write_maps <- function(maps, plans, site, call = rlang::caller_env()) {
  check_path(site$folder, call)
  before <- ready_site(site$folder, call)
  parts <- unlist(Map(map_parts, names(maps), maps, plans, MoreArgs = list(site)),
                  recursive = FALSE, use.names = FALSE)
  parts <- c(site_assets(), leave_out_large(parts, site$limit), list(hand_over(maps, plans)))
  files <- c(parts, site_pages(plans, parts, site))
  refuse_large(files, site$limit, call)
  made <- write_site(files, site$folder, before)
  if (site$zip) zip_site(site$folder, made$file)
  made
}

# Tables and pictures that are over the limit; pages do without them.
leave_out_large <- function(parts, limit) {
  large <- vapply(parts, function(f) f$part != "data" && length(f$bytes) > limit, NA)
  if (any(large)) {
    ochre_tell(sprintf(
      "Left out, since they are over the limit: %s.",
      list_words(vapply(parts[large], function(f) f$file, ""))
    ))
  }
  parts[!large]
}

refuse_large <- function(files, limit, call) {
  bytes <- vapply(files, function(f) length(f$bytes), 0L)
  if (all(bytes <= limit)) return(invisible())
  worst <- files[[which.max(bytes)]]
  ochre_abort(
    "budget",
    sprintf("`%s` has %s, and no file may be over %s.", worst$file, size_words(max(bytes)),
            size_words(limit)),
    if (worst$part == "page") {
      "Raise `limit`, or leave out the table: page_style(table = FALSE)."
    } else {
      "Raise `limit`."
    },
    call = call
  )
}

check_maps <- function(maps, call = rlang::caller_env()) {
  if (inherits(maps, c("ochre_sheet", "ochre_plan"))) return(list(index = maps))
  fit <- is.list(maps) && length(maps) && !is.null(names(maps)) &&
    all(vapply(maps, inherits, NA, c("ochre_sheet", "ochre_plan")))
  if (!fit) {
    ochre_abort(
      "argument",
      "`maps` must be a sheet, or a list of sheets with names.",
      "For example list(visits = sheet, residents = other).",
      arg = "maps",
      call = call
    )
  }
  names(maps) <- file_word(names(maps))
  if (anyDuplicated(names(maps)) || any(names(maps) %in% c("", "index"))) {
    ochre_abort(
      "argument",
      "The names of `maps` do not make names of files: two are alike, or one is \"index\".",
      "Letters and digits count.",
      arg = "maps",
      call = call
    )
  }
  maps
}

site_list <- "files.json"

# The files of an earlier publication; a folder of others is left alone.
ready_site <- function(folder, call = rlang::caller_env()) {
  if (!dir.exists(folder)) {
    if (!suppressWarnings(dir.create(folder))) {
      ochre_abort(
        "file",
        sprintf("The folder `%s` cannot be made.", folder),
        "Make the folder that it lies in first.",
        file = folder,
        call = call
      )
    }
    return(character())
  }
  there <- list.files(folder, all.files = TRUE, recursive = TRUE, no.. = TRUE)
  # Only files of this folder: the list may be anybody's.
  known <- intersect(there, listed_files(file.path(folder, site_list)))
  strange <- setdiff(there, c(known, site_list))
  if (!length(strange)) return(known)
  ochre_abort(
    "file",
    sprintf("The folder `%s` holds files that Ochre did not write: %s.", folder,
            list_words(strange)),
    "Name an empty folder, or one of an earlier publication.",
    file = folder,
    call = call
  )
}

listed_files <- function(path) {
  tryCatch(
    vapply(jsonlite::read_json(path)$files, function(f) f$file, ""),
    error = function(e) character()
  )
}

# ---- parts ---------------------------------------------------------------------------------------

# A file that is to be written: its name, what it is, its bytes.
site_file <- function(name, part, bytes) {
  if (is.character(bytes)) {
    bytes <- charToRaw(enc2utf8(paste0(paste(bytes, collapse = "\n"), "\n")))
  }
  list(file = name, part = part, bytes = bytes)
}

hashed <- function(stem, ending, part, text) {
  bytes <- charToRaw(enc2utf8(text))
  hash <- substr(digest::digest(bytes, "sha256", serialize = FALSE), 1, 10)
  list(file = sprintf("%s-%s.%s", stem, hash, ending), part = part, bytes = bytes)
}

site_assets <- function() {
  source <- function(ending) read_text(file.path(viewer_folder(), paste0("ochre-view.", ending)))
  list(
    hashed("ochre", "js", "script", source("js")),
    hashed("ochre", "css", "style", source("css"))
  )
}

map_parts <- function(name, sheet, plan, site) {
  c(
    plan_parts(name, plan, site$limit),
    list(site_file(paste0(name, "-card.png"), "picture", card_picture(plan))),
    if (site$data) data_parts(name, sheet, plan)
  )
}

# The plan as scripts that hand on pieces of its text: they are read from disk too, where nothing
# can be fetched.
plan_parts <- function(name, plan, limit) {
  pieces <- split_text(page_json(plan), limit)
  lapply(seq_along(pieces), function(k) {
    stem <- paste0(name, if (length(pieces) > 1) paste0("-", k))
    hashed(stem, "js", "data", piece_line(pieces[k], k))
  })
}

piece_line <- function(text, k) {
  sprintf(
    "(window.ochreParts=window.ochreParts||[]).push([\"ochre-map\",%d,%s]);",
    k - 1, jsonlite::toJSON(text, auto_unbox = TRUE)
  )
}

# In halves until each is within the limit as it is written.
split_text <- function(text, limit) {
  letters <- nchar(text)
  if (nchar(piece_line(text, 1000), "bytes") <= limit || letters < 2) return(text)
  half <- letters %/% 2
  c(split_text(substr(text, 1, half), limit), split_text(substring(text, half + 1), limit))
}

card_size <- c(1200, 630)

card_picture <- function(plan) {
  path <- tempfile(fileext = ".png")
  on.exit(unlink(path))
  publish(plan, path, width = card_size[1] / 150, height = card_size[2] / 150, dpi = 150)
  readBin(path, "raw", file.size(path))
}

# ---- data ----------------------------------------------------------------------------------------

data_parts <- function(name, sheet, plan) {
  layers <- which(vapply(plan$layers, function(l) l$kind == "areas" && !is.null(l$labels), NA))
  unlist(lapply(seq_along(layers), function(k) {
    stem <- paste0(name, "-data", if (length(layers) > 1) paste0("-", k))
    table <- csv_text(layer_table(plan$layers[[layers[k]]], plan))
    boundaries <- if (inherits(sheet, "ochre_sheet")) sheet_boundaries(sheet, plan, layers[k])
    c(
      list(site_file(paste0(stem, ".csv"), "table", charToRaw(table))),
      if (!is.null(boundaries)) {
        lapply(c("geojson", "topojson"), function(kind) {
          site_file(paste0(stem, ".", kind), "boundaries", boundary_bytes(boundaries, kind))
        })
      }
    )
  }), recursive = FALSE)
}

# A row for each area, of several periods one for each of them.
layer_table <- function(layer, plan) {
  rows <- lapply(seq_len(max(1, length(layer$panels))), function(p) {
    now <- in_panel(layer, p)
    class <- as.integer(now$class)
    columns <- list(
      code = layer$codes, name = layer$names, region = layer$regions,
      period = if (length(layer$panels)) rep(plan$panels[p], length(class)),
      value = now$numbers, written = now$values,
      class = ifelse(class > 0, class, NA),
      label = c(now$no_data$label, now$labels)[class + 1],
      colour = c(now$no_data$colour, now$colours)[class + 1]
    )
    as.data.frame(Filter(Negate(is.null), columns))
  })
  do.call(rbind, rows)
}

# The rows of a layer with class, label and colour beside their own columns; NULL where a row has
# several periods.
sheet_boundaries <- function(sheet, plan, at) {
  # Lines of the globe lie below all and are the plan's own.
  layer <- sheet$layers[[at - (length(plan$layers) - length(sheet$layers))]]
  drawn <- plan$layers[[at]]
  if (!is.null(drawn$panels) || nrow(layer$data) != length(drawn$class)) return(NULL)
  class <- as.integer(drawn$class)
  taken <- c("class", "label", "colour")
  data <- layer$data[setdiff(names(layer$data), taken)]
  data$class <- ifelse(class > 0, class, NA)
  data$label <- c(drawn$no_data$label, drawn$labels)[class + 1]
  data$colour <- c(drawn$no_data$colour, drawn$colours)[class + 1]
  data
}

boundary_bytes <- function(data, kind) {
  path <- tempfile(fileext = paste0(".", kind))
  on.exit(unlink(path))
  suppressMessages(write_boundaries(data, path, digits = 5))
  readBin(path, "raw", file.size(path))
}

# ---- pages ---------------------------------------------------------------------------------------

site_pages <- function(plans, parts, site) {
  of <- function(part) Filter(function(f) f$part == part, parts)
  name_of <- function(f) f$file
  assets <- list(script = name_of(of("script")[[1]]), style = name_of(of("style")[[1]]))
  pages <- lapply(names(plans), function(name) {
    own <- grep(sprintf("^%s(-[0-9]+)?-[0-9a-f]{10}[.]js$", name),
                vapply(of("data"), name_of, ""), value = TRUE)
    card <- intersect(paste0(name, "-card.png"), vapply(parts, name_of, ""))
    if (length(card)) card <- paste(c(site$address, card), collapse = "/")
    text <- site_page(plans[[name]], c(assets, list(data = own, card = card)))
    site_file(paste0(name, ".html"), "page", text)
  })
  if (length(plans) > 1) {
    pages <- c(pages, list(site_file("index.html", "page", list_page(plans))))
  }
  pages
}

list_page <- function(plans) {
  escape <- htmltools::htmlEscape
  titles <- vapply(plans, function(p) p$title, "")
  links <- sprintf("<li><a href=\"%s.html\">%s</a></li>", names(plans), escape(titles))
  locale <- htmltools::htmlEscape(plans[[1]]$locale, attribute = TRUE)
  c(
    "<!DOCTYPE html>", sprintf("<html lang=\"%s\">", locale), "<head>", "<meta charset=\"utf-8\">",
    "<meta name=\"viewport\" content=\"width=device-width, initial-scale=1\">",
    sprintf("<title>%s</title>", escape(paste(titles, collapse = " \u00b7 "))), "</head>",
    "<body>", "<ul>", links, "</ul>", "</body>", "</html>"
  )
}

# ---- writing -------------------------------------------------------------------------------------

# What has other bytes is written, pages last; what is not needed any more goes.
write_site <- function(files, folder, before) {
  files <- c(files, list(site_file(site_list, "list", site_index(files))))
  for (f in files) {
    path <- file.path(folder, f$file)
    known <- file.exists(path) && file.size(path) == length(f$bytes) &&
      identical(readBin(path, "raw", length(f$bytes)), f$bytes)
    if (!known) write_whole(path, function(part) writeBin(f$bytes, part))
  }
  unlink(file.path(folder, setdiff(before, vapply(files, function(f) f$file, ""))))
  structure(
    tibble::tibble(
      file = vapply(files, function(f) f$file, ""),
      bytes = vapply(files, function(f) length(f$bytes), 0L),
      gzipped = vapply(files, function(f) length(memCompress(f$bytes, "gzip")), 0L),
      part = vapply(files, function(f) f$part, "")
    ),
    class = c("ochre_folder", "tbl_df", "tbl", "data.frame")
  )
}

site_index <- function(files) {
  list <- lapply(files, function(f) {
    hash <- digest::digest(f$bytes, "sha256", serialize = FALSE)
    list(file = f$file, part = f$part, bytes = length(f$bytes), sha256 = hash)
  })
  as.character(jsonlite::toJSON(list(files = list), auto_unbox = TRUE, pretty = 1))
}

zip_site <- function(folder, files) {
  write_whole(paste0(folder, ".zip"), function(part) {
    zip::zip(normalizePath(part, mustWork = FALSE), files, root = folder, mode = "mirror")
  }, "zip")
}

#' @export
format.ochre_folder <- function(x, ...) {
  loaded <- x$part %in% c("page", "script", "style", "data")
  gzipped <- ifelse(loaded, paste(vapply(x$gzipped, size_words, ""), "gzipped"), "")
  of <- function(part) sum(x$gzipped[x$part %in% part])
  maps <- sum(x$part == "picture")
  c(
    sprintf(
      "%s, %s together; a reader loads about %s of one map.",
      count_words(nrow(x), "file"),
      size_words(sum(x$bytes)),
      size_words(round(of(c("script", "style")) + of(c("page", "data")) / maps))
    ),
    sub(" +$", "", sprintf(
      "  %s  %s  %s",
      format(x$file),
      format(vapply(x$bytes, size_words, ""), justify = "right"),
      format(gzipped, justify = "right")
    )),
    if (of("data") / maps > of("script")) {
      "Data weigh most: simplify_boundaries() makes borders lighter, fewer popup fields the rest."
    }
  )
}

#' @export
print.ochre_folder <- function(x, ...) {
  cat(format(x), sep = "\n")
  invisible(x)
}
