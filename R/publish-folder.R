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
#' @param sections `TRUE` writes the areas of the largest layer in sections: squares of the map,
#'   each a file that the page loads when it comes into view, so that a million areas open on a
#'   phone. While areas are too many to be told apart, a section is a picture of their classes;
#'   pointing at it loads what lies there. `FALSE` writes all into one; `NULL` (default) takes
#'   sections from 20,000 areas or two million corners on. Boundaries are then left out of the data;
#'   search finds the beginnings of names and codes.
#' @param fields Names of columns that GeoJSON and TopoJSON hold besides those that the map shows: a
#'   character vector; `NULL` (default) for none.
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
publish_folder <- function(maps, folder, limit = NULL, address = NULL, data = TRUE, zip = FALSE,
                           sections = NULL, fields = NULL) {
  plain_numbers()
  refuse_missing(missing(maps), "maps", rlang::current_env())
  check_text(folder, "folder")
  check_flag(data, "data")
  if (!is.null(sections)) check_flag(sections, "sections")
  check_flag(zip, "zip")
  if (zip) need_package("zip", "A folder as one file")
  if (!is.null(limit)) limit <- check_bytes(limit, "limit")
  if (!is.null(address)) address <- check_tile_address(address, "address", character())
  maps <- check_maps(maps)
  site <- new_site(folder, address, limit %||% Inf, data, zip, sections)
  site$fields <- check_fields(fields, maps)
  write_maps(maps, lapply(maps, resolve_sheet), site)
}

new_site <- function(folder, address = NULL, limit = Inf, data = TRUE, zip = FALSE,
                     sections = NULL) {
  folder <- sub("[/\\\\]+$", "", folder)
  list(
    folder = folder, address = address, limit = limit, data = data, zip = zip, sections = sections
  )
}

# `plans` are those of the maps.
write_maps <- function(maps, plans, site, call = rlang::caller_env()) {
  site$folder <- as_path(site$folder, call)
  make_folder(site$folder, call)
  unlock <- lock_path(site$folder, call)
  on.exit(unlock())
  ready_site(site$folder, call)
  on.exit(forget_begun(site$folder), add = TRUE, after = FALSE)
  made <- Map(map_parts, names(maps), maps, plans, MoreArgs = list(site, call))
  all_of <- function(what) unlist(lapply(made, `[[`, what), recursive = FALSE, use.names = FALSE)
  sectioned <- length(all_of("sections")) > 0
  note <- hand_over(maps, plans, sectioned)
  parts <- c(site_assets(sectioned), leave_out_large(all_of("parts"), site$limit), list(note))
  files <- c(parts, site_pages(plans, made, parts, site))
  refuse_twice_written(files, call)
  refuse_large(files, site$limit, call)
  made <- write_site(files, all_of("sections"), site$folder)
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
    "`{worst$file}` has {size_words(max(bytes))}, and no file may be over {size_words(limit)}.",
    if (worst$part == "page") {
      "Raise `limit`, or leave out the table: page_style(table = FALSE)."
    } else {
      "Raise `limit`."
    }
  )
}

# The files of two maps may be called the same by chance ("a" with data, "a-data").
refuse_twice_written <- function(files, call) {
  names <- vapply(files, function(f) f$file, "")
  if (!anyDuplicated(names)) return(invisible())
  ochre_abort("argument", "Two maps would both write `{names[duplicated(names)][1]}`.",
              "Name one of `maps` otherwise.", arg = "maps")
}

check_maps <- function(maps, call = rlang::caller_env()) {
  if (inherits(maps, c("ochre_sheet", "ochre_plan"))) return(list(index = maps))
  fit <- is.list(maps) && length(maps) && !is.null(names(maps)) &&
    all(vapply(maps, inherits, NA, c("ochre_sheet", "ochre_plan")))
  if (!fit) {
    ochre_abort("argument", "`maps` must be a sheet, or a list of sheets with names.",
                "For example list(visits = sheet, residents = other).", arg = "maps")
  }
  names(maps) <- file_word(names(maps))
  if (anyDuplicated(names(maps)) || any(names(maps) %in% c("", "index"))) {
    ochre_abort(
      "argument",
      "The names of `maps` do not make names of files: two are alike, or one is \"index\".",
      "Letters and digits count.", arg = "maps"
    )
  }
  maps
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

# `sectioned` where a page has sections, which a script of their own reads.
site_assets <- function(sectioned) {
  source <- function(file) read_text(file.path(viewer_folder(), file))
  c(
    list(
      hashed("ochre", "js", "script", source("ochre-view.js")),
      hashed("ochre", "css", "style", source("ochre-view.css"))
    ),
    if (sectioned) list(hashed("sections", "js", "script", source("ochre-sections.js")))
  )
}

# The `plan` as its page has it, the files `parts` beside it, and `sections`, which are written.
map_parts <- function(name, sheet, plan, site, call) {
  at <- sectioned_layer(plan, site$sections, call)
  data <- if (site$data) data_parts(name, sheet, plan, at, site$fields)
  made <- if (!is.null(at)) {
    table <- Filter(function(f) f$file == paste0(data_stem(name, plan, at), ".csv"), data)
    kept <- length(table) && length(table[[1]]$bytes) <= site$limit
    in_sections(plan, at, name, if (kept) table[[1]]$file, site)
  }
  page <- made$plan %||% plan
  card <- site_file(paste0(name, "-card.png"), "picture", card_picture(made$light %||% plan))
  parts <- c(plan_parts(name, page, site$limit), list(card), data)
  list(plan = page, parts = parts, sections = made$files)
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
  on.exit(remove_path(path))
  publish(plan, path, width = card_size[1] / 150, height = card_size[2] / 150, dpi = 150)
  readBin(path, "raw", file.size(path))
}

# ---- data ----------------------------------------------------------------------------------------

layers_with_data <- function(plan) {
  which(vapply(plan$layers, function(l) layer_is(l, "shaded") && !is.null(l$labels), NA))
}

# What the files of a layer's data are called by.
data_stem <- function(name, plan, at) {
  layers <- layers_with_data(plan)
  paste0(name, "-data", if (length(layers) > 1) paste0("-", match(at, layers)))
}

# `sectioned` is the layer whose boundaries are too many for a file that others would load.
data_parts <- function(name, sheet, plan, sectioned = NULL, fields = NULL) {
  unlist(lapply(layers_with_data(plan), function(at) {
    stem <- data_stem(name, plan, at)
    table <- csv_text(layer_table(plan$layers[[at]], plan))
    whole <- inherits(sheet, "ochre_sheet") && !at %in% sectioned
    boundaries <- if (whole) sheet_boundaries(sheet, plan, at, fields)
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

# The rows of a layer with class, label and colour beside the columns that it shows; NULL where a
# row has several periods.
sheet_boundaries <- function(sheet, plan, at, fields) {
  # Lines of the globe lie below all and are the plan's own.
  layer <- sheet$layers[[at - (length(plan$layers) - length(sheet$layers))]]
  drawn <- plan$layers[[at]]
  if (!is.null(drawn$panels) || nrow(layer$data) != length(drawn$class)) return(NULL)
  class <- as.integer(drawn$class)
  taken <- c("class", "label", "colour")
  data <- layer$data[setdiff(c(shown_columns(layer, fields), "geometry"), taken)]
  data$class <- ifelse(class > 0, class, NA)
  data$label <- c(drawn$no_data$label, drawn$labels)[class + 1]
  data$colour <- c(drawn$no_data$colour, drawn$colours)[class + 1]
  data
}

boundary_bytes <- function(data, kind) {
  path <- tempfile(fileext = paste0(".", kind))
  on.exit(remove_path(path))
  suppressMessages(write_boundaries(data, path, digits = 5))
  readBin(path, "raw", file.size(path))
}

# ---- pages ---------------------------------------------------------------------------------------

# `made` are the plans as their pages have them, each with the files of its own.
site_pages <- function(plans, made, parts, site) {
  of <- function(part) Filter(function(f) f$part == part, parts)
  name_of <- function(f) f$file
  scripts <- vapply(of("script"), name_of, "")
  for_sections <- grepl("^sections-", scripts)
  pages <- lapply(names(plans), function(name) {
    # What reads sections is there before the map is made.
    shown <- made[[name]]$plan
    wanted <- c(if (!is.null(shown$sections)) scripts[for_sections], scripts[!for_sections])
    assets <- list(script = wanted, style = name_of(of("style")[[1]]))
    data <- Filter(function(f) f$part == "data", made[[name]]$parts)
    own <- vapply(data, name_of, "")
    card <- intersect(paste0(name, "-card.png"), vapply(parts, name_of, ""))
    if (length(card)) card <- paste(c(site$address, card), collapse = "/")
    beside <- c(assets, list(data = own, card = card, whole = plans[[name]]))
    text <- site_page(shown, beside)
    site_file(paste0(name, ".html"), "page", text)
  })
  if (length(plans) > 1) {
    list <- list_page(plans, vapply(parts, name_of, ""))
    pages <- c(pages, list(site_file("index.html", "page", list)))
  }
  pages
}

# What leads to several maps: their pictures with their titles.
list_page <- function(plans, cards) {
  escape <- function(x) htmltools::htmlEscape(x, attribute = TRUE)
  locale <- read_locale(plans[[1]]$locale)
  inks <- plans[[1]]$inks
  titles <- vapply(plans, function(p) p$title, "")
  pictures <- paste0(names(plans), "-card.png")
  shown <- ifelse(
    pictures %in% cards,
    sprintf("<img src=\"%s\" alt=\"\" width=\"%d\" height=\"%d\">", pictures, card_size[1],
            card_size[2]),
    ""
  )
  links <- sprintf(
    "<li><a href=\"%s.html\">%s<span>%s</span></a></li>", names(plans), shown, escape(titles)
  )
  style <- sprintf(list_style, inks$ground, inks$text)
  head <- list(
    title = paste(titles, collapse = " \u00b7 "), locale = plans[[1]]$locale,
    policy = sprintf(
      "default-src 'none'; img-src 'self'; style-src 'sha256-%s'; base-uri 'none'",
      source_hash(style)
    ),
    lines = paste0("<style>", style, "</style>")
  )
  body <- c(
    "<main>", sprintf("<h1>%s</h1>", escape(locale$page$maps)), "<ul>", links, "</ul>", "</main>"
  )
  html_document(head, body)
}

list_style <- paste0(
  "body{margin:0;background:%s;color:%s;font:17px/1.4 system-ui,sans-serif}",
  "main{max-width:1080px;margin:0 auto;padding:24px}h1{font-size:1.7em;margin:0 0 20px}",
  "ul{display:grid;grid-template-columns:repeat(auto-fill,minmax(min(100%%,320px),1fr));",
  "gap:24px;list-style:none;margin:0;padding:0}",
  "a{display:block;min-height:44px;color:inherit;font-weight:600}",
  "img{display:block;width:100%%;height:auto;margin-bottom:8px}"
)
