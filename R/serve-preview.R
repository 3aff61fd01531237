# The preview: a sheet on this machine while it is being made (package httpuv). Its files are
# watched; what has changed is made anew and told to the pages that are open, which keep their view.

#' Look at a map while making it
#'
#' Serves the map of a sheet file on this machine, and makes it anew whenever the sheet or one of
#' the files that it reads has changed. A page that is open updates only what changed, and keeps its
#' view, its period and what is chosen. What is wrong stands on the page, with the line of the sheet
#' and the likely mend, and the last map that could be made stays below. The command `ochre preview`
#' does the same.
#'
#' Only what has changed is worked out: tables and geometry are kept, as `ochre build` keeps them.
#' What comes from an address is read once, until the preview is started again. Of a sheet that
#' makes several maps the first is shown, unless `values` says which.
#'
#' @param file Path of a sheet file: one text.
#' @param values Named values in place of those of the sheet: a list, or a named vector.
#' @param port Port to listen on: one whole number; 0 (default) takes a free one.
#' @param open `TRUE` opens the page in a browser; by default in interactive sessions.
#' @return Nothing; it does not return before it is interrupted. The address is printed.
#' @section Errors: `ochre_error_package` when package httpuv is missing; `ochre_error_port` when
#'   the port is taken; `ochre_error_file` when there is no such file; `ochre_error_argument`. What
#'   is wrong with the sheet is said on the page.
#' @examples
#' if (interactive()) preview_sheet(ochre_demo("map.ochre.yml"))
#' @export
preview_sheet <- function(file, values = list(), port = 0, open = interactive()) {
  plain_numbers()
  check_text(file, "file")
  check_file(file, rlang::current_env())
  values <- check_values(values)
  check_flag(open, "open")
  show <- new_preview(file, values)
  serve_here(preview_app(show), port, "The preview", function(address) {
    if (open) utils::browseURL(address)
  }, function() preview_round(show))
}

# What is shown: the `plan`, what was `said` of it, `clients` by their numbers, the files that are
# `watched`, their `stamp` when they were read and the one that was `seen` last.
new_preview <- function(file, values) {
  show <- new.env(parent = emptyenv())
  show$file <- file
  show$values <- values
  show$cache <- c(user_cache(), list(remote = TRUE))
  show$watched <- file
  show$stamp <- ""
  show$builds <- 0L
  show$clients <- list()
  show
}

# Looks at the files; those that have changed and have come to rest are read.
preview_round <- function(show) {
  stamp <- stamp_of(show$watched)
  if (identical(stamp, show$stamp)) return(invisible())
  rested <- identical(stamp, show$seen) || !show$builds
  show$seen <- stamp
  if (rested) preview_build(show)
}

stamp_of <- function(files) {
  facts <- file.info(files, extra_cols = FALSE)
  paste(files, facts$size, format(as.numeric(facts$mtime), digits = 17), collapse = "\n")
}

preview_build <- function(show) {
  began <- proc.time()[["elapsed"]]
  show$stamp <- stamp_of(show$watched)
  made <- preview_plan(show)
  if (!identical(made$watched, show$watched)) {
    show$watched <- made$watched
    show$stamp <- stamp_of(show$watched)
  }
  page <- if (!is.null(made$plan)) page_changes(show$plan, made$plan)
  show$plan <- made$plan %||% show$plan
  show$builds <- show$builds + 1L
  show$said <- list(
    build = show$builds, title = show$plan$title, note = made$note, warnings = I(made$warnings),
    error = made$error
  )
  show$said$took <- round(1000 * (proc.time()[["elapsed"]] - began))
  message <- preview_message(show, page)
  for (client in show$clients) client$send(message)
  say(preview_line(show$said))
}

# The plan of a sheet as its files now are, or the error; what was said on the way, and which files
# it is made of.
preview_plan <- function(show) {
  made <- list(watched = show$file, warnings = list())
  hear <- function(w) made$warnings <<- c(made$warnings, list(said_condition(w)))
  error <- tryCatch(
    hear_warnings(
      {
        chosen <- preview_values(show$file, show$values)
        made["note"] <- list(chosen$note)
        text <- load_sheet(show$file, chosen$values)
        made$watched <- watched_files(text)
        made$plan <- resolve_with(sheet_of(text, show$cache), show$cache)
        NULL
      },
      hear,
      quiet = TRUE
    ),
    ochre_error = function(e) told_error(e, show$file),
    error = function(e) {
      list(what = paste("A fault in Ochre:", conditionMessage(e)), mend = I(list()))
    }
  )
  made["error"] <- list(error)
  made
}

# Of several maps the first.
preview_values <- function(file, values) {
  each <- sheet_each(file)
  name <- names(each$each)
  if (is.null(name) || name %in% names(values)) return(list(values = values))
  first <- as.list(each_values(each)[1])
  note <- sprintf("One of several maps: %s is \"%s\".", name, first[[1]])
  list(values = c(values, first), note = note)
}

# All files of a sheet on this machine; what comes from elsewhere is not watched.
watched_files <- function(text) {
  paths <- sheet_paths(text)
  unique(c(text$file, files_of(text, paths[!is_address(paths)])))
}

# With the lines around the one that is wrong.
told_error <- function(e, file) {
  lines <- tryCatch(readLines(file, warn = FALSE, encoding = "UTF-8"), error = function(e) NULL)
  line <- if (length(e$line) == 1 && isTRUE(e$line > 0)) as.integer(e$line)
  around <- if (!is.null(line)) intersect(seq(line - 2L, line + 2L), seq_along(lines))
  # Where it stands is said above.
  told <- said_condition(e)
  told$what <- sub("^`[^`]*`, line [0-9]+, ", "", told$what)
  c(told, list(
    file = file,
    line = line,
    lines = I(lapply(around, function(k) list(at = k, text = lines[k])))
  ))
}

preview_message <- function(show, page) {
  write_json(c(show$said, list(page = if (!is.null(page)) structure(page, class = "json"))))
}

preview_line <- function(said) {
  if (!is.null(said$error)) return(paste0("error: ", strip_period(said$error$what)))
  many <- length(said$warnings)
  sprintf("Made in %.1f s%s.", said$took / 1000,
          if (many) paste0("; ", count_words(many, "warning")) else "")
}

# ---- the server ----------------------------------------------------------------------------------

preview_app <- function(show) {
  list(
    call = function(req) {
      if (!is_own_host(req)) return(answer("Ask for 127.0.0.1.", status = 403L))
      switch(req$PATH_INFO,
        `/` = answer(preview_page(), "text/html; charset=utf-8",
                     `Content-Security-Policy` = preview_policy),
        `/ochre-view.js` = ,
        `/ochre-held.js` = answer_file(file.path(viewer_folder(), basename(req$PATH_INFO))),
        `/ochre-view.css` = answer_file(file.path(viewer_folder(), "ochre-view.css")),
        `/preview.js` = ,
        `/preview.css` = answer_file(
          system.file("preview", basename(req$PATH_INFO), package = "ochre")
        ),
        `/favicon.ico` = answer(""),
        answer("There is nothing here.", status = 404L)
      )
    },
    onWSOpen = function(socket) {
      request <- socket$request
      own <- paste0("http://", request$HTTP_HOST)
      if (!is_own_host(request) || !identical(request$HTTP_ORIGIN, own)) return(socket$close())
      key <- as.character(show$opened <- (show$opened %||% 0L) + 1L)
      show$clients[[key]] <- socket
      socket$onClose(function() show$clients[[key]] <- NULL)
      if (!show$builds) return(invisible())
      page <- if (!is.null(show$plan)) page_json(show$plan)
      socket$send(preview_message(show, page))
    }
  )
}

# A page of somebody else that was led here by a name of its own is not answered.
is_own_host <- function(req) {
  grepl("^(127[.]0[.]0[.]1|localhost):[0-9]{1,5}$", req$HTTP_HOST %||% "")
}

preview_policy <- paste(
  "default-src 'none'; script-src 'self'; style-src 'self'; connect-src *; img-src * data: blob:;",
  "base-uri 'none'; form-action 'none'"
)

preview_page <- function() {
  paste(html_document(
    list(
      title = "Ochre", locale = "en", policy = preview_policy,
      lines = sprintf("<link rel=\"stylesheet\" href=\"%s\">", c("ochre-view.css", "preview.css"))
    ),
    c(
      "<div id=\"said\" role=\"status\"></div>",
      "<main id=\"ochre-map\" class=\"ochre-whole\"></main>",
      sprintf("<script src=\"%s\"></script>", c("ochre-view.js", "ochre-held.js", "preview.js"))
    )
  ), collapse = "\n")
}

answer_file <- function(path) {
  type <- if (grepl("js$", path)) "text/javascript" else "text/css"
  answer(read_text(path), paste0(type, "; charset=utf-8"), `Cache-Control` = "no-cache")
}
