# What an editor signs: the map, how it was made, what was checked, what has changed. The words are
# in publish-report-words.R; inst/report/report.Rmd lays them out (package rmarkdown).

#' Write a report on a map
#'
#' One document with the map (in HTML as a page too), the method with its breaks and how well they
#' fit against other ways, the highest and lowest values, what the joins matched, what was checked
#' and warned of, what has changed since the build before, the sources with their hashes, and how to
#' make the map again. It is in the map's language; what the program itself says, such as warnings,
#' is in English. The command `ochre report` does the same.
#'
#' @param sheet Path of a sheet file, or a sheet from [map_sheet()] or [read_sheet()]: what was
#'   warned of before it was there is not known then, and of one made in R no record and no inputs.
#' @param file Where to: a path that ends in `.html`, `.pdf` (LaTeX with xelatex) or `.docx`.
#' @param values Named values in place of those of the sheet file: a list, or a named vector.
#' @param template Path of an R Markdown file in place of
#'   `system.file("report", "report.Rmd", package = "ochre")`: one text; `NULL` (default) for that.
#' @return The path, invisibly.
#' @section Errors: `ochre_error_package` when package rmarkdown, pandoc or xelatex is missing;
#'   `ochre_error_report` when the template or LaTeX fails; `ochre_error_file` when the ending is
#'   not known or the file cannot be written; those of [read_sheet()] and [resolve_sheet()].
#' @examples
#' if (requireNamespace("rmarkdown") && rmarkdown::pandoc_available()) {
#'   write_report(ochre_demo("map.ochre.yml"), file.path(tempdir(), "report.html"))
#' }
#' @export
write_report <- function(sheet, file, values = list(), template = NULL) {
  plain_numbers()
  refuse_missing(missing(sheet), "sheet", rlang::current_env())
  check_text(file, "file")
  check_text(template, "template", null = TRUE)
  call <- rlang::current_env()
  if (!is.null(template)) check_file(template, call)
  kind <- report_kind(file, call)
  need_writers(kind, call)
  looked <- look_at_sheet(sheet, check_values(values), call)
  folder <- tempfile("ochre-report-")
  dir.create(folder)
  on.exit(remove_path(folder))
  figure <- file.path(folder, "map.png")
  write_figure(looked$plan, figure, "png", list(width = 7, dpi = 220))
  report <- in_utf8_session(report_words(looked))
  report$figure <- figure
  if (kind == "html") {
    report$page <- as_page(looked$plan)
    # By itself a widget has a name of chance, and no two reports would be the same.
    report$page$elementId <- "ochre-map"
  }
  write_whole(file, function(part) {
    made <- in_utf8_session(
      knit_report(template %||% report_file("report.Rmd"), kind, report, folder, call)
    )
    file.copy(made, part, overwrite = TRUE)
  }, kind)
  invisible(file)
}

# Knitting writes in the letters of the session, which may lack some of a report.
in_utf8_session <- function(code) {
  if (isTRUE(l10n_info()$`UTF-8`)) return(code)
  old <- Sys.getlocale("LC_CTYPE")
  on.exit(Sys.setlocale("LC_CTYPE", old))
  suppressWarnings(Sys.setlocale("LC_CTYPE", "C.UTF-8"))
  code
}

report_file <- function(name) system.file("report", name, package = "ochre", mustWork = TRUE)

report_kind <- function(file, call) {
  kind <- lower_case(tools::file_ext(file))
  if (kind %in% c("html", "pdf", "docx")) return(kind)
  ochre_abort("file", "`{file}` does not end in a format of reports.",
              "End it in `.html`, `.pdf` or `.docx`.")
}

need_writers <- function(kind, call) {
  for (package in c("rmarkdown", "knitr")) need_package(package, "A report", call)
  lacking <- function(what, mend) {
    said <- sprintf("A report needs %s, which is not there.", what)
    ochre_abort("package", said, mend)
  }
  if (!rmarkdown::pandoc_available("2.0")) {
    lacking("the program pandoc", "Install it from your system's packages.")
  }
  if (kind == "pdf" && !nzchar(Sys.which("xelatex"))) {
    lacking("LaTeX with the program xelatex", "Install TeX Live, or write `.html` or `.docx`.")
  }
}

# The sheet, its plan, and what was said on the way, also what is silenced elsewhere. `read` says
# whether that includes the reading of its tables.
look_at_sheet <- function(sheet, values, call) {
  old <- options(ochre.quiet = NULL)
  on.exit(options(old))
  warnings <- list()
  noting <- function(code) {
    hear <- function(w) warnings <<- c(warnings, list(said_condition(w)))
    hear_warnings(code, hear, quiet = TRUE)
  }
  read <- is.character(sheet)
  if (read) {
    check_text(sheet, "sheet", call = call)
    sheet <- noting(sheet_of(load_sheet(sheet, values, call)))
  }
  plan <- noting(resolve_with(sheet, NULL, call))
  looked <- list(
    plan = plan, warnings = warnings, text = attr(sheet, "text"), read = read,
    locale = if (inherits(sheet, "ochre_sheet")) sheet$locale else read_locale("en"),
    audits = attr(sheet, "audits")
  )
  if (!is.null(looked$text)) {
    looked$inputs <- sheet_inputs(looked$text)
    looked$changed <- changes_now(looked, values)
  }
  looked
}

# What is other than at the last build; where nothing is, what was other then. NULL without a
# record.
changes_now <- function(looked, values) {
  targets <- own_targets(looked$text)
  record <- if (length(targets)) read_record(record_path(targets))
  if (is.null(record)) return(NULL)
  work <- list(
    text = looked$text, values = used_values(looked$text, values), inputs = looked$inputs
  )
  now <- new_record(work, looked$plan, looked$audits)
  now$warnings <- I(looked$warnings)
  changed <- compare_records(record, as_read(now))
  if (length(changed)) changed else record$changed
}

# What comes from data is text: it can be neither markup nor code of any of the formats.
knit_report <- function(template, kind, report, folder, call) {
  source <- file.path(folder, "report.Rmd")
  file.copy(template, source)
  plain <- paste0(
    "-raw_html-raw_tex-tex_math_dollars-citations-smart-subscript-superscript-strikeout",
    "-implicit_figures-autolink_bare_uris-tex_math_single_backslash-tex_math_double_backslash"
  )
  about <- rmarkdown::pandoc_metadata_arg("pagetitle", report$plain_title)
  format <- switch(kind,
    html = rmarkdown::html_document(
      theme = NULL, highlight = NULL, mathjax = NULL, css = report_file("report.css"),
      md_extensions = plain,
      pandoc_args = c(about, rmarkdown::pandoc_metadata_arg("lang", report$language))
    ),
    pdf = rmarkdown::pdf_document(
      latex_engine = "xelatex", md_extensions = plain, highlight = NULL,
      pandoc_args = c(
        rmarkdown::pandoc_variable_arg("geometry", "margin=22mm"),
        if (nzchar(figure_family())) rmarkdown::pandoc_variable_arg("mainfont", figure_family())
      )
    ),
    docx = rmarkdown::word_document(md_extensions = plain, highlight = NULL)
  )
  tryCatch(
    rmarkdown::render(
      source, format, params = list(report = report), envir = new.env(parent = globalenv()),
      quiet = TRUE, output_dir = folder, output_file = paste0("made.", kind)
    ),
    error = function(e) {
      if (inherits(e, "ochre_error")) stop(e)
      what <- strsplit(conditionMessage(e), "\n", fixed = TRUE)[[1]][1]
      mend <- if (kind == "pdf") {
        "Is LaTeX whole? Debian has it in texlive-xetex and texlive-fonts-recommended."
      } else {
        "Is the template what it was?"
      }
      ochre_abort("report", "The report cannot be laid out: {what}", mend)
    }
  )
}
