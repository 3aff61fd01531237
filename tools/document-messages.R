# Writes vignettes/messages.Rmd: every kind of error and warning, with what it says and which
# function says it, from the calls of ochre_abort() and ochre_warn() in the sources.

# The words of a text in code: pieces put together, values as "…".
words_in <- function(code) {
  if (is.character(code)) {
    # Doubled braces stand for one; what stands in single ones is a value.
    shown <- paste(code, collapse = " ")
    at <- gregexpr("[{][{]|[}][}]|[{][^{}]+[}]", shown)
    regmatches(shown, at) <- lapply(regmatches(shown, at), function(found) {
      ifelse(nchar(found) > 2, "…", substr(found, 1, 1))
    })
    return(shown)
  }
  if (!is.call(code)) return("…")
  name <- paste(deparse(code[[1]]), collapse = "")
  parts <- as.list(code)[-1]
  parts <- parts[!nzchar(names(parts) %||% rep("", length(parts)))]
  switch(name,
    sprintf = gsub("%[-+0-9.]*[sdf]", "…", gsub("%%", "%", words_in(parts[[1]]), fixed = TRUE)),
    paste = paste(vapply(parts, words_in, ""), collapse = " "),
    paste0 = paste(vapply(parts, words_in, ""), collapse = ""),
    c = paste(vapply(parts, words_in, ""), collapse = " "),
    `if` = paste(unique(vapply(parts[-1], words_in, "")), collapse = " / "),
    "…"
  )
}

`%||%` <- function(a, b) if (is.null(a)) b else a

calls_in <- function(code, where) {
  if (!is.call(code) && !is.pairlist(code)) return(NULL)
  own <- NULL
  name <- if (is.call(code) && is.name(code[[1]])) as.character(code[[1]]) else ""
  if (name %in% c("ochre_abort", "ochre_warn") && is.character(code[[2]]) && length(code) > 2) {
    mend <- if (length(code) > 3 && !nzchar(names(code)[4] %||% "")) words_in(code[[4]]) else ""
    own <- data.frame(
      type = if (name == "ochre_abort") "error" else "warning",
      kind = code[[2]], what = words_in(code[[3]]), mend = sub("^…$", "", mend), where = where
    )
  }
  inner <- lapply(as.list(code), function(x) if (missing(x)) NULL else calls_in(x, where))
  rbind(own, do.call(rbind, inner))
}

found <- do.call(rbind, lapply(list.files("R", "[.]R$", full.names = TRUE), function(file) {
  do.call(rbind, lapply(as.list(parse(file, keep.source = FALSE)), function(e) {
    named <- is.call(e) && identical(e[[1]], as.name("<-")) && is.name(e[[2]])
    calls_in(e, if (named) as.character(e[[2]]) else basename(file))
  }))
}))
found <- found[found$what != "…", ]
found <- found[order(found$type, found$kind, found$what), ]

cell <- function(x) gsub("|", "\\|", gsub("\\s+", " ", x), fixed = TRUE)
sections <- unlist(lapply(unique(paste0("ochre_", found$type, "_", found$kind)), function(class) {
  rows <- found[paste0("ochre_", found$type, "_", found$kind) == class, ]
  c(
    "", sprintf("## `%s`", class), "", "| it says | likely mend | from |", "|---|---|---|",
    sprintf("| %s | %s | `%s()` |", cell(rows$what), cell(rows$mend), rows$where)
  )
}))
text <- c(
  "---",
  "title: \"Errors and warnings\"",
  "output: rmarkdown::html_vignette",
  "vignette: >",
  "  %\\VignetteIndexEntry{Errors and warnings}",
  "  %\\VignetteEngine{knitr::rmarkdown}",
  "  %\\VignetteEncoding{UTF-8}",
  "---",
  "",
  "<!-- Made from the sources by tools/document-messages.R; do not edit. -->",
  "",
  "Every error has the class `ochre_error` and one that says its kind, every warning has",
  "`ochre_warning` and one of its kind. `tryCatch(..., ochre_error_column = )` catches one kind;",
  "`options(ochre.quiet = \"counts\")` silences the warnings of one. An … stands for what is",
  "named.",
  sections
)
writeLines(enc2utf8(text), "vignettes/messages.Rmd", useBytes = TRUE)
