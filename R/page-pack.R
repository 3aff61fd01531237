# The plan as a page carries it: each column of values once, and short. A column of numbers is
# packed text; texts that are numbers in words, or columns put together, are the recipe for them,
# which is only taken where it gives the very same texts. viewer/src/columns.ts reads it.

packed_version <- 1L
# Shorter arrays stand as they are.
least_column <- 12

page_json <- function(plan) {
  content <- plan_content(plan)
  packed_json(content, content$layers)
}

# `wholes` are the layers that those of the content are, or are parts of.
packed_json <- function(content, wholes) {
  pool <- new_column_pool(content$marks)
  content$layers <- I(Map(function(layer, whole) {
    pool$ends <- number_ends(whole)
    pack_part(layer, pool, integer())
  }, content$layers, wholes))
  text <- write_json(list(packed = packed_version, columns = I(pool$columns), plan = content))
  as_script_text(text)
}

# JSON that may stand within a script: a cell with "<!-- <script>" would swallow what follows.
as_script_text <- function(json) gsub("<", "\\u003c", json, fixed = TRUE)

# Columns so far: as they are written, and the vectors that they stand for.
new_column_pool <- function(marks) {
  pool <- new.env(parent = emptyenv())
  pool$columns <- list()
  pool$values <- list()
  pool$known <- list()
  pool$marks <- marks
  pool
}

# A layer, a panel or a popup with its long arrays in the pool. `beside` are columns of texts that
# others may be put together from.
pack_part <- function(part, pool, beside) {
  late <- intersect(c("popup", "hover", "live", "panels"), names(part))
  for (field in c(setdiff(names(part), late), late)) {
    value <- part[[field]]
    if (is.null(value)) next
    packed <- pack_value(value, pool, beside, part)
    part[[field]] <- packed
    beside <- c(beside, columns_in(packed, pool))
  }
  part
}

pack_value <- function(value, pool, beside, part) {
  if (inherits(value, "json")) return(value)
  if (!is.list(value)) {
    if (length(value) < least_column) return(value)
    return(add_column(as.vector(unclass(value)), pool, beside, part))
  }
  if (!is.null(names(value))) return(pack_part(value, pool, beside))
  for (i in seq_along(value)) {
    if (is.null(value[[i]])) next
    value[[i]] <- pack_value(value[[i]], pool, beside, part)
    beside <- c(beside, columns_in(value[[i]], pool))
  }
  value
}

# Columns of texts that a packed value refers to.
columns_in <- function(packed, pool) {
  at <- if (is.list(packed)) unlist(packed[names(packed) == "column"])
  if (is.null(at) && is.list(packed)) {
    at <- unlist(lapply(packed, function(p) if (is.list(p)) p$column))
  }
  at <- as.integer(at)
  at[vapply(pool$values[at + 1], is.character, NA)]
}

# The number of the column that holds a vector; one that is new is added.
add_column <- function(value, pool, beside, part = NULL) {
  key <- rlang::hash(value)
  at <- pool$known[[key]]
  if (is.null(at)) {
    written <- write_column(value, pool, beside, part)
    at <- length(pool$columns)
    pool$columns[[at + 1]] <- written
    pool$values[[at + 1]] <- value
    pool$known[[key]] <- at
  }
  list(column = at)
}

write_column <- function(value, pool, beside, part) {
  out <- if (is.character(value)) {
    as_written_numbers(value, pool) %||%
      as_pieces(value, pool, beside) %||%
      as_rest(value, pool, beside)
  } else if (is.numeric(value)) {
    as_places(value, pool, part) %||% as_ranks(value, pool, part) %||% as_packed(value)
  }
  out %||% I(value)
}

# The least and the greatest number of a layer in all its panels.
number_ends <- function(layer) {
  all <- unlist(lapply(c(list(layer), layer$panels), function(p) {
    known <- unlist(p$share) >= 0
    if (length(known)) unlist(p$numbers)[known]
  }))
  if (length(all)) range(all, na.rm = TRUE)
}

# ---- numbers -------------------------------------------------------------------------------

# Whole numbers and how many decimals they have, where they are the very same as numbers of JSON.
as_packed <- function(value) {
  known <- value[!is.na(value)]
  for (decimals in 0:9) {
    whole <- round(known * 10^decimals)
    if (any(abs(whole) > 2^50)) return(NULL)
    if (all(whole / 10^decimals == known)) {
      text <- call_core(packed_numbers_core(round(value * 10^decimals)))
      return(list(packed = text, decimals = decimals))
    }
  }
  NULL
}

# Where numbers lie between the ends of all panels, in thousandths.
as_places <- function(value, pool, part) {
  numbers <- part_numbers(part, pool)
  ends <- pool$ends
  if (is.null(numbers) || !identical(value, as.vector(unclass(part$share)))) return(NULL)
  if (!isTRUE(diff(ends) > 0)) return(NULL)
  share <- (numbers$value - ends[1]) / (ends[2] - ends[1])
  tried <- ifelse(is.na(share), -1, floor(1000 * share + 0.5))
  with_exceptions(list(placed = numbers$column, from = ends[1], to = ends[2]), tried, value)
}

# Ranks from the highest number; numbers that are equal have the least rank of them.
as_ranks <- function(value, pool, part) {
  numbers <- part_numbers(part, pool)
  if (is.null(numbers) || !identical(value, as.vector(unclass(part$rank)))) return(NULL)
  tried <- rep(0, length(value))
  known <- !is.na(numbers$value)
  tried[known] <- rank(-numbers$value[known], ties.method = "min")
  with_exceptions(list(ranked = numbers$column), tried, value)
}

part_numbers <- function(part, pool) {
  x <- part$numbers
  if (is.list(x)) {
    # Of a popup they are those of its fields.
    if (is.null(x$column)) return(NULL)
    x <- pool$values[[x$column + 1]]
  }
  x <- as.vector(unclass(x))
  if (!is.numeric(x) || length(x) < least_column) return(NULL)
  list(value = x, column = add_column(x, pool, integer())$column)
}

# A recipe with the few entries that it does not give; NULL when there are many.
with_exceptions <- function(recipe, tried, value) {
  same <- tried == value
  odd <- which(is.na(tried) != is.na(value) | (!is.na(same) & !same))
  if (length(odd) > max(2, 0.03 * length(value))) return(NULL)
  if (!length(odd)) return(recipe)
  c(recipe, list(but = list(rows = I(odd - 1L), values = I(value[odd]))))
}

# ---- texts ---------------------------------------------------------------------------------

# Texts that are numbers as they are written in the map's language, between the same words.
as_written_numbers <- function(value, pool) {
  recipe <- writing_of(value, pool$marks)
  if (is.null(recipe)) return(NULL)
  # As UTF-8, whose bytes are compared.
  writing <- lapply(c(recipe, list(
    minus = "\u2212", thousands = pool$marks$thousands, point = pool$marks$decimal
  )), function(v) if (is.character(v)) enc2utf8(v) else v)
  number <- call_core(written_numbers_core(enc2utf8(value), writing))$value
  other <- is.na(number)
  recipe["missing"] <- if (!anyNA(value) && any(other)) most_frequent(value[other]) else NA
  tried <- value
  tried[other] <- recipe$missing
  written <- with_exceptions(recipe, tried, value)
  if (is.null(written)) return(NULL)
  c(list(written = add_column(number, pool, integer())$column), written)
}

most_frequent <- function(text) {
  found <- distinct_texts(text)
  found$text[which.max(tabulate(found$at))]
}

# How numbers are written in texts, from some of them: the words before and after, decimals,
# thousands marks, digits of a code. NULL where most are no numbers.
writing_of <- function(value, marks) {
  some <- value[unique(round(seq(1, length(value), length.out = 1000)))]
  some <- some[!is.na(some)]
  digits <- paste0("[0-9\\Q", marks$thousands, "\\E]*[0-9]")
  pattern <- paste0("\u2212?(", digits, ")(?:\\Q", marks$decimal, "\\E([0-9]+))?")
  parts <- stringi::stri_match_first_regex(some, paste0("^([^0-9\u2212]*)", pattern, "(.*)$"))
  parts <- parts[!is.na(parts[, 1]), , drop = FALSE]
  if (!nrow(parts) || nrow(parts) < 0.6 * length(some)) return(NULL)
  decimals <- if (is.na(parts[1, 4])) 0L else nchar(parts[1, 4])
  list(
    decimals = decimals,
    grouped = nzchar(marks$thousands) && any(grepl(marks$thousands, parts[, 3], fixed = TRUE)),
    before = parts[1, 2],
    after = parts[1, 5],
    width = code_width(parts[, 3], decimals)
  )
}

# Codes that begin with zeros are written in so many digits; 0 for no such code.
code_width <- function(digits, decimals) {
  same <- length(unique(nchar(digits))) == 1
  zeros <- startsWith(digits, "0") & nchar(digits) > 1
  if (same && decimals == 0 && any(zeros)) nchar(digits[1]) else 0L
}

# Texts put together from other columns. At the first value that is missing a text says so and
# ends.
as_pieces <- function(value, pool, beside) {
  beside <- unique(beside)
  beside <- beside[lengths(pool$values[beside + 1]) == length(value)]
  if (!length(beside)) return(NULL)
  whole <- Reduce(`&`, lapply(pool$values[beside + 1], function(v) !is.na(v)), !is.na(value))
  rows <- utils::head(which(whole), 200)
  rows <- rows[unique(round(seq(1, length(rows), length.out = 5)))]
  for (row in rows[!is.na(rows)]) {
    recipe <- pieces_of(value[row], row, pool, beside)
    if (is.null(recipe)) next
    recipe["missing"] <- missing_word(value, recipe, pool)
    found <- with_exceptions(recipe, put_together(recipe, pool, length(value)), value)
    if (!is.null(found)) return(found)
  }
  NULL
}

# Texts that begin with another column, and go on with numbers.
as_rest <- function(value, pool, beside) {
  for (k in unique(beside)) {
    start <- pool$values[[k + 1]]
    if (length(start) != length(value) || anyNA(start) || anyNA(value)) next
    if (!all(startsWith(value, start))) next
    rest <- substring(value, nchar(start) + 1)
    if (is.null(as_written_numbers(rest, pool))) next
    of <- c(k, add_column(rest, pool, integer())$column)
    return(list(pieces = I(c("", "", "")), of = I(of), missing = NA))
  }
  NULL
}

# What of one text is which column: the longest ones first.
pieces_of <- function(text, row, pool, beside) {
  words <- vapply(beside, function(k) pool$values[[k + 1]][row], "")
  found <- stringi::stri_locate_first_fixed(text, words)
  keep <- order(-nchar(words))
  keep <- keep[nzchar(words[keep]) & !is.na(found[keep, 1])]
  at <- integer()
  for (k in keep) {
    clear <- all(found[at, 2] < found[k, 1] | found[at, 1] > found[k, 2])
    if (clear) at <- c(at, k)
  }
  if (!length(at)) return(NULL)
  at <- at[order(found[at, 1])]
  from <- c(1, found[at, 2] + 1)
  to <- c(found[at, 1] - 1, nchar(text))
  list(pieces = I(substring(text, from, to)), of = I(beside[at]))
}

missing_word <- function(value, recipe, pool) {
  of <- pool$values[unlist(recipe$of) + 1]
  lost <- which(is.na(of[[length(of)]]) & !is.na(value) & Reduce(`&`, lapply(
    of[-length(of)],
    function(v) !is.na(v)
  ), TRUE))
  if (!length(lost)) return(NA_character_)
  pieces <- unclass(recipe$pieces)
  start <- Reduce(paste0, lapply(seq_along(of)[-length(of)], function(i) {
    paste0(pieces[i], of[[i]][lost[1]])
  }), "")
  substring(value[lost[1]], nchar(paste0(start, pieces[length(of)])) + 1)
}

put_together <- function(recipe, pool, n) {
  pieces <- unclass(recipe$pieces)
  out <- rep(pieces[1], n)
  open <- rep(TRUE, n)
  for (i in seq_along(recipe$of)) {
    column <- pool$values[[recipe$of[i] + 1]]
    gone <- is.na(column)
    more <- ifelse(gone, recipe$missing, paste0(column, pieces[i + 1]))
    out[open] <- paste0(out[open], more[open])
    open <- open & !gone
  }
  out
}
