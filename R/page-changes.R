# What a page that is open is told when its plan has changed: only what is other. The view of
# whoever reads it stays.

# What may change under an open page; all else makes a map of another frame, with other things in
# it.
lasting_fields <- c(
  "id", "kind", "name", "names", "codes", "regions", "show", "zoomed", "live", "group", "row"
)
# Told beside the layers, or of figures only.
passing_fields <- c("alt", "ranking")

# As JSON for viewer/src/held-map.ts: NULL when nothing has changed, changes, or the whole plan.
page_changes <- function(old, new) {
  if (is.null(old)) return(page_json(new))
  if (identical(unclass(old), unclass(new))) return(NULL)
  if (!is_like(old, new)) return(page_json(new))
  content <- plan_content(new)
  before <- plan_content(old)
  layers <- lapply(seq_along(new$layers), function(i) {
    other <- Filter(function(field) {
      !identical(before$layers[[i]][[field]], content$layers[[i]][[field]])
    }, names(content$layers[[i]]))
    content$layers[[i]][other]
  })
  cards <- content$page$cards
  said <- list(changes = TRUE, alt = new$alt, cards = cards, marks = new$marks, layers = I(layers))
  packed_json(said, content$layers)
}

# Is a plan another in its layers' classes, colours, sizes and words alone?
is_like <- function(old, new) {
  old$page["cards"] <- new$page["cards"] <- list(NULL)
  whole <- setdiff(names(new), c("layers", passing_fields))
  identical(old[whole], new[whole]) &&
    identical(lapply(old$layers, `[`, lasting_fields), lapply(new$layers, `[`, lasting_fields))
}
