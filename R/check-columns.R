# Arguments that name columns, by one rule: bare names, texts, `{{ }}`, `.data[[x]]`, positions, and
# where several may stand c() and the helpers of tidyselect. A bare name is a column of the data; if
# none has that name, it is a variable that holds names.

# One column, as its name.
column_name <- function(quo, data, arg, null = FALSE, call = rlang::caller_env()) {
  refuse_missing(rlang::quo_is_missing(quo), arg, call)
  if (null && rlang::quo_is_null(quo)) return(NULL)
  name <- named_columns(quo, data)
  if (is.numeric(name) && length(name) == 1 && name %in% seq_along(data)) name <- names(data)[name]
  if (!is.character(name) || length(name) != 1) {
    ochre_abort("argument", "`{arg}` must name one column, bare, as text, or by its position.")
  }
  check_text(name, arg, call = call)
  check_column(data, name, arg, call = call)
  name
}

# Several columns, as their names.
column_names <- function(quo, data, arg, null = FALSE, call = rlang::caller_env()) {
  refuse_missing(rlang::quo_is_missing(quo), arg, call)
  if (null && rlang::quo_is_null(quo)) return(NULL)
  expr <- rlang::quo_get_expr(quo)
  if (rlang::is_call(expr, "c") && !any(vapply(as.list(expr)[-1], is_selection, NA))) {
    parts <- lapply(as.list(expr)[-1], as_quosure_of, quo)
    found <- lapply(unname(parts), column_names, data = data, arg = arg, call = call)
    return(unlist(found))
  }
  name <- if (is_selection(expr)) {
    selected_columns(quo, data, arg, call)
  } else {
    named_columns(quo, data)
  }
  if (!is.character(name) || length(name) < 2) {
    one <- if (is.null(name)) quo else rlang::new_quosure(name)
    return(column_name(one, data, arg, call = call))
  }
  check_column(data, name, arg, call = call)
}

as_quosure_of <- function(e, quo) {
  if (rlang::is_quosure(e)) e else rlang::new_quosure(e, rlang::quo_get_env(quo))
}

# A call that only tidyselect understands, such as starts_with("n_"), a:c or !a.
is_selection <- function(expr) {
  helpers <- c(
    "starts_with", "ends_with", "contains", "matches", "num_range", "everything", "last_col",
    "all_of", "any_of", "where", "-", "!", ":", "&", "|"
  )
  rlang::is_call(expr, helpers) || rlang::is_call(expr, ns = "tidyselect")
}

selected_columns <- function(quo, data, arg, call) {
  known <- if (is_lazy(data)) stats::setNames(as.list(colnames(data)), colnames(data)) else data
  found <- tryCatch(
    names(tidyselect::eval_select(quo, known, allow_rename = FALSE)),
    error = function(e) character()
  )
  if (length(found)) return(found)
  ochre_abort("column", "`{arg}` selects no column.",
              "The data have {list_words(names(known), 12)}.")
}

# What an expression names: texts or positions, or NULL.
named_columns <- function(quo, data) {
  expr <- rlang::quo_get_expr(quo)
  if (rlang::is_quosure(expr)) return(named_columns(expr, data))
  if (is.character(expr)) return(expr)
  if (rlang::is_call(expr, "$") && identical(expr[[2]], quote(.data))) {
    return(as.character(expr[[3]]))
  }
  if (rlang::is_call(expr, "[[") && identical(expr[[2]], quote(.data))) {
    return(rlang::eval_tidy(expr[[3]], env = rlang::quo_get_env(quo)))
  }
  known <- if (is_lazy(data)) colnames(data) else names(data)
  bare <- if (is.symbol(expr)) as.character(expr)
  if (!is.null(bare) && bare %in% known) return(bare)
  value <- tryCatch(unlist(rlang::eval_tidy(quo)), error = function(e) NULL)
  if (is.character(value) || is.null(bare) && is.numeric(value)) value else bare
}

# One column of data that are not there yet.
later_column <- function(quo, arg, call = rlang::caller_env()) {
  if (rlang::quo_is_null(quo)) return(NULL)
  name <- named_columns(quo, list())
  if (!is.character(name)) {
    ochre_abort("argument", "`{arg}` must name one column, bare or as text.", arg = arg)
  }
  check_text(name, arg, call = call)
  name
}
