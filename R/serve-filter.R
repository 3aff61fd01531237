# Conditions on features in the text form of CQL2 (OGC 21-065r2): comparisons of columns and values,
# IS NULL, BETWEEN, IN, LIKE, AND, OR, NOT and brackets. A condition is read once into a tree, which
# is looked at here, or becomes a condition in the engine.

# The tree of a query's condition, or NULL.
read_filter <- function(query, collection) {
  if (!(query[["filter-lang"]] %||% "cql2-text") %in% "cql2-text") {
    refuse_request(400, "`filter-lang` must be cql2-text.")
  }
  system_parameter(query, "filter-crs", collection)
  text <- query[["filter"]]
  if (is.null(text)) return(NULL)
  state <- new.env(parent = emptyenv())
  state$tokens <- filter_tokens(text)
  state$at <- 1L
  state$table <- collection$table
  tree <- filter_any(state, 0)
  left <- filter_token(state)
  if (!is.null(left)) refuse_filter(sprintf("`%s` is one too many", substr(left, 1, 40)))
  tree
}

refuse_filter <- function(what) {
  refuse_request(400, sprintf(
    "`filter`: %s. As in filter=population > 5000 AND region = 'North'.", what
  ))
}

filter_tokens <- function(text) {
  pattern <- paste0(
    "'(?:[^']|'')*'|\"(?:[^\"])+\"|[0-9]+(?:\\.[0-9]*)?(?:[eE][-+]?[0-9]{1,3})?|",
    "[\\p{L}_][\\p{L}\\p{N}_.]*|<>|<=|>=|[-+<>=(),]"
  )
  tokens <- stringi::stri_extract_all_regex(text, pattern)[[1]]
  rest <- stringi::stri_replace_all_regex(text, pattern, "")
  odd <- stringi::stri_trim_both(rest)
  if (nzchar(odd)) refuse_filter(sprintf("`%s` is no part of one", substr(odd, 1, 20)))
  if (anyNA(tokens)) refuse_filter("there is nothing in it")
  tokens
}

filter_token <- function(state) {
  if (state$at <= length(state$tokens)) state$tokens[state$at]
}
next_is <- function(state, word) {
  token <- filter_token(state)
  !is.null(token) && upper_case(token) %in% word
}
take_token <- function(state, wanted = NULL) {
  token <- filter_token(state)
  if (is.null(token)) refuse_filter("it ends too early")
  if (!is.null(wanted) && !upper_case(token) %in% wanted) {
    refuse_filter(sprintf(
      "there should be %s before `%s`", list_words(wanted), substr(token, 1, 40)
    ))
  }
  state$at <- state$at + 1L
  token
}

# ---- the tree ------------------------------------------------------------------------------------

most_brackets <- 60

filter_any <- function(state, depth) filter_chain(state, depth, "OR", filter_all)
filter_all <- function(state, depth) filter_chain(state, depth, "AND", filter_one)

filter_chain <- function(state, depth, word, part) {
  tree <- part(state, depth)
  while (next_is(state, word)) {
    take_token(state)
    tree <- list(op = lower_case(word), tree, part(state, depth))
  }
  tree
}

filter_one <- function(state, depth) {
  if (depth > most_brackets) refuse_filter("it has too many brackets")
  if (next_is(state, "NOT")) {
    take_token(state)
    return(list(op = "not", filter_one(state, depth + 1)))
  }
  if (next_is(state, "(")) {
    take_token(state)
    tree <- filter_any(state, depth + 1)
    take_token(state, ")")
    return(tree)
  }
  left <- filter_operand(state)
  if (next_is(state, "IS")) {
    take_token(state)
    return(filter_negated(state, function() {
      take_token(state, "NULL")
      list(op = "null", left)
    }))
  }
  if (next_is(state, c("NOT", names(filter_ranges)))) {
    return(filter_negated(state, function() {
      word <- take_token(state, names(filter_ranges))
      filter_ranges[[upper_case(word)]](state, left)
    }))
  }
  signs <- c("=", "<>", "<", ">", "<=", ">=")
  if (!next_is(state, signs) && identical(left$kind, "truth")) {
    return(list(op = "=", left, list(kind = "truth", value = TRUE)))
  }
  sign <- take_token(state, signs)
  list(op = sign, left, filter_same(state, left))
}

# What `read` reads, or its contrary after NOT.
filter_negated <- function(state, read) {
  whole <- !next_is(state, "NOT")
  if (!whole) take_token(state)
  tree <- read()
  if (whole) tree else list(op = "not", tree)
}

# An operand of the same kind.
filter_same <- function(state, left) {
  right <- filter_operand(state)
  if (left$kind != right$kind) {
    refuse_filter(sprintf("a %s is compared with a %s", left$kind, right$kind))
  }
  right
}

# What follows these words after an operand.
filter_ranges <- list(
  BETWEEN = function(state, left) {
    if (!left$kind %in% c("number", "date")) {
      refuse_filter(sprintf("a %s is between nothing", left$kind))
    }
    low <- filter_same(state, left)
    take_token(state, "AND")
    list(op = "and", list(op = ">=", left, low), list(op = "<=", left, filter_same(state, left)))
  },
  IN = function(state, left) {
    take_token(state, "(")
    values <- list()
    repeat {
      right <- filter_same(state, left)
      if (is.null(right$value)) refuse_filter("IN takes values, not columns")
      values <- c(values, list(right$value))
      if (take_token(state, c(",", ")")) == ")") break
    }
    list(op = "in", left, do.call(c, values))
  },
  LIKE = function(state, left) {
    right <- filter_same(state, left)
    if (left$kind != "text" || is.null(left$name) || is.null(right$value)) {
      refuse_filter("LIKE compares a column of texts with a pattern")
    }
    # A sign that stands for itself after a backslash, which must have one.
    if (grepl("\\\\([^%_\\\\]|$)", gsub("\\\\\\\\", "", right$value))) {
      refuse_filter("a backslash in a pattern stands before %, _ or another one")
    }
    list(op = "like", left, right$value)
  }
)

# A column, by its `name`, or a `value`; `kind` is text, number, truth or date.
filter_operand <- function(state) {
  token <- take_token(state)
  first <- substr(token, 1, 1)
  if (first == "'") {
    return(list(kind = "text", value = gsub("''", "'", substr(token, 2, nchar(token) - 1))))
  }
  if (first %in% c("-", "+")) {
    number <- filter_operand(state)
    if (number$kind != "number" || is.null(number$value)) refuse_filter("a sign has no number")
    if (first == "-") number$value <- -number$value
    return(number)
  }
  if (grepl("^[0-9]", token)) return(list(kind = "number", value = as.numeric(token)))
  word <- upper_case(token)
  if (word %in% c("TRUE", "FALSE")) return(list(kind = "truth", value = word == "TRUE"))
  if (word %in% c("DATE", "TIMESTAMP") && next_is(state, "(")) return(filter_date(state))
  name <- if (first == "\"") substr(token, 2, nchar(token) - 1) else token
  if (!name %in% names(state$table)) {
    known <- names(state$table)
    refuse_filter(sprintf(
      "there is no column `%s`. %s", substr(name, 1, 40), did_you_mean(name, known, "Columns")
    ))
  }
  list(kind = column_kind(state$table[[name]]), name = name)
}

filter_date <- function(state) {
  take_token(state, "(")
  text <- take_token(state)
  take_token(state, ")")
  day <- as.Date(substr(text, 2, 11), optional = TRUE, format = "%Y-%m-%d")
  if (!startsWith(text, "'") || is.na(day)) refuse_filter("a date is as in DATE('2031-05-01')")
  list(kind = "date", value = day)
}

column_kind <- function(x) {
  if (inherits(x, c("Date", "POSIXt"))) return("date")
  if (is.logical(x)) return("truth")
  if (is.numeric(x) && !is.object(x)) "number" else "text"
}

# ---- what it says of rows ------------------------------------------------------------------------

# TRUE, FALSE, or NA where something is missing, for each row.
filter_rows <- function(tree, table) {
  value <- function(x) {
    if (is.null(x$name)) return(x$value)
    column <- table[[x$name]]
    switch(x$kind, text = as.character(column), date = as.Date(column), column)
  }
  switch(tree$op,
    and = filter_rows(tree[[2]], table) & filter_rows(tree[[3]], table),
    or = filter_rows(tree[[2]], table) | filter_rows(tree[[3]], table),
    not = !filter_rows(tree[[2]], table),
    null = is.na(value(tree[[2]])) & rep(TRUE, nrow(table)),
    `in` = among_values(rep_len(value(tree[[2]]), nrow(table)), tree[[3]]),
    like = like_values(value(tree[[2]]), tree[[3]]),
    compare_values(tree$op, value(tree[[2]]), value(tree[[3]]), nrow(table))
  )
}

# Texts in the order of their letters' numbers, whatever the language of the machine.
compare_values <- function(sign, a, b, n) {
  a <- rep_len(a, n)
  b <- rep_len(b, n)
  if (is.character(a)) {
    order <- sort(unique(c(a, b)), method = "radix")
    a <- match(a, order)
    b <- match(b, order)
  }
  switch(sign, `=` = a == b, `<>` = a != b, `<` = a < b, `>` = a > b, `<=` = a <= b, `>=` = a >= b)
}

among_values <- function(x, values) ifelse(is.na(x), NA, x %in% values)

like_values <- function(x, pattern) ifelse(is.na(x), NA, like_rows(x, pattern))

# The parts between the signs for any text are looked for one after the other, each from where the
# one before ends: a pattern takes the time of its length, not that of all ways to read it.
like_rows <- function(x, pattern) {
  parts <- strsplit(rewrite_like(paste0(pattern, "_"), "\n", ".", quoted), "\n", fixed = TRUE)[[1]]
  n <- length(parts)
  parts[n] <- substr(parts[n], 1, nchar(parts[n]) - 1)
  at_start <- c("\\A", rep("", n - 1))
  for (k in seq_len(n - 1)) {
    found <- stringi::stri_locate_first_regex(x, paste0("(?s)", at_start[k], parts[k]))
    x <- stringi::stri_sub(x, found[, 2] + 1)
  }
  found <- stringi::stri_detect_regex(x, paste0("(?s)", at_start[n], parts[n], "\\z"))
  found %in% TRUE
}

quoted <- function(x) ifelse(x == "\n", "\\n", paste0("\\Q", x, "\\E"))

# The same for the engine of a lazy table.
filter_there <- function(tree, con) {
  value <- function(x) if (is.null(x$name)) x$value else rlang::expr(.data[[!!x$name]])
  if (tree$op %in% c("and", "or")) {
    sign <- if (tree$op == "and") "&" else "|"
    both <- rlang::call2(sign, filter_there(tree[[2]], con), filter_there(tree[[3]], con))
    # In brackets, which are not made by themselves there.
    return(rlang::call2("(", both))
  }
  if (tree$op == "not") {
    return(rlang::call2("!", rlang::call2("(", filter_there(tree[[2]], con))))
  }
  if (tree$op == "null") return(rlang::expr(is.na(!!value(tree[[2]]))))
  if (tree$op == "in") return(rlang::expr(!!value(tree[[2]]) %in% !!tree[[3]]))
  if (tree$op == "like") {
    like <- like_there(value(tree[[2]]), tree[[3]], con)
    return(like %||% refuse_filter("this database takes no backslash in a pattern"))
  }
  sign <- c(`=` = "==", `<>` = "!=")[tree$op]
  rlang::call2(if (is.na(sign)) tree$op else sign, value(tree[[2]]), value(tree[[3]]))
}

# ---- what can be asked for -----------------------------------------------------------------------

answer_queryables <- function(collection, ask) {
  refuse_unknown(ask$query, "f")
  form <- wanted_form(c("schema", "html"), ask$query[["f"]], ask$accept)
  table <- collection$table
  kinds <- vapply(table, json_type, "")
  title <- paste("What can be asked of", collection$title)
  if (form == "html") {
    body <- html_table(data.frame(Column = names(table), Kind = kinds))
    return(new_answer(service_page(title, body, own_links(ask, "html"), ask), form))
  }
  properties <- Map(function(x, name, kind) {
    dated <- inherits(x, c("Date", "POSIXt"))
    c(list(title = name, type = kind), if (dated) list(format = "date"))
  }, table, names(table), kinds)
  new_answer(write_json(list(
    `$schema` = "https://json-schema.org/draft/2020-12/schema",
    `$id` = paste0(ask$base, "/collections/", collection$id, "/queryables"),
    type = "object", title = title, properties = properties, additionalProperties = FALSE
  )), form)
}
