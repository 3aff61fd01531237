# A map of very many areas in a folder: the page has what is said of the whole, and loads the areas
# of the squares that a reader looks at. src/core/section-tree.hpp divides the map.

# What a section holds at most, beyond which it falls into four.
most_in_section <- list(areas = 5000, vertices = 80000)
# From so many areas, or corners of borders, on a folder is written in sections.
least_for_sections <- list(areas = 20000, vertices = 2e6)

# The layer that is to be written in sections; NULL for none. `wanted` is TRUE, FALSE, or NULL for
# where it is of use.
sectioned_layer <- function(plan, wanted, call = rlang::caller_env()) {
  if (isFALSE(wanted)) return(NULL)
  count <- vapply(plan$layers, count_areas, 0L)
  at <- which.max(count)
  if (is.null(wanted)) {
    large <- count[at] > least_for_sections$areas ||
      (count[at] > 0 && length(plan$topology$x) > least_for_sections$vertices)
    if (!large) return(NULL)
  }
  why <- if (!count[at]) "has no layer of areas" else if (takes_values(plan)) "takes new values"
  if (is.null(why)) return(at)
  if (is.null(wanted)) return(NULL)
  ochre_abort("argument", "The map {why}, and cannot be written in sections.",
              "Leave out `sections`.", arg = "sections")
}

# The plan without the areas of a layer, the plan with corners enough for a small picture, and the
# files that hold the areas, which are written on the way. `table` is the file that has all rows.
in_sections <- function(plan, at, name, table, site) {
  layer <- plan$layers[[at]]
  drawn <- which(layers_are(plan$layers, "outlines"))
  tree <- call_core(section_tree_core(
    plan$topology, match(at, drawn), most_in_section$areas, most_in_section$vertices
  ))
  # What resolving left behind may be as large as the map.
  gc(FALSE)
  folder <- paste0(name, "-sections")
  files <- write_sections(plan, at, tree, folder, site)
  named <- if (plan$page$search) write_names(layer, tree, plan$marks, folder, site)
  bare <- without_areas(plan, at, match(at, drawn))
  bare$sections <- list(
    layer = at - 1L,
    areas = format_number(count_areas(layer), 0, locale = plan$marks),
    ranked = vapply(layer$panels %||% list(layer), function(p) sum(p$rank > 0), 0L),
    box = tree$box,
    cells = section_cells,
    classes = count_classes(layer),
    picture = section_pictures(tree, 1L, layer),
    level = tree$level, column = tree$column, row = tree$row, kind = tree$kind,
    hash = vapply(files, function(f) f$hash, ""),
    folder = folder,
    table = table,
    names = if (length(named$files)) {
      list(from = named$from, hash = vapply(named$files, function(f) f$hash, ""))
    }
  )
  ochre_tell(
    paste0("`{name}` is written in {count_words(length(files), 'section')}, which the page ",
           "loads as they come into view.")
  )
  light <- plan
  light$topology <- call_core(section_light_core(tree$tree))
  # The tree goes before anything is drawn.
  rm(tree)
  gc(FALSE)
  list(plan = bare, light = light, files = c(files, named$files))
}

# A file of its own holds all areas at once, however many there are.
tell_of_sections <- function(plan) {
  if (is.null(sectioned_layer(plan, NULL))) return(invisible())
  ochre_tell(
    paste0("This map is large for a page of one file. Published to a folder (a path that ends ",
           "in a slash), its areas are loaded as they come into view.")
  )
}

takes_values <- function(plan) !is.null(plan$page$live)

count_areas <- function(layer) {
  if (!layer_is(layer, "shaded")) return(0L)
  length((if (length(layer$panels)) layer$panels[[1]] else layer)$class)
}

# ---- the plan ------------------------------------------------------------------------------------

# What a layer has for each area.
area_fields <- c(
  "class", "share", "rank", "values", "numbers", "hover", "names", "codes", "regions"
)

popup_lists <- c("fields", "texts", "numbers")

# The part of a layer, or of one of its panels, that speaks of some areas.
of_areas <- function(part, rows) {
  take <- function(v) if (is.null(v)) NULL else I(v[rows])
  known <- intersect(area_fields, names(Filter(Negate(is.null), part)))
  out <- lapply(part[known], take)
  if (!is.null(part$popup)) {
    out$popup <- lapply(Filter(Negate(is.null), part$popup[popup_lists]), function(lists) {
      I(lapply(lists, take))
    })
  }
  if (!is.null(part$panels)) out$panels <- I(lapply(part$panels, of_areas, rows))
  out
}

# The plan as a page of sections has it at first. Bars would be of all areas.
without_areas <- function(plan, at, drawn) {
  none <- function(v) v[0]
  empty <- function(part) {
    known <- intersect(area_fields, names(Filter(Negate(is.null), part)))
    part[known] <- lapply(part[known], none)
    lists <- intersect(popup_lists, names(Filter(Negate(is.null), part$popup)))
    part$popup[lists] <- lapply(part$popup[lists], lapply, none)
    if (!is.null(part$panels)) part$panels <- lapply(part$panels, empty)
    part
  }
  plan$layers[[at]] <- empty(plan$layers[[at]])
  plan$topology <- call_core(topology_without_core(plan$topology, drawn))
  if (plan$page$bars > 0) {
    ochre_tell("The bars are left out: the page does not hold all areas at once.")
    plan$page$bars <- 0
  }
  plan
}

# ---- files ---------------------------------------------------------------------------------------

section_cells <- 512L

# A picture for each panel.
section_pictures <- function(tree, k, layer) {
  panels <- layer$panels %||% list(layer)
  classes <- lapply(panels, function(p) as.integer(p$class))
  call_core(section_picture_core(tree$tree, k, classes, count_classes(layer)))$cells
}

# More than any class of a layer, in all its panels.
count_classes <- function(layer) {
  max(vapply(c(list(layer), layer$panels), function(p) length(p$colours), 0L))
}

# Each section as a script that hands on its text: it is read from disk too, where nothing can be
# fetched. Its name holds a hash of what is in it.
write_sections <- function(plan, at, tree, folder, site) {
  layer <- plan$layers[[at]]
  whole <- plan
  whole$layers <- plan$layers[at]
  none <- list(x = integer(), y = integer(), arc_end = integer(), layers = list())
  whole$topology[names(none)] <- none
  whole["dark"] <- list(NULL)
  content <- plan_content(whole)
  ends <- number_ends(layer)
  like <- list(share = if (length(ends)) c(0L, 0L), numbers = ends)
  count <- length(tree$level)
  lapply(seq_len(count), function(k) {
    signal_progress("Writing sections", k, count)
    place <- paste(tree$level[k], tree$column[k], tree$row[k], sep = "-")
    text <- if (tree$kind[k] == 1L) {
      write_json(list(pictures = I(section_pictures(tree, k, layer))))
    } else {
      section_text(content, call_core(section_shapes_core(tree$tree, k)), like, layer$id)
    }
    write_section(place, text, folder, site)
  })
}

names_in_file <- 4000L

# What a search finds: each name and each code, in the order of their plain forms, with where its
# area lies. `from` is the form that each file begins with.
write_names <- function(layer, tree, marks, folder, site) {
  count <- count_areas(layer)
  plain <- function(texts) if (is.null(texts)) rep(NA_character_, count) else plain_form(texts)
  name <- plain(layer$names)
  code <- plain(layer$codes)
  row <- rep(seq_len(count), 2)
  key <- c(name, ifelse(code == name & !is.na(name), NA, code))
  found <- which(!is.na(key) & nzchar(key) & !is.na(tree$x[row]))
  if (!length(found)) return(NULL)
  found <- found[order(key[found], method = "radix")]
  row <- row[found]
  key <- key[found]
  rm(name, code, found)
  files <- list()
  from <- character()
  # In halves until each is within the limit.
  put <- function(at) {
    text <- names_text(layer, tree, row[at], marks)
    if (length(section_bytes("names-99999", text)) > site$limit && length(at) > 1) {
      half <- seq_len(length(at) %/% 2)
      put(at[half])
      return(put(at[-half]))
    }
    from <<- c(from, key[at[1]])
    place <- paste0("names-", length(from))
    files[[length(from)]] <<- write_section(place, text, folder, site)
  }
  for (at in split(seq_along(row), (seq_along(row) - 1L) %/% names_in_file)) put(at)
  list(files = files, from = from)
}

names_text <- function(layer, tree, rows, marks) {
  part <- list(
    names = layer$names[rows], codes = layer$codes[rows], regions = layer$regions[rows],
    rows = rows - 1L, x = round(tree$x[rows]), y = round(tree$y[rows]),
    size = ceiling(tree$size[rows])
  )
  part <- lapply(Filter(Negate(is.null), part), I)
  packed_json(list(marks = marks, layers = I(list(part))), list(list()))
}

# As plain() in viewer/src/search.ts writes what a reader types.
plain_form <- function(text) {
  text <- stringi::stri_trans_nfd(enc2utf8(text))
  text <- stringi::stri_replace_all_regex(text, "[\u0300-\u036f\u2018\u2019']", "")
  stringi::stri_trans_tolower(text, locale = "en")
}

# `content` is the layer as a page has it; `like` has the ends of all its numbers.
section_text <- function(content, found, like, id) {
  part <- of_areas(content$layers[[1]], found$rows)
  part$rows <- I(found$rows - 1L)
  topology <- found[c("x0", "y0", "step", "arcs")]
  topology$layers <- stats::setNames(list(found$shapes), id)
  packed_json(list(marks = content$marks, topology = topology, layers = I(list(part))), list(like))
}

section_bytes <- function(place, text) {
  charToRaw(enc2utf8(sprintf(
    "(window.ochreSections=window.ochreSections||{})[\"%s\"]=%s;",
    place, jsonlite::toJSON(text, auto_unbox = TRUE)
  )))
}

write_section <- function(place, text, folder, site) {
  bytes <- section_bytes(place, text)
  hash <- substr(digest::digest(bytes, "sha256", serialize = FALSE), 1, 10)
  file <- sprintf("%s/%s-%s.js", folder, place, hash)
  refuse_large(list(site_file(file, "section", bytes)), site$limit)
  if (!holds_bytes(file.path(site$folder, file), bytes)) write_beside(file, bytes, site$folder)
  c(list(file = file, part = "section", hash = hash), facts_of_bytes(bytes))
}
